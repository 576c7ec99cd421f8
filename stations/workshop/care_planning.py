"""Care planned on a unit: of what part and which region of its case, made a job with what it is to be kept of it."""

from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from core.catalogue.recipes import JobKind, Recipe
from core.intake.colour import Lab, lab_of
from core.intake.condition import FindingKind
from core.machine.approach import Approach
from core.machine.casing import Face
from core.workshop.care.daylight import Place, Sun, sun_from
from core.workshop.care.plans import SCHOOLS, School, whitening_refused
from core.workshop.care.region import Region, Size, around
from core.workshop.care.strength import Mixture
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import colours
from stations.units.models import ColourSample, Finding, Unit, UnitFact
from stations.workshop import consumables, services
from stations.workshop.models import CarePlan, Job
from stations.workshop.new_job import NewJob

# Which care answers to what is seen on a case.
ANSWERS = {
    FindingKind.YELLOWING.value: "whiten",
    FindingKind.RESIDUE.value: "clean",
    FindingKind.STICKER.value: "clean",
    FindingKind.PAINT.value: "repaint",
    FindingKind.RUST.value: "repaint",
    FindingKind.SCRATCH.value: "repaint",
    FindingKind.LEAK.value: "recondition",
    FindingKind.CELL.value: "recondition",
}
_FINE = Decimal("0.0001")


@dataclass(frozen=True)
class Planned:
    """A plan and what it is of; the region and the area (cm²) are None where nobody said."""

    recipe: Recipe
    part: str
    region: Region | None = None
    area: Decimal | None = None
    reproduction: bool = False


def size_of(unit: Unit) -> Size | None:
    """By the measures of its model; None where nobody knows them."""
    return Size(*unit.model.size) if unit.model and unit.model.size else None


def region_of(finding: Finding) -> Region:
    return around(Face(finding.face), finding.x, finding.y, finding.extent_percent / 100)


@transaction.atomic
def plan(person: Person, unit: Unit, planned: Planned, finding: Finding | None = None) -> Job:
    """A plan as a job: its steps with their times, amounts and cautions."""
    require(person, "open a job")
    recipe, region = planned.recipe, planned.region
    approach = Approach(unit.approach) if unit.approach else None
    if recipe.kind is JobKind.WHITEN and (why := whitening_refused(approach)):
        raise Refused(why)
    if finding is not None and finding.unit_id != unit.pk:
        raise Refused("That was found on another machine.")
    job = services.open_job(person, unit, NewJob.by_recipe(recipe, finding=finding))
    place = (
        {}
        if region is None
        else {
            "face": region.face.value,
            "left": region.left.quantize(_FINE),
            "top": region.top.quantize(_FINE),
            "wide": region.wide.quantize(_FINE),
            "high": region.high.quantize(_FINE),
        }
    )
    area = planned.area.quantize(Decimal("0.01")) if planned.area is not None else None
    consumables.hold(person, job, recipe)
    CarePlan.objects.create(job=job, part=planned.part, area_cm2=area, reproduction=planned.reproduction, **place)
    return job


def sun_here() -> Sun | None:
    """What daylight brings in these days; None while nobody said where the workshop stands."""
    row = shop_settings.settings()
    if row.latitude is None or row.longitude is None:
        return None
    return sun_from(Place(float(row.latitude), float(row.longitude)), clock.today())


def case_colour(unit: Unit) -> tuple[Lab, ColourSample] | None:
    """The colour of the case where no light came, by its newest measurement; None where nobody measured."""
    sample = unit.colours.order_by("-id").first()
    if sample is None:
        return None
    grey = colours.rgb(sample.neutral) if sample.neutral is not None else None
    return lab_of(colours.rgb(sample.sheltered), grey), sample


@dataclass(frozen=True)
class SchoolBeside:
    """A school for as many rounds as are planned: hands and hours by itself, what its peroxide costs (None where nobody
    can say), and why it can’t be done here (empty where it can)."""

    school: School
    hands: int
    alone: int
    cost: Decimal | None
    refused: str = ""


def schools_beside(unit: Unit, mixture: Mixture | None, chosen: str, rounds: int) -> list[SchoolBeside]:
    """Of so many rounds each; `chosen`: the school the mixture is of. Another one is reckoned by what that takes."""
    approach = Approach(unit.approach) if unit.approach else None
    sun, conserve = sun_here(), whitening_refused(approach)
    price = consumables.price_of("peroxide", "ml") if mixture else None
    found = []
    for school in SCHOOLS:
        cost = Decimal(0) if not school.mixes else None
        if price is not None and mixture is not None and school.bath == (chosen == "bath"):
            cost = price * mixture.bottle_ml if school.mixes else cost
        dark = sun.words if school.daylight and sun is not None and not sun.works else ""
        found.append(SchoolBeside(school, school.hands * rounds, school.alone * rounds, cost, conserve or dark))
    return found


FINISHES = {
    "original": "original finish",
    "repainted": "repainted before it came here",
    "whitened": "whitened before it came here",
}


@transaction.atomic
def say_finish(person: Person, unit: Unit, which: str, seen: str) -> None:
    """What somebody who looked says of the finish, and where it shows."""
    require(person, "record findings")
    if which not in FINISHES:
        raise Refused("Original, repainted or whitened: say which.", "which")
    if not seen:
        raise Refused("Say where it shows: inside of the lid, an edge, under a label.", "seen")
    words = f"{FINISHES[which]}, by {within(seen, 60, 'seen')}"
    UnitFact.objects.create(
        unit=unit, kind=UnitFact.Kind.FINISH, on_what="case", typed=which, reading=words, when=clock.now(), who=person
    )
    history.record(person, "workshop.say_finish", HistoryEntry.Subject.UNIT, unit.pk, f"Finish: {words}")

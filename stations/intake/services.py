"""What a clerk does at the intake table: receive, identify, tick off, map, photograph, decide."""

from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Max

from core.bench.checks import MACHINES
from core.buying.odds import LineOutcome
from core.intake.completeness import USUAL_CONTENTS, Presence
from core.machine.approach import Approach
from core.machine.mains import Mains
from stations.buying.details import PART_FORMS
from stations.buying.models import Lot, LotLine
from stations.buying.plans import record_outcome
from stations.catalogue.models import MachineModel
from stations.catalogue.one_model import UNSAID
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import costs, fitting, stages, whereabouts
from stations.units.models import Content, Finding, Unit
from stations.units.tried import was_tried

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def receive(
    person: Person, line: LotLine, count: int, model: MachineModel | None = None, place: str = ""
) -> list[Unit]:
    """Turn `count` pieces of a lot line into units, each with the next tag and its share of the cost."""
    require(person, "receive units")
    line = lock_row(LotLine.objects.select_related("lot"), line)
    if not 1 <= count <= line.outstanding:
        raise Refused(f"{line.outstanding} of {line.quantity} are still to be received.", "count")
    now = clock.now()
    number = shop_settings.take_tags(count, Unit.objects.aggregate(last=Max("number"))["last"] or 100)
    units = []
    free = costs.free_indexes(line)
    for offset in range(count):
        units.append(
            Unit(
                number=number + offset,
                lot=line.lot,
                line=line,
                line_index=free[offset],
                title=str(model) if model else line.description,
                owner_name=line.lot.owner_name,
                holding=Unit.Holding.CUSTODY if line.lot.in_custody else Unit.Holding.OWNED,
                place=place,
                received_at=now,
                received_by=person,
                stage_since=now,
                **(_from_model(model) if model else {"form_factor": line_form(line)}),
            )
        )
    for unit in units:
        unit.save()
        _expect(unit, model)
    LotLine.objects.filter(pk=line.pk).update(received=F("received") + count)
    if line.lot.arrived_on is None:
        Lot.objects.filter(pk=line.lot_id).update(arrived_on=clock.today())
    for unit in units:
        history.record(
            person, "intake.receive", UNIT, unit.pk, f"Received from {line.lot.code}, claim: {line.get_claim_display()}"
        )
    costs.carry_cost(person, line)
    stages.refresh(*units)
    return units


@dataclass(frozen=True)
class Identity:
    """What a unit is; fields are those of Unit. None, "unknown" and empty: nobody has recorded it."""

    model: MachineModel | None
    title: str
    serial: str
    form_factor: str
    place: str
    mains_variant: str
    mains: str
    supply: str
    adapter_volts: Decimal | None
    adapter_amps: Decimal | None
    adapter_polarity: str
    battery: str
    drives: int | None
    picture_tube: bool | None
    keyboard: bool | None


@transaction.atomic
def identify(person: Person, unit: Unit, seen_version: int, said: Identity) -> None:
    """Record what the unit is. A newly chosen model brings its expected contents along."""
    require(person, "identify a unit")
    model, stored = said.model, Unit.objects.select_related("line", "model").get(pk=unit.pk)
    before = (stored.model_id, stored.title, stored.serial, stored.identified_at)
    stood_at = stored.place
    by_model = _by_model(stored, model, said) if model and model.pk != stored.model_id else {}
    # Filling in what nobody knew is no correction; saying otherwise is, and after intake so is everything.
    told = {
        name: value
        for name, value in vars(said).items()
        if name not in {*by_model, "model", "title", "serial", "place"}
        and (stored.assessed_at or getattr(stored, name) not in UNSAID)
    }
    history.changed(person, "intake.identify", UNIT, unit.pk, "What it is", stored, told)
    save_versioned(unit, seen_version, {**vars(said), **by_model, "identified_at": before[3] or clock.now()})
    if model and model.pk != before[0]:
        unit.contents.filter(presence=Presence.UNSEEN).delete()
        _expect(unit, model)
    elif unit.model_id is None and not unit.contents.exists():
        _expect(unit, None)
    if unit.place != stood_at:
        whereabouts.note(person, unit, stood_at, unit.place)
    # Saved field by field, so only what names the machine goes into its story.
    if before[3] is None or before[:3] != (unit.model_id, unit.title, unit.serial):
        serial = f", serial {unit.serial}" if unit.serial else ""
        history.record(
            person,
            "intake.identify",
            UNIT,
            unit.pk,
            f"Identified: {unit.title}{serial}",
            title=unit.title,
            serial=unit.serial,
        )
    stages.refresh(unit)


@transaction.atomic
def look_for(person: Person, unit: Unit, name: str) -> None:
    """Put something on the list that its model has room for: it is looked for with the rest."""
    require(person, "tick off contents")
    unit = lock_row(Unit.objects.all(), unit)
    if name not in fitting.look_for(unit, unit.contents.values_list("name", flat=True)):
        raise Refused("That is on the list already.")
    Content.objects.create(unit=unit, name=within(name, 60))
    history.record(person, "intake.look_for", UNIT, unit.pk, f"To be looked for: {name}")
    stages.refresh(unit)


def _plain(presence: str) -> str:
    return presence.replace("_", " ")


@transaction.atomic
def tick_contents(person: Person, unit: Unit, presences: dict[int, str], extra: str = "", missing: str = "") -> None:
    """Say of each expected thing whether it is there; `extra` and `missing` add one that nobody expected."""
    require(person, "tick off contents")
    told = []
    for content in unit.contents.select_for_update():
        said = presences.get(content.pk)
        if said and said != content.presence:
            Content.objects.filter(pk=content.pk).update(presence=Presence(said))
            told.append(f"{content.name} {_plain(said)}")
    for name, presence in ((extra, Presence.EXTRA), (missing, Presence.MISSING)):
        if not name:
            continue
        if unit.contents.filter(name=name).exists():
            raise Refused(f"“{name}” is on the list already.", "extra" if presence is Presence.EXTRA else "missing")
        Content.objects.create(unit=unit, name=name, presence=presence)
        told.append(f"{name} {_plain(presence)}")
    if not told:
        return
    words = f"Ticked off what came with it: {', '.join(told)}"
    history.record(person, "intake.tick_contents", UNIT, unit.pk, words)
    stages.refresh(unit)


@transaction.atomic
def choose_approach(person: Person, unit: Unit, approach: Approach, reason: str) -> None:
    """Choose or change the approach. A change after intake wants a reason; custody allows only
    conserving, and what is sold for its owner gives no parts."""
    require(person, "choose the approach")
    unit = lock_row(Unit.objects.all(), unit)
    history.refuse_if_later("intake.choose_approach", UNIT, unit.pk)
    stages.refuse_gone(unit, "how it was treated", "approach")
    if approach.value == unit.approach:
        reason = reason or unit.approach_reason
    if unit.custody and approach is not Approach.CONSERVE:
        raise Refused(f"It belongs to {unit.owner_name}: only conserving work may be done on it.", "approach")
    if not unit.ours and approach is Approach.DONOR:
        raise Refused(f"It belongs to {unit.owner_name}: it is not ours to take for parts.", "approach")
    if unit.assessed_at and approach.value != unit.approach and not reason:
        raise Refused("Intake is finished: say why the approach changes.", "reason")
    if not history.says_otherwise(unit, {"approach": approach.value, "approach_reason": reason}):
        return
    Unit.objects.filter(pk=unit.pk).update(approach=approach.value, approach_reason=reason)
    if approach is Approach.DONOR:
        record_outcome(unit.line, unit.number, LineOutcome.PARTS, tested=was_tried(unit))
    history.record(
        person,
        "intake.choose_approach",
        UNIT,
        unit.pk,
        f"Approach: {approach.label}{'; ' + reason if reason else ''}",
        approach=approach.value,
        reason=reason,
    )
    stages.refresh(unit)


@transaction.atomic
def finish_intake(person: Person, unit: Unit) -> None:
    """Hand the unit on. Refused while something is still to be recorded; the refusal names it."""
    require(person, "finish intake")
    unit = lock_row(Unit.objects.all(), unit)
    gaps = stages.facts_of([unit])[unit.pk].intake.gaps
    if gaps:
        raise Refused(f"Still to record: {', '.join(gaps)}.")
    Unit.objects.filter(pk=unit.pk, assessed_at=None).update(assessed_at=clock.now())
    history.record(person, "intake.finish_intake", UNIT, unit.pk, "Intake finished")
    stages.refresh(unit)


@transaction.atomic
def looked_over(person: Person, unit: Unit) -> None:
    """Every face was looked over: what was found is all there is to see. Before that nothing is known of its looks."""
    require(person, "look a unit over")
    if Unit.objects.filter(pk=unit.pk, looked_over_at=None).update(looked_over_at=clock.now()):
        count = unit.findings.filter(status=Finding.Status.OPEN).count()
        history.record(
            person, "intake.looked_over", UNIT, unit.pk, f"Looked all over, {count} finding{'' if count == 1 else 's'}"
        )
    stages.refresh(unit)


def _from_model(model: MachineModel) -> dict:
    names = ("form_factor", "supply", "battery", "picture_tube", "drives", "keyboard")
    plugs = {"external_ac": Mains.ADAPTER_AC, "external_dc": Mains.ADAPTER_DC}.get(model.supply, Mains.UNKNOWN)
    keeps = False if model.drives == 0 else model.keeps_data
    said = {"model": model, "data_on_board": keeps, "mains_variant": plugs.value}
    return said | {name: getattr(model, name) for name in names}


def _by_model(stored: Unit, model: MachineModel, said: Identity) -> dict:
    """What a newly chosen model says of the unit, where nobody has said otherwise: neither now nor before."""
    return {
        name: value
        for name, value in {**_from_model(model), "title": str(model)}.items()
        if getattr(said, name, getattr(stored, name)) == getattr(stored, name)
        and (name == "model" or nobody_said(stored, name))
    }


def nobody_said(unit: Unit, name: str) -> bool:
    """Whether a fact of it is open, or as its model or its line has it: nobody recorded one of its own."""
    of_line = {"title": unit.line.description, "form_factor": line_form(unit.line)}
    usual = {**_from_model(unit.model), "title": str(unit.model)} if unit.model else of_line
    return getattr(unit, name) in (usual.get(name), *UNSAID)


def line_form(line: LotLine) -> str:
    """The shape of what comes off a line: what the line says, unless it says a machine of what is none."""
    if line.kind in PART_FORMS and line.form_factor in MACHINES:
        return PART_FORMS[line.kind]
    return line.form_factor


def _expect(unit: Unit, model: MachineModel | None) -> None:
    """What belongs with it by its model; with a bare part of no model, what is usually looked for on one."""
    there = set(unit.contents.values_list("name", flat=True))
    if model is None:
        usual = USUAL_CONTENTS.get(unit.form_factor, ())
        Content.objects.bulk_create(
            Content(unit=unit, name=name, weight=weight) for name, weight in usual if name not in there
        )
        return
    Content.objects.bulk_create(
        Content(unit=unit, name=item.name, weight=item.weight, estimate=item.estimate)
        for item in model.expected.all()
        if item.name not in there
    )

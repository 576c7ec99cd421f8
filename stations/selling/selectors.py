"""What selling reads: the evidence for a grade, comparables, and all the facts a listing rests on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from django.db.models import Count, F, Max, prefetch_related_objects
from django.urls import reverse

from core.bench.checks import Group
from core.bench.plan import Outcome, PlanStep, complete
from core.flow.facts import FlowFacts
from core.intake.triage import Path
from core.selling.grade import Grade, Graded, GradeEvidence
from core.selling.grade import grade as work_out_grade
from core.selling.listing import Block, BlockKind, ListingFacts, blocks
from stations.bench.models import PowerStop, StepResult, TestRun
from stations.bench.services import latest_of_each, steps_of
from stations.common.words import lower_first
from stations.selling import graded, market
from stations.selling.models import Listing, UnitGrade
from stations.units import costs, stages
from stations.units.as_it_is import data_left, not_there
from stations.units.models import Photo, Unit
from stations.units.selectors import with_doubts

TOLD = {Group.SUPPLY, Group.POWER, Group.FUNCTION, Group.SOAK}
# A supply that reads right says nothing of whether the machine works.
WORKS = TOLD - {Group.SUPPLY}
# Pictures that a machine of no model wants.
PHOTOS_WANTED = 3


def listing_of(unit: Unit) -> Listing:
    """The unit's listing; one that is not saved yet, on the first channel in use, when there is none."""
    found = Listing.objects.select_related("channel").filter(unit=unit).first()
    return found or Listing(unit=unit, channel=market.usual_channel())


@dataclass(frozen=True)
class Tested:
    """The newest run of a unit with its results and steps; whether it was stopped and not dealt with."""

    run: TestRun | None
    results: dict[str, StepResult]
    steps: tuple[PlanStep, ...]
    stopped: bool


def newest_run_of(unit: Unit) -> Tested:
    return newest_runs([unit])[unit.pk]


def newest_runs(units: Sequence[Unit]) -> dict[int, Tested]:
    """The newest run of each: three queries for all, and what a plan with an adapter asks."""
    by_id = {unit.pk: unit for unit in units}
    numbered = TestRun.objects.filter(unit__in=by_id).order_by()
    runs = TestRun.objects.filter(pk__in=numbered.values("unit").annotate(newest=Max("id")).values("newest"))
    by_unit = {run.unit_id: run for run in runs}
    results = latest_of_each([*by_unit.values()])
    stopped = {*PowerStop.objects.filter(unit__in=by_id, ended_at=None).values_list("unit_id", flat=True)}
    found = {}
    for unit_id, unit in by_id.items():
        if run := by_unit.get(unit_id):
            run.unit = unit
            found[unit_id] = Tested(run, results[run.pk], steps_of(run, results[run.pk]), unit_id in stopped)
        else:
            found[unit_id] = Tested(None, {}, (), unit_id in stopped)
    return found


def told_before(unit: Unit) -> FlowFacts:
    """What the stations before this one tell of a unit."""
    return stages.facts_of([unit], before="selling")[unit.pk]


def evidence_of(unit: Unit, as_tested: Tested | None = None, told: FlowFacts | None = None) -> GradeEvidence:
    """Everything the grade rests on; the newest run, and what was `told_before`, where they were read already."""
    as_tested = as_tested or newest_run_of(unit)
    run, results, steps = as_tested.run, as_tested.results, as_tested.steps
    outcomes = [Outcome(result.outcome) for result in results.values()]
    safety = [(step.check, results.get(step.check.code)) for step in steps if step.check.safety]
    tried = [r.check.code for r in steps if r.check.group in WORKS and r.check.code in results]
    if told is None:
        told = told_before(unit) if run else FlowFacts()
    of_the_run = GradeEvidence(
        steps_total=len(steps),
        steps_passed=outcomes.count(Outcome.PASS),
        steps_failed=outcomes.count(Outcome.FAIL),
        run_complete=bool(steps) and complete(steps),
        soaked=bool(results.get("soak") and results["soak"].outcome == Outcome.PASS),
        cosmetics=None,
        completeness=None,
        works_tried=sum(results[code].outcome in {Outcome.PASS, Outcome.FAIL} for code in tried),
        times_waived=tuple(waived_times(steps, results)),
        safety_waived=any(result and result.outcome == Outcome.WAIVED for _, result in safety),
        safety_failed=any(result and result.outcome == Outcome.FAIL for _, result in safety) or as_tested.stopped,
    )
    besides = graded.besides_the_run([unit], {unit.pk: told}, graded.fixes_of([unit]))
    return replace(of_the_run, **besides[unit.pk])


@dataclass(frozen=True)
class Report:
    """What a buyer may read of the newest run: the steps that say how it works, with their results; nothing that was
    typed for colleagues, and nobody’s name."""

    run: TestRun
    lines: list[tuple[PlanStep, StepResult | None]]


def report_of(unit: Unit) -> Report | None:
    """None where it was never tested."""
    found = newest_run_of(unit)
    if found.run is None:
        return None
    told = [(step, found.results.get(step.check.code)) for step in found.steps if step.check.group in TOLD]
    return Report(found.run, told) if told else None


def waived_times(steps, results) -> list[str]:
    """Steps that run by themselves and were passed by an owner before their time had run."""
    waived = {code for code, result in results.items() if result.outcome == Outcome.WAIVED}
    return [lower_first(step.check.title) for step in steps if step.check.alone_minutes and step.check.code in waived]


def graded_now(unit: Unit) -> Graded:
    """What the record gives today, whether or not it was set."""
    return work_out_grade(evidence_of(unit))


def told_grade(listing: Listing, held: bool) -> Grade:
    """What buyers are told: as it was given, which the record holds to; of what is withheld, what it proves now."""
    return graded_now(listing.unit).grade if held or not listing.grade else Grade(listing.grade)


def grade_set(unit: Unit) -> UnitGrade | None:
    return unit.grades.order_by("-id").first()


def offer_facts(units: list[Unit], told: Mapping[int, FlowFacts] | None = None) -> dict[int, ListingFacts]:
    """For each unit what decides whether it may be listed, in a number of queries that doesn't grow with them; `told`
    by the stations before, where that was asked already."""
    if not units:
        return {}
    ids = [unit.pk for unit in units]
    told = stages.facts_of(units, before="selling") if told is None else told
    grades = {row.unit_id: row for row in UnitGrade.objects.filter(unit_id__in=ids).order_by("id")}
    fixes = graded.fixes_of(units)
    newer = graded.since_graded(units, grades, told, fixes)
    gaps, doubtful = not_there(units), with_doubts(units)
    data, unshared = data_left(units, gaps), costs.not_shared(units)
    listings = {listing.unit_id: listing for listing in Listing.objects.filter(unit_id__in=ids)}
    # What it looked like before it went to a buyer and back shows nobody how it is.
    shown = (
        Photo.objects.filter(unit_id__in=ids).exclude(shown__hidden=True).exclude(added_at__lt=F("unit__came_back_at"))
    )
    photos = dict(shown.values_list("unit_id").annotate(count=Count("id")))
    prefetch_related_objects(units, "model")
    facts = {}
    for unit in units:
        listing, flow = listings.get(unit.pk), told[unit.pk]
        # From the bench, its faults, and the workshop.
        against = tuple(dict.fromkeys([*flow.bench.not_proven, *flow.bench.mended, *flow.workshop.not_proven]))
        facts[unit.pk] = ListingFacts(
            title=unit.title,
            grade=Grade(grades[unit.pk].grade) if unit.pk in grades else None,
            proven=flow.bench.complete and not against,
            not_proven=against if flow.bench.started else (),
            as_it_stands=unit.path == Path.SELL,
            stale=newer.get(unit.pk, ""),
            unconfirmed=fixes.unconfirmed.get(unit.pk, []),
            custody=unit.custody,
            may_hold_data=data[unit.pk],
            safety_hold=flow.hold.words if flow.hold else "",
            temporary_fixes=fixes.temporary.get(unit.pk, []),
            photo_count=photos.get(unit.pk, 0),
            photos_wanted=unit.model.photos_wanted if unit.model else PHOTOS_WANTED,
            cost_unknown=unshared.get(unit.pk, ""),
            asking=listing.asking if listing else None,
            floor=listing.floor if listing else None,
            below_floor_reason=listing.below_floor_reason if listing else "",
            said_title=listing.title if listing else "",
            said_text=listing.text if listing else "",
            gaps=bool(gaps[unit.pk]) or unit.pk in doubtful,
        )
    return facts


def blocks_of(unit: Unit) -> tuple[Block, ...]:
    return blocks(offer_facts([unit])[unit.pk])


# Where the button beside each block leads. Pages of stations further on are named, never imported.
BLOCK_PAGE = {
    "stage": "bench:unit",
    "safety": "bench:unit",
    "photos": "intake:unit",
    "temporary": "workshop:unit",
    "grade": "selling:unit",
    "price": "selling:unit",
    "words": "selling:unit",
    "data": "floor:unit",
    "custody": "floor:unit",
}


# And where on that page.
BLOCK_PLACE = {BlockKind.DATA: "#data"}


def blocks_with_pages(unit: Unit, facts: ListingFacts | None = None) -> list[tuple[Block, str]]:
    """What blocks the listing, each with the address where it is cleared; `facts` where they were read already."""
    return [(block, _cleared_at(block, unit)) for block in (blocks(facts) if facts else blocks_of(unit))]


def _cleared_at(block: Block, unit: Unit) -> str:
    """What a unit cost is said at its lot: what was paid, then how it is shared."""
    if block.kind is not BlockKind.COST:
        return reverse(BLOCK_PAGE[block.kind.value], args=[unit.number]) + BLOCK_PLACE.get(block.kind, "")
    at = [unit.lot.number]
    return reverse("buying:lot", args=at) + "#share" if unit.lot.priced else reverse("buying:correct", args=at)

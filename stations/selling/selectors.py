"""What selling reads: the evidence for a grade, comparables, and all the facts a listing rests on."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db.models import Count
from django.urls import reverse

from core.bench.checks import Group
from core.bench.plan import Outcome, PlanStep, complete
from core.books.earnings import INCOME, LOT_SHARE, TAKEN_BY_SELLING
from core.catalogue.recipes import JobKind
from core.flow.facts import BenchFlow, WorkshopFlow
from core.flow.stage import State
from core.intake.completeness import Content as Ticked
from core.intake.completeness import Presence
from core.intake.condition import FindingKind, Mark
from core.intake.triage import USUAL_COMPLETENESS, Path, Prices
from core.machine.casing import Face
from core.machine.supply import Supply
from core.selling.appraisal import UnitAppraisal
from core.selling.grade import Grade, Graded, GradeEvidence
from core.selling.grade import grade as work_out_grade
from core.selling.listing import Block, BlockKind, ListingFacts, blocks
from core.selling.price import Comparable as Compared
from core.selling.price import PriceBand, SellingTerms, floor_price, price_band
from core.workshop.jobs import NEEDS_RETEST
from stations.bench.facts import bench_flow
from stations.bench.fixes import unconfirmed_fixes
from stations.bench.models import FaultCase, PowerStop, StartTrial, StepResult, TestRun
from stations.bench.services import latest, steps_of
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.intake.facts import intake_flow
from stations.ledger.models import Account
from stations.ledger.selectors import by_kind
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.selling.models import Channel, Comparable, Listing, UnitGrade
from stations.units.as_it_is import bench_facts, data_left
from stations.units.models import Content, Finding, Photo, Unit, UnitFact
from stations.units.selectors import completeness_of, cosmetics_of
from stations.workshop.attempts import installed
from stations.workshop.firmware import not_as_it_came
from stations.workshop.models import CarePlan, Job
from stations.workshop.standing import workshop_flow

TOLD = {Group.SUPPLY, Group.POWER, Group.FUNCTION, Group.SOAK}
# A supply that reads right says nothing of whether the machine works.
WORKS = TOLD - {Group.SUPPLY}


def listing_of(unit: Unit) -> Listing:
    """The unit's listing; one that is not saved yet, on the first channel, when there is none."""
    found = Listing.objects.select_related("channel").filter(unit=unit).first()
    return found or Listing(unit=unit, channel=Channel.objects.order_by("id").first())


@dataclass(frozen=True)
class Tested:
    """The newest run of a unit with its results and steps; whether it was stopped and not dealt with."""

    run: TestRun | None
    results: dict[str, StepResult]
    steps: tuple[PlanStep, ...]
    stopped: bool


def newest_run_of(unit: Unit) -> Tested:
    run = unit.runs.order_by("-number").first()
    results = latest(run) if run else {}
    return Tested(run, results, steps_of(run, results) if run else (), stopped(unit))


def evidence_of(unit: Unit, as_tested: Tested | None = None) -> GradeEvidence:
    """Everything the grade rests on."""
    contents = completeness_of(unit.contents.all())
    cosmetics = cosmetics_of(list(unit.findings.all()))
    as_tested = as_tested or newest_run_of(unit)
    run, results, steps = as_tested.run, as_tested.results, as_tested.steps
    outcomes = [Outcome(result.outcome) for result in results.values()]
    safety = [(step.check, results.get(step.check.code)) for step in steps if step.check.safety]
    tried = [r.check.code for r in steps if r.check.group in WORKS and r.check.code in results]
    return GradeEvidence(
        steps_total=len(steps),
        steps_passed=outcomes.count(Outcome.PASS),
        steps_failed=outcomes.count(Outcome.FAIL),
        run_complete=bool(steps) and complete(steps),
        soaked=bool(results.get("soak") and results["soak"].outcome == Outcome.PASS),
        cosmetics=cosmetics.score if unit.looked_over_at else None,
        completeness=contents.percent,
        works_tried=sum(results[code].outcome in {Outcome.PASS, Outcome.FAIL} for code in tried),
        not_proven=bench_flow([unit]).get(unit.pk, BenchFlow()).not_proven if run else (),
        worked_since=tuple(workshop_flow([unit]).get(unit.pk, WorkshopFlow()).not_proven) if run else (),
        times_waived=tuple(waived_times(steps, results)),
        not_original=len(contents.not_original),
        temporary_fixes=sum(job.temporary_open for job in unit.jobs.all()),
        unconfirmed_fixes=len(unconfirmed_fixes([unit])[unit.pk]),
        safety_waived=any(result and result.outcome == Outcome.WAIVED for _, result in safety),
        safety_failed=any(result and result.outcome == Outcome.FAIL for _, result in safety) or as_tested.stopped,
        donor=unit.approach == "donor",
    )


def stopped(unit: Unit) -> bool:
    """Unplugged because of a noise, a smell or smoke, and not dealt with."""
    return unit.stops.filter(ended_at=None).exists()


def waived_times(steps, results) -> list[str]:
    """Steps that run by themselves and were passed by an owner before their time had run."""
    waived = {code for code, result in results.items() if result.outcome == Outcome.WAIVED}
    return [_lower(step.check.title) for step in steps if step.check.alone_minutes and step.check.code in waived]


def against(units: list[Unit], tested: Mapping[int, BenchFlow] | None = None) -> dict[int, list[str]]:
    """What speaks against each unit being proven, in words: from the bench, its faults, and the workshop."""
    tested, worked = bench_flow(units) if tested is None else tested, workshop_flow(units)
    found: dict[int, list[str]] = {unit.pk: [] for unit in units}
    said = [(unit_id, flow.not_proven) for unit_id, flow in tested.items()]
    for unit_id, not_proven in said + [(unit_id, flow.not_proven) for unit_id, flow in worked.items()]:
        found[unit_id] += [words for words in not_proven if words not in found[unit_id]]
    return found


def graded_now(unit: Unit) -> Graded:
    """What the record gives today, whether or not it was set."""
    return work_out_grade(evidence_of(unit))


def grade_set(unit: Unit) -> UnitGrade | None:
    return unit.grades.order_by("-id").first()


def band_of(unit: Unit, grade: Grade) -> tuple[PriceBand | None, list[Comparable]]:
    """The price band from the comparables of the unit's model, and the comparables themselves."""
    rows, compared = compared_with(unit)
    percent = completeness_of(unit.contents.all()).percent
    return price_band(compared, grade, USUAL_COMPLETENESS if percent is None else percent), rows


def compared_with(unit: Unit) -> tuple[list[Comparable], list[Compared]]:
    """Sales of the unit's model, as kept and as they are weighed; none for a unit without a model."""
    if unit.model_id is None:
        return [], []
    rows = list(Comparable.objects.filter(model_id=unit.model_id)[:400])
    today = clock.today()
    return rows, [
        Compared(row.price * row.rate, max(0, (today - row.sold_on).days), Grade(row.grade), row.completeness, row.own)
        for row in rows
    ]


def appraisal_of(unit: Unit) -> UnitAppraisal:
    """What the unit would be graded and fetch if its record were changed: what the workshop asks for its jobs."""
    as_tested = newest_run_of(unit)
    rows, compared = compared_with(unit)
    failed = {code for code, result in as_tested.results.items() if result.outcome == Outcome.FAIL}
    unsafe = {step.check.code for step in as_tested.steps if step.check.safety} & failed
    return UnitAppraisal(
        evidence_of(unit, as_tested),
        {c.pk: Ticked(c.name, c.weight, Presence(c.presence)) for c in unit.contents.all()},
        {
            f.pk: Mark(FindingKind(f.kind), Face(f.face), f.severity, f.extent_percent / 100)
            for f in unit.findings.all()
            if f.is_open
        },
        frozenset(failed),
        compared,
        frozenset(unsafe),
        as_tested.stopped,
        frozenset(unit.faults.filter(closed_at=None).values_list("pk", flat=True)),
        [
            (one, frozenset(row.features), row.buyer)
            for row, one in zip(rows, compared, strict=True)
            if row.features is not None
        ],
    )


def triage_prices(models: set[int]) -> dict[int, Prices]:
    """What each model fetches, for triage: a query for all. A model with too few sales is left out.

    How the price moves in a year comes from the weighted median of the last 180 days against the time before.
    """
    rows: dict[int, list[Compared]] = defaultdict(list)
    today = clock.today()
    for row in Comparable.objects.filter(model_id__in=models):
        age = max(0, (today - row.sold_on).days)
        rows[row.model_id].append(Compared(row.price * row.rate, age, Grade(row.grade), row.completeness, row.own))
    found = {}
    for model_id, compared in rows.items():
        bands = [price_band(compared, grade, 100) for grade in (Grade.B, Grade.UNTESTED, Grade.PARTS)]
        known = [float(band.likely) for band in bands if band is not None]
        if len(known) < len(bands) or bands[0] is None or bands[0].few:
            continue
        working, untested, parts = known
        source = f"{len(compared)} sales elsewhere and our own"
        found[model_id] = Prices(working, untested, parts, _a_year(compared), source)
    return found


def _a_year(compared: list[Compared]) -> float:
    """How the price of a grade B moves in a year, as a share; 0 where one side has too few sales."""
    recent, before = ([c for c in compared if (c.age_days <= 180) is new] for new in (True, False))
    bands = [price_band(side, Grade.B, 100) for side in (recent, before)]
    known = [float(band.likely) for band in bands if band is not None and not band.few]
    if len(known) < 2:
        return 0.0
    now, then = known
    apart = (sum(c.age_days for c in before) / len(before) - sum(c.age_days for c in recent) / len(recent)) / 365
    return max(-0.5, min(0.5, (now / then - 1) / apart)) if then and apart > 0 else 0.0


def terms_of(channel: Channel, settings: ShopSettings) -> SellingTerms:
    return SellingTerms(
        channel.fee_percent, channel.fee_fixed, settings.postage, settings.tax_scheme, settings.tax_percent
    )


def floors_of(unit: Unit, channel: Channel) -> tuple[Decimal, Decimal]:
    """(covers only what selling itself takes, covers every cost so far and the least margin wanted)."""
    settings = shop_settings.settings()
    terms = terms_of(channel, settings)
    sums = by_kind(Account.UNIT, [unit.pk])[unit.pk]
    purchase = sum((sums.get(kind, Decimal(0)) for kind in LOT_SHARE), Decimal(0))
    cost = sum((amount for kind, amount in sums.items() if kind not in {*INCOME, *TAKEN_BY_SELLING}), Decimal(0))
    return floor_price(Decimal(0), purchase, terms), floor_price(cost + settings.target_margin, purchase, terms)


def offer_facts(units: list[Unit]) -> dict[int, ListingFacts]:
    """For each unit what decides whether it may be listed, in a number of queries that doesn't grow with them."""
    ids = [unit.pk for unit in units]
    seen, tested = intake_flow(units), bench_flow(units)
    speaks_against = against(units, tested)
    data, newer, unconfirmed = data_left(units), newer_facts(units), unconfirmed_fixes(units)
    listings = {listing.unit_id: listing for listing in Listing.objects.filter(unit_id__in=ids)}
    grades = dict(UnitGrade.objects.filter(unit_id__in=ids).order_by("id").values_list("unit_id", "grade"))
    photos = dict(Photo.objects.filter(unit_id__in=ids).values_list("unit_id").annotate(count=Count("id")))
    wanted = dict(MachineModel.objects.filter(units__in=ids).values_list("units__pk", "photos_wanted"))
    temporary: dict[int, list[str]] = defaultdict(list)
    fixes = Job.objects.filter(unit_id__in=ids, temporary=True, done_at__isnull=False, made_good_at=None)
    for unit_id, title in fixes.values_list("unit_id", "title"):
        temporary[unit_id].append(_lower(title))
    gaps = set(
        Content.objects.filter(unit_id__in=ids, presence__in=["missing", "unseen"]).values_list("unit_id", flat=True)
    )
    facts = {}
    for unit in units:
        listing, bench = listings.get(unit.pk), tested.get(unit.pk, BenchFlow())
        facts[unit.pk] = ListingFacts(
            title=unit.title,
            grade=Grade(grades[unit.pk]) if unit.pk in grades else None,
            proven=bench.complete and not speaks_against[unit.pk],
            not_proven=speaks_against[unit.pk] if bench.started else (),
            as_it_stands=unit.path == Path.SELL,
            stale=newer.get(unit.pk, ""),
            unconfirmed=unconfirmed[unit.pk],
            custody=unit.custody,
            may_hold_data=data[unit.pk],
            safety_hold=hold.words if (hold := bench.hold or seen[unit.pk].hold) else "",
            temporary_fixes=temporary[unit.pk],
            photo_count=photos.get(unit.pk, 0),
            photos_wanted=wanted.get(unit.pk, 3),
            asking=listing.asking if listing else None,
            floor=listing.floor if listing else None,
            below_floor_reason=listing.below_floor_reason if listing else "",
            said_title=listing.title if listing else "",
            said_text=listing.text if listing else "",
            gaps=unit.pk in gaps,
        )
    return facts


def newer_facts(units: list[Unit]) -> dict[int, str]:
    """What happened to each graded unit after its grade was given, that the grade does not know: five queries."""
    ids = [unit.pk for unit in units]
    given = dict(UnitGrade.objects.filter(unit_id__in=ids).order_by("id").values_list("unit_id", "when"))
    if not given:
        return {}
    found: dict[int, tuple] = {}

    def note(unit_id: int, when, words: str) -> None:
        if when and unit_id in given and when > given[unit_id] and (unit_id not in found or when > found[unit_id][0]):
            found[unit_id] = (when, words)

    for start in StartTrial.objects.filter(unit_id__in=given, passed=False):
        note(start.unit_id, start.when, f"a start failed on {clock.day_of(start.when):%d %b}")
    for case in FaultCase.objects.filter(unit_id__in=given):
        note(case.unit_id, case.opened_at, f"a fault was opened on {clock.day_of(case.opened_at):%d %b}")
    for stop in PowerStop.objects.filter(unit_id__in=given):
        note(stop.unit_id, stop.when, f"it was stopped on {clock.day_of(stop.when):%d %b}")
    for run in TestRun.objects.filter(unit_id__in=given):
        note(run.unit_id, run.started_at, f"test run {run.number} on {clock.day_of(run.started_at):%d %b}")
    for finding in Finding.objects.filter(unit_id__in=given):
        words = f"{finding.get_kind_display()} was found on {clock.day_of(finding.seen_at):%d %b}"
        note(finding.unit_id, finding.seen_at, words)
    for job in Job.objects.filter(unit_id__in=given, done_at__isnull=False, kind__in=NEEDS_RETEST):
        if job.done_at:
            note(job.unit_id, job.done_at, f"{_lower(job.title)} on {clock.day_of(job.done_at):%d %b}")
    return {unit_id: words for unit_id, (_, words) in found.items()}


# What a buyer is always told of a surface: it is not as it left the works.
_FINISH = {JobKind.WHITEN.value: "whitened", JobKind.REFINISH.value: "repainted or refinished"}


def _finish(unit: Unit) -> list[str]:
    """What of its surface and its parts is not as it left the works. That a finish is the original one is told only
    where somebody looked, and nothing was done to it since: three queries."""
    done = [job for job in unit.jobs.all() if job.done_at and job.kind in _FINISH]
    told = [f"{_FINISH[job.kind]}: {_told(job)}" for job in done]
    said = unit.facts.filter(kind=UnitFact.Kind.FINISH).last()
    if said and not any(job.done_at > said.when for job in done if job.done_at):
        told.append(said.reading)
    copies = CarePlan.objects.filter(job__unit=unit, job__done_at__isnull=False, reproduction=True)
    told += [f"reproduction: {part}" for part in copies.values_list("part", flat=True)]
    glued = unit.glue_watches.exclude(held=False)
    return told + [f"glued: {_lower(words)}" for words in glued.values_list("words", flat=True)]


def _told(job: Job) -> str:
    """A job that was done, with what came of it where that may be told."""
    return f"{_lower(job.title)}{f' ({job.result})' if job.result and job.publish_result else ''}"


def listing_facts(unit: Unit) -> ListingFacts:
    """All that may be said of a unit, out of the record. What was typed for colleagues is told only where chosen."""
    contents = list(unit.contents.all())
    there = completeness_of(contents)
    run = unit.runs.order_by("-number").first()
    results = latest(run) if run else {}
    # A buyer cares what works, not how it was made safe to find out.
    titles = (
        {step.check.code: step.check.title for step in steps_of(run, results) if step.check.group in TOLD}
        if run
        else {}
    )

    def titled(*outcomes: str) -> list[str]:
        return [_lower(titles[code]) for code, r in results.items() if r.outcome in outcomes and code in titles]

    return replace(
        offer_facts([unit])[unit.pk],
        year_text=unit.model.years if unit.model else "",
        tested_on=f"on {clock.day_of(run.started_at):%d %B %Y}" if run else "",
        passed=titled("pass"),
        failed=titled("fail"),
        skipped=titled("skip", "waived"),
        work_done=[_told(job) for job in unit.jobs.all() if job.done_at and job.kind not in _FINISH],
        finish=_finish(unit),
        installed=installed(unit),
        workarounds=[job.workaround for job in unit.jobs.all() if job.done_at and job.workaround],
        against_approach=[
            f"{_lower(job.title)}, because {job.override_reason}"
            for job in unit.jobs.all()
            if job.done_at and job.override_reason
        ],
        originals=[
            f"what was replaced by “{_lower(job.title)}”"
            for job in unit.jobs.all()
            if job.done_at and job.original_kept and job.original_goes
        ],
        findings=[
            f"{f.get_kind_display()} on the {f.face}{', ' + f.words if f.words else ''}"
            for f in unit.findings.all()
            if f.status != Finding.Status.RESOLVED
        ],
        missing=there.missing,
        not_original=[*there.not_original, *not_as_it_came(unit)],
        in_the_box=[c.name for c in contents if c.presence in {"present", "not_original", "extra"}],
        waived_times=waived_times(steps_of(run, results), results) if run else (),
        completeness=there.percent,
        mains=unit.mains_words if bench_facts(unit).supply_here not in {Supply.NONE} else "",
        supply=unit.get_supply_display(),
    )


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


def blocks_with_pages(unit: Unit) -> list[tuple[Block, str]]:
    """What blocks the listing, each with the address where it is cleared."""
    return [
        (block, reverse(BLOCK_PAGE[block.kind.value], args=[unit.number]) + BLOCK_PLACE.get(block.kind, ""))
        for block in blocks_of(unit)
    ]


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]


def for_sale():
    """Listings on show, newest first, with what their cards need."""
    return (
        Listing.objects.filter(status=Listing.Status.LIVE)
        # What is being looked at again is not for sale, at once.
        .filter(unit__state=State.MOVING)
        .select_related("unit__model")
        .prefetch_related("unit__photos", "unit__grades")
        .order_by("-published_at", "-id")
    )

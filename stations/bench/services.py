"""What a technician does at the bench: start a run, record what came of each step, end the run."""

from decimal import Decimal

from django.db import transaction

from core.bench.checks import LIBRARY, Battery, BenchFacts, Check, Supply
from core.bench.plan import OPENS, Outcome, complete, compose, ladder, refusal
from core.bench.verdict import HAND_METER, Verdict, judge, suspicious_scale
from core.buying.odds import Outcome as TurnsOut
from core.intake.condition import FindingKind
from core.quantities import QuantityError, parse_reading
from stations.bench.models import StepResult, TestRun
from stations.buying.plans import turned_out
from stations.intake import stages
from stations.intake.models import Finding, Unit
from stations.people import clock, history
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused

BY_CODE = {check.code: check for check in LIBRARY}
GONE = {"sold", "sent", "closed", "scrapped", "returned"}


def bench_facts(unit: Unit) -> BenchFacts:
    """What the plan needs to know of this unit."""
    kinds = set(unit.findings.filter(status=Finding.Status.OPEN).values_list("kind", flat=True))
    return BenchFacts(
        supply=Supply(unit.supply),
        battery=Battery(unit.battery),
        picture_tube=unit.picture_tube,
        drives=unit.drives,
        keyboard=unit.keyboard,
        mains=unit.mains,
        leak_found=FindingKind.LEAK in kinds,
        rework_found=FindingKind.REWORK in kinds,
    )


def plan_of(run: TestRun) -> tuple[Check, ...]:
    return tuple(BY_CODE[code] for code in run.plan if code in BY_CODE)


def latest(run: TestRun) -> dict[str, StepResult]:
    """The newest result of each step, by code."""
    return {result.code: result for result in run.results.select_related("who")}


def rungs_of(run: TestRun, results: dict[str, StepResult] | None = None):
    results = latest(run) if results is None else results
    return ladder(plan_of(run), {code: Outcome(result.outcome) for code, result in results.items()})


@transaction.atomic
def start_run(person: Person, unit: Unit, cold: bool = True) -> TestRun:
    """Compose the plan for this unit and open a run. One run at a time."""
    require(person, Role.TECHNICIAN, to="test a unit")
    unit = Unit.objects.select_for_update().get(pk=unit.pk)
    if unit.stage in GONE:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is nothing to test here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    if TestRun.objects.filter(open_for=unit).exists():
        raise Refused("A run is open already. Go on with that one.")
    plan = compose(bench_facts(unit))
    run = TestRun.objects.create(
        unit=unit,
        number=unit.runs.count() + 1,
        plan=[check.code for check in plan],
        cold=cold,
        started_at=clock.now(),
        started_by=person,
        open_for=unit,
    )
    history.record(
        person,
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Test run {run.number} started, {len(plan)} steps, {'cold' if cold else 'warm'}",
    )
    stages.refresh(unit)
    return run


@transaction.atomic
def record_result(
    person: Person, run: TestRun, code: str, outcome: Outcome, typed: str = "", reason: str = ""
) -> StepResult:
    """Record what came of a step, once. The gates and the limits decide what may be recorded.

    `typed` is the reading as typed, for steps that measure. Fail, skip and waiver want a reason.
    """
    require(person, Role.TECHNICIAN, to="record test results")
    if outcome is Outcome.WAIVED:
        require(person, to="waive a gate")
    run = TestRun.objects.select_for_update().select_related("unit").get(pk=run.pk)
    if run.finished_at:
        raise Refused("This run is finished. Start another one.")
    if said := refusal(rungs_of(run), code, outcome):
        raise Refused(said)
    check = BY_CODE[code]
    reading, uncertainty, verdict = _read(check, outcome, typed)
    if outcome is Outcome.PASS and verdict is Verdict.OUTSIDE:
        raise Refused(
            "The reading is outside the limits, so the step can’t pass. Fail it, or measure again.", "reading"
        )
    if outcome is Outcome.PASS and verdict is Verdict.TOO_CLOSE and not reason:
        raise Refused(
            "Too close to call: the instrument could be wrong by more than is left. "
            "Measure better, or say why it passes.",
            "reason",
        )
    if outcome is not Outcome.PASS and not reason:
        raise Refused("Say why.", "reason")
    result = StepResult.objects.create(
        run=run,
        code=code,
        outcome=outcome.value,
        reading=reading,
        uncertainty=uncertainty,
        reading_unit=check.limits.unit if reading is not None and check.limits else "",
        verdict=verdict.value if verdict else "",
        reason=reason[:200],
        when=clock.now(),
        who=person,
    )
    if complete(rungs_of(run)):
        _finish(person, run)
    stages.refresh(run.unit)
    return result


@transaction.atomic
def end_run(person: Person, run: TestRun) -> None:
    """Stop a run where it stands: what is not done stays not done."""
    require(person, Role.TECHNICIAN, to="end a test run")
    run = TestRun.objects.select_for_update().select_related("unit").get(pk=run.pk)
    if run.finished_at:
        raise Refused("This run is finished already.")
    _finish(person, run)
    stages.refresh(run.unit)


def _finish(person: Person, run: TestRun) -> None:
    TestRun.objects.filter(pk=run.pk).update(finished_at=clock.now(), open_for=None)
    outcomes = [result.outcome for result in latest(run).values()]
    if complete(rungs_of(run)) and "fail" not in outcomes:
        # Whole at the first try, it worked as it came; after a failure, it could be repaired.
        failed_before = StepResult.objects.filter(run__unit=run.unit, outcome=Outcome.FAIL).exists()
        turned_out(run.unit.line, run.unit.number, TurnsOut.REPAIRABLE if failed_before else TurnsOut.WORKS)
    passed, failed, skipped = (outcomes.count(outcome) for outcome in ("pass", "fail", "skip"))
    words = f"Test run {run.number}: {passed} passed, {failed} failed, {skipped} skipped"
    if outcomes.count("waived"):
        words += f", {outcomes.count('waived')} waived"
    history.record(person, HistoryEntry.Subject.UNIT, run.unit_id, words)


def _read(check: Check, outcome: Outcome, typed: str) -> tuple[Decimal | None, Decimal | None, Verdict | None]:
    if check.limits is None:
        return None, None, None
    if not typed:
        if outcome is Outcome.PASS:
            raise Refused(f"Type the reading in {check.limits.unit} first.", "reading")
        return None, None, None
    try:
        value = parse_reading(typed, check.limits.unit)
    except QuantityError as problem:
        raise Refused(str(problem), "reading") from problem
    if abs(value) >= 10**9:
        raise Refused("No meter reads that. Type the reading again.", "reading")
    if typed.strip().replace(",", ".").lstrip("+-−").replace(".", "").isdigit() and (
        asks := suspicious_scale(value, check.limits)
    ):
        raise Refused(asks, "reading")
    uncertainty = uncertainty_of(check, value)
    return value, uncertainty, judge(value, uncertainty, check.limits).verdict


def uncertainty_of(check: Check, value: Decimal) -> Decimal:
    """What the hand meter may be wrong by at this reading; 0 for a unit it does not read."""
    accuracy = HAND_METER.get(check.limits.unit) if check.limits else None
    return accuracy.uncertainty(value) if accuracy else Decimal(0)


@stages.register
def bench_stage_facts(units: list[Unit]) -> dict[int, dict]:
    """What the newest run of each unit says: two queries for all of them."""
    newest: dict[int, TestRun] = {}
    for run in TestRun.objects.filter(unit_id__in=[unit.pk for unit in units]).order_by("number"):
        newest[run.unit_id] = run
    results: dict[int, dict[str, Outcome]] = {run.pk: {} for run in newest.values()}
    for run_id, code, outcome in (
        StepResult.objects.filter(run_id__in=list(results)).order_by("id").values_list("run_id", "code", "outcome")
    ):
        results[run_id][code] = Outcome(outcome)
    return {unit_id: _stage_facts(run, results[run.pk]) for unit_id, run in newest.items()}


def _stage_facts(run: TestRun, outcomes: dict[str, Outcome]) -> dict:
    rungs = ladder(plan_of(run), outcomes)
    shut = [rung.check for rung in rungs if rung.check.gate and outcomes.get(rung.check.code) is Outcome.FAIL]
    failed = [rung.check.title for rung in rungs if outcomes.get(rung.check.code) is Outcome.FAIL]
    left = [rung.check for rung in rungs if outcomes.get(rung.check.code) not in {*OPENS, Outcome.FAIL, Outcome.SKIP}]
    facts: dict = {
        "run_started": True,
        "run_complete": run.finished_at is not None and complete(rungs) and not failed,
        "failed": failed if run.finished_at or shut else [],
        "run_next": left[0].title if left else "",
        "run_minutes": sum(check.minutes for check in left),
    }
    if hold := next((check for check in shut if check.safety), None):
        facts["safety_hold"] = f"safety check failed: {hold.title[:1].lower()}{hold.title[1:]}"
    return facts

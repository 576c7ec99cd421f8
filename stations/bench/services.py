"""What a technician does at the bench: start a run, record what came of each step, end the run."""

from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from core.bench.checks import Battery, BenchFacts, Check, Kind, Supply, as_data, from_data
from core.bench.electrics import load_line
from core.bench.plan import OPENS, Outcome, complete, compose, ladder, refusal
from core.bench.verdict import HAND_METER, Accuracy, Verdict, judge, suspicious_scale
from core.bench.worked import SUMS
from core.buying.odds import Outcome as TurnsOut
from core.intake.condition import FindingKind
from core.quantities import QuantityError, parse_reading
from stations.bench.library import COMES_WITH, library
from stations.bench.models import StartTrial, StepResult, StepTimer, TestRun
from stations.buying.plans import turned_out
from stations.intake import stages
from stations.intake.models import Finding, Unit
from stations.people import clock, history
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused

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
        swollen_found=FindingKind.SWOLLEN in kinds,
        form_factor=unit.form_factor,
        approach=unit.approach,
    )


def plan_of(run: TestRun) -> tuple[Check, ...]:
    """The checks of a run as they were asked then."""
    if run.steps is None:
        return tuple(COMES_WITH[code] for code in run.plan if code in COMES_WITH)
    return tuple(from_data(step) for step in run.steps)


def latest(run: TestRun) -> dict[str, StepResult]:
    """The newest result of each step, by code."""
    return {result.code: result for result in run.results.select_related("who")}


def rungs_of(run: TestRun, results: dict[str, StepResult] | None = None):
    results = latest(run) if results is None else results
    return ladder(plan_of(run), {code: Outcome(result.outcome) for code, result in results.items()})


def lines_of(run: TestRun) -> list[tuple]:
    """Every rung of a run with its newest result, None where there is none: one query."""
    results = latest(run)
    return [(rung, results.get(rung.check.code)) for rung in rungs_of(run, results)]


def open_run(unit: Unit) -> TestRun:
    """The run that is open on a unit. Raises Refused when it was ended meanwhile, perhaps by somebody else."""
    run = TestRun.objects.select_related("unit").filter(open_for=unit).first()
    if run is None:
        raise Refused("The run on this unit is over, so nothing was recorded.")
    return run


@transaction.atomic
def start_run(person: Person, unit: Unit, cold: bool = True, closed: bool = False) -> TestRun:
    """Compose the plan for this unit and open a run. One run at a time."""
    require(person, Role.TECHNICIAN, to="test a unit")
    unit = Unit.objects.select_for_update().get(pk=unit.pk)
    if unit.stage in GONE:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is nothing to test here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    if TestRun.objects.filter(open_for=unit).exists():
        raise Refused("A run is open already. Go on with that one.")
    plan = compose(bench_facts(unit), library())
    run = TestRun.objects.create(
        unit=unit,
        number=unit.runs.count() + 1,
        plan=[check.code for check in plan],
        steps=[as_data(check) for check in plan],
        cold=cold,
        closed=closed,
        holder=person,
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


def holds_it(person: Person, run: TestRun) -> None:
    """Raise Refused unless the person works on this run: two people never record into one another's hands."""
    if run.holder_id not in {None, person.pk}:
        raise Refused(f"{run.holder.name} has this run in hand. Take it over first.")


@transaction.atomic
def take_over(person: Person, run: TestRun) -> None:
    """Go on with a run that somebody else has in hand."""
    require(person, Role.TECHNICIAN, to="take over a run")
    run = TestRun.objects.select_for_update().select_related("holder", "unit").get(pk=run.pk)
    if run.finished_at:
        raise Refused("This run is finished already.")
    if run.holder_id == person.pk:
        return
    TestRun.objects.filter(pk=run.pk).update(holder=person)
    words = f"Took over test run {run.number} from {run.holder.name if run.holder else 'nobody'}"
    history.record(person, HistoryEntry.Subject.UNIT, run.unit_id, words)


def locked(run: TestRun, code: str) -> str:
    """Why nothing may be done at a step yet; empty when it is open."""
    return refusal(rungs_of(run), code, Outcome.PASS)


@dataclass(frozen=True)
class Taken:
    """What was read at a step: as typed, or by an instrument (its name, accuracy and range in words)."""

    typed: str = ""
    instrument: str = ""
    accuracy: Accuracy | None = None
    span: str = ""


@transaction.atomic
def record_result(
    person: Person,
    run: TestRun,
    code: str,
    outcome: Outcome,
    typed: str = "",
    reason: str = "",
    taken: Taken | None = None,
) -> StepResult:
    """Record what came of a step, once. The gates and the limits decide what may be recorded.

    `typed` is the reading as typed, for steps that measure; `taken` one with its instrument. Fail, skip and
    waiver want a reason, and so does passing while the step's timer still runs.
    """
    require(person, Role.TECHNICIAN, to="record test results")
    if outcome is Outcome.WAIVED:
        require(person, to="waive a gate")
    run = TestRun.objects.select_for_update().select_related("unit", "holder").get(pk=run.pk)
    if run.finished_at:
        raise Refused("This run is finished. Start another one.")
    if outcome is not Outcome.WAIVED:
        holds_it(person, run)
    plan = plan_of(run)
    if said := refusal(ladder(plan, _outcomes(run)), code, outcome):
        raise Refused(said)
    check = next(c for c in plan if c.code == code)
    taken = taken or Taken(typed)
    read = _read(check, outcome, taken)
    if outcome is Outcome.PASS and read.verdict is Verdict.OUTSIDE:
        raise Refused(
            "The reading is outside the limits, so the step can’t pass. Fail it, or measure again.", "reading"
        )
    if outcome is Outcome.PASS and read.verdict is Verdict.TOO_CLOSE and not reason:
        raise Refused(
            "Too close to call: the instrument could be wrong by more than is left. "
            "Measure better, or say why it passes.",
            "reason",
        )
    if outcome is not Outcome.PASS and not reason:
        raise Refused("Say why.", "reason")
    _stop_timer(run, code, outcome, reason)
    result = StepResult.objects.create(
        run=run,
        code=code,
        outcome=outcome.value,
        reading=read.value,
        uncertainty=read.uncertainty,
        reading_unit=check.limits.unit if read.value is not None and check.limits else "",
        verdict=read.verdict.value if read.verdict else "",
        points=read.points,
        instrument=taken.instrument if read.value is not None else "",
        instrument_range=taken.span if read.value is not None else "",
        reason=reason[:200],
        when=clock.now(),
        who=person,
    )
    if code == "power-first" and outcome in {Outcome.PASS, Outcome.FAIL}:
        _note_start(person, run, outcome is Outcome.PASS, reason)
    if complete(ladder(plan, _outcomes(run))):
        _finish(person, run)
    stages.refresh(run.unit)
    return result


def _outcomes(run: TestRun) -> dict[str, Outcome]:
    """The newest outcome of each step, by code: one query."""
    rows = run.results.order_by("id").values_list("code", "outcome")
    return {code: Outcome(outcome) for code, outcome in rows}


def _stop_timer(run: TestRun, code: str, outcome: Outcome, reason: str) -> None:
    timers = StepTimer.objects.filter(run=run, code=code, stopped_at=None)
    late = timers.filter(ends_at__gt=clock.now()).first()
    if late and outcome is Outcome.PASS and not reason:
        ends = timezone.localtime(late.ends_at)
        raise Refused(f"Its timer runs until {ends:%H:%M}. Wait for it, or say why it may pass now.", "reason")
    timers.update(stopped_at=clock.now())


def _note_start(person: Person, run: TestRun, passed: bool, words: str) -> None:
    StartTrial.objects.create(
        unit=run.unit, when=clock.now(), cold=run.cold, closed=run.closed, passed=passed, words=words[:120], who=person
    )


@transaction.atomic
def note_start(person: Person, unit: Unit, passed: bool, cold: bool, closed: bool, words: str = "") -> StartTrial:
    """Note one more start of a machine, clean or not. A failed one says what happened."""
    require(person, Role.TECHNICIAN, to="record starts")
    if unit.stage in GONE:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is nothing to start here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    if not unit.runs.filter(results__code="power-first", results__outcome=Outcome.PASS).exists():
        raise Refused("It never passed first power in a test run. Its gates come first.")
    if not passed and not words:
        raise Refused("Say what happened.", "words")
    trial = StartTrial.objects.create(
        unit=unit, when=clock.now(), cold=cold, closed=closed, passed=passed, words=words[:120], who=person
    )
    how = f"{'cold' if cold else 'warm'}{', closed up' if closed else ''}"
    history.record(
        person, HistoryEntry.Subject.UNIT, unit.pk, f"Start {how}: {'clean' if passed else 'failed, ' + words}"
    )
    stages.refresh(unit)
    return trial


@transaction.atomic
def end_run(person: Person, run: TestRun) -> None:
    """Stop a run where it stands: what is not done stays not done."""
    require(person, Role.TECHNICIAN, to="end a test run")
    run = TestRun.objects.select_for_update().select_related("unit", "holder").get(pk=run.pk)
    if run.finished_at:
        raise Refused("This run is finished already.")
    holds_it(person, run)
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


@dataclass(frozen=True)
class _Read:
    value: Decimal | None = None
    uncertainty: Decimal | None = None
    verdict: Verdict | None = None
    points: list | None = None


def _read(check: Check, outcome: Outcome, taken: Taken) -> _Read:
    if check.does in SUMS:
        return _read_worked(check, outcome, taken.typed)
    if check.limits is None:
        return _Read()
    if not taken.typed:
        if outcome is Outcome.PASS:
            raise Refused(f"Type the reading in {check.limits.unit} first.", "reading")
        return _Read()
    if check.does is Kind.LOAD:
        return _read_load(check, taken)
    try:
        value = parse_reading(taken.typed, check.limits.unit)
    except QuantityError as problem:
        raise Refused(str(problem), "reading") from problem
    if abs(value) >= 10**9:
        raise Refused("No meter reads that. Type the reading again.", "reading")
    bare = taken.typed.strip().replace(",", ".").lstrip("+-−").replace(".", "").isdigit()
    if bare and not taken.instrument and (asks := suspicious_scale(value, check.limits)):
        raise Refused(asks, "reading")
    uncertainty = uncertainty_of(check, value, taken.accuracy)
    return _Read(value, uncertainty, judge(value, uncertainty, check.limits).verdict)


def _read_worked(check: Check, outcome: Outcome, typed: str) -> _Read:
    """What is typed is kept with the sum in words; a part that is only suspect in circuit is not failed."""
    if not typed:
        if outcome is Outcome.PASS:
            raise Refused(f"Type {SUMS[check.does].asks}.", "reading")
        return _Read()
    try:
        worked = SUMS[check.does].act(typed)
    except ValueError as problem:
        raise Refused(str(problem), "reading") from problem
    if worked.verdict is Verdict.TOO_CLOSE and outcome in {Outcome.PASS, Outcome.FAIL}:
        raise Refused(worked.words, "reading")
    if worked.verdict is Verdict.OUTSIDE and outcome is Outcome.PASS:
        raise Refused(worked.words, "reading")
    return _Read(verdict=worked.verdict, points=[typed, worked.words])


def _read_load(check: Check, taken: Taken) -> _Read:
    """Several pairs of amperes and volts: the worst of them decides, and the highest load is the reading."""
    points = load_points(taken.typed, check.limits.unit)
    order = [Verdict.INSIDE, Verdict.TOO_CLOSE, Verdict.OUTSIDE]
    worst, reading, doubt = Verdict.INSIDE, None, None
    for _, volts in sorted(points):
        value = round(Decimal(str(volts)), 4)
        doubt = uncertainty_of(check, value, taken.accuracy)
        reading, found = value, judge(value, doubt, check.limits).verdict
        worst = max(worst, found, key=order.index)
    return _Read(reading, doubt, worst, [list(point) for point in points])


def load_points(text: str, unit: str) -> list[tuple[float, float]]:
    """Amperes and volts as typed: "0 5.09; 1.5 5.06; 3 5.03". Raises Refused at the reading."""
    points = []
    for part in filter(None, (piece.strip() for piece in text.replace("\n", ";").split(";"))):
        words = [word for word in part.split() if word not in {"A", unit}]
        if len(words) != 2:
            raise Refused(f"Type load and {unit} in pairs: 0 5.09; 1.5 5.06; 3 5.03.", "reading")
        try:
            amps, volts = (float(parse_reading(w, u)) for w, u in zip(words, ("A", unit), strict=True))
        except QuantityError as problem:
            raise Refused(f"“{part}”: {problem}", "reading") from problem
        points.append((amps, volts))
    try:
        load_line(points)
    except ValueError as problem:
        raise Refused(str(problem), "reading") from problem
    if len(points) > 40 or any(abs(n) >= 10**6 for point in points for n in point):
        raise Refused("No supply gives that. Type the readings again.", "reading")
    return points


def uncertainty_of(check: Check, value: Decimal, accuracy: Accuracy | None = None) -> Decimal:
    """What the meter may be wrong by at this reading: its own accuracy, or a hand meter's; 0 for other units."""
    accuracy = accuracy or (HAND_METER.get(check.limits.unit) if check.limits else None)
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

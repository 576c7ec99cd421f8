"""What a technician does at the bench: start a run, record what came of each step, end the run."""

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from core.bench.checks import Check, CheckKind, Known, as_data, from_data
from core.bench.plan import Outcome, complete, make_plan, plan_steps, refusal, time_refusal, when_over
from core.bench.rails import for_rails
from core.bench.reading import JudgedReading, ReadingError, TypedReading, judge_reading, reading_refusal, reason_refusal
from core.buying.odds import LineOutcome
from core.machine.supply import Battery
from stations.bench import power
from stations.bench.library import COMES_WITH, FIRST_POWER, library, looks_for_known
from stations.bench.models import PowerStop, StartTrial, StepResult, StepTimer, TestRun
from stations.buying.plans import record_outcome
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, shortened, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import stages
from stations.units.as_it_is import bench_facts, facts_of_each, fails_in_each, wanted_adapter
from stations.units.fitting import rails_of_each
from stations.units.models import Unit


def plans_for(units: Sequence[Unit]) -> dict[int, tuple[Check, ...]]:
    """The plan of a run of each unit that began now, by what it is now: seven queries for all."""
    checks, known, rails, facts = library(), fails_in_each(units), rails_of_each(units), facts_of_each(units)
    return {
        unit.pk: for_rails(
            make_plan(facts[unit.pk], (*checks, *looks_for_known(known[unit.pk]))),
            rails[unit.pk],
        )
        for unit in units
    }


def plan_of(run: TestRun) -> tuple[Check, ...]:
    """The checks of a run as they were asked then; limits that an adapter's plate gives, once it is recorded."""
    if run.steps is None:
        return tuple(COMES_WITH[code] for code in run.plan if code in COMES_WITH)
    plan = tuple(from_data(step) for step in run.steps)
    if any(check.plate and check.limits is None for check in plan):
        facts = bench_facts(run.unit)
        plan = tuple(check.filled(facts) if check.limits is None else check for check in plan)
    return plan


def latest(run: TestRun) -> dict[str, StepResult]:
    """The newest result of each step, by code."""
    return latest_of_each([run])[run.pk]


def latest_of_each(runs: Sequence[TestRun]) -> dict[int, dict[str, StepResult]]:
    """The same of several, by run: one query."""
    by_id = {run.pk: run for run in runs}
    found: dict[int, dict[str, StepResult]] = {run_id: {} for run_id in by_id}
    for result in StepResult.objects.filter(run__in=by_id).select_related("who"):
        result.run = by_id[result.run_id]
        found[result.run_id][result.code] = result
    return found


def steps_of(run: TestRun, results: dict[str, StepResult] | None = None):
    results = latest(run) if results is None else results
    return plan_steps(plan_of(run), {code: Outcome(result.outcome) for code, result in results.items()})


def steps_with_results(run: TestRun) -> list[tuple]:
    """Every step of a run with its newest result, None where there is none: one query."""
    results = latest(run)
    rows = [(step, results.get(step.check.code)) for step in steps_of(run, results)]
    if run.finished_at is None:
        return rows
    return [(when_over(step, Outcome(result.outcome) if result else None), result) for step, result in rows]


def why_it_failed(unit: Unit) -> str:
    """What was typed where the newest run failed first, up to 160 characters; empty where nothing was."""
    run = unit.runs.order_by("-number").first()
    failed = [result.reason for result in latest(run).values() if result.outcome == Outcome.FAIL] if run else []
    return shortened(next(filter(None, failed), ""), 160)


def open_run(unit: Unit) -> TestRun:
    """The run that is open on a unit. Raises Refused when it was ended meanwhile, perhaps by somebody else."""
    run = TestRun.objects.select_related("unit").filter(open_for=unit).first()
    if run is None:
        raise Refused("The run on this unit is over, so nothing was recorded.")
    _refuse_of_another(run)
    return run


def _refuse_of_another(run: TestRun) -> None:
    """What was recorded before a run began, without a connection, was of the run before."""
    if clock.sent_at() and run.started_at > clock.now():
        began = timezone.localtime(run.started_at)
        raise Refused(
            f"The run that is open began on {began:%-d %B at %H:%M}, after this was recorded: nothing went into it."
        )


@transaction.atomic
def start_run(person: Person, unit: Unit, closed: bool = False, warm: bool = False) -> TestRun:
    """Compose the plan for this unit and open a run. One run at a time.

    Whether it starts from cold follows from when it last had power; `warm` says that it had some since, unrecorded.
    """
    require(person, "test a unit")
    unit = lock_row(Unit.objects.all(), unit)
    if unit.closed_to_work:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is nothing to test here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    if TestRun.objects.filter(open_for=unit).exists():
        raise Refused("A run is open already. Go on with that one.")
    plan = plans_for([unit])[unit.pk]
    cold = False if warm else power.temperature_of(unit).cold
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
        "bench.start_run",
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Test run {run.number} started, {len(plan)} steps, {how_cold(cold)}",
        run=run.pk,
        steps=len(plan),
    )
    stages.refresh(unit)
    return run


def how_cold(cold: bool | None) -> str:
    return {True: "from cold", False: "warm", None: "not known whether cold"}[cold]


def in_other_hands(person: Person, run: TestRun) -> str:
    """Who else works on this run, in words: two people never record into one another's hands. Empty for nobody."""
    if run.holder is None or run.holder_id == person.pk:
        return ""
    return f"{run.holder.name} has this run in hand. Take it over first."


def holds_it(person: Person, run: TestRun) -> None:
    """Raise Refused unless the person works on this run."""
    if words := in_other_hands(person, run):
        raise Refused(words)


@transaction.atomic
def take_over(person: Person, run: TestRun) -> None:
    """Go on with a run that somebody else has in hand."""
    require(person, "take over a run")
    run = lock_row(TestRun.objects.select_related("unit"), run, run.unit)
    if run.finished_at:
        raise Refused("This run is finished already.")
    if run.holder_id == person.pk:
        return
    TestRun.objects.filter(pk=run.pk).update(holder=person)
    words = f"Took over test run {run.number} from {run.holder.name if run.holder else 'nobody'}"
    history.record(person, "bench.take_over", HistoryEntry.Subject.UNIT, run.unit_id, words)


def locked(run: TestRun, code: str) -> str:
    """Why nothing may be done at a step yet; empty when it is open."""
    return refusal(steps_of(run), code, Outcome.PASS)


def ran_minutes(run: TestRun, code: str) -> float | None:
    """For how long a step's timer has run in this run, the longest of several; None when it was never started.

    What ran before the step last failed counts no longer: it is run again whole.
    """
    now = clock.now()
    timers = StepTimer.objects.filter(run=run, code=code)
    failed = run.results.filter(code=code, outcome=Outcome.FAIL).aggregate(at=Max("when"))["at"]
    if failed:
        timers = timers.filter(started_at__gte=failed)
    return max((((t.stopped_at or now) - t.started_at).total_seconds() / 60 for t in timers), default=None)


@transaction.atomic
def record_result(
    person: Person,
    run: TestRun,
    code: str,
    outcome: Outcome,
    typed: str = "",
    reason: str = "",
    taken: TypedReading | None = None,
) -> StepResult:
    """Record what came of a step, once. The gates and the limits decide what may be recorded.

    `typed` is the reading as typed, for steps that measure; `taken` one with its instrument. Fail, skip and
    waiver want a reason. A step with a time is not passed before its time ran; an owner may waive it.
    """
    require(person, "record test results")
    if outcome is Outcome.WAIVED:
        require(person, "waive a gate or a time")
    run = lock_row(TestRun.objects.select_related("unit"), run, run.unit)
    if run.finished_at:
        raise Refused("This run is finished. Start another one.")
    _refuse_of_another(run)
    if outcome is not Outcome.WAIVED:
        holds_it(person, run)
    plan = plan_of(run)
    check = next((c for c in plan if c.code == code), None)
    charged = power.charged_words(run.unit) if check and check.hands_in else ""
    outcomes = _outcomes(run)
    if said := refusal(plan_steps(plan, outcomes), code, outcome, charged):
        raise Refused(said)
    assert check is not None  # refused above
    taken = taken or TypedReading(typed)
    if outcome is Outcome.PASS:
        _may_pass(run, check)
    if check.powered and outcome in {Outcome.PASS, Outcome.FAIL}:
        refuse_while_stopped(run.unit)
    read = _judged(check, outcome, taken)
    if said := reason_refusal(outcome, read.verdict, reason):
        raise Refused(said, "reason")
    StepTimer.objects.filter(run=run, code=code, stopped_at=None).update(stopped_at=clock.now())
    result = StepResult.objects.create(
        run=run,
        code=code,
        outcome=outcome.value,
        reading=read.value,
        uncertainty=read.uncertainty,
        reading_unit=check.limits.unit if read.value is not None and check.limits else "",
        verdict=read.verdict.value if read.verdict else "",
        points=[taken.typed, read.words] if read.words else [list(point) for point in read.points] or None,
        instrument=read.instrument if read.value is not None else "",
        instrument_range=taken.span if read.value is not None else "",
        powered=check.powered and outcome in {Outcome.PASS, Outcome.FAIL},
        reason=within(reason, 200, "reason"),
        when=clock.now(),
        who=person,
    )
    if check.starts and outcome in {Outcome.PASS, Outcome.FAIL}:
        _note_start(person, run, check, outcome is Outcome.PASS, reason)
    if complete(plan_steps(plan, {**outcomes, code: outcome})):
        _finish(person, run)
    stages.refresh(run.unit)
    return result


def _outcomes(run: TestRun) -> dict[str, Outcome]:
    """The newest outcome of each step, by code: one query."""
    rows = run.results.order_by("id").values_list("code", "outcome")
    return {code: Outcome(outcome) for code, outcome in rows}


def _may_pass(run: TestRun, check: Check) -> None:
    """What must be there before a step passes, besides its reading: its time, what it rests on, a sound to hear."""
    if check.alone_minutes and (said := time_refusal(check, ran_minutes(run, check.code))):
        raise Refused(said)
    if check.known and not is_known(run.unit, check.known):
        raise Refused(check.known.words)
    if check.does is CheckKind.LISTEN and not run.notes.filter(code=check.code, clip__isnull=False).exists():
        raise Refused("Keep the sound first: record it, or choose a file, below.")


def while_stopped(unit: Unit) -> str:
    """Why it gets no power while it stands unplugged because of a noise, a smell or smoke that nobody has dealt with;
    empty where it does not."""
    stop = PowerStop.objects.filter(unit=unit, ended_at=None).first()
    return f"It was unplugged and stopped: {stop}. No power before that is dealt with." if stop else ""


def refuse_while_stopped(unit: Unit) -> None:
    if words := while_stopped(unit):
        raise Refused(words)


def is_known(unit: Unit, what: Known) -> bool:
    if what is Known.MAINS:
        return unit.mains_known
    if what is Known.BATTERY:
        return unit.battery != Battery.UNKNOWN or bench_facts(unit).battery_here is not Battery.UNKNOWN
    if what is Known.ADAPTER_WHOLE:
        wanted = wanted_adapter(unit)
        return wanted is not None and wanted.whole
    return bench_facts(unit).adapter_volts is not None


def note_failed_start(person: Person, run: TestRun, check: Check, words: str) -> None:
    """A start that ended by pulling the plug."""
    _note_start(person, run, check, False, words)


def _judged(check: Check, outcome: Outcome, taken: TypedReading) -> JudgedReading:
    """What was read, as it may be recorded with this outcome. Raises Refused, at the reading."""
    try:
        reading = judge_reading(check, taken)
    except ReadingError as problem:
        raise Refused(str(problem), "reading") from problem
    if said := reading_refusal(check, outcome, reading):
        raise Refused(said, "reading")
    return reading


def _note_start(person: Person, run: TestRun, check: Check, passed: bool, words: str) -> None:
    """A step that starts the machine counts as a start, clean or failed, under the conditions of the step."""
    earlier = [c.code for c in plan_of(run) if c.starts and c.code != check.code]
    first = not run.results.filter(powered=True, code__in=earlier).exists()
    cold = True if check.cold else run.cold if first else False
    StartTrial.objects.create(
        unit=run.unit,
        when=clock.now(),
        cold=cold,
        closed=check.closed or run.closed,
        passed=passed,
        words=within(words, 200) or ("" if passed else check.title),
        who=person,
    )


def why_no_start(unit: Unit) -> str:
    """Why it is not to be switched on outside a run, in words; empty where it may be: two queries."""
    if unit.closed_to_work:
        return f"{unit.tag} is {unit.get_stage_display()}: there is nothing to start here."
    if unit.assessed_at is None:
        return "Intake is not finished. Don’t power it yet: finish intake first."
    if stopped := while_stopped(unit):
        return stopped
    first = unit.runs.filter(results__code__in=FIRST_POWER, results__outcome=Outcome.PASS)
    return "" if first.exists() else "It never passed first power in a test run. Its gates come first."


@transaction.atomic
def note_start(
    person: Person, unit: Unit, passed: bool, closed: bool, words: str = "", warm: bool = False
) -> StartTrial:
    """Note one more start of a machine, clean or not. A failed one says what happened.

    Whether it was cold follows from when it last had power; `warm` says that it had some since, unrecorded.
    """
    require(person, "record starts")
    unit = lock_row(Unit.objects.all(), unit)
    if no_start := why_no_start(unit):
        raise Refused(no_start)
    if not passed and not words:
        raise Refused("Say what happened.", "words")
    cold = False if warm else power.temperature_of(unit).cold
    trial = StartTrial.objects.create(
        unit=unit, when=clock.now(), cold=cold, closed=closed, passed=passed, words=within(words, 200), who=person
    )
    how = f"{how_cold(cold)}{', closed up' if closed else ''}"
    history.record(
        person,
        "bench.note_start",
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Start {how}: {'clean' if passed else 'failed, ' + words}",
    )
    stages.refresh(unit)
    return trial


@transaction.atomic
def end_run(person: Person, run: TestRun) -> None:
    """Stop a run where it stands: what is not done stays not done."""
    require(person, "end a test run")
    run = lock_row(TestRun.objects.select_related("unit"), run, run.unit)
    if run.finished_at:
        raise Refused("This run is finished already.")
    holds_it(person, run)
    _finish(person, run)
    stages.refresh(run.unit)


def _finish(person: Person, run: TestRun) -> None:
    TestRun.objects.filter(pk=run.pk).update(finished_at=clock.now(), open_for=None)
    outcomes = [result.outcome for result in latest(run).values()]
    if complete(steps_of(run)) and "fail" not in outcomes:
        # Whole at the first try, it worked as it came; after a failure, it could be repaired.
        failed_before = StepResult.objects.filter(run__unit=run.unit, outcome=Outcome.FAIL).exists()
        record_outcome(run.unit.line, run.unit.number, LineOutcome.REPAIRABLE if failed_before else LineOutcome.WORKS)
    passed, failed, skipped = (outcomes.count(outcome) for outcome in ("pass", "fail", "skip"))
    words = f"Test run {run.number}: {passed} passed, {failed} failed, {skipped} skipped"
    if outcomes.count("waived"):
        words += f", {outcomes.count('waived')} waived"
    history.record(
        person,
        "bench.finish",
        HistoryEntry.Subject.UNIT,
        run.unit_id,
        words,
        run=run.pk,
        passed=passed,
        failed=failed,
        skipped=skipped,
    )

"""What the bench answers for: the newest run of each unit, what speaks against it since, and what was stopped."""

from collections.abc import Iterable
from dataclasses import replace

from django.urls import reverse
from django.utils import timezone

from core.bench.checks import Check
from core.bench.plan import OPENS, Outcome, complete, plan_steps
from core.flow.facts import BenchFlow, Hold
from core.flow.stage import GONE, NextKind, Stage
from core.flow.task import Task, one_after_another
from stations.bench import faults
from stations.bench.fixes import since_the_run
from stations.bench.models import (
    BenchCheck,
    Benchmark,
    Discharge,
    FaultCase,
    PowerStop,
    StartTrial,
    StepNote,
    StepResult,
    TestRun,
)
from stations.bench.services import plan_of, plans_for
from stations.common.paging import First, first_of
from stations.people import in_hand
from stations.people.history import Place, places
from stations.people.models import Person
from stations.people.permissions import require
from stations.stock import shelf
from stations.units import busy, dealt_with, slips, stages, tried
from stations.units.models import Unit

MOST_SLIPS = 10
# Where another rule says what is next, before that of the plan.
NO_PLAN_ASKED = GONE | {Stage.GRADED, Stage.LISTED}

shelf.rests.add("tries")(faults.tries_withdrawn)


def discharges_of(unit: Unit) -> list[slips.Recorded]:
    """The last ones: a discharge that was of another machine says of this one that it holds no charge."""
    rows = unit.discharges.order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(f"discharge:{row.pk}", "Discharge", f"{row}, {timezone.localtime(row.when):%-d %b %H:%M}")
        for row in rows
    ]


def starts_of(unit: Unit) -> list[slips.Recorded]:
    """The last ones: a failed start that was none holds a machine up, a clean one vouches for it."""
    rows = unit.starts.order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(
            f"start:{row.pk}",
            "Power-up",
            f"{'OK' if row.passed else 'failed, ' + row.words}, {timezone.localtime(row.when):%-d %b %H:%M}",
        )
        for row in rows
    ]


def no_start(person: Person, unit: Unit, number: int) -> None:
    require(person, "record starts")
    StartTrial.objects.filter(pk=number, unit=unit).delete()


def benchmarks_on_record(unit: Unit) -> list[slips.Recorded]:
    rows = unit.benchmarks.order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(f"benchmark:{row.pk}", "Benchmark", f"{row}, {timezone.localtime(row.when):%-d %b %H:%M}")
        for row in rows
    ]


def no_benchmark(person: Person, unit: Unit, number: int) -> None:
    require(person, "record benchmarks")
    Benchmark.objects.filter(pk=number, unit=unit).delete()


def notes_on_record(unit: Unit) -> list[slips.Recorded]:
    """What was written at steps of its runs, the last ones; a picture or a sound of one stays, and can go after it."""
    rows = StepNote.objects.filter(run__unit=unit).order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(f"note:{row.pk}", "Note of a test", row.words or ("a picture" if row.photo_id else "a sound"))
        for row in rows
    ]


def no_note(person: Person, unit: Unit, number: int) -> None:
    require(person, "write at the bench")
    StepNote.objects.filter(pk=number, run__unit=unit).delete()


def faults_of(unit: Unit) -> list[slips.Recorded]:
    """The one that is looked for: there was none, or it was of another machine. One that was found is looked for again
    first."""
    rows = unit.faults.filter(closed_at=None)
    return [
        slips.Recorded(f"fault:{row.pk}", "Looked for", ": ".join(filter(None, (row.get_symptom_display(), row.words))))
        for row in rows
    ]


def no_fault(person: Person, unit: Unit, number: int) -> None:
    """With all that was tried at it."""
    require(person, "look for a fault")
    row = FaultCase.objects.get(pk=number, unit=unit, closed_at=None)
    row.tries.all().delete()
    row.delete()


def no_discharge(person: Person, unit: Unit, number: int) -> None:
    require(person, "record a discharge")
    Discharge.objects.filter(pk=number, unit=unit).delete()


slips.kinds.add("discharge")(slips.Kind(discharges_of, no_discharge))
slips.kinds.add("note")(slips.Kind(notes_on_record, no_note))
slips.kinds.add("fault")(slips.Kind(faults_of, no_fault))
slips.kinds.add("start")(slips.Kind(starts_of, no_start))
slips.kinds.add("benchmark")(slips.Kind(benchmarks_on_record, no_benchmark))


@slips.rests_on.add("bench")
def rests_on_notes(unit: Unit) -> dict[str, str]:
    """What a note at a step of a test shows or lets hear."""
    notes = StepNote.objects.filter(run__unit=unit).values_list("photo", "clip")
    marks = [f"{kind}:{pk}" for row in notes for kind, pk in zip(("photo", "clip"), row, strict=True) if pk]
    return dict.fromkeys(marks, "a note of a test rests on it")


@in_hand.kinds.add("run")
def runs_of(person: Person) -> First[in_hand.InHand]:
    """Test runs that are open and somebody's to go on with."""
    held = TestRun.objects.filter(holder=person, open_for__isnull=False).select_related("unit__model").order_by("pk")
    rows = first_of(held, in_hand.MOST)
    found = [
        in_hand.InHand(
            f"test run {run.number}", f"{run.unit.tag} {run.unit.title}", reverse("bench:unit", args=[run.unit.number])
        )
        for run in rows
    ]
    return First(found, rows.count)


@stages.flow.add("bench")
def bench_flow(units: list[Unit]) -> dict[int, BenchFlow]:
    """Of units that are to be tested or were, that were stopped or found faulty: a fixed number of queries for all."""
    ids = [unit.pk for unit in units]
    newest = {run.unit_id: run for run in TestRun.objects.filter(unit_id__in=ids).order_by("number")}
    results: dict[int, dict[str, Outcome]] = {run.pk: {} for run in newest.values()}
    if results:
        recorded = StepResult.objects.filter(run_id__in=list(results)).order_by("id")
        for run_id, code, outcome in recorded.values_list("run_id", "code", "outcome"):
            results[run_id][code] = Outcome(outcome)
    flow = {unit.pk: _of_run(unit, run, results[run.pk]) for unit in units if (run := newest.get(unit.pk)) is not None}
    untested = [unit for unit in units if unit.pk not in newest and unit.stage not in NO_PLAN_ASKED]
    for unit_id, plan in (plans_for(untested) if untested else {}).items():
        flow[unit_id] = BenchFlow(plan_minutes=_hands_on(plan))
    ended = {unit_id: run.finished_at for unit_id, run in newest.items()}
    for unit_id, since in since_the_run(units, ended).items():
        before = flow.get(unit_id, BenchFlow())
        failed = () if since.mended else before.failed
        flow[unit_id] = replace(
            before, failed=_once([*failed, *since.against]), not_proven=since.against, mended=since.mended
        )
    for stop in PowerStop.objects.filter(unit_id__in=ids, ended_at=None):
        hold = Hold(f"unplugged and stopped: {stop}", NextKind.BENCH)
        flow[stop.unit_id] = replace(flow.get(stop.unit_id, BenchFlow()), hold=hold)
    return flow


def _once(words: list[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(words))


def _hands_on(plan: Iterable[Check]) -> int:
    return sum(check.minutes for check in plan)


def _of_run(unit: Unit, run: TestRun, outcomes: dict[str, Outcome]) -> BenchFlow:
    plan = plan_of(run)
    steps = plan_steps(plan, outcomes)
    shut = [step.check for step in steps if step.check.gate and outcomes.get(step.check.code) is Outcome.FAIL]
    failed = [step.check.title for step in steps if outcomes.get(step.check.code) is Outcome.FAIL]
    left = [step.check for step in steps if outcomes.get(step.check.code) not in {*OPENS, Outcome.FAIL, Outcome.SKIP}]
    unsafe = next((check.title for check in shut if check.safety), "")
    return BenchFlow(
        started=True,
        running=run.open_for_id is not None,
        complete=run.finished_at is not None and complete(steps) and not failed,
        tasks=one_after_another(
            Task(unit.number, f"step:{check.code}", check.title, check.minutes, check.alone_minutes) for check in left
        ),
        plan_minutes=_hands_on(plan),
        failed=failed if run.finished_at or shut else (),
        hold=Hold(f"safety check failed: {unsafe[:1].lower()}{unsafe[1:]}", NextKind.BENCH) if unsafe else None,
    )


@busy.kinds.add("run")
def run_going_on(unit: Unit) -> str:
    run = TestRun.objects.filter(open_for=unit).first()
    return f"test run {run.number} is open" if run else ""


@busy.kinds.add("fault")
def fault_going_on(unit: Unit) -> str:
    return "a fault is being looked for" if FaultCase.objects.filter(open_for=unit).exists() else ""


@tried.kinds.add("run")
def was_tried(unit: Unit) -> bool:
    """A step with power was passed or failed on it."""
    told = StepResult.objects.filter(run__unit=unit, powered=True, outcome__in=[Outcome.PASS, Outcome.FAIL])
    return told.exists()


@dealt_with.kinds.add("step")
def steps_since(unit: Unit, since) -> list[dealt_with.Shown]:
    """Steps that were passed without power since: looked at, discharged, measured."""
    rows = StepResult.objects.filter(run__unit=unit, when__gt=since, outcome=Outcome.PASS, powered=False)
    shown = rows.select_related("run__unit").order_by("-id")[:5]
    titles = {(row.run_id, check.code): check.title for row in shown for check in plan_of(row.run)}
    return [dealt_with.Shown(row.when, f"step passed: {titles.get((row.run_id, row.code), row.code)}") for row in shown]


@places.add("check")
def checks(keys: Iterable[int]) -> dict[int, Place]:
    rows = BenchCheck.objects.filter(pk__in=keys)
    return {row.pk: Place(row.title, reverse("bench:check", args=[row.code])) for row in rows}

"""The test plan made for one machine, and where a run of it stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from core.bench.check_library import LIBRARY
from core.bench.checks import BenchFacts, Check, Group


class Outcome(StrEnum):
    PASS = "pass"  # noqa: S105 - not a password
    FAIL = "fail"
    SKIP = "skip"
    WAIVED = "waived"

    @property
    def label(self) -> str:
        return {"pass": "passed", "fail": "failed", "skip": "skipped", "waived": "waived by the owner"}[self.value]

    @property
    def question(self) -> str:
        """What a person who presses this is asked for the reason."""
        return {
            "pass": "Why does it pass?",
            "fail": "What failed?",
            "skip": "Why is it skipped?",
            "waived": "Why may it be waived?",
        }[self.value]

    @property
    def fails(self) -> bool:
        return self is Outcome.FAIL

    @property
    def verb(self) -> str:
        return {"pass": "Pass it", "fail": "Fail it", "skip": "Skip it", "waived": "Waive it"}[self.value]


# A gate opens when it is passed, or when an owner has waived it with a reason.
OPENS = {Outcome.PASS, Outcome.WAIVED}


class StepState(StrEnum):
    PASSED = "passed"
    FAILED = "failed"
    SKIPPED = "skipped"
    WAIVED = "waived"
    NOW = "now"
    TO_DO = "to_do"
    LOCKED = "locked"
    LEFT = "left"  # of a run that is over: nobody came to it

    @property
    def label(self) -> str:
        return {"to_do": "to do", "left": "not done"}.get(self.value, self.value)


_STATES = {
    Outcome.PASS: StepState.PASSED,
    Outcome.FAIL: StepState.FAILED,
    Outcome.SKIP: StepState.SKIPPED,
    Outcome.WAIVED: StepState.WAIVED,
}


@dataclass(frozen=True)
class PlanStep:
    """One step on the ladder. `locked_by` names the gate that must open first."""

    check: Check
    state: StepState
    locked_by: str = ""

    @property
    def locked(self) -> bool:
        return self.state is StepState.LOCKED

    @property
    def shuts(self) -> bool:
        """A gate that is open to be done and has not opened yet: what follows is locked behind it."""
        return self.check.gate and self.state not in {StepState.PASSED, StepState.WAIVED, StepState.LOCKED}


def make_plan(facts: BenchFacts, library: Sequence[Check] = LIBRARY) -> tuple[Check, ...]:
    """The checks this machine needs, in the order of the gates; limits that follow from its adapter filled in."""
    groups = list(Group)
    wanted = [check.filled(facts) for check in library if check.wanted(facts)]
    return tuple(sorted(wanted, key=lambda check: groups.index(check.group)))


def plan_steps(plan: Sequence[Check], latest: Mapping[str, Outcome]) -> tuple[PlanStep, ...]:
    """Where every step stands, given the latest outcome of each by code.

    A step behind a gate that has not opened is locked, even if it was passed before the gate failed. The
    first step that is neither locked nor settled is NOW.
    """
    steps: list[PlanStep] = []
    shut = ""
    now_found = False
    for check in plan:
        outcome = latest.get(check.code)
        if shut:
            steps.append(PlanStep(check, StepState.LOCKED, shut))
            continue
        if outcome is not None:
            steps.append(PlanStep(check, _STATES[outcome]))
        else:
            steps.append(PlanStep(check, StepState.TO_DO if now_found else StepState.NOW))
            now_found = True
        if check.gate and outcome not in OPENS:
            shut = check.title
    return tuple(steps)


def complete(steps: Sequence[PlanStep]) -> bool:
    """Nothing is left to do: no step is now, to do or locked."""
    return not any(step.state in {StepState.NOW, StepState.TO_DO, StepState.LOCKED} for step in steps)


def hands_on(steps: Sequence[PlanStep], again: bool) -> int:
    """Minutes of hands that running the plan takes: all of it `again`, or what is left of it to pass."""
    done = set() if again else {StepState.PASSED, StepState.WAIVED}
    return sum(step.check.minutes for step in steps if step.state not in done)


def when_over(step: PlanStep, outcome: Outcome | None) -> PlanStep:
    """How a step of a run that is over stands: nothing is to be done in it any more."""
    return replace(step, state=StepState.LEFT, locked_by="") if outcome is None else step


def refusal(steps: Sequence[PlanStep], code: str, outcome: Outcome, charged: str = "") -> str:
    """Why `outcome` may not be recorded for the step `code`; empty when it may.

    `charged` says why charge may be left in it (see core/bench/power.py): then hands don't go in.
    """
    step = next((step for step in steps if step.check.code == code), None)
    if step is None:
        return "This step is not on the plan of this machine."
    if step.state is StepState.LOCKED:
        return f"Locked until “{step.locked_by}” is passed."
    if charged and step.check.hands_in and outcome in {Outcome.PASS, Outcome.FAIL}:
        return charged
    if outcome is Outcome.WAIVED and not (step.check.gate or step.check.alone_minutes):
        return "Only a gate or a time can be waived. Skip this step with a reason."
    if step.check.gate and outcome is Outcome.SKIP:
        return "A gate can’t be skipped. Pass it, fail it, or have an owner waive it with a reason."
    return ""


def time_refusal(check: Check, ran_minutes: float | None) -> str:
    """Why a step that runs by itself can't be passed yet; empty when its time ran.

    `ran_minutes`: how long its timer has run in this run, None when it was never started. Only an owner may waive
    what is left, and that is seen in the grade and in the listing.
    """
    if not check.alone_minutes or (ran_minutes is not None and ran_minutes >= check.alone_minutes):
        return ""
    if ran_minutes is None:
        return f"It takes {check.alone_minutes} minutes by itself: start its timer. Before that it can’t be passed."
    left = max(1, round(check.alone_minutes - ran_minutes))
    return f"Its timer has {left} of {check.alone_minutes} minutes to run. It can be failed or skipped, not passed yet."

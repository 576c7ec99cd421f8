"""The test plan made for one machine, and where a run of it stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
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


# A gate opens when it is passed, or when an owner has waived it with a reason.
OPENS = {Outcome.PASS, Outcome.WAIVED}


class Standing(StrEnum):
    PASSED = "passed"
    FAILED = "failed"
    SKIPPED = "skipped"
    WAIVED = "waived"
    NOW = "now"
    TO_DO = "to_do"
    LOCKED = "locked"


_STANDINGS = {
    Outcome.PASS: Standing.PASSED,
    Outcome.FAIL: Standing.FAILED,
    Outcome.SKIP: Standing.SKIPPED,
    Outcome.WAIVED: Standing.WAIVED,
}


@dataclass(frozen=True)
class Rung:
    """One step on the ladder. `locked_by` names the gate that must open first."""

    check: Check
    standing: Standing
    locked_by: str = ""


def compose(facts: BenchFacts, library: Sequence[Check] = LIBRARY) -> tuple[Check, ...]:
    """The checks this machine needs, in the order of the gates; limits that follow from its adapter filled in."""
    groups = list(Group)
    wanted = [check.filled(facts) for check in library if check.wanted(facts)]
    return tuple(sorted(wanted, key=lambda check: groups.index(check.group)))


def ladder(plan: Sequence[Check], latest: Mapping[str, Outcome]) -> tuple[Rung, ...]:
    """Where every step stands, given the latest outcome of each by code.

    A step behind a gate that has not opened is locked, even if it was passed before the gate failed. The
    first step that is neither locked nor settled is NOW.
    """
    rungs: list[Rung] = []
    shut = ""
    now_found = False
    for check in plan:
        outcome = latest.get(check.code)
        if shut:
            rungs.append(Rung(check, Standing.LOCKED, shut))
            continue
        if outcome is not None:
            rungs.append(Rung(check, _STANDINGS[outcome]))
        else:
            rungs.append(Rung(check, Standing.TO_DO if now_found else Standing.NOW))
            now_found = True
        if check.gate and outcome not in OPENS:
            shut = check.title
    return tuple(rungs)


def complete(rungs: Sequence[Rung]) -> bool:
    """Nothing is left to do: no step is now, to do or locked."""
    return not any(rung.standing in {Standing.NOW, Standing.TO_DO, Standing.LOCKED} for rung in rungs)


def refusal(rungs: Sequence[Rung], code: str, outcome: Outcome, charged: str = "") -> str:
    """Why `outcome` may not be recorded for the step `code`; empty when it may.

    `charged` says why charge may be left in it (see core/bench/power.py): then hands don't go in.
    """
    rung = next((rung for rung in rungs if rung.check.code == code), None)
    if rung is None:
        return "This step is not on the plan of this machine."
    if rung.standing is Standing.LOCKED:
        return f"Locked until “{rung.locked_by}” is passed."
    if charged and rung.check.hands_in and outcome in {Outcome.PASS, Outcome.FAIL}:
        return charged
    if outcome is Outcome.WAIVED and not (rung.check.gate or rung.check.alone_minutes):
        return "Only a gate or a time can be waived. Skip this step with a reason."
    if rung.check.gate and outcome is Outcome.SKIP:
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

"""The grade: what the record proves, and what would lift it."""

from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import StrEnum


class Grade(StrEnum):
    A = "A"
    B = "B"
    C = "C"
    D = "D"
    E = "E"
    PARTS = "parts"
    UNTESTED = "untested"

    @property
    def label(self) -> str:
        return {"parts": "for parts", "untested": "not tested"}.get(self.value, self.value)


LADDER = (Grade.A, Grade.B, Grade.C, Grade.D, Grade.E, Grade.PARTS)

# The four scores and what each counts (common practice, no source). Least total for each grade beside it.
SHARES = {"function": 0.4, "cosmetics": 0.25, "completeness": 0.2, "originality": 0.15}
LEAST = ((Grade.A, 88), (Grade.B, 74), (Grade.C, 58), (Grade.D, 42), (Grade.E, 0))
# What a part that is not original, and a temporary fix, take from originality (common practice, no source).
COPY, TEMPORARY_FIX = 15, 20


@dataclass(frozen=True)
class GradeEvidence:
    """What has been recorded. Scores 0 to 100; `completeness` and `cosmetics` None when never gone through.

    `works_tried`: steps that show whether it works (power, functions, soak) and were passed or failed; with none
    of them it is untested, whatever else was looked at. `not_proven`: what failed since it was proven,
    `worked_since`: work that made it another machine since, in words.
    `times_waived`: steps passed by an owner before their time had run. `copies`: what each part that is not original is
    of all that belongs with it, in percent; None where that was not kept.
    """

    steps_total: int
    steps_passed: int
    steps_failed: int
    run_complete: bool
    soaked: bool
    cosmetics: int | None
    completeness: int | None
    works_tried: int = 0
    not_proven: tuple[str, ...] = ()
    worked_since: tuple[str, ...] = ()
    times_waived: tuple[str, ...] = ()
    not_original: int = 0
    temporary_fixes: int = 0
    unconfirmed_fixes: int = 0
    safety_waived: bool = False
    safety_failed: bool = False
    donor: bool = False
    copies: tuple[int, ...] | None = None


class Lifting(StrEnum):
    """What is done to take caps away; what it is called, and how many minutes of hands that usually takes beside the
    test plan (common practice, no source), None where nobody can say."""

    APPROACH = "choose another approach"
    SAFETY = "repair it and run the check again"
    CHECK = "pass the check: a waiver is no proof"
    FAULT = "find it, and run the test plan again"
    REPAIR = "repair and test again"
    MAKE_GOOD = "make it good"
    RETEST = "run the test plan again after the work"
    CONFIRM = "start it from cold on another day, and closed up"
    WHOLE_TIME = "run the step for its whole time"
    COUNT = "tick off what came with it"
    LOOK = "look it over on every face"
    FINISH = "finish the run"
    SOAK = "four hours on, then a cold start"

    @property
    def minutes(self) -> int | None:
        return _MINUTES.get(self)

    @property
    def runs_the_plan(self) -> bool:
        """Whether the test plan is run with it, from its begin or what is left of it."""
        return self is Lifting.FINISH or self.runs_it_again

    @property
    def runs_it_again(self) -> bool:
        return self in {Lifting.FAULT, Lifting.REPAIR, Lifting.RETEST}


_MINUTES = {
    Lifting.SAFETY: 60,
    Lifting.CHECK: 15,
    Lifting.FAULT: 60,
    Lifting.REPAIR: 60,
    Lifting.MAKE_GOOD: 45,
    Lifting.RETEST: 0,
    Lifting.CONFIRM: 10,
    Lifting.WHOLE_TIME: 10,
    Lifting.COUNT: 5,
    Lifting.LOOK: 10,
    Lifting.FINISH: 0,
    Lifting.SOAK: 12,
}


@dataclass(frozen=True)
class Cap:
    """No better than `grade`, because of `reason`; what would take the cap away."""

    grade: Grade
    reason: str
    lifting: Lifting


@dataclass(frozen=True)
class Graded:
    """`before_caps` is what the scores alone would give; `caps` only those that bind or could. A score is None where
    nobody went through what it counts; in the `total` it is nothing."""

    grade: Grade
    before_caps: Grade
    total: int
    scores: dict[str, int | None]
    caps: tuple[Cap, ...]

    @property
    def is_untested(self) -> bool:
        return self.grade is Grade.UNTESTED

    @property
    def unknown(self) -> tuple[str, ...]:
        """Which scores nobody knows."""
        return tuple(name for name, score in self.scores.items() if score is None)


def grade(evidence: GradeEvidence) -> Graded:
    """Grade a unit from its record alone: the same record always gets the same grade.

    What nobody went through scores nothing and caps the grade; whether its parts are original is told where what is in
    it was gone through.
    """
    original = max(0, 100 - _lost_to_copies(evidence) - TEMPORARY_FIX * evidence.temporary_fixes)
    tried = evidence.steps_passed + evidence.steps_failed
    scores = {
        "function": round(100 * evidence.steps_passed / evidence.steps_total)
        if tried and evidence.steps_total
        else None,
        "cosmetics": evidence.cosmetics,
        "completeness": evidence.completeness,
        "originality": None if evidence.completeness is None else original,
    }
    total = round(sum((scores[name] or 0) * share for name, share in SHARES.items()))
    by_score = next(letter for letter, least in LEAST if total >= least)
    caps = _caps(evidence)
    if evidence.works_tried == 0 and not evidence.donor and not evidence.safety_failed:
        return Graded(Grade.UNTESTED, by_score, total, scores, caps)
    worst = max([by_score, *(cap.grade for cap in caps)], key=LADDER.index)
    return Graded(worst, by_score, total, scores, caps)


def _lost_to_copies(evidence: GradeEvidence) -> int:
    """What parts that are not original take from that score. Each takes no more from the total than it adds to it by
    being there: nothing is worse for a copy than for a gap."""
    if evidence.copies is None:
        return COPY * evidence.not_original
    adds = SHARES["completeness"] / SHARES["originality"]
    return sum(min(COPY, int(adds * percent)) for percent in evidence.copies)


# What may be otherwise in the record than it was: as it is called, and what stands behind its figure.
_FIGURES = {
    "completeness": ("completeness", " %"),
    "cosmetics": ("its looks", " of 100"),
    "not_original": ("not original", ""),
    "temporary_fixes": ("temporary fixes open", ""),
    "unconfirmed_fixes": ("fixes not confirmed", ""),
}


def outdated(given: GradeEvidence, now: GradeEvidence) -> str:
    """Why a grade holds no longer, in words: what is otherwise in the record than when it was given. Empty where the
    record gives the same grade still, or a better one: nobody is told too much."""
    before, after = grade(given).grade, grade(now).grade
    if before is after or (LADDER.index(after) < LADDER.index(before) if {before, after} <= set(LADDER) else False):
        return ""
    told = [one for one in (*now.not_proven, *now.worked_since) if one not in (*given.not_proven, *given.worked_since)]
    for name, (called, behind) in _FIGURES.items():
        was, stands = (
            "not gone through" if value is None else f"{value}{behind}"
            for value in (getattr(given, name), getattr(now, name))
        )
        if was != stands:
            told.append(f"{called}: {stands}, was {was}")
    return "; ".join([*told, f"it would be {after.label} now"])


def lifted(evidence: GradeEvidence, liftings: Collection[Lifting]) -> GradeEvidence | None:
    """The record when all of this was done with success, and all else stayed; None where nobody knows what will be
    found."""
    if {Lifting.COUNT, Lifting.LOOK} & set(liftings):
        return None
    after = replace(
        evidence,
        donor=evidence.donor and Lifting.APPROACH not in liftings,
        safety_failed=evidence.safety_failed and Lifting.SAFETY not in liftings,
        safety_waived=evidence.safety_waived and Lifting.CHECK not in liftings,
        not_proven=() if Lifting.FAULT in liftings else evidence.not_proven,
        temporary_fixes=0 if Lifting.MAKE_GOOD in liftings else evidence.temporary_fixes,
        unconfirmed_fixes=0 if Lifting.CONFIRM in liftings else evidence.unconfirmed_fixes,
        times_waived=() if Lifting.WHOLE_TIME in liftings else evidence.times_waived,
    )
    if Lifting.REPAIR in liftings:
        after = replace(after, steps_failed=0)
    if Lifting.SOAK in liftings:
        passed = min(after.steps_passed + 1, after.steps_total - after.steps_failed)
        after = replace(after, soaked=True, steps_passed=max(passed, after.steps_passed))
    if not any(one.runs_the_plan for one in liftings):
        return after
    return tested(after, again=any(one.runs_it_again for one in liftings), found=False)


def tested(evidence: GradeEvidence, *, again: bool, found: bool) -> GradeEvidence:
    """The record when the test plan was run to its end: all passes but what is broken still, or not `found` yet. Where
    it is not run `again`, what was left of it shows nothing of steps that were cut short, nor of fixes before."""
    steps = max(evidence.steps_total, 1)
    return replace(
        evidence,
        steps_total=steps,
        steps_passed=max(evidence.steps_passed, steps - evidence.steps_failed),
        run_complete=True,
        soaked=True,
        works_tried=max(1, evidence.works_tried),
        not_proven=() if found and not evidence.steps_failed else evidence.not_proven,
        worked_since=(),
        times_waived=() if again else evidence.times_waived,
        unconfirmed_fixes=0 if again else evidence.unconfirmed_fixes,
    )


def _caps(evidence: GradeEvidence) -> tuple[Cap, ...]:
    caps: list[Cap] = []
    if evidence.donor:
        caps.append(Cap(Grade.PARTS, "kept as a donor", Lifting.APPROACH))
    if evidence.works_tried == 0 and not evidence.safety_failed:
        return tuple(caps)
    if evidence.safety_failed:
        caps.append(Cap(Grade.PARTS, "a safety check failed", Lifting.SAFETY))
    if evidence.safety_waived:
        caps.append(Cap(Grade.PARTS, "a safety check was waived", Lifting.CHECK))
    for words in evidence.not_proven:
        caps.append(Cap(Grade.D, words, Lifting.FAULT))
    if evidence.steps_failed:
        checks = "check" if evidence.steps_failed == 1 else "checks"
        caps.append(Cap(Grade.D, f"{evidence.steps_failed} failed {checks} open", Lifting.REPAIR))
    if evidence.temporary_fixes:
        caps.append(Cap(Grade.C, "a temporary fix is open", Lifting.MAKE_GOOD))
    for words in evidence.worked_since:
        caps.append(Cap(Grade.C, words, Lifting.RETEST))
    if evidence.unconfirmed_fixes:
        caps.append(Cap(Grade.C, "a fix is not confirmed", Lifting.CONFIRM))
    for title in evidence.times_waived:
        caps.append(Cap(Grade.C, f"the time was waived: {title}", Lifting.WHOLE_TIME))
    if evidence.completeness is None:
        caps.append(Cap(Grade.C, "completeness was not gone through", Lifting.COUNT))
    if evidence.cosmetics is None:
        caps.append(Cap(Grade.C, "its looks were not gone through", Lifting.LOOK))
    if not evidence.run_complete:
        caps.append(Cap(Grade.C, "the test plan is not finished", Lifting.FINISH))
    if not evidence.soaked:
        # What is left of a run soaks it too.
        caps.append(Cap(Grade.B, "not soaked", Lifting.SOAK if evidence.run_complete else Lifting.FINISH))
    return tuple(caps)

"""The grade: what the record proves, and what would lift it."""

from dataclasses import dataclass
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


@dataclass(frozen=True)
class GradeEvidence:
    """What has been recorded. Scores 0 to 100; `completeness` and `cosmetics` None when never gone through.

    `works_tried`: steps that show whether it works (power, functions, soak) and were passed or failed; with none
    of them it is untested, whatever else was looked at. `not_proven`: what failed since it was proven,
    `worked_since`: work that made it another machine since, in words.
    `times_waived`: steps passed by an owner before their time had run.
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


@dataclass(frozen=True)
class Cap:
    """No better than `grade`, because of `reason`; `lift` says what would take the cap away, `minutes` how long that
    usually takes by hand (common practice, no source), None where nobody can say."""

    grade: Grade
    reason: str
    lift: str
    minutes: int | None = None


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

    def without(self, *lifted: Cap) -> Grade:
        """The grade if these caps were lifted and all else stayed. What was never tested stays untested."""
        if self.grade is Grade.UNTESTED:
            return self.grade
        return max([self.before_caps, *(cap.grade for cap in self.caps if cap not in lifted)], key=LADDER.index)


def grade(evidence: GradeEvidence) -> Graded:
    """Grade a unit from its record alone: the same record always gets the same grade.

    What nobody went through scores nothing and caps the grade; whether its parts are original is told where what is in
    it was gone through.
    """
    original = max(0, 100 - 15 * evidence.not_original - 20 * evidence.temporary_fixes)
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


def _caps(evidence: GradeEvidence) -> tuple[Cap, ...]:
    caps: list[Cap] = []
    if evidence.donor:
        caps.append(Cap(Grade.PARTS, "kept as a donor", "choose another approach"))
    if evidence.works_tried == 0 and not evidence.safety_failed:
        return tuple(caps)
    if evidence.safety_failed:
        caps.append(Cap(Grade.PARTS, "a safety check failed", "repair it and run the check again", 60))
    if evidence.safety_waived:
        caps.append(Cap(Grade.PARTS, "a safety check was waived", "pass the check: a waiver is no proof", 15))
    for words in evidence.not_proven:
        caps.append(Cap(Grade.D, words, "find it, and run the test plan again", 90))
    if evidence.steps_failed:
        checks = "check" if evidence.steps_failed == 1 else "checks"
        caps.append(Cap(Grade.D, f"{evidence.steps_failed} failed {checks} open", "repair and test again", 60))
    if evidence.temporary_fixes:
        caps.append(Cap(Grade.C, "a temporary fix is open", "make it good", 45))
    for words in evidence.worked_since:
        caps.append(Cap(Grade.C, words, "run the test plan again after the work", 60))
    if evidence.unconfirmed_fixes:
        caps.append(Cap(Grade.C, "a fix is not confirmed", "start it from cold on another day, and closed up", 10))
    for title in evidence.times_waived:
        caps.append(Cap(Grade.C, f"the time was waived: {title}", "run the step for its whole time", 10))
    if evidence.completeness is None:
        caps.append(Cap(Grade.C, "completeness was not gone through", "tick off what came with it", 5))
    if evidence.cosmetics is None:
        caps.append(Cap(Grade.C, "its looks were not gone through", "look it over on every face", 10))
    if not evidence.run_complete:
        caps.append(Cap(Grade.C, "the test plan is not finished", "finish the run", 30))
    if not evidence.soaked:
        caps.append(Cap(Grade.B, "not soaked", "four hours on, then a cold start", 12))
    return tuple(caps)

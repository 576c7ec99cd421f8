"""What was read at a step and what that says: one rule, while it is typed and when it is recorded."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.bench.calculated_checks import CALCULATIONS
from core.bench.checks import Check, CheckKind, Limits
from core.bench.electrics import load_line
from core.bench.plan import Outcome
from core.bench.verdict import (
    Accuracy,
    Judgement,
    Verdict,
    judge,
    reversed_leads,
    suspicious_scale,
    typed_instrument,
)
from core.machine.quantities import QuantityError, parse_reading

MOST_POINTS = 40
_WORST_LAST = (Verdict.INSIDE, Verdict.TOO_CLOSE, Verdict.OUTSIDE)


class ReadingError(ValueError):
    """What was typed can't be meant as a reading; the message says what can."""


@dataclass(frozen=True)
class TypedReading:
    """A reading as it was taken: as typed, on which instrument (its name, and accuracy when it has one of its own).

    `by_instrument`: the instrument itself gave it, in the range `span`; nobody has changed it since.
    """

    typed: str = ""
    instrument: str = ""
    accuracy: Accuracy | None = None
    span: str = ""
    by_instrument: bool = False


@dataclass(frozen=True)
class JudgedReading:
    """A reading in the unit of its limits, what it may be wrong by, and the verdict.

    Of a supply under load the value is that at the highest load and the verdict the worst of all `points` (amperes and
    volts). Of a calculated check there is a verdict and its sum in `words`, no value. `reversed` and `asks` say what
    else it seems to mean: leads the wrong way round, a number in another unit.
    """

    value: Decimal | None = None
    verdict: Verdict | None = None
    judgement: Judgement | None = None
    points: tuple[tuple[float, float], ...] = ()
    words: str = ""
    instrument: str = ""
    reversed: str = ""
    asks: str = ""

    @property
    def uncertainty(self) -> Decimal | None:
        return self.judgement.uncertainty if self.judgement else None

    @property
    def meaning(self) -> str:
        return self.reversed or self.asks


def judge_reading(check: Check, taken: TypedReading) -> JudgedReading:
    """Judge what was typed at a step; nothing is judged where nothing was typed or the step measures nothing.

    Raises ReadingError for what can't be meant.
    """
    if not taken.typed or not check.asks:
        return JudgedReading(instrument=instrument_of(check, taken) if check.limits else "")
    if check.does in CALCULATIONS:
        try:
            found = CALCULATIONS[check.does].act(taken.typed)
        except ValueError as problem:
            raise ReadingError(str(problem)) from problem
        return JudgedReading(verdict=found.verdict, words=found.words)
    limits = _limits(check)
    if check.does is CheckKind.LOAD:
        return _judge_load(check, limits, taken)
    try:
        value = parse_reading(taken.typed, limits.unit)
    except QuantityError as problem:
        raise ReadingError(str(problem)) from problem
    if abs(value) >= 10**9:
        raise ReadingError("No meter reads that. Type the reading again.")
    judgement = judge(value, uncertainty_of(check, value, taken), limits)
    # Whoever types the unit, and the instrument itself, mean what they say.
    bare = taken.typed.strip().replace(",", ".").lstrip("+-−").replace(".", "").isdigit()
    return JudgedReading(
        value,
        judgement.verdict,
        judgement,
        instrument=instrument_of(check, taken),
        reversed=reversed_leads(value, limits),
        asks=suspicious_scale(value, limits) if bare and not taken.by_instrument else "",
    )


def reading_refusal(check: Check, outcome: Outcome, reading: JudgedReading) -> str:
    """Why this reading may not be recorded with this outcome; empty when it may."""
    if not check.asks:
        return ""
    calculation = CALCULATIONS.get(check.does)
    if reading.verdict is None:
        asks = calculation.asks if calculation else f"the reading in {_limits(check).unit}"
        return f"Type {asks}{'.' if calculation else ' first.'}" if outcome is Outcome.PASS else ""
    if calculation:
        # A part that is only suspect in circuit is neither good nor bad: it is measured out of circuit first.
        unsure = reading.verdict is Verdict.TOO_CLOSE and outcome in {Outcome.PASS, Outcome.FAIL}
        return reading.words if unsure or (reading.verdict is Verdict.OUTSIDE and outcome is Outcome.PASS) else ""
    if reading.asks or outcome is not Outcome.PASS:
        return reading.asks
    if reading.verdict is Verdict.OUTSIDE and not reading.reversed:
        return "The reading is outside the limits, so the step can’t pass. Fail it, or measure again."
    return reading.reversed


def reason_refusal(outcome: Outcome, verdict: Verdict | None, reason: str) -> str:
    """Why this outcome may not be recorded without a reason; empty when it may, or there is one."""
    if reason:
        return ""
    if outcome is not Outcome.PASS:
        return "Say why."
    if verdict is Verdict.TOO_CLOSE:
        return (
            "Too close to call: the instrument could be wrong by more than is left. "
            "Measure better, or say why it passes."
        )
    return ""


def instrument_of(check: Check, taken: TypedReading) -> str:
    """The name of the instrument a reading was taken on: said, or the usual one for this step."""
    return taken.instrument or typed_instrument(check.needs).name


def uncertainty_of(check: Check, value: Decimal, taken: TypedReading) -> Decimal:
    """What the instrument may be wrong by at this reading; 0 for a unit whose usual instrument states nothing."""
    accuracy = taken.accuracy
    if accuracy is None and check.limits:
        accuracy = typed_instrument(check.needs).accuracy.get(check.limits.unit)
    return accuracy.uncertainty(value) if accuracy else Decimal(0)


def load_points(text: str, unit: str) -> tuple[tuple[float, float], ...]:
    """Amperes and volts as typed: "0 5.09; 1.5 5.06; 3 5.03". Raises ReadingError."""
    points: list[tuple[float, float]] = []
    for part in pairs(text):
        words = [word for word in part.split() if word not in {"A", unit}]
        if len(words) != 2:
            raise ReadingError(f"Type load and {unit} in pairs: 0 5.09; 1.5 5.06; 3 5.03.")
        try:
            amps, volts = (float(parse_reading(word, of)) for word, of in zip(words, ("A", unit), strict=True))
        except QuantityError as problem:
            raise ReadingError(f"“{part}”: {problem}") from problem
        points.append((amps, volts))
    try:
        load_line(points)
    except ValueError as problem:
        raise ReadingError(str(problem)) from problem
    if len(points) > MOST_POINTS or any(abs(number) >= 10**6 for point in points for number in point):
        raise ReadingError("No supply gives that. Type the readings again.")
    return tuple(points)


def with_point(text: str, amps: float, volts: Decimal) -> str:
    """What was typed before, and one more pair."""
    return "; ".join([*pairs(text), f"{amps:g} {volts}"])


def pairs(text: str) -> list[str]:
    """What stands between semicolons or line ends."""
    return [piece for piece in (part.strip() for part in text.replace("\n", ";").split(";")) if piece]


def _judge_load(check: Check, limits: Limits, taken: TypedReading) -> JudgedReading:
    points = load_points(taken.typed, limits.unit)
    found = _judged_points(check, limits, taken, points)
    value, judgement = found[-1]
    worst = max((each.verdict for _, each in found), key=_WORST_LAST.index)
    return JudgedReading(value, worst, judgement, points, instrument=instrument_of(check, taken))


def _judged_points(
    check: Check, limits: Limits, taken: TypedReading, points: Sequence[tuple[float, float]]
) -> list[tuple[Decimal, Judgement]]:
    """Volts and what they say, in the order of the load."""
    values = [round(Decimal(str(volts)), 4) for _, volts in sorted(points)]
    return [(value, judge(value, uncertainty_of(check, value, taken), limits)) for value in values]


def _limits(check: Check) -> Limits:
    if check.limits is None:
        raise ValueError(f"{check.code} measures nothing.")
    return check.limits

"""What was read at a step, on which instrument, and what that says: one rule, while it is typed and when it is kept."""

from dataclasses import dataclass
from decimal import Decimal

from core.bench.checks import Check, Kind
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
from core.bench.worked import SUMS
from core.machine.quantities import QuantityError, parse_reading
from stations.common.refusals import Refused


@dataclass(frozen=True)
class Taken:
    """What was read at a step: as typed, on which instrument (its name, and accuracy when it has one of its own).

    `by_instrument`: the instrument itself gave it, in the range `span`; nobody has changed it since.
    """

    typed: str = ""
    instrument: str = ""
    accuracy: Accuracy | None = None
    span: str = ""
    by_instrument: bool = False


@dataclass(frozen=True)
class Read:
    """A reading with what it may be wrong by and the verdict; `points` for loads, or what was typed with its sum."""

    value: Decimal | None = None
    uncertainty: Decimal | None = None
    verdict: Verdict | None = None
    points: list | None = None
    instrument: str = ""


def read_step(check: Check, outcome: Outcome, taken: Taken) -> Read:
    """Read what was taken at a step. Raises Refused, at the reading, for what can't be meant."""
    if check.does in SUMS:
        return _worked(check, outcome, taken.typed)
    if check.limits is None:
        return Read()
    if not taken.typed:
        if outcome is Outcome.PASS:
            raise Refused(f"Type the reading in {check.limits.unit} first.", "reading")
        return Read()
    if check.does is Kind.LOAD:
        return _load(check, taken)
    try:
        value = parse_reading(taken.typed, check.limits.unit)
    except QuantityError as problem:
        raise Refused(str(problem), "reading") from problem
    if abs(value) >= 10**9:
        raise Refused("No meter reads that. Type the reading again.", "reading")
    bare = taken.typed.strip().replace(",", ".").lstrip("+-−").replace(".", "").isdigit()
    if bare and not taken.by_instrument and (asks := suspicious_scale(value, check.limits)):
        raise Refused(asks, "reading")
    if outcome is Outcome.PASS and (said := reversed_leads(value, check.limits)):
        raise Refused(said, "reading")
    uncertainty = uncertainty_of(check, value, taken)
    judged = judge(value, uncertainty, check.limits)
    return Read(value, uncertainty, judged.verdict, instrument=instrument_of(check, taken))


def judged(check: Check, taken: Taken) -> tuple[Decimal, Judgement, str] | None:
    """The reading that is being typed, its judgement and what it seems to mean besides; None when it is no reading."""
    try:
        value = parse_reading(taken.typed, check.limits.unit)
    except QuantityError:
        return None
    said = reversed_leads(value, check.limits) or suspicious_scale(value, check.limits)
    return value, judge(value, uncertainty_of(check, value, taken), check.limits), said


def instrument_of(check: Check, taken: Taken) -> str:
    """The name of the instrument a reading was taken on: said, or the usual one for this step."""
    return taken.instrument or typed_instrument(check.needs).name


def uncertainty_of(check: Check, value: Decimal, taken: Taken) -> Decimal:
    """What the instrument may be wrong by at this reading; 0 for a unit whose usual instrument states nothing."""
    accuracy = taken.accuracy
    if accuracy is None and check.limits:
        accuracy = typed_instrument(check.needs).accuracy.get(check.limits.unit)
    return accuracy.uncertainty(value) if accuracy else Decimal(0)


def _worked(check: Check, outcome: Outcome, typed: str) -> Read:
    """What is typed is kept with the sum in words; a part that is only suspect in circuit is not failed."""
    if not typed:
        if outcome is Outcome.PASS:
            raise Refused(f"Type {SUMS[check.does].asks}.", "reading")
        return Read()
    try:
        worked = SUMS[check.does].act(typed)
    except ValueError as problem:
        raise Refused(str(problem), "reading") from problem
    if worked.verdict is Verdict.TOO_CLOSE and outcome in {Outcome.PASS, Outcome.FAIL}:
        raise Refused(worked.words, "reading")
    if worked.verdict is Verdict.OUTSIDE and outcome is Outcome.PASS:
        raise Refused(worked.words, "reading")
    return Read(verdict=worked.verdict, points=[typed, worked.words])


def _load(check: Check, taken: Taken) -> Read:
    """Several pairs of amperes and volts: the worst of them decides, and the highest load is the reading."""
    points = load_points(taken.typed, check.limits.unit)
    order = [Verdict.INSIDE, Verdict.TOO_CLOSE, Verdict.OUTSIDE]
    worst, reading, doubt = Verdict.INSIDE, None, None
    for _, volts in sorted(points):
        value = round(Decimal(str(volts)), 4)
        doubt = uncertainty_of(check, value, taken)
        reading, found = value, judge(value, doubt, check.limits).verdict
        worst = max(worst, found, key=order.index)
    return Read(reading, doubt, worst, [list(point) for point in points], instrument_of(check, taken))


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

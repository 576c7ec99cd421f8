"""A reading against its limits, with what the instrument may be wrong by."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.bench.checks import Limits


class Verdict(StrEnum):
    INSIDE = "inside"
    OUTSIDE = "outside"
    TOO_CLOSE = "too_close"

    @property
    def label(self) -> str:
        return {"inside": "Inside limits", "outside": "Outside limits", "too_close": "Too close to call"}[self.value]


@dataclass(frozen=True)
class Accuracy:
    """An instrument's accuracy: percent of reading plus a number of counts of `resolution` (in the read unit)."""

    percent: Decimal
    digits: int
    resolution: Decimal

    def uncertainty(self, value: Decimal) -> Decimal:
        """The half-width of the interval around `value`, in the same unit."""
        return abs(value) * self.percent / 100 + self.digits * self.resolution


@dataclass(frozen=True)
class Typed:
    """An instrument whose readings are typed by hand: its name, and its accuracy by unit."""

    name: str
    accuracy: Mapping[str, Accuracy]

    @property
    def words(self) -> str:
        """Its figures by unit: "0.5 % of reading + 2 digits on V"."""
        return ", ".join(
            f"{figures.percent} %{' of reading' if first else ''} + {figures.digits} digits on {unit}"
            for first, (unit, figures) in zip(
                (True, *[False] * len(self.accuracy)), self.accuracy.items(), strict=False
            )
        )


# An ordinary hand-held meter: 0.5 % of reading + 2 digits (common practice, no source).
HAND_METER = Typed(
    "hand meter",
    {
        "V": Accuracy(Decimal("0.5"), 2, Decimal("0.01")),
        "Ω": Accuracy(Decimal("0.8"), 2, Decimal("0.01")),
    },
)
# An ordinary scope, eight bits: 3 % of reading, and about 2 mV of noise and trace width (common practice, no source).
SCOPE = Typed("scope", {"V": Accuracy(Decimal(3), 2, Decimal("0.001"))})


def typed_instrument(needs: str) -> Typed:
    """What a typed reading was read on, by what its step needs: a scope where one is wanted, else a hand meter."""
    return SCOPE if "scope" in needs else HAND_METER


@dataclass(frozen=True)
class Judgement:
    """`to_spare` is the distance from the reading to the nearer limit, below 0 when outside it."""

    verdict: Verdict
    to_spare: Decimal
    uncertainty: Decimal

    @property
    def beyond(self) -> Decimal:
        """How far it is outside; 0 inside."""
        return max(-self.to_spare, Decimal(0))


def judge(value: Decimal, uncertainty: Decimal, limits: Limits) -> Judgement:
    """Inside when the whole interval is within the limits, outside when all of it is beyond one, else too close.

    Guard-band rule of ILAC-G8:09/2019 (guard band as wide as the uncertainty). With a lower limit of 0 only the
    size counts: what is left on a capacitor is as dangerous with the leads the other way round. Uncertainty is 0
    or more, in the unit of the reading.
    """
    if uncertainty < 0:
        raise ValueError("An uncertainty may not be below 0.")
    if limits.by_size:
        value = abs(value)
    low, high = value - uncertainty, value + uncertainty
    to_spare = limits.high - value if limits.by_size else min(value - limits.low, limits.high - value)
    if high <= limits.high and (limits.by_size or low >= limits.low):
        verdict = Verdict.INSIDE
    elif low > limits.high or (high < limits.low and not limits.by_size):
        verdict = Verdict.OUTSIDE
    else:
        verdict = Verdict.TOO_CLOSE
    return Judgement(verdict, to_spare, uncertainty)


def reversed_leads(value: Decimal, limits: Limits) -> str:
    """What to say when a reading has the size that is wanted and the wrong sign; empty when it has not."""
    if limits.by_size or value == 0 or limits.low <= value <= limits.high or not limits.low <= -value <= limits.high:
        return ""
    return (
        f"{value:f} {limits.unit} has the right size and the wrong sign: the leads are reversed. Swap them and measure "
        "again. If it still reads so, the rail itself is reversed: fail the step."
    )


def suspicious_scale(value: Decimal, limits: Limits) -> str:
    """A question to ask when a reading looks a thousand times off; empty when it does not.

    5060 typed for a 5 V rail is a reading in millivolts far more often than it is five thousand volts.
    """
    if limits.nominal is None or limits.nominal == 0 or value == 0:
        return ""
    for factor, prefix in ((Decimal(1000), "m"), (Decimal("0.001"), "k")):
        scaled = value / factor
        if limits.low <= scaled <= limits.high and not limits.low <= value <= limits.high:
            unit = limits.unit
            return (
                f"{value:f} {unit}? Did you read {value:f} {prefix}{unit}? "
                f"Type it with its unit, such as {scaled.normalize():f} {unit}."
            )
    return ""

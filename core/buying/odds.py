"""How a machine may turn out, and the odds we start from when we know only what was claimed."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from scipy.special import betaincinv


class LineOutcome(StrEnum):
    """From best to worst: the order matters where one bad day pulls a whole lot down."""

    WORKS = "works"
    REPAIRABLE = "repairable"
    PARTS = "parts"
    WORTHLESS = "worthless"

    @property
    def label(self) -> str:
        return {"parts": "parts only"}.get(self.value, self.value)


OUTCOMES = tuple(LineOutcome)

# Starting odds by claim, in the order of OUTCOMES (common practice, no source). The shop's record corrects them.
STARTING: Mapping[str, tuple[float, float, float, float]] = {
    "working": (0.70, 0.20, 0.08, 0.02),
    "powers_on": (0.50, 0.32, 0.15, 0.03),
    "untested": (0.38, 0.35, 0.22, 0.05),
    "none": (0.38, 0.35, 0.22, 0.05),
    "faulty": (0.10, 0.52, 0.32, 0.06),
    "dead": (0.05, 0.40, 0.45, 0.10),
    "parts": (0.03, 0.22, 0.60, 0.15),
}

# How alike the pieces of one line turn out, over what chance alone makes: as bids begin with (common practice, no
# source). Twenty of one pallet tell less than twenty of twenty.
LINE_RHO = 0.15
# How many machines' worth of weight the level above carries: three machines don't swing it, three hundred do.
SHOP_STRENGTH = 12.0
FAMILY_STRENGTH = 10.0
SUPPLIER_STRENGTH = 8.0


def family_of(kind: str, form_factor: str) -> str:
    """What a thing is counted with: machines by their form factor, everything else by its kind."""
    return form_factor if kind == "machine" else kind


@dataclass(frozen=True)
class Learned:
    """Odds in the order of OUTCOMES and the 90 % interval of "works".

    `seen` and `worked` count this supplier's machines with the claim, `family_seen` and `family_worked` those
    of the family from others. `open` is how far the odds are open still: the variance of the share that works, as a
    part of p (1 - p).
    """

    odds: tuple[float, ...]
    seen: int
    worked: int
    low: float
    high: float
    family_seen: int = 0
    family_worked: int = 0
    open: float = 0.0


def pooled(prior: tuple[float, ...], strength: float, counts: Sequence[float]) -> tuple[float, ...]:
    """Dirichlet updating: prior odds worth `strength` machines, then the machines counted (conjugate prior)."""
    total = strength + sum(counts)
    return tuple((strength * p + n) / total for p, n in zip(prior, counts, strict=True))


@dataclass(frozen=True)
class SeenLine:
    """How the pieces of one line turned out, in the order of OUTCOMES; `supplier` tells suppliers apart."""

    supplier: int
    counts: tuple[int, ...]

    @property
    def seen(self) -> int:
        return sum(self.counts)


def effective(lines: Iterable[SeenLine]) -> tuple[float, ...]:
    """The pieces of one supplier’s lines, counted as so many that know nothing of each other: n of a line count
    n ÷ (1 + (n − 1) ρ) (the design effect of clusters; Kish, Survey Sampling, 1965)."""
    sums = [0.0] * len(OUTCOMES)
    for line in lines:
        if line.seen:
            weight = 1 / (1 + (line.seen - 1) * LINE_RHO)
            sums = [total + n * weight for total, n in zip(sums, line.counts, strict=True)]
    return tuple(sums)


def of_others(lines: Iterable[SeenLine]) -> tuple[float, ...]:
    """What other suppliers’ lines teach: n of one supplier count n (1 + S) ÷ (n + S), S the supplier strength, since
    however many there are they are one supplier’s."""
    by_supplier: dict[int, list[SeenLine]] = {}
    for line in lines:
        by_supplier.setdefault(line.supplier, []).append(line)
    sums = [0.0] * len(OUTCOMES)
    for own in by_supplier.values():
        counted = effective(own)
        whole = sum(counted)
        weight = (1 + SUPPLIER_STRENGTH) / (whole + SUPPLIER_STRENGTH)
        sums = [total + n * weight for total, n in zip(sums, counted, strict=True)]
    return tuple(sums)


def learn(
    start: tuple[float, ...], elsewhere: Sequence[SeenLine], family: Sequence[SeenLine], supplier: Sequence[SeenLine]
) -> Learned:
    """Odds for a claim: the table's, corrected by what was counted, from the widest circle to the narrowest.

    `start` adds up to 1. The lines are of machines with this claim, each in one circle only: of other families and
    suppliers, of this family from other suppliers, of this supplier. Each circle is worth its strength to the next, so
    that three machines don't swing it. The interval is wider than that alone would make it: a circle above is not known
    for sure either, and its spread is carried down, as the variance of a mean around a mean (two-stage linear Bayes,
    after Bühlmann and Straub, 1970). It is that of the Beta with the last mean and all of the spread.
    """
    far, kin, own = of_others(elsewhere), of_others(family), effective(supplier)
    odds = pooled(pooled(pooled(start, SHOP_STRENGTH, far), FAMILY_STRENGTH, kin), SUPPLIER_STRENGTH, own)
    weight = _carried(SHOP_STRENGTH + sum(far), FAMILY_STRENGTH)
    weight = _carried(weight + sum(kin), SUPPLIER_STRENGTH) + sum(own)
    a = odds[0] * weight
    low, high = (float(betaincinv(a, weight - a, q)) for q in (0.05, 0.95)) if 0 < a < weight else (odds[0],) * 2
    worked, seen_here = sum(line.counts[0] for line in supplier), sum(line.seen for line in supplier)
    of_family = sum(line.seen for line in family), sum(line.counts[0] for line in family)
    return Learned(odds, seen_here, worked, low, high, *of_family, open=1 / (weight + 1))


def _carried(weight: float, strength: float) -> float:
    """The weight of a circle’s own share, where that of the circle above is known by `weight` machines and its own lies
    around that by `strength`: spreads are shares of p (1 - p), 1 in weight + 1, and add up as variances do."""
    above = 1 / (weight + 1)
    spread = above + (1 - above) / (strength + 1)
    return 1 / spread - 1


@dataclass(frozen=True)
class UsualCase:
    """What a case usually looks like against the likely price of a working one: shares of it, cost, minutes."""

    price: float
    cost: float
    minutes: int


# Common practice, no source: what a repair, a sale for parts and a clearance usually bring and take.
USUAL: Mapping[LineOutcome, UsualCase] = {
    LineOutcome.WORKS: UsualCase(1.0, 0.05, 75),
    LineOutcome.REPAIRABLE: UsualCase(0.85, 0.15, 180),
    LineOutcome.PARTS: UsualCase(0.22, 0.0, 25),
    LineOutcome.WORTHLESS: UsualCase(0.0, 0.02, 10),
}
USUAL_LOW, USUAL_HIGH = 0.75, 1.25


def usual_minutes(outcome: LineOutcome, worth: float, labour_rate: float) -> int:
    """Hands-on minutes to plan with: as usual, but for no more labour than three tenths of what it is worth.

    Nobody spends an afternoon on a drive worth 30 (common practice, no source).
    """
    usual = USUAL[outcome].minutes
    return usual if labour_rate <= 0 else min(usual, round(0.3 * worth / labour_rate * 60))

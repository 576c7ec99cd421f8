"""How a machine may turn out, and the odds we start from when we know only what was claimed."""

from collections.abc import Mapping
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
    of the family from others.
    """

    odds: tuple[float, ...]
    seen: int
    worked: int
    low: float
    high: float
    family_seen: int = 0
    family_worked: int = 0


def pooled(prior: tuple[float, ...], strength: float, counts: tuple[int, ...]) -> tuple[float, ...]:
    """Dirichlet updating: prior odds worth `strength` machines, then the machines counted (conjugate prior)."""
    total = strength + sum(counts)
    return tuple((strength * p + n) / total for p, n in zip(prior, counts, strict=True))


def learn(
    start: tuple[float, ...], elsewhere: tuple[int, ...], family: tuple[int, ...], supplier: tuple[int, ...]
) -> Learned:
    """Odds for a claim: the table's, corrected by what was counted, from the widest circle to the narrowest.

    `start` adds up to 1. The counts are of machines with this claim, in the order of OUTCOMES, each machine
    in one of them only: of other families and suppliers, of this family from other suppliers, of this
    supplier. Each circle is worth its strength to the next. The interval comes from the Beta marginal of
    the last Dirichlet.
    """
    shop = pooled(start, SHOP_STRENGTH, elsewhere)
    odds = pooled(pooled(shop, FAMILY_STRENGTH, family), SUPPLIER_STRENGTH, supplier)
    weight = SUPPLIER_STRENGTH + sum(supplier)
    a = odds[0] * weight
    low, high = (float(betaincinv(a, weight - a, q)) for q in (0.05, 0.95)) if 0 < a < weight else (odds[0],) * 2
    return Learned(odds, sum(supplier), supplier[0], low, high, sum(family), family[0])


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

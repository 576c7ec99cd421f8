"""How a machine may turn out, and the odds we start from when we know only what was claimed."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from scipy.special import betaincinv


class Outcome(StrEnum):
    """From best to worst: the order matters where one bad day pulls a whole lot down."""

    WORKS = "works"
    REPAIRABLE = "repairable"
    PARTS = "parts"
    WORTHLESS = "worthless"

    @property
    def label(self) -> str:
        return {"parts": "parts only"}.get(self.value, self.value)


OUTCOMES = tuple(Outcome)

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
SUPPLIER_STRENGTH = 8.0


@dataclass(frozen=True)
class Learned:
    """Odds in the order of OUTCOMES, how many machines they were learned from, and the 90 % interval of "works"."""

    odds: tuple[float, ...]
    seen: int
    worked: int
    low: float
    high: float


def pooled(prior: tuple[float, ...], strength: float, counts: tuple[int, ...]) -> tuple[float, ...]:
    """Dirichlet updating: prior odds worth `strength` machines, then the machines counted (conjugate prior)."""
    total = strength + sum(counts)
    return tuple((strength * p + n) / total for p, n in zip(prior, counts, strict=True))


def learn(claim: str, shop: tuple[int, ...], supplier: tuple[int, ...]) -> Learned:
    """Odds for a claim: the table, corrected by all machines of the shop with that claim, then by this supplier's.

    `shop` counts every machine with the claim, `supplier` those of this supplier among them, both in the
    order of OUTCOMES. The interval comes from the Beta marginal of the last Dirichlet.
    """
    others = tuple(all_ - own for all_, own in zip(shop, supplier, strict=True))
    middle = pooled(STARTING.get(claim, STARTING["none"]), SHOP_STRENGTH, others)
    odds = pooled(middle, SUPPLIER_STRENGTH, supplier)
    weight = SUPPLIER_STRENGTH + sum(supplier)
    a = odds[0] * weight
    low, high = (float(betaincinv(a, weight - a, q)) for q in (0.05, 0.95))
    return Learned(odds, sum(supplier), supplier[0], low, high)

"""Peroxide: what a bottle holds, and how to make so much of a weaker one."""

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.workshop.care import CareError

# A mole gives half a mole of oxygen: litres of that at 0 °C (half of 22.4), and grams of peroxide.
_LITRES, _GRAMS = Decimal("11.2"), Decimal("34.0147")
MOST_VOLUMES = Decimal(150)
# More than this nobody sells over a counter, and many places allow less (EU 2019/1148: 12 % w/w, from memory).
MOST_PERCENT = Decimal(35)
MOST_ML = Decimal(100_000)


class Basis(StrEnum):
    """How a strength is printed on a bottle."""

    VOLUMES = "volumes"
    WV = "w/v"
    WW = "w/w"

    @property
    def label(self) -> str:
        return {"volumes": "volumes", "w/v": "% w/v, grams in 100 ml", "w/w": "% w/w, grams in 100 g"}[self.value]


@dataclass(frozen=True)
class Mixture:
    """So much of the bottle and so much water make so much; ml, and % w/v of both."""

    bottle_ml: Decimal
    water_ml: Decimal
    bottle_percent: Decimal
    percent: Decimal

    @property
    def total_ml(self) -> Decimal:
        return self.bottle_ml + self.water_ml


def percent_wv(strength: Decimal, basis: Basis) -> Decimal:
    """Grams of peroxide in 100 ml. V volumes give V litres of oxygen a litre: V ÷ 11.2 × 34.0147 ÷ 10. Raises CareError
    where the figure and its unit can't belong together."""
    if strength <= 0:
        raise CareError("A strength above 0.", "bottle")
    if basis is Basis.VOLUMES:
        if strength > MOST_VOLUMES:
            raise CareError(f"{strength:f} volumes are sold to nobody: is it something else?", "bottle")
        return strength / _LITRES * _GRAMS / 10
    if strength > MOST_PERCENT:
        volumes = percent_wv(min(strength, MOST_VOLUMES), Basis.VOLUMES)
        raise CareError(
            f"{strength:f} % is far stronger than what is sold over a counter. "
            f"Are these volumes? {strength:f} volumes are {volumes:.1f} % w/v.",
            "bottle",
        )
    return strength if basis is Basis.WV else strength * density(strength)


def density(percent_ww: Decimal) -> Decimal:
    """Grams a millilitre of so strong a solution at 20 °C, up to 35 % w/w, within 0.3 % (handbook table, from memory:
    1.036 at 10 %, 1.073 at 20 %, 1.112 at 30 %)."""
    return Decimal("0.9982") + Decimal("0.0037") * percent_ww + Decimal("0.000003") * percent_ww**2


def dilute(bottle: Decimal, wanted: Decimal, amount_ml: Decimal) -> Mixture:
    """So much of a weaker one: C1 V1 = C2 V2, both % w/v. To the millilitre, the parts adding up. Raises CareError."""
    if wanted <= 0:
        raise CareError("A strength above 0.", "wanted")
    if not 0 < amount_ml <= MOST_ML:
        raise CareError(f"From above 0 to {MOST_ML:,} ml.", "amount")
    if wanted > bottle:
        raise CareError(
            f"Water makes it weaker, never stronger: the bottle has {bottle:.1f} %, {wanted:.1f} % are wanted.",
            "wanted",
        )
    whole = round(amount_ml)
    own = round(wanted * whole / bottle)
    return Mixture(Decimal(own), Decimal(whole - own), bottle, wanted)

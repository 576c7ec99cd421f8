"""Small sums of the bench: discharging, batteries, a supply under load, contacts."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import ceil, log

import numpy as np
from scipy import stats

# Below this a capacitor counts as discharged: the limit of safe DC (IEC 61140 / 60 V ripple-free DC, from memory).
SAFE_VOLTS = 60.0
CONTACT_OHMS = 0.05  # common practice, no source


def discharge_seconds(farads: float, volts: float, ohms: float, safe: float = SAFE_VOLTS) -> float:
    """Seconds until a capacitor at `volts` is down to `safe` through `ohms`: t = R·C·ln(V0 / Vsafe). All above 0.

    470 µF at 325 V through 100 kΩ: 79 s. It is a time to wait at least, never a reason not to measure.
    """
    if min(farads, volts, ohms, safe) <= 0:
        raise ValueError("All of them are above 0.")
    return 0.0 if volts <= safe else ohms * farads * log(volts / safe)


def at_least(seconds: float) -> str:
    """A time to wait, rounded up, since it is one to wait at least: "80 s", "14 min"."""
    return f"{ceil(seconds)} s" if seconds <= 120 else f"{ceil(seconds / 60)} min"


class Cell(StrEnum):
    """Chemistry, with its nominal volts a cell and whether it may be charged."""

    NICD = "nicd"
    NIMH = "nimh"
    ALKALINE = "alkaline"
    LITHIUM = "lithium"
    LI_SOCL2 = "li_socl2"

    @property
    def label(self) -> str:
        return {"nicd": "NiCd", "nimh": "NiMH", "alkaline": "alkaline", "lithium": "lithium", "li_socl2": "Li-SOCl2"}[
            self.value
        ]

    @property
    def volts(self) -> float:
        return {"nicd": 1.2, "nimh": 1.2, "alkaline": 1.5, "lithium": 3.0, "li_socl2": 3.6}[self.value]

    @property
    def rechargeable(self) -> bool:
        return self in {Cell.NICD, Cell.NIMH}


@dataclass(frozen=True)
class BatteryMakeUp:
    """`volts` nominal; `refused` says why these cells must not be fitted, `remark` what to expect otherwise."""

    volts: float
    refused: str
    remark: str


def make_up(cell: Cell, count: int, wanted_volts: float, charged: bool) -> BatteryMakeUp:
    """Cells in series for a machine that wants so many volts and does or does not charge its battery.

    A charging circuit with a primary cell is a hazard and refused; a rechargeable without a charger goes flat.
    Within 10 % of the wanted volts counts as right (common practice, no source).
    """
    if count < 1 or wanted_volts <= 0:
        raise ValueError("At least one cell, and volts above 0.")
    volts = count * cell.volts
    refused, remark = "", ""
    if charged and not cell.rechargeable:
        refused = (
            f"The machine charges its battery: a {cell.label} cell there can burst. Break the charging path first."
        )
    elif abs(volts - wanted_volts) > 0.1 * wanted_volts:
        refused = f"{count} × {cell.volts} V make {volts:.1f} V; the machine wants {wanted_volts:.1f} V."
    elif not charged and cell.rechargeable:
        remark = "Nothing charges it there: it goes flat by itself within months."
    return BatteryMakeUp(volts, refused, remark)


@dataclass(frozen=True)
class LoadLine:
    """A supply's volts against its load by least squares. `ohms` is the output resistance, above 0 where the volts go
    towards 0 under load, also of a rail below 0; `regulation` in percent from no load to the highest, `worst` the
    residual furthest off the line in volts."""

    points: tuple[tuple[float, float], ...]
    no_load: float
    ohms: float
    regulation: float
    worst: float

    def at(self, amps: float) -> float:
        """What the line says the supply gives at so many amperes."""
        return self.no_load - self.side * self.ohms * amps

    @property
    def side(self) -> int:
        """On which side of 0 the rail lies: 1 or -1."""
        return _side(volts for _, volts in self.points)


def _side(volts: Iterable[float]) -> int:
    return -1 if sum(volts) < 0 else 1


def load_line(points: Sequence[tuple[float, float]]) -> LoadLine:
    """From (amperes, volts), at least two different loads (ValueError otherwise)."""
    amps, volts = np.array([p[0] for p in points]), np.array([p[1] for p in points])
    if len(points) < 2 or np.ptp(amps) <= 0:
        raise ValueError("At least two different loads.")
    if (amps < 0).any():
        raise ValueError("A load is 0 or more amperes.")
    fit = stats.linregress(amps, volts)
    full = fit.intercept + fit.slope * amps.max()
    residuals = volts - (fit.intercept + fit.slope * amps)
    regulation = (fit.intercept - full) / full * 100 if full else 0.0
    return LoadLine(
        tuple((float(a), float(v)) for a, v in zip(amps, volts, strict=True)),
        float(fit.intercept),
        float(-fit.slope) * _side(volts),
        float(regulation),
        float(np.abs(residuals).max()),
    )


def contact_ohms(volts_drop: float, amps: float) -> float:
    """Resistance of a contact by the volts it drops at a current (four wires); amperes above 0 (ValueError)."""
    if amps <= 0 or volts_drop < 0:
        raise ValueError("Amperes above 0, volts 0 or more.")
    return volts_drop / amps

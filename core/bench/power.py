"""When a machine last had power, and what follows: whether it is cold, and whether it counts as discharged."""

from dataclasses import dataclass
from datetime import date, datetime

from core.bench.assurance import COLD_AFTER


@dataclass(frozen=True)
class Temperature:
    """`cold`: True or False when it is known, None when nobody can say; with the reason in words."""

    cold: bool | None
    why: str


def temperature(last_power: datetime | None, here_since: datetime, now: datetime) -> Temperature:
    """Whether it would start from cold: off for twelve hours or more, by what is recorded.

    What came less than twelve hours ago and had no power here may have had some elsewhere: not known.
    """
    if last_power is not None:
        hours = (now - last_power).total_seconds() / 3600
        off = f"off for {hours:.0f} h" if hours >= 1 else "had power within the hour"
        return Temperature(now - last_power >= COLD_AFTER, off)
    if now - here_since >= COLD_AFTER:
        return Temperature(True, "had no power since it came")
    return Temperature(None, "had no power here, and came less than twelve hours ago")


@dataclass(frozen=True)
class Charge:
    """One thing that holds charge, "supply" or "tube": when it was last discharged and measured, if ever here."""

    kind: str
    discharged_at: datetime | None

    @property
    def label(self) -> str:
        return {"supply": "PSU", "tube": "CRT"}[self.kind]

    @property
    def is_supply(self) -> bool:
        return self.kind == "supply"

    def gone(self, last_power: datetime | None) -> bool:
        """Counts as discharged only if that was done since the unit last had power."""
        return self.discharged_at is not None and (last_power is None or self.discharged_at > last_power)


def charged(charges: tuple[Charge, ...], last_power: datetime | None) -> str:
    """Why hands may not go in yet, in words; empty when everything that holds charge was discharged since."""
    left = [charge for charge in charges if not charge.gone(last_power)]
    if not left:
        return ""
    what = " and ".join(charge.label for charge in left)
    since = "since it last had power" if last_power and any(c.discharged_at for c in left) else "here yet"
    return f"Not discharged {since}: the {what}. Discharge and measure first."


def hands_in_refusal(
    charge: Charge | None, last_power: datetime | None, today: date, discharged_on: date | None
) -> str:
    """Why the inside of a supply or a CRT stays shut, in words; empty when hands may go in.

    Discharged and measured since it last had power, and anew each day (common practice, no source).
    """
    if charge is None:
        return ""
    if charge.discharged_at is None or not charge.gone(last_power):
        since = "since it last had power" if charge.discharged_at else "here yet"
        return f"The {charge.label} was not discharged and measured {since}."
    if discharged_on != today:
        return f"The {charge.label} was discharged on another day. Measure it again today."
    return ""

"""Daylight that whitens: for how long the sun stands high enough here, and from which day on it does."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

from astral import Observer
from astral.sun import elevation, noon

from core.workshop.care import CareError

# Below this the air takes out most of the light that works. Common practice, no source.
HIGH_ENOUGH = 30.0
_STEP = timedelta(minutes=10)
_MOST_DAYS = 366


@dataclass(frozen=True)
class Place:
    """Degrees north and east. Raises CareError."""

    latitude: float
    longitude: float

    def __post_init__(self) -> None:
        if not -90 <= self.latitude <= 90 or not -180 <= self.longitude <= 180:
            raise CareError("Latitude from −90 to 90, longitude from −180 to 180.", "latitude")

    @property
    def observer(self) -> Observer:
        return Observer(self.latitude, self.longitude)


def sun_hours(place: Place, day: date) -> float:
    """Hours of a day (UTC) for which the sun stands high enough, to ten minutes; clouds are nobody's to reckon."""
    start = datetime.combine(day, time(), UTC)
    count = timedelta(days=1) // _STEP
    high = sum(elevation(place.observer, start + _STEP * step) >= HIGH_ENOUGH for step in range(count))
    return high * _STEP / timedelta(hours=1)


def high_noon(place: Place, day: date) -> float:
    """Degrees above the horizon at the highest."""
    return float(elevation(place.observer, noon(place.observer, day)))


def first_sun(place: Place, day: date) -> date | None:
    """The first day from this one on which the sun rises high enough; None where it never does within a year."""
    days = (day + timedelta(days=ahead) for ahead in range(_MOST_DAYS))
    return next((one for one in days if high_noon(place, one) >= HIGH_ENOUGH), None)


def heights(place: Place, begin: datetime, minutes: int, step: int = 10) -> list[float]:
    """Degrees above the horizon every `step` minutes from an aware moment on, both ends included."""
    return [float(elevation(place.observer, begin + timedelta(minutes=at))) for at in range(0, minutes + step, step)]


@dataclass(frozen=True)
class Sun:
    """What the days of a round bring: so many hours a day; `again` is the day from which it works, where it does not
    now."""

    hours_a_day: float
    again: date | None = None

    @property
    def works(self) -> bool:
        return self.hours_a_day > 0

    @property
    def words(self) -> str:
        if self.works:
            return f"The sun stands high enough for {self.hours_a_day:.1f} h a day now, where no cloud is before it."
        back = f"on {self.again.day} {self.again:%B} again" if self.again else "on no day of the year"
        return f"The sun does not rise to {HIGH_ENOUGH:g}° now: nothing whitens. It does {back}."


def sun_from(place: Place, day: date) -> Sun:
    """For a round that begins on this day."""
    hours = sun_hours(place, day)
    return Sun(hours, None if hours else first_sun(place, day))

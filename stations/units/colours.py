"""The colour of a unit's plastic, measured on one of its photos."""

from decimal import Decimal

from django.db import transaction

from core.intake.colour import Plastic, delta_e, lab_of, measure
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import ColourSample, Photo, Unit

MOST_SPOTS = 12


def rgb(spot: object) -> tuple[float, float, float]:
    """The colour at a spot."""
    red, green, blue = _spot(spot)[2:]
    return red, green, blue


def _spot(value: object) -> list[float]:
    """[x, y, r, g, b] with x and y from 0 to 1 and the channels from 0 to 255."""
    if not isinstance(value, list) or len(value) != 5 or not all(isinstance(n, (int, float)) for n in value):
        raise Refused("A spot is a place on the picture and its colour. Click the picture again.")
    x, y, *rgb = (float(n) for n in value)
    if not (0 <= x <= 1 and 0 <= y <= 1 and all(0 <= c <= 255 for c in rgb)):
        raise Refused("That spot is off the picture.")
    return [x, y, *rgb]


def worked_out(neutral: object, sheltered: object, exposed: object) -> Plastic:
    """What these spots say; Refused when one is missing or no spot at all."""
    if sheltered is None or not isinstance(exposed, list) or not exposed:
        raise Refused("Click a sheltered area and at least one exposed spot.")
    if len(exposed) > MOST_SPOTS:
        raise Refused(f"{MOST_SPOTS} exposed spots at most.")
    grey = rgb(neutral) if neutral is not None else None
    try:
        return measure(rgb(sheltered), [rgb(spot) for spot in exposed], grey)
    except ValueError as problem:
        raise Refused(str(problem)) from problem


@transaction.atomic
def keep_sample(person: Person, photo: Photo, part: str, moment: str, neutral, sheltered, exposed) -> ColourSample:
    """Keep a measurement with its spots, so that it can be looked at again and set against one after treatment."""
    require(person, "measure colour")
    if not part:
        raise Refused("Say of what: top cover, keys, drive front.", "part")
    if moment not in ColourSample.When.values:
        raise Refused("As found, or after treatment?", "moment")
    found = worked_out(neutral, sheltered, exposed)
    sample = ColourSample.objects.create(
        unit=photo.unit,
        photo=photo,
        part=within(part, 60, "part"),
        moment=moment,
        neutral=neutral,
        sheltered=sheltered,
        exposed=exposed,
        yellowing=round(found.yellowing, 2),
        warmer=round(found.warmer, 2),
        evenness=round(found.evenness, 2),
        words=found.words[:80],
        when=clock.now(),
        who=person,
    )
    history.record(
        person,
        "units.keep_sample",
        HistoryEntry.Subject.UNIT,
        photo.unit_id,
        f"Colour of {sample}, ΔE00 {Decimal(str(sample.yellowing))}",
    )
    return sample


def progress(unit: Unit) -> list[tuple[str, ColourSample, ColourSample]]:
    """For each part measured as found and after treatment: the last of each."""
    found: dict[str, dict[str, ColourSample]] = {}
    for sample in unit.colours.select_related("photo"):
        found.setdefault(sample.part.lower(), {})[sample.moment] = sample
    return [(pair["found"].part, pair["found"], pair["after"]) for pair in found.values() if len(pair) == 2]


def match(neutral: object, reference: object, sample: object) -> tuple[float, str]:
    """How far a paint sample is from a reference on the same picture: ΔE00, and in words."""
    grey = rgb(neutral) if neutral is not None else None
    if reference is None or sample is None:
        raise Refused("Click the reference and the sample.")
    try:
        one, two = (lab_of(rgb(spot), grey) for spot in (reference, sample))
    except ValueError as problem:
        raise Refused(str(problem)) from problem
    off = delta_e(one, two)
    lighter = "lighter" if two.l > one.l else "darker"
    ways = [
        word
        for word, d in (
            (lighter, abs(two.l - one.l)),
            ("redder" if two.a > one.a else "greener", abs(two.a - one.a)),
            ("yellower" if two.b > one.b else "bluer", abs(two.b - one.b)),
        )
        if d > 0.7
    ]
    if off < 1:
        return off, "A match: hardly anybody sees a difference."
    return off, f"{'Close' if off < 3 else 'Off'}: the sample is {' and '.join(ways) or 'a little different'}."

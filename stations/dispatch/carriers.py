"""The boxes of the shop, and its carriers with what they ask."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from urllib.error import URLError
from urllib.request import urlopen

from django.conf import settings
from django.db import transaction

from core.selling.carriers import Band, BandError, CarrierTable, read_table
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.dispatch.models import BoxSize, Carrier, CarrierBand
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

CARRIER = HistoryEntry.Subject.CARRIER

PATIENCE = 5  # seconds
MOST_BYTES = 500_000
MOST_BOXES = 200


@dataclass(frozen=True)
class BoxDetails:
    """A size of box: edges within and without in mm, what it weighs itself in g."""

    name: str
    inner_length: int
    inner_width: int
    inner_height: int
    outer_length: int
    outer_width: int
    outer_height: int
    weight_g: int
    in_use: bool = True


@dataclass(frozen=True)
class CarrierDetails:
    """A carrier: the divisor in cm³ a kg, edges in mm, weights in g, cover in the shop's money and in percent; None
    where it names no limit. `track`: the address where a parcel is followed, with {number} in it."""

    name: str
    divisor: int
    heaviest_g: int | None
    longest_mm: int | None
    girth_mm: int | None
    cells: str
    covered: Decimal
    cover_percent: Decimal
    cover_most: Decimal
    track: str = ""
    in_use: bool = True


@transaction.atomic
def add_box(person: Person, box: BoxSize) -> None:
    """A new size of box."""
    require(person, "change boxes and carriers")
    if BoxSize.objects.count() >= MOST_BOXES:
        raise Refused(f"{MOST_BOXES} sizes at most.")
    box.save(force_insert=True)
    history.record(person, "dispatch.add_box", CARRIER, 0, f"Box “{box.name}” added")


@transaction.atomic
def change_box(person: Person, box: BoxSize, seen_version: int, said: BoxDetails) -> None:
    """A size of box is put right; what was packed in it stays as it was sent."""
    require(person, "change boxes and carriers")
    history.changed(person, "dispatch.change_box", CARRIER, 0, f"Box “{box.name}”", box, vars(said))
    save_versioned(box, seen_version, vars(said))


@transaction.atomic
def add_carrier(person: Person, carrier: Carrier) -> Carrier:
    require(person, "change boxes and carriers")
    carrier.save(force_insert=True)
    history.record(person, "dispatch.add_carrier", CARRIER, carrier.pk, f"{carrier.name} added")
    return carrier


@transaction.atomic
def change_carrier(person: Person, carrier: Carrier, seen_version: int, said: CarrierDetails) -> None:
    require(person, "change boxes and carriers")
    history.changed(person, "dispatch.change_carrier", CARRIER, carrier.pk, carrier.name, carrier, vars(said))
    save_versioned(carrier, seen_version, vars(said))


@transaction.atomic
def keep_bands(person: Person, carrier: Carrier, zone: str, bands: Sequence[Band]) -> None:
    """What a carrier asks into a zone, in place of what it asked; without bands it does not go there."""
    require(person, "change boxes and carriers")
    carrier = lock_row(Carrier.objects.all(), carrier)
    before = carrier.bands.filter(zone=zone).order_by("up_to_g").values_list("up_to_g", "price")
    was, now = _worded(before), _worded((band.up_to_g, band.price) for band in bands)
    if was != now:
        words = f"{carrier.name} into {zone}: {now}; before: {was}"
        history.record(person, "dispatch.keep_bands", CARRIER, carrier.pk, words, zone=zone, before=was, after=now)
    carrier.bands.filter(zone=zone).delete()
    CarrierBand.objects.bulk_create(
        CarrierBand(carrier=carrier, zone=zone, up_to_g=band.up_to_g, price=band.price) for band in bands
    )


def _worded(bands: Iterable[tuple[int, Decimal]]) -> str:
    """“2,000 g 6.90, 5,000 g 9.20”."""
    return ", ".join(f"{up_to:,} g {price:.2f}" for up_to, price in bands) or "does not go there"


def fetch(person: Person) -> int:
    """Ask the source for the carriers’ tables and keep them, all or none; answers how many carriers it had. What is
    typed needs no source."""
    require(person, "change boxes and carriers")
    if not settings.CARRIERS_URL:
        raise Refused("No source of carriers’ prices is set up. Type them.")
    try:
        with urlopen(settings.CARRIERS_URL, timeout=PATIENCE) as answer:  # noqa: S310 - the owner's own setting
            tables = read_table(answer.read(MOST_BYTES + 1).decode())
    except (URLError, OSError, ValueError) as problem:
        reason = str(problem) if isinstance(problem, BandError) else "It does not answer."
        raise Refused(f"No prices from the source: {reason} Type them, or try again later.") from problem
    return keep_tables(person, tables)


@transaction.atomic
def keep_tables(person: Person, tables: Sequence[CarrierTable]) -> int:
    """A carrier of the same name gets its new terms and prices; zones that the table does not name stay."""
    for table in tables:
        tariff = table.tariff
        said = CarrierDetails(
            name=tariff.carrier,
            divisor=tariff.divisor,
            heaviest_g=tariff.heaviest_g,
            longest_mm=tariff.longest_mm,
            girth_mm=tariff.girth_mm,
            cells=tariff.cells.value,
            covered=tariff.covered,
            cover_percent=tariff.cover_percent,
            cover_most=tariff.cover_most,
        )
        carrier = Carrier.objects.filter(name=said.name).first()
        if carrier is None:
            carrier = add_carrier(person, Carrier(**vars(said)))
        else:
            said = replace(said, name=carrier.name, track=carrier.track, in_use=carrier.in_use)
            change_carrier(person, carrier, carrier.version, said)
        for zone, bands in table.zones.items():
            keep_bands(person, carrier, zone, bands)
    return len(tables)

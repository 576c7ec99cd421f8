"""What sending a parcel costs with each carrier, which may take it, and why one may not."""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.machine.quantities import Mark, QuantityError, read_number
from core.money import ZERO, up_to_cent
from core.selling.packing import HEAVIEST_G, Size, kg, volumetric_g


class Cells(StrEnum):
    """Whether a carrier takes lithium cells, by its own rules."""

    NONE = "none"
    INSIDE = "inside"
    ANY = "any"

    @property
    def label(self) -> str:
        return {"none": "none", "inside": "built into equipment", "any": "also packed beside it"}[self.value]


@dataclass(frozen=True)
class Band:
    """Up to so many g, this price (base currency)."""

    up_to_g: int
    price: Decimal


@dataclass(frozen=True)
class Tariff:
    """What a carrier asks for parcels into one zone, and what it takes. `divisor` in cm³ per kg; edges in mm, girth the
    longest edge and twice the two others; None is no limit. `covered` is paid for damage without more; above that
    `cover_percent` of the value up to `cover_most`."""

    carrier: str
    bands: Sequence[Band]
    divisor: int = 5000
    heaviest_g: int | None = None
    longest_mm: int | None = None
    girth_mm: int | None = None
    cells: Cells = Cells.NONE
    covered: Decimal = ZERO
    cover_percent: Decimal = ZERO
    cover_most: Decimal = ZERO


@dataclass(frozen=True)
class ToSend:
    """A closed parcel: its outer size, what it weighs, what it is worth, and whether a lithium cell is in it (`cell`)
    or lies in it by itself (`cell_apart`)."""

    outer: Size
    weight_g: int
    value: Decimal
    cell: bool = False
    cell_apart: bool = False


@dataclass(frozen=True)
class Quote:
    """What it costs with a carrier: by which weight, for what cover. `short`: how much of its value is not covered."""

    carrier: str
    price: Decimal
    billed_g: int
    cover: Decimal
    cover_price: Decimal
    short: Decimal

    @property
    def total(self) -> Decimal:
        return self.price + self.cover_price


@dataclass(frozen=True)
class NotTaken:
    """Why a carrier does not take it."""

    carrier: str
    words: str


def girth(size: Size) -> int:
    """The longest edge and twice the two others, in mm."""
    short, middle, longest = sorted(size.edges)
    return longest + 2 * (short + middle)


def quote(tariff: Tariff, parcel: ToSend) -> Quote | NotTaken:
    """The price of the lowest band that holds what is billed: the higher of weight and volumetric weight."""
    name = tariff.carrier
    longest = max(parcel.outer.edges)
    if tariff.longest_mm is not None and longest > tariff.longest_mm:
        return NotTaken(name, f"{longest:,} mm long; it takes {tariff.longest_mm:,} at most")
    if tariff.girth_mm is not None and girth(parcel.outer) > tariff.girth_mm:
        return NotTaken(name, f"girth {girth(parcel.outer):,} mm; it takes {tariff.girth_mm:,} at most")
    if tariff.heaviest_g is not None and parcel.weight_g > tariff.heaviest_g:
        return NotTaken(name, f"{kg(parcel.weight_g)} kg; it takes {kg(tariff.heaviest_g)} at most")
    if parcel.cell_apart and tariff.cells is not Cells.ANY:
        return NotTaken(name, "a lithium cell lies in it by itself, which it does not take")
    if parcel.cell and tariff.cells is Cells.NONE:
        return NotTaken(name, "it takes no lithium cells")
    billed = max(parcel.weight_g, volumetric_g(parcel.outer, tariff.divisor))
    band = min((b for b in tariff.bands if billed <= b.up_to_g), key=lambda b: b.price, default=None)
    if band is None:
        most = max((b.up_to_g for b in tariff.bands), default=0)
        if not most:
            return NotTaken(name, "it has no prices there")
        return NotTaken(name, f"billed as {kg(billed)} kg; its prices end at {kg(most)}")
    cover, price = tariff.covered, ZERO
    if parcel.value > cover and tariff.cover_percent and tariff.cover_most > cover:
        cover = min(parcel.value, tariff.cover_most)
        price = up_to_cent(cover * tariff.cover_percent / 100)
    return Quote(name, band.price, billed, cover, price, max(ZERO, parcel.value - cover))


def quotes(tariffs: Iterable[Tariff], parcel: ToSend) -> tuple[list[Quote], list[NotTaken]]:
    """(who takes it, the cheapest first; who does not, and why). What covers more goes first at the same price."""
    found = [quote(tariff, parcel) for tariff in tariffs]
    taken = [one for one in found if isinstance(one, Quote)]
    return sorted(taken, key=lambda q: (q.total, q.short, q.carrier)), [o for o in found if isinstance(o, NotTaken)]


class BandError(ValueError):
    """A line of prices that can’t be read; the message says which and why."""


def read_bands(text: str) -> tuple[Band, ...]:
    """Lines of "up to kg: price", heavier ones below: "2: 4,90". Raises BandError; at most 60 lines."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > 60:
        raise BandError("60 lines at most.")
    bands: list[Band] = []
    for number, line in enumerate(lines, 1):
        weight, colon, price = line.partition(":")
        if not colon:
            raise BandError(f"Line {number}: write “up to kg: price”, as in “2: 4.90”.")
        try:
            grams, cost = read_number(weight, Mark.DECIMAL) * 1000, read_number(price)
        except QuantityError as problem:
            raise BandError(f"Line {number}: {problem}") from problem
        if grams != int(grams) or not 1 <= grams <= HEAVIEST_G:
            raise BandError(f"Line {number}: a weight is from 0.001 to {HEAVIEST_G // 1000} kg, to the gram.")
        if cost < 0 or cost > 99_999 or cost != cost.quantize(Decimal("0.01")):
            raise BandError(f"Line {number}: a price is from 0 to 99,999, to the cent.")
        if bands and grams <= bands[-1].up_to_g:
            raise BandError(f"Line {number}: each line is for heavier parcels than the one above.")
        bands.append(Band(int(grams), cost.quantize(Decimal("0.01"))))
    return tuple(bands)


def bands_text(bands: Iterable[Band]) -> str:
    """As `read_bands` reads it."""
    return "\n".join(f"{(Decimal(band.up_to_g) / 1000).normalize():f}: {band.price}" for band in bands)


@dataclass(frozen=True)
class CarrierTable:
    """What a carrier publishes: its terms (a tariff without prices) and its bands by zone."""

    tariff: Tariff
    zones: Mapping[str, Sequence[Band]]


_HEAD = (
    *("carrier", "zone", "up_to_kg", "price", "divisor", "heaviest_kg", "longest_mm", "girth_mm"),
    *("lithium_cells", "covered", "cover_percent", "cover_most"),
)


def read_table(text: str) -> list[CarrierTable]:
    """Carriers’ prices as CSV with the columns of `_HEAD`, a line a band; the terms of a carrier are those of its first
    line. Raises BandError, with the line; all or nothing."""
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    if rows.fieldnames is None or tuple(name.strip() for name in rows.fieldnames) != _HEAD:
        raise BandError(f"the columns are {', '.join(_HEAD)}.")
    lines: dict[str, dict[str, list[str]]] = {}
    tariffs: dict[str, Tariff] = {}
    for number, row in enumerate(rows, 2):
        if number > 2000:
            raise BandError("2,000 lines at most.")
        name, zone = (row["carrier"] or "").strip(), (row["zone"] or "").strip()
        if not 1 <= len(name) <= 40 or not 1 <= len(zone) <= 30:
            raise BandError(f"line {number}: a carrier has 1 to 40 characters, a zone 1 to 30.")
        if name not in tariffs:
            tariffs[name] = _terms(name, row, number)
        lines.setdefault(name, {}).setdefault(zone, []).append(f"{row['up_to_kg']}: {row['price']}")
    try:
        return [
            CarrierTable(tariffs[name], {zone: read_bands("\n".join(bands)) for zone, bands in zones.items()})
            for name, zones in lines.items()
        ]
    except BandError as problem:
        raise BandError(f"the prices of a zone: {problem}") from problem


def _terms(name: str, row: Mapping[str, str | None], number: int) -> Tariff:
    def figure(column: str, most: int) -> Decimal | None:
        text = (row[column] or "").strip()
        if not text:
            return None
        try:
            value = read_number(text, Mark.DECIMAL)
        except QuantityError as problem:
            raise BandError(f"line {number}, {column}: {problem}") from problem
        if not 0 <= value <= most:
            raise BandError(f"line {number}, {column}: from 0 to {most:,}.")
        return value

    def whole(column: str, most: int, scale: int = 1) -> int | None:
        value = figure(column, most)
        return None if value is None else max(1, int(value * scale))

    try:
        cells = Cells((row["lithium_cells"] or "none").strip())
    except ValueError as problem:
        raise BandError(f"line {number}: lithium_cells is none, inside or any.") from problem
    divisor = whole("divisor", 20_000)
    if divisor is not None and divisor < 1000:
        raise BandError(f"line {number}, divisor: from 1,000 to 20,000.")
    return Tariff(
        carrier=name,
        bands=(),
        divisor=5000 if divisor is None else divisor,
        heaviest_g=whole("heaviest_kg", HEAVIEST_G // 1000, 1000),
        longest_mm=whole("longest_mm", 3000),
        girth_mm=whole("girth_mm", 20_000),
        cells=cells,
        covered=(figure("covered", 99_999) or ZERO).quantize(Decimal("0.01")),
        cover_percent=(figure("cover_percent", 100) or ZERO).quantize(Decimal("0.01")),
        cover_most=(figure("cover_most", 99_999) or ZERO).quantize(Decimal("0.01")),
    )

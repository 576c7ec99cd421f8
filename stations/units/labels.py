"""Labels: a tag as QR code and text, single or on sheets, as SVG and PDF; and the label printer."""

from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from xml.sax.saxutils import escape

from django.conf import settings

from stations.common import qr
from stations.common.files import NotWritten, write_whole
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import require
from stations.stock.models import StockItem
from stations.units.models import Part, Unit


@dataclass(frozen=True)
class Label:
    """What stands on a label: the code that is scanned, large, and rows of words below it."""

    code: str
    rows: tuple[str, ...] = ()


def of_unit(unit: Unit) -> Label:
    return Label(str(unit.tag), tuple(filter(None, (unit.title, unit.serial, unit.lot.code))))


def of_part(part: Part) -> Label:
    came = f"from {part.came_from.tag.short}" if part.came_from else ""
    return Label(part.code, tuple(filter(None, (part.name, part.serial, part.revision, came))))


def of_drawers(items: Iterable[StockItem]) -> list[Label]:
    """One label a drawer, with what lies in it; what has no drawer gets none."""
    names: dict[str, list[str]] = {}
    for item in items:
        if item.drawer:
            names.setdefault(item.drawer, []).append(item.name)
    return [Label(drawer, tuple(dict.fromkeys(held))) for drawer, held in sorted(names.items())]


@dataclass(frozen=True)
class LabelSize:
    """A label of `width` × `height` mm; on a sheet `across` × `down` of them within the margins, in mm."""

    code: str
    words: str
    width: float
    height: float
    across: int = 1
    down: int = 1
    left: float = 0.0
    top: float = 0.0
    usual: bool = False

    @property
    def on_sheet(self) -> int:
        return self.across * self.down


A4 = (210.0, 297.0)
SIZES = {
    size.code: size
    for size in (
        LabelSize("small", "single, 40 × 20 mm", 40, 20),
        LabelSize("tie-on", "single, 62 × 29 mm", 62, 29),
        LabelSize("large", "single, 100 × 50 mm", 100, 50),
        LabelSize("sheet-24", "A4 sheet, 24 of 70 × 36 mm", 70, 36, 3, 8, 0, 4.5, usual=True),
        LabelSize("sheet-65", "A4 sheet, 65 of 38.1 × 21.2 mm", 38.1, 21.2, 5, 13, 9.75, 10.7),
    )
}
MOST = 650


def size_of(code: str) -> LabelSize:
    if code not in SIZES:
        raise Refused("There is no such label size.")
    return SIZES[code]


def svg(label: Label, size: LabelSize) -> str:
    """One label as a picture of its own, in mm."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width}mm" height="{size.height}mm" '
        f'viewBox="0 0 {size.width} {size.height}" role="img" aria-label="Label {escape(label.code)}">'
        f"{_drawn(label, size)}</svg>"
    )


def _drawn(label: Label, size: LabelSize) -> str:
    """Code at the left, tag large beside it, below it what the thing is, cut to what fits."""
    margin = min(2.0, size.height * 0.08)
    side = size.height - 2 * margin
    left, room = margin + side + 1.2, size.width - side - 2 * margin - 1.4
    tag = min(side * 0.3, room / max(5.6, 0.62 * len(label.code)))
    small = max(1.7, min(side * 0.14, 3.4))
    fits = int(room / (small * 0.52))
    room_down = int((size.height - 2 * margin - side * 0.42) / (small * 1.35))
    rows = label.rows[: max(1, room_down)]
    lines = "".join(
        f'<text x="{left:.2f}" y="{margin + side * 0.42 + (i + 1) * small * 1.35:.2f}" font-size="{small:.2f}" '
        f'font-family="sans-serif">{escape(_cut(row, fits))}</text>'
        for i, row in enumerate(rows)
    )
    return (
        f'<rect width="{size.width}" height="{size.height}" fill="#fff"/>{_code(label, margin, side)}'
        f'<text x="{left:.2f}" y="{margin + side * 0.34:.2f}" font-size="{tag:.2f}" font-weight="700" '
        f'font-family="monospace">{escape(label.code)}</text>{lines}'
    )


def _cut(words: str, most: int) -> str:
    return words if len(words) <= most else words[: max(1, most - 1)] + "…"


def _code(label: Label, margin: float, side: float) -> str:
    """The code as a QR code: any scanner types it into the scan box, which opens what it stands on."""
    rows = qr.rows(label.code)
    one = side / len(rows)
    dark = "".join(f"M{x} {y}h1v1h-1z" for y, row in enumerate(rows) for x, module in enumerate(row) if module)
    return f'<path transform="translate({margin:.2f} {margin:.2f}) scale({one:.4f})" fill="#000" d="{dark}"/>'


@dataclass(frozen=True)
class Batch:
    """Labels for one go: those of all `count` that are printed now, and with which the next begins, if any are left."""

    labels: Sequence[Label]
    count: int
    then: str = ""


def batch(found: Sequence[Label], begin: str = "") -> Batch:
    """The first MOST, from the label named `begin` on. Raises Refused where there is none of that name."""
    place = next((place for place, one in enumerate(found) if one.code.casefold() == begin.casefold()), None)
    if begin and place is None:
        raise Refused(f"There is no {begin} among these labels.")
    left = found[place or 0 :]
    return Batch(left[:MOST], len(found), left[MOST].code if len(left) > MOST else "")


def pages(labels: Sequence[Label], size: LabelSize, first: int = 1) -> list[str]:
    """Labels as pages: one each for a single size, else A4 sheets that begin at place `first` (1 up)."""
    if not labels:
        raise Refused("Nothing to print labels for.")
    if len(labels) > MOST:
        raise Refused(f"{MOST} labels at a time at most.")
    if size.on_sheet == 1:
        return [svg(label, size) for label in labels]
    if not 1 <= first <= size.on_sheet:
        raise Refused(f"The sheet has places 1 to {size.on_sheet}.", "first")
    places: list[Label | None] = [None] * (first - 1) + list(labels)
    sheets = []
    for start in range(0, len(places), size.on_sheet):
        drawn = ""
        for place, label in enumerate(places[start : start + size.on_sheet]):
            if label:
                x = size.left + place % size.across * size.width
                y = size.top + place // size.across * size.height
                drawn += f'<g transform="translate({x:.2f} {y:.2f})">{_drawn(label, size)}</g>'
        sheets.append(
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{A4[0]}mm" height="{A4[1]}mm" '
            f'viewBox="0 0 {A4[0]} {A4[1]}">{drawn}</svg>'
        )
    return sheets


def pdf(labels: Sequence[Label], size: LabelSize, first: int = 1) -> bytes:
    """The pages as one PDF, cut to the label for single sizes."""
    from weasyprint import HTML  # slow to load, and only wanted here

    wide, high = A4 if size.on_sheet > 1 else (size.width, size.height)
    drawn = "".join(f'<div class="page">{page}</div>' for page in pages(labels, size, first))
    style = (
        f"@page {{ size: {wide}mm {high}mm; margin: 0 }} body {{ margin: 0 }} svg {{ display: block }}"
        f".page {{ height: {high}mm; break-after: page }} .page:last-child {{ break-after: auto }}"
    )
    return HTML(string=f"<style>{style}</style>{drawn}").write_pdf()


def print_out(person: Person, labels: Sequence[Label], size: LabelSize) -> int:
    """Hand each label to the label printer: a folder that it watches. Answers how many."""
    require(person, "print labels")
    if not settings.LABEL_PRINTER:
        raise Refused("No label printer is set up. Print the PDF instead.")
    folder = Path(settings.LABEL_PRINTER)
    try:
        for label in labels:
            write_whole(folder / f"{label.code}-{size.code}.svg", svg(label, size).encode())
    except NotWritten as problem:
        raise Refused("The label printer does not answer. Print the PDF instead.") from problem
    return len(labels)


def waiting() -> list[datetime]:
    """Since when labels lie in the folder of the label printer, each, the longest first; it takes away what it has
    printed."""
    found = []
    for label in Path(settings.LABEL_PRINTER).glob("*.svg") if settings.LABEL_PRINTER else ():
        # Printed while they are looked through.
        with suppress(OSError):
            found.append(datetime.fromtimestamp(label.stat().st_mtime, UTC))
    return sorted(found)

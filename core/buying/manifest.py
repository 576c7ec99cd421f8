"""Manifests: what a seller calls a CSV file, read as it comes, with every bad line named."""

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from textwrap import shorten
from typing import TypeVar

from core.machine.quantities import Mark, QuantityError, TwoMeanings, read_number

MOST_LINES = 5000
MOST_COLUMNS = 60
MOST_BYTES = 4 * 1024 * 1024
# What fits a line's own name, and the seller's words beside it.
MOST_NAME, MOST_WORDS = 80, 400


class ManifestError(ValueError):
    """The file as a whole can't be read; the message says why."""


class Column(StrEnum):
    """What a column of a manifest may hold for us."""

    DESCRIPTION = "description"
    QUANTITY = "quantity"
    CLAIM = "claim"
    WORDS = "claim_words"
    WEIGHT = "weight_kg"
    WORTH = "worth_likely"
    SHAPE = "form_factor"

    @property
    def label(self) -> str:
        return {
            "description": "what it is",
            "quantity": "how many",
            "claim": "claim",
            "claim_words": "in their words",
            "weight_kg": "kg each",
            "worth_likely": "likely worth",
            "form_factor": "shape or kind",
        }[self.value]


# Words that sellers head their columns with, in the languages we buy in; lower case.
HEADS: Mapping[Column, tuple[str, ...]] = {
    Column.DESCRIPTION: ("description", "item", "title", "article", "bezeichnung", "beskrivning", "artikel", "what"),
    Column.QUANTITY: ("quantity", "qty", "pcs", "pieces", "count", "no.", "anzahl", "menge", "antal", "number"),
    Column.CLAIM: ("claim", "condition", "state", "status", "zustand", "skick"),
    Column.WORDS: ("remarks", "note", "notes", "comment", "bemerkung", "anmärkning", "words"),
    Column.WEIGHT: ("weight", "kg", "gewicht", "vikt"),
    Column.WORTH: ("value", "worth", "estimate", "price", "wert", "värde", "schätzung"),
    Column.SHAPE: ("shape", "kind", "type", "category", "form", "typ", "kategorie", "kategori"),
}
# What sellers write for a claim; the longest match counts.
_CLAIMS: Mapping[str, str] = {
    "working": "working", "works": "working", "work": "working", "tested ok": "working",
    "funktioniert": "working", "fungerar": "working",
    "powers on": "powers_on", "power on": "powers_on", "startar": "powers_on", "geht an": "powers_on",
    "untested": "untested", "not tested": "untested", "ungetestet": "untested", "otestad": "untested",
    "ej testad": "untested",
    "faulty": "faulty", "defect": "faulty", "defekt": "faulty", "broken": "faulty", "trasig": "faulty",
    "läuft": "working", "går": "working", "geht nicht an": "dead", "startet": "powers_on",
    "not working": "faulty", "nonworking": "faulty", "inoperative": "faulty",
    "dead": "dead", "tot": "dead", "död": "dead", "no power": "dead",
    "for parts": "parts", "parts": "parts", "spares": "parts", "ersatzteile": "parts", "reservdelar": "parts",
}  # fmt: skip


# Kinds of line that are of a shape by themselves; what else is bought turns out as what its kind is.
SHAPED = {"machine", "peripheral"}
# What sellers call shapes and kinds: the kind of line, and the form factor where the word tells it. A longer word may
# end in it, as "mainboard" and "Grafikkarte" do; the other way round it is another word, as "driver" is.
_SHAPES: Mapping[str, tuple[str, str]] = {
    "keyboard computer": ("machine", "keyboard"), "home computer": ("machine", "keyboard"),
    "heimcomputer": ("machine", "keyboard"), "hemdator": ("machine", "keyboard"),
    "desktop": ("machine", "desktop"), "tower": ("machine", "tower"), "all-in-one": ("machine", "all_in_one"),
    "all in one": ("machine", "all_in_one"), "laptop": ("machine", "laptop"), "notebook": ("machine", "laptop"),
    "luggable": ("machine", "luggable"), "portable": ("machine", "luggable"), "terminal": ("machine", "terminal"),
    "monitor": ("peripheral", "monitor"), "screen": ("peripheral", "monitor"), "bildschirm": ("peripheral", "monitor"),
    "skärm": ("peripheral", "monitor"), "drive": ("peripheral", "drive"), "laufwerk": ("peripheral", "drive"),
    "board": ("board", "board"), "card": ("board", "board"), "karte": ("board", "board"), "kort": ("board", "board"),
    "keyboard": ("peripheral", ""), "tastatur": ("peripheral", ""), "tangentbord": ("peripheral", ""),
    "peripheral": ("peripheral", ""), "printer": ("peripheral", ""), "part": ("part", "board"),
    "ersatzteil": ("part", "board"), "consumable": ("consumable", ""), "media": ("media", ""), "disk": ("media", ""),
}  # fmt: skip


@dataclass(frozen=True)
class Table:
    """A manifest as cells: `rows` without the head; `numbers` says on which line of the file each row began."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    numbers: tuple[int, ...]


@dataclass(frozen=True)
class ManifestLine:
    """A line as it was read. `form_factor` is empty where nothing tells the shape."""

    number: int
    description: str
    quantity: int
    claim: str
    claim_words: str
    weight_kg: Decimal | None
    worth_likely: Decimal | None
    kind: str = "machine"
    form_factor: str = ""

    @property
    def asks_shape(self) -> bool:
        """Somebody has to say what shape it has: it is a thing of its own, and nothing told."""
        return not self.form_factor and self.kind in SHAPED


@dataclass(frozen=True)
class BadLine:
    number: int
    reason: str


def decode(data: bytes) -> str:
    """UTF-8 with or without byte order mark, or else Windows-1252. Raises ManifestError for anything else."""
    if len(data) > MOST_BYTES:
        raise ManifestError("The file is larger than 4 MB: 5,000 lines at most.")
    if b"\x00" in data:
        raise ManifestError("This is no text file. Save it as CSV first.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        pass
    try:
        return data.decode("windows-1252")
    except UnicodeDecodeError as problem:
        raise ManifestError("The file is neither UTF-8 nor Windows-1252 text. Save it as CSV in UTF-8.") from problem


def read_table(text: str) -> Table:
    """Cells of a comma, semicolon or tab separated file; the separator that splits the first lines most evenly.

    Raises ManifestError when there is no head, nothing under it, more than 5,000 lines or 60 columns.
    """
    lines = [line for line in text.splitlines()[:20] if line.strip()]
    if not lines:
        raise ManifestError("The file is empty.")
    separator = max(";\t,", key=lambda sign: min(line.count(sign) for line in lines) * 100 + lines[0].count(sign))
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    found: list[tuple[tuple[str, ...], int]] = []
    start = 1
    try:
        for row in reader:
            if len(row) > MOST_COLUMNS:
                raise ManifestError(f"Line {start} has {len(row):,} columns; {MOST_COLUMNS} at most.")
            if any(cell.strip() for cell in row):
                found.append((tuple(cell.strip() for cell in row), start))
            start = reader.line_num + 1
            if len(found) > MOST_LINES + 1:
                raise ManifestError("More than 5,000 lines. Split the file.")
    except csv.Error as problem:
        raise ManifestError(f"Line {start} can’t be read as CSV: {problem}.") from problem
    if len(found) < 2:
        raise ManifestError("There is a head but nothing under it.")
    return Table(found[0][0], tuple(row for row, _ in found[1:]), tuple(number for _, number in found[1:]))


C = TypeVar("C", bound=StrEnum)


def guess_columns(head: Sequence[str], heads: Mapping[C, Sequence[str]]) -> dict[C, int]:
    """Which column likely holds what, by its head and the words that stand there; each column serves once."""
    found: dict[C, int] = {}
    for column, words in heads.items():
        for index, title in enumerate(head):
            if index not in found.values() and any(word in title.lower() for word in words):
                found[column] = index
                break
    return found


def read_lines(
    table: Table, columns: Mapping[Column, int], mark: Mark = Mark.ASK
) -> tuple[list[ManifestLine], list[BadLine]]:
    """Every row as a line, or as a bad line with its number in the file and what is wrong with it.

    `columns` says where each thing stands; without a description column every row is bad. A missing
    quantity is 1; decimal comma or point. `mark` says what "1,234" means in this file: asked about, a row
    with such a quantity or worth is bad.
    """
    good: list[ManifestLine] = []
    bad: list[BadLine] = []
    for row, number in zip(table.rows, table.numbers, strict=True):

        def cell(column: Column, row: tuple[str, ...] = row) -> str:
            index = columns.get(column)
            return row[index] if index is not None and index < len(row) else ""

        try:
            good.append(_line(number, mark, cell(Column.DESCRIPTION), cell(Column.QUANTITY), cell(Column.CLAIM),
                              cell(Column.WORDS), cell(Column.WEIGHT), cell(Column.WORTH),
                              cell(Column.SHAPE)))  # fmt: skip
        except ValueError as problem:
            bad.append(BadLine(number, str(problem)))
    return good, bad


def _line(
    number: int, mark: Mark, what: str, count: str, claim: str, words: str, weight: str, worth: str, shape: str
) -> ManifestLine:
    if not what:
        raise ValueError("nothing says what it is")
    quantity = _number(count, "quantity", mark) if count else Decimal(1)
    if quantity != int(quantity) or not 1 <= quantity <= 9999:
        raise ValueError(f"“{count}” is no quantity from 1 to 9,999")
    name, said = _in_their_words(what, claim, words)
    return ManifestLine(
        number,
        name,
        int(quantity),
        read_claim(claim),
        said,
        # Nobody sells a thousand kilograms a piece: three figures behind a mark are grams.
        round(_number(weight, "weight", Mark.DECIMAL, 10**5), 2) if weight else None,
        round(_number(worth, "worth", mark), 2) if worth else None,
        *(_told_shape(shape) or read_shape(what)),
    )


def _in_their_words(what: str, claim: str, words: str) -> tuple[str, str]:
    """A name that fits, and beside it all that the seller wrote which would else be lost: a longer name in full, a
    claim that says more than its kind, the remarks."""
    name = what if len(what) <= MOST_NAME else shorten(what[: MOST_NAME * 2], MOST_NAME, placeholder=" …")
    if name == "…":  # a single word, of that length
        name = f"{what[: MOST_NAME - 2]} …"
    told = claim if not words or claim.strip().lower() not in _CLAIMS else ""
    said = "; ".join(dict.fromkeys(filter(None, (what if name != what else "", told, words))))
    if len(said) > MOST_WORDS:
        raise ValueError(f"what is said of it has {len(said)} characters, {MOST_WORDS} at most")
    return name, said


# Words that turn a claim round, in the languages we buy in: before it with up to two words between, or right behind.
_NOT_BEFORE = re.compile(
    r"(?:\b(?:not|never|cannot|without|no longer|nicht|kein\w*|nie|ohne|ej|inte|icke|aldrig|utan)\b|n['’]t\b|\bnon\b)"
    r"(?:[\s-]+\w+){0,2}[\s-]+$|\bno\s+$"
)
_NOT_BEHIND = re.compile(r"^(?:\s+\w+)?\s+(?:not|nicht|nie|ej|inte|icke|aldrig)\b")
_CLAUSES = re.compile(r"[.,;:!/()–—]|\b(?:but|aber|men|and|und|och)\b")
# What is left of a claim that is turned round: what does not work is faulty, what does not power on is dead.
_TURNED = {"working": "faulty", "powers_on": "dead"}


def read_claim(text: str) -> str:
    """The claim that a seller's words come down to: the longest wording that they hold, else none.

    "Not working", "no longer works", "funktioniert nicht" and the like are no claims of working.
    """
    said = text.lower()
    for wording in sorted(_CLAIMS, key=len, reverse=True):
        for clause in _CLAUSES.split(said):
            if match := re.search(rf"\b{re.escape(wording)}\b", clause):
                claim = _CLAIMS[wording]
                turned = _NOT_BEFORE.search(clause[: match.start()]) or _NOT_BEHIND.search(clause[match.end() :])
                return _TURNED.get(claim, "none") if turned else claim
    return "none"


# Words that end in one of a shape and are none, and what a machine is sold for.
_NO_SHAPE = re.compile(r"cardboard|discard|\b(?:for|as|zum|für|till) (?:spare )?parts?\b")


def read_shape(text: str) -> tuple[str, str]:
    """Kind and form factor that words tell, the longest wording first; a machine, and no form factor, when they tell
    nothing."""
    return _told_shape(text) or ("machine", "")


def _told_shape(text: str) -> tuple[str, str] | None:
    said = _NO_SHAPE.sub(" ", text.lower())
    for wording in sorted(_SHAPES, key=len, reverse=True):
        if re.search(rf"{re.escape(wording)}(?:s|n|en|er)?\b", said):
            return _SHAPES[wording]
    return None


def _number(text: str, what: str, mark: Mark, under: int = 10**7) -> Decimal:
    """A number with its currency signs passed over; one with two meanings is asked about, unless `mark` says which."""
    try:
        number = read_number(text.replace("\u00a0", "").strip("€£$kr "), mark)
    except TwoMeanings as problem:
        raise ValueError(f"{what}: {problem}") from problem
    except QuantityError as problem:
        raise ValueError(f"“{text}” is no {what}") from problem
    if number < 0 or number >= under:
        raise ValueError(f"“{text}” is no {what} from 0 to under {under:,}")
    return number

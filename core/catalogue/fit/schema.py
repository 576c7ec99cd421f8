"""Records as people type them and as files keep them: one line a record, "name: key value; key value".

What a field can hold is said where the field is declared. A value that is left out is not known: None, never a guess.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields, replace
from decimal import Decimal
from enum import StrEnum
from typing import Any, TypeVar, cast

from core.machine.quantities import Mark, QuantityError, read_number

T = TypeVar("T")
LONGEST = 80
MOST_RECORDS = 200
NONE = "none"


class FitError(ValueError):
    """What was typed can't be taken; the message says why, `at` the group it stands in."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.at = at


@dataclass(frozen=True)
class Span:
    """From `low` to `high`, both in it."""

    low: Decimal
    high: Decimal

    def holds(self, value: Decimal) -> bool:
        return self.low <= value <= self.high

    def __str__(self) -> str:
        return plain(self.low) if self.low == self.high else f"{plain(self.low)} to {plain(self.high)}"


@dataclass(frozen=True)
class Block:
    """Addresses from `first` to `last`, both in it."""

    first: int
    last: int

    def meets(self, other: "Block") -> bool:
        return self.first <= other.last and other.first <= self.last

    def __str__(self) -> str:
        return f"{self.first:X}-{self.last:X}" if self.last > self.first else f"{self.first:X}"


@dataclass(frozen=True)
class Told:
    """How a field is read and written, and what it asks for when nobody said it."""

    read: Callable[[str], Any]
    write: Callable[[Any], str]
    ask: str
    example: str


def plain(number: Decimal) -> str:
    """A number without needless noughts."""
    return f"{number.normalize():f}" if number else "0"


def _number(text: str, unit: str, low: Decimal, high: Decimal) -> Decimal:
    bare = text.strip()
    if unit and bare.lower().endswith(unit.lower()):
        bare = bare[: -len(unit)].strip()
    try:
        number = Decimal(bare) if _BARE.fullmatch(bare) else read_number(bare, Mark.DECIMAL)
    except QuantityError as problem:
        raise FitError(f"“{text}”: a number{' in ' + unit if unit else ''}") from problem
    if not low <= number <= high:
        raise FitError(f"“{text}”: from {plain(low)} to {plain(high)}{' ' + unit if unit else ''}")
    return number


_BARE = re.compile(r"\d{1,9}(\.\d{1,6})?", re.ASCII)


def amount(ask: str, unit: str = "", low: str = "0", high: str = "1000000", example: str = "8") -> Any:
    """A number in a unit."""
    bounds = Decimal(low), Decimal(high)
    return _field(Told(lambda text: _number(text, unit, *bounds), plain, ask, example))


def whole(ask: str, low: int = 0, high: int = 100_000, example: str = "2") -> Any:
    def read(text: str) -> int:
        number = _number(text, "", Decimal(low), Decimal(high))
        if number != int(number):
            raise FitError(f"“{text}”: a whole number")
        return int(number)

    return _field(Told(read, str, ask, example))


def amounts(ask: str, unit: str = "", example: str = "66.67, 75") -> Any:
    """Several numbers with commas between; a comma is never a decimal mark here."""

    def read(text: str) -> tuple[Decimal, ...]:
        found = tuple(_number(part, unit, Decimal(0), Decimal(10**6)) for part in _listed(text))
        return tuple(sorted(set(found)))

    return _field(Told(read, lambda values: ", ".join(map(plain, values)), ask, example))


def span(ask: str, unit: str = "", example: str = "15 to 16") -> Any:
    def read(text: str) -> Span:
        low, _, high = text.partition(" to ")
        ends = [_number(part, unit, Decimal(0), Decimal(10**6)) for part in (low, high or low)]
        if ends[0] > ends[1]:
            raise FitError(f"“{text}”: the lower end first")
        return Span(*ends)

    return _field(Told(read, str, ask, example))


def block_of(typed: str) -> Block:
    """Addresses as typed: 330-333. FitError for anything else."""
    ends = re.fullmatch(r"([0-9A-Fa-f]{1,8})(?:\s*-\s*([0-9A-Fa-f]{1,8}))?h?", typed)
    if not ends:
        raise FitError(f"“{typed}”: addresses as hexadecimal figures, such as 330-333")
    block = Block(int(ends[1], 16), int(ends[2] or ends[1], 16))
    if block.last < block.first:
        raise FitError(f"“{typed}”: the lower address first")
    return block


def blocks(ask: str, example: str = "330-333, 340-343") -> Any:
    """Hexadecimal addresses with commas between. One that meets another is refused."""

    def read(text: str) -> tuple[Block, ...]:
        found: list[Block] = []
        for part in _listed(text):
            block = block_of(part)
            if other := next((one for one in found if one.meets(block)), None):
                raise FitError(f"{block} overlaps {other}")
            found.append(block)
        return tuple(found)

    return _field(Told(read, lambda values: ", ".join(map(str, values)), ask, example))


_UNITS = {"": 1, "B": 1, "kB": 10**3, "MB": 10**6, "GB": 10**9, "KiB": 2**10, "MiB": 2**20, "GiB": 2**30}
_SIZE = re.compile(r"(\d{1,15}(?:[.,]\d{1,3})?)\s*([a-z]*)", re.IGNORECASE)
_BY_LOWER = {unit.lower(): unit for unit in _UNITS}


def read_size(text: str) -> int:
    """Bytes: KiB, MiB and GiB go by 1024, kB, MB and GB by 1000 (IEC 80000-13). FitError for anything else."""
    match = _SIZE.fullmatch(text.strip())
    unit = _BY_LOWER.get(match[2].lower()) if match else None
    if match is None or unit is None:
        raise FitError(f"“{text}”: a size such as 4 MiB or 40 MB")
    return int(Decimal(match[1].replace(",", ".")) * _UNITS[unit])


def write_size(size: int) -> str:
    """In the unit that says it exactly with the smallest number."""
    exact = [unit for unit in _UNITS if unit and not size % _UNITS[unit]]
    unit = min(exact, key=lambda unit: size // _UNITS[unit]) if size else "B"
    return f"{size // _UNITS[unit]} {unit}"


def size(ask: str, example: str = "4 MiB") -> Any:
    return _field(Told(read_size, write_size, ask, example))


@dataclass(frozen=True, order=True)
class Version:
    """A version as it is printed: 2.10 comes after 2.9."""

    numbers: tuple[int, ...]
    printed: str = field(compare=False)

    def __str__(self) -> str:
        return self.printed


def version(ask: str, example: str = "2.1") -> Any:
    def read(typed: str) -> Version:
        printed = typed.strip()
        if not re.fullmatch(r"\d{1,6}(\.\d{1,6}){0,3}", printed, re.ASCII):
            raise FitError(f"“{typed}”: a version such as {example}")
        numbers = [int(part) for part in printed.split(".")]
        while len(numbers) > 1 and not numbers[-1]:
            numbers.pop()
        return Version(tuple(numbers), printed)

    return _field(Told(read, str, ask, example))


def text(ask: str, example: str = "") -> Any:
    def read(typed: str) -> str:
        typed = " ".join(typed.split())
        if len(typed) > LONGEST:
            raise FitError(f"“{typed[:20]}…”: {LONGEST} characters at most")
        return typed

    return _field(Told(read, str, ask, example))


def names(ask: str, example: str = "") -> Any:
    """Several words with commas between."""
    return _field(Told(lambda typed: tuple(dict.fromkeys(_listed(typed))), ", ".join, ask, example))


def yes(ask: str) -> Any:
    said = {"yes": True, "no": False}

    def read(typed: str) -> bool:
        if typed.strip().lower() not in said:
            raise FitError(f"“{typed}”: yes or no")
        return said[typed.strip().lower()]

    return _field(Told(read, lambda value: "yes" if value else "no", ask, "yes"))


def choice(kinds: type[StrEnum], ask: str) -> Any:
    by_word = {kind.value.lower(): kind for kind in kinds}

    def read(typed: str) -> StrEnum:
        if typed.strip().lower() not in by_word:
            raise FitError(f"“{typed}”: one of {', '.join(kind.value for kind in kinds)}")
        return by_word[typed.strip().lower()]

    return _field(Told(read, str, ask, ", ".join(kind.value for kind in kinds)))


def _listed(typed: str) -> list[str]:
    return [part.strip() for part in typed.split(",") if part.strip()]


def _field(told: Told) -> Any:
    return field(default=None, metadata={"told": told})


_TOLD: dict[type, dict[str, Told]] = {}
_GROUPS: dict[type, dict[str, tuple[type, str]]] = {}


def told_of(kind: type) -> dict[str, Told]:
    """The fields of a record that are typed, by the key they are typed with."""
    if kind not in _TOLD:
        _TOLD[kind] = {
            one.name.replace("_", " "): one.metadata["told"] for one in fields(kind) if "told" in one.metadata
        }
    return _TOLD[kind]


def read_record(kind: type[T], line: str) -> T:
    """A record from its line. FitError says what can't be read."""
    name, colon, rest = line.partition(":")
    if not colon or not name.strip() or len(name.strip()) > 40:
        raise FitError(f"“{line[:30]}”: a name of at most 40 characters, then a colon: 5: {_example(kind)}")
    data: dict[str, str] = {}
    keys = sorted(told_of(kind), key=len, reverse=True)
    for part in filter(None, (piece.strip() for piece in rest.split(";"))):
        key = next((key for key in keys if f"{part} ".lower().startswith(f"{key} ")), None)
        if key is None:
            raise FitError(f"{name.strip()}: “{part}” begins with none of {', '.join(told_of(kind))}")
        if key in data:
            raise FitError(f"{name.strip()}: {key} stands there twice")
        data[key] = part[len(key) :].strip()
    return from_row(kind, {"name": name.strip(), **data})


def write_record(record: Any) -> str:
    """The line that `read_record` reads again."""
    row = as_row(record)
    name = row.pop("name")
    return f"{name}: {'; '.join(f'{key} {value}' for key, value in row.items())}".strip()


def _example(kind: type) -> str:
    key, told = next(iter(told_of(kind).items()))
    return f"{key} {told.example.split(', ')[0]}"


def as_row(record: Any) -> dict[str, str]:
    """For a file: every known value as it is typed."""
    values = {key: getattr(record, key.replace(" ", "_")) for key in told_of(type(record))}
    return {"name": record.name} | {
        key: told_of(type(record))[key].write(value) for key, value in values.items() if value is not None
    }


def from_row(kind: type[T], row: Mapping[str, Any]) -> T:
    """What `as_row` gave, or what somebody wrote like it."""
    known, told = {}, told_of(kind)
    name = " ".join(str(row.get("name", "")).split())
    if not name or len(name) > 40:
        raise FitError("A record has a name of at most 40 characters")
    for key, value in row.items():
        if key == "name":
            continue
        if key not in told:
            raise FitError(f"{name}: “{key}” is none of {', '.join(told)}")
        try:
            typed = str(value).strip()
            if not typed:
                raise FitError("nothing is said")
            known[key.replace(" ", "_")] = told[key].read(typed)
        except FitError as problem:
            raise FitError(f"{name}: {key}: {problem}") from problem
    return kind(**{"name": name, **known})


def read_records(kind: type[T], typed: str) -> tuple[T, ...] | None:
    """All lines of a group: None where nothing is typed, () for the word “none”."""
    lines = [line.strip() for line in typed.splitlines() if line.strip()]
    if not lines:
        return None
    if [line.lower() for line in lines] == [NONE]:
        return ()
    return once([read_record(kind, line) for line in lines])


def write_records(records: tuple[Any, ...] | None) -> str:
    if records is None:
        return ""
    return "\n".join(map(write_record, records)) if records else NONE


def once(records: list[Any]) -> tuple[Any, ...]:
    """The same when no two have the same name: FitError names the one that does."""
    if len(records) > MOST_RECORDS:
        raise FitError(f"{MOST_RECORDS} at most")
    seen: dict[str, Any] = {}
    for record in records:
        if record.name.lower() in seen:
            raise FitError(f"{record.name} stands there twice: say once what it is")
        seen[record.name.lower()] = record
    return tuple(records)


def groups_of(kind: type) -> dict[str, tuple[type, str]]:
    """The groups of a sheet: by their name the record in it, and what the group is called."""
    if kind not in _GROUPS:
        _GROUPS[kind] = {one.name: (one.metadata["record"], one.metadata["label"]) for one in fields(kind)}
    return _GROUPS[kind]


def group(record: type, label: str) -> Any:
    """A group of records; None is not known, () is none."""
    return field(default=None, metadata={"record": record, "label": label})


def read_sheet(kind: type[T], typed: str) -> T:
    """A whole sheet from lines: a group by its name, its records indented below it; or "slots none"."""
    lines: dict[str, list[str]] = {}
    for line in filter(str.strip, typed.splitlines()):
        if line.startswith(" ") and lines:
            lines[next(reversed(lines))].append(line.strip())
        elif line.strip().removesuffix(f" {NONE}") in groups_of(kind):
            name = line.strip().removesuffix(f" {NONE}")
            lines[name] = [NONE] if name != line.strip() else []
        else:
            raise FitError(f"“{line.strip()}” is none of {', '.join(groups_of(kind))}")
    found: dict[str, Any] = {
        name: read_records(groups_of(kind)[name][0], "\n".join(rows)) for name, rows in lines.items()
    }
    return kind(**found)


def sheet_data(sheet: Any) -> dict[str, list[dict[str, str]]]:
    """For a file: every group that is known, even where there is nothing of it."""
    return {
        name: [as_row(record) for record in records]
        for name in groups_of(type(sheet))
        if (records := getattr(sheet, name)) is not None
    }


def sheet_from(kind: type[T], data: object) -> T:
    """What `sheet_data` gave, or what somebody wrote like it. FitError names the group."""
    if not isinstance(data, Mapping):
        raise FitError("Groups of records are wanted")
    found: dict[str, tuple[Any, ...]] = {}
    for name, rows in data.items():
        if name not in groups_of(kind):
            raise FitError(f"“{name}” is none of {', '.join(groups_of(kind))}")
        if not isinstance(rows, list) or not all(isinstance(row, Mapping) for row in rows):
            raise FitError("a list of records is wanted", name)
        try:
            found[name] = once([from_row(groups_of(kind)[name][0], row) for row in rows])
        except FitError as problem:
            raise FitError(f"{groups_of(kind)[name][1]}: {problem}", name) from problem
    return kind(**found)


def answered(sheet: T, group: str, name: str, key: str, typed: str) -> T:
    """The sheet with one field of one record said. FitError when that can’t be."""
    kinds = groups_of(type(sheet))
    if group not in kinds:
        raise FitError(f"There is no group {group}")
    kind = kinds[group][0]
    if key not in told_of(kind):
        raise FitError(f"There is no {key} in {group}")
    records = list(getattr(sheet, group) or ())
    place = next((place for place, one in enumerate(records) if one.name == name), None)
    if place is None:
        records.append(kind(name=name))
        place = len(records) - 1
    try:
        value = told_of(kind)[key].read(typed)
    except FitError as problem:
        raise FitError(f"{problem}", group) from problem
    records[place] = replace(records[place], **{key.replace(" ", "_"): value})
    return cast(T, replace(cast(Any, sheet), **{group: tuple(records)}))

"""Systems and what each wants of a drive: which volumes it writes and reads, from where it starts, in which order.

Rules are data: a shop types them, with their source.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from core.catalogue.recipes import MOST_MINUTES, MOST_RESTARTS
from core.machine.quantities import QuantityError, read_number
from core.workshop.storage import StorageError
from core.workshop.storage.clusters import FileSystem
from core.workshop.storage.sizes import KIB, MIB, read_size


class Starts(StrEnum):
    """From where a system starts: the first volume alone, any, a floppy (it owns none), or on top of another one."""

    FIRST = "first"
    ANY = "any"
    FLOPPY = "floppy"
    ON = "on"


class Code(StrEnum):
    """What installing does to the boot code of the drive."""

    LEAVES = "leaves"
    OVERWRITES = "overwrites"
    MANAGES = "manages"


@dataclass(frozen=True)
class System:
    """A system by its name. `writes` and `reads`: by file system the largest volume in bytes. `start_within`: how far
    from the front it can start (None: as far as it is reached); `start_id`: the only id of a drive it starts from.
    `own_driver`: it reaches beyond the firmware. `front`: bytes before the first volume that it takes for itself.
    `order`: older first. `label`: most letters of a volume’s name, and whether a space in it does harm. Minutes of
    hands and by itself, restarts, media in words."""

    name: str
    writes: Mapping[FileSystem, int] = field(default_factory=dict)
    reads: Mapping[FileSystem, int] = field(default_factory=dict)
    starts: Starts = Starts.ANY
    on: str = ""
    start_within: int | None = None
    start_id: int | None = None
    own_driver: bool = False
    most_cluster: int = 32 * KIB
    code: Code = Code.LEAVES
    front: int = 0
    needs: int = MIB
    order: int = 0
    label_letters: int = 11
    label_spaces: bool = True
    minutes: int = 10
    alone: int = 0
    restarts: int = 1
    media: str = ""
    source: str = ""

    @property
    def has_volume(self) -> bool:
        """It starts from a volume of its own."""
        return self.starts in {Starts.FIRST, Starts.ANY}

    def most(self, systems: Sequence[FileSystem], reading: bool = False) -> int:
        """The largest volume it writes (or reads) with one of these, bytes; 0 for none."""
        limits = [self.writes.get(one, 0) for one in systems]
        if reading:
            limits += [self.reads.get(one, 0) for one in systems]
        return max(limits, default=0)

    def label_problem(self, label: str) -> str:
        """Why a volume’s name confuses it, in words; empty where it does not."""
        if len(label) > self.label_letters:
            return f"{self.name} takes {self.label_letters} letters of a name at most: “{label}”."
        if " " in label and not self.label_spaces:
            return f"{self.name} is confused by a space in a name: “{label}”."
        return ""


def read_system(name: str, typed: str) -> System:
    """A line a rule: "writes: FAT12 to 16 MiB, FAT16 to 2 GiB"; "starts: first"; "minutes: 9, alone 14, restarts 3".

    Raises StorageError with the line.
    """
    name = name.strip()
    if not 1 <= len(name) <= 40:
        raise StorageError("A name of 1 to 40 characters.", "name")
    given: dict[str, object] = {}
    for number, line in enumerate(typed.splitlines(), 1):
        if not line.strip():
            continue
        key, colon, value = (part.strip() for part in line.partition(":"))
        reader = _LINES.get(key.lower())
        if not colon or reader is None:
            raise StorageError(f"Line {number}: “{key[:20]}” is none of {', '.join(_LINES)}.", "rules", number)
        found = reader(value, number)
        if given.keys() & found.keys():
            raise StorageError(f"Line {number}: {key} stands there twice.", "rules", number)
        given |= found
    system = System(name, **given)  # type: ignore[arg-type]
    if not system.writes and not system.reads:
        raise StorageError("Say which volumes it writes or reads: writes: FAT16 to 2 GiB.", "rules")
    if system.has_volume and not system.writes:
        raise StorageError(f"{name} starts from a volume that it can’t write: say which it writes.", "rules")
    if system.has_volume and system.needs > max(system.writes.values()):
        raise StorageError(f"{name} needs more than the largest volume it writes.", "rules")
    return system


def _volumes(key: str, value: str, number: int) -> dict[str, object]:
    found: dict[FileSystem, int] = {}
    for part in filter(None, (one.strip() for one in value.split(","))):
        kind, _, most = part.partition(" to ")
        system = next((one for one in FileSystem if one.lower() == kind.strip().lower()), None)
        if system is None or not most:
            raise StorageError(f"Line {number}: “{part[:30]}” is nothing such as FAT16 to 2 GiB.", "rules", number)
        size = read_size(most, "rules", number)
        if size < 512:
            raise StorageError(f"Line {number}: “{part[:30]}” is below a sector.", "rules", number)
        found[system] = size
    if not found:
        raise StorageError(f"Line {number}: say which, such as FAT16 to 2 GiB.", "rules", number)
    return {key: found}


def _starts(value: str, number: int) -> dict[str, object]:
    word, _, rest = value.partition(" ")
    if word.lower() == "on" and rest.strip():
        return {"starts": Starts.ON, "on": rest.strip()}
    if value.lower() not in {Starts.FIRST, Starts.ANY, Starts.FLOPPY}:
        raise StorageError(f"Line {number}: first, any, floppy, or on and a system’s name.", "rules", number)
    return {"starts": Starts(value.lower())}


def _choice(name: str, words: Mapping[str, object]):  # type: ignore[no-untyped-def]
    def read(value: str, number: int) -> dict[str, object]:
        if value.lower() not in words:
            raise StorageError(f"Line {number}: {' or '.join(words)}.", "rules", number)
        return {name: words[value.lower()]}

    return read


def _size(name: str, least: int = 1):  # type: ignore[no-untyped-def]
    def read(value: str, number: int) -> dict[str, object]:
        size = read_size(value, "rules", number)
        if size < least:
            raise StorageError(f"Line {number}: at least {least} bytes.", "rules", number)
        return {name: size}

    return read


def _count(name: str, most: int):  # type: ignore[no-untyped-def]
    def read(value: str, number: int) -> dict[str, object]:
        return {name: _whole(value, most, number)}

    return read


def _whole(value: str, most: int, number: int) -> int:
    try:
        figure = read_number(value)
    except QuantityError as problem:
        raise StorageError(f"Line {number}: “{value[:20]}” is no whole number.", "rules", number) from problem
    if figure != int(figure) or not 0 <= figure <= most:
        raise StorageError(f"Line {number}: a whole number from 0 to {most:,}.", "rules", number)
    return int(figure)


def _minutes(value: str, number: int) -> dict[str, object]:
    hands, *more = (part.strip() for part in value.split(","))
    found: dict[str, object] = {"minutes": _whole(hands, MOST_MINUTES, number)}
    for part in more:
        word, _, figure = part.partition(" ")
        most = {"alone": MOST_MINUTES, "restarts": MOST_RESTARTS}.get(word)
        if most is None:
            raise StorageError(f"Line {number}: minutes: 9, alone 14, restarts 3.", "rules", number)
        found[word] = _whole(figure, most, number)
    return found


def _label(value: str, number: int) -> dict[str, object]:
    match = re.fullmatch(r"(\d{1,3}) letters(, no spaces)?", value.lower())
    if not match or not int(match[1]):
        raise StorageError(f"Line {number}: 11 letters, no spaces.", "rules", number)
    return {"label_letters": int(match[1]), "label_spaces": not match[2]}


def _text(name: str):  # type: ignore[no-untyped-def]
    def read(value: str, number: int) -> dict[str, object]:
        if len(value) > 120:
            raise StorageError(f"Line {number}: 120 characters at most.", "rules", number)
        return {name: value}

    return read


_LINES = {
    "writes": lambda value, number: _volumes("writes", value, number),
    "reads": lambda value, number: _volumes("reads", value, number),
    "starts": _starts,
    "start within": _size("start_within", 512),
    "start id": _count("start_id", 15),
    "reaches": _choice("own_driver", {"firmware": False, "own driver": True}),
    "clusters to": _size("most_cluster", 512),
    "boot code": _choice("code", {one.value: one for one in Code}),
    "front": _size("front", 512),
    "needs": _size("needs", 512),
    "order": _count("order", 9999),
    "names": _label,
    "minutes": _minutes,
    "media": _text("media"),
    "source": _text("source"),
}

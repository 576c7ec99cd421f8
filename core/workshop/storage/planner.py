"""Volumes on a drive so that every system that can starts and sees what it should; said is what can't be had."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import combinations

from core.workshop.storage import StorageError
from core.workshop.storage.clusters import FileSystem, Format, best_format, least_size, most_size
from core.workshop.storage.sizes import MIB, written
from core.workshop.storage.systems import Code, Starts, System
from core.workshop.storage.volumes import Drive, Sees, Shared, StoragePlan, Volume, Wish

MOST_SYSTEMS = 8
LETTERS = "CDEFGHIJKLMNOPQRSTUVWXYZ"
# A cut of a volume in two is offered where it saves so much, and red from so much lost. Common practice, no source.
WORTH_CUTTING, MUCH_LOST = 8 * MIB, 60 * MIB


def plan(drive: Drive, wishes: Sequence[Wish], shared: Shared | None = None) -> StoragePlan:
    """Raises StorageError for what can’t be planned at all: no system, too many, two of a name, a base that is not
    there."""
    _check(wishes)
    systems = [wish.system for wish in wishes]
    refused: list[str] = []
    chosen = _that_start(drive, wishes, refused)
    front = _front(drive, [wish.system for wish in chosen])
    sizes = _sizes(drive, chosen, front, refused)
    volumes: list[Volume] = []
    at = front
    for wish, size in zip(chosen, sizes, strict=True):
        form = _own_format(drive, wish.system, size)
        assert form is not None
        volumes.append(Volume(LETTERS[len(volumes)], at, size, form, wish.system.name, wish.files))
        at += size
    if shared is not None:
        # Who wanted a volume and got none has no say in it.
        sharing = [w.system for w in wishes if w.shares and (not w.system.has_volume or w in chosen)]
        volumes += _shared(drive, sharing, shared, at, len(volumes), refused)
        beyond = [one for one in sharing if one.own_driver or drive.overlay]
        if shared.space is None and volumes and any(_behind(drive, one, volumes[-1].end) for one in beyond):
            # What lies beyond the reach of the others is for those who see it.
            volumes += _shared(drive, beyond, Shared(), volumes[-1].end, len(volumes), [])
    at = volumes[-1].end if volumes else front
    sees = {one.name: tuple(_sees(drive, one, volume) for volume in volumes) for one in systems}
    refused += [
        f"{one.name} sees none of them: leave it on floppy."
        for one in systems
        if volumes and all(see is Sees.NO for see in sees[one.name])
    ]
    order = _order([one for one in systems if one.starts is not Starts.FLOPPY and _starts_here(one, chosen)])
    cuts = tuple(filter(None, (_cut(drive, systems, volume, len(volumes)) for volume in volumes)))
    beyond_firmware = drive.size - max(at, drive.reach(driver=False))
    if beyond_firmware * 4 > drive.size and drive.reach(driver=False) < drive.reach(driver=True):
        cuts += (
            f"{written(beyond_firmware)} lie beyond the firmware: an overlay, or a system with a driver of its own, "
            "would reach them.",
        )
    return StoragePlan(
        drive, tuple(volumes), sees, order, tuple(dict.fromkeys(refused)), cuts, drive.size - at, tuple(systems)
    )


def with_labels(found: StoragePlan, labels: Sequence[str]) -> StoragePlan:
    """The plan with names for its volumes, front to back. Raises StorageError for more names than volumes, two alike,
    or one that confuses a system that sees its volume."""
    if len(labels) > len(found.volumes):
        raise StorageError(f"{len(found.volumes)} volumes only: fewer names.", "labels")
    if twice := next((one for one in labels if one and [name.lower() for name in labels].count(one.lower()) > 1), ""):
        raise StorageError(f"“{twice}” twice: an installer may take one for the other.", "labels")
    for place, label in enumerate(labels):
        for system in found.systems:
            if found.sees[system.name][place] is not Sees.NO and (why := system.label_problem(label)):
                raise StorageError(why, "labels")
    named = [replace(one, label=label) for one, label in zip(found.volumes, labels, strict=False)]
    return replace(found, volumes=(*named, *found.volumes[len(labels) :]))


def _check(wishes: Sequence[Wish]) -> None:
    if not wishes:
        raise StorageError("Choose at least one system.", "systems")
    if len(wishes) > MOST_SYSTEMS:
        raise StorageError(f"{MOST_SYSTEMS} systems at most.", "systems")
    names = [wish.system.name for wish in wishes]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise StorageError(f"{twice} stands there twice.", "systems")
    for wish in wishes:
        if wish.system.starts is Starts.ON:
            base = next((other.system for other in wishes if other.system.name == wish.system.on), None)
            if base is None or base.starts is Starts.ON:
                raise StorageError(f"{wish.system.name} runs on {wish.system.on}: choose that too.", "systems")


def _start_reach(drive: Drive, system: System) -> int:
    """How far from the front a system can start: what starts it is read through the firmware."""
    reach = drive.reach(driver=False)
    return min(reach, system.start_within) if system.start_within is not None else reach


def _grains(drive: Drive, size: int) -> int:
    """So many grains, rounded up."""
    return -(-size // drive.grain)


def _front(drive: Drive, systems: Iterable[System]) -> int:
    """Bytes before the first volume: the partition table’s track, or what a system takes for itself."""
    return drive.grain * max(1, _grains(drive, max((one.front for one in systems), default=0)))


def _that_start(drive: Drive, wishes: Sequence[Wish], refused: list[str]) -> list[Wish]:
    """As many as can start, those named first preferred; in the order of their volumes: what wants the first volume
    first, then what can start least far from the front."""
    able = []
    for wish in wishes:
        if not wish.system.has_volume:
            continue
        if wish.system.start_id not in {None, drive.id}:
            now = f"this one has {drive.id}" if drive.id is not None else "nobody said which this one has"
            refused.append(f"{wish.system.name} starts from id {wish.system.start_id} only, {now}: set it.")
            continue
        if _least(drive, wish) is None:
            refused.append(
                f"{wish.system.name} can’t start from it: no volume it writes is in reach. Start it from floppy."
            )
        else:
            able.append(wish)
    for count in range(len(able), 0, -1):
        for some in combinations(able, count):
            placed = sorted(some, key=lambda w: (w.system.starts is not Starts.FIRST, _start_reach(drive, w.system)))
            if not _quarrel(some) and _least_fits(drive, placed):
                refused += [_why_left_out(drive, wish, placed) for wish in able if wish not in some]
                return placed
    return []


def _quarrel(wishes: Sequence[Wish]) -> bool:
    """Two want the first volume, and nothing hides one from the other."""
    manages = any(wish.system.code is Code.MANAGES for wish in wishes)
    return not manages and sum(wish.system.starts is Starts.FIRST for wish in wishes) > 1


def _why_left_out(drive: Drive, wish: Wish, chosen: Sequence[Wish]) -> str:
    name = wish.system.name
    if _quarrel([*chosen, wish]):
        first = next(one.system.name for one in chosen if one.system.starts is Starts.FIRST)
        return f"{name} wants the first volume, which {first} has: start it from floppy, or take a boot manager."
    reach = written(_start_reach(drive, wish.system))
    return f"{name} has no room within the first {reach} it can start from: start it from floppy."


def _least(drive: Drive, wish: Wish) -> int | None:
    """The smallest volume, in grains, that it needs and can be formatted for it; None where it can’t be."""
    system = wish.system
    most = min(max(system.writes.values()), _start_reach(drive, system) - drive.grain) // drive.grain
    needs = max(1, _grains(drive, system.needs))
    # Beside what it needs, the least its file systems can be: a few grains above it their tables fit too.
    for start in sorted(
        {needs, *(max(needs, _grains(drive, least_size(kind, drive.sector))) for kind in system.writes)}
    ):
        for size in range(start, min(most, start + 8) + 1):
            if _own_format(drive, system, size * drive.grain):
                return size
    return None


def _least_fits(drive: Drive, placed: Sequence[Wish]) -> bool:
    at = _front(drive, [wish.system for wish in placed])
    for wish in placed:
        at += (_least(drive, wish) or 0) * drive.grain
        if at > _start_reach(drive, wish.system):
            return False
    return True


def _sizes(drive: Drive, placed: Sequence[Wish], front: int, refused: list[str]) -> list[int]:
    """Bytes of each own volume: as wanted, else as near as all of them leave room for."""
    least = [_least(drive, wish) or 0 for wish in placed]
    sizes: list[int] = []
    at = front
    for place, wish in enumerate(placed):
        wanted = max(least[place], _grains(drive, wish.space))
        most = wanted
        # Those behind it keep what they need, each within its own reach.
        for behind in range(place, len(placed)):
            room = (_start_reach(drive, placed[behind].system) - at) // drive.grain
            most = min(most, room - sum(least[place + 1 : behind + 1]))
        size = _largest(drive, wish.system, least[place], max(least[place], most))
        if size < wanted:
            had = written(size * drive.grain)
            refused.append(
                f"{wish.system.name} wanted {written(wish.space)} for itself; {had} is the most it can have."
            )
        sizes.append(size * drive.grain)
        at += size * drive.grain
    return sizes


def _largest(drive: Drive, system: System, least: int, most: int) -> int:
    """The largest size in grains from `least` to `most` that it can be formatted for; `least` can."""
    tried = _down(min(most, _bound(drive, system.writes, system.most_cluster)))
    return max(least, next((size for size in tried if _own_format(drive, system, size * drive.grain)), least))


def _bound(drive: Drive, most: Mapping[FileSystem, int], most_cluster: int) -> int:
    """In grains, what no volume of these kinds is larger than, each up to its own most; 0 where none can be at all."""
    able = (
        min(size, most_size(kind, most_cluster, drive.sector))
        for kind, size in most.items()
        if size >= least_size(kind, drive.sector) and (kind is FileSystem.OWN or most_cluster >= drive.sector)
    )
    return max(able, default=0) // drive.grain


def _down(size: int) -> range:
    """From a bound down: what the tables take is a few grains at most, so that further down it is no better."""
    return range(size, max(0, size - 8), -1)


def _own_format(drive: Drive, system: System, size: int) -> Format | None:
    allowed = [one for one, most in system.writes.items() if size <= most]
    return best_format(size, allowed, system.most_cluster, drive.sector)


def _shared(
    drive: Drive, systems: Sequence[System], shared: Shared, at: int, taken: int, refused: list[str]
) -> list[Volume]:
    """Volumes behind the others that all write, as large as can be; of those who can’t, the fewest are left out."""
    among = _sharers(drive, systems, at, refused)
    if not among:
        refused.append("No space can be shared: no file system is written by any of them behind the others.")
        return []
    allowed, cluster = _common(among), min(one.most_cluster for one in among)
    room = (min(drive.reach(one.own_driver) for one in among) - at) // drive.grain
    wanted = room if shared.space is None else min(room, _grains(drive, shared.space))
    bounds = {kind: min(one.writes[kind] for one in among) for kind in allowed}
    tried = _down(min(wanted, _bound(drive, bounds, cluster)))
    most = next((size for size in tried if _shared_format(drive, among, allowed, size * drive.grain, cluster)), 0)
    if not most:
        refused.append(f"{written(wanted * drive.grain)} are left to share, less than any of them can format.")
        return []
    # Of like size, so that none is a scrap.
    count = min(-(-wanted // most), len(LETTERS) - taken)
    whole = min(wanted, count * most)
    found: list[Volume] = []
    for place in range(count):
        size = (whole // count + (place < whole % count)) * drive.grain
        form = _shared_format(drive, among, allowed, size, cluster)
        if form is None:
            break
        found.append(Volume(LETTERS[taken + place], at, size, form))
        at += size
    had = sum(volume.size for volume in found)
    if shared.space is not None and had < shared.space:
        refused.append(
            f"{written(shared.space)} to share were wanted; {written(had)} is the most all of them can write."
        )
    return _with_files(found, shared.files)


def _sharers(drive: Drive, systems: Sequence[System], at: int, refused: list[str]) -> list[System]:
    """Those that can share: the most of them that have a file system in common and reach behind the others."""
    able = [one for one in systems if one.writes and _behind(drive, one, at)]
    for count in range(len(able), 0, -1):
        for some in combinations(able, count):
            if _common(some):
                names = ", ".join(one.name for one in systems if one not in some)
                if names:
                    refused.append(f"Shared space is not for {names}: nothing that all of them write is in reach.")
                return list(some)
    return []


def _behind(drive: Drive, system: System, at: int) -> bool:
    """It reaches so far that a volume can lie behind this."""
    return drive.reach(system.own_driver) - at >= drive.grain


def _common(systems: Sequence[System]) -> list[FileSystem]:
    """What all of them write; a system’s own is nobody else’s."""
    found = [one for one in FileSystem if all(one in system.writes for system in systems)]
    return found if len(systems) == 1 else [one for one in found if one is not FileSystem.OWN]


def _shared_format(
    drive: Drive, among: Sequence[System], allowed: Sequence[FileSystem], size: int, cluster: int
) -> Format | None:
    may = [one for one in allowed if all(size <= system.writes[one] for system in among)]
    return best_format(size, may, cluster, drive.sector)


def _with_files(volumes: list[Volume], files: int | None) -> list[Volume]:
    """Files spread by size, so that they add up."""
    if files is None or not volumes:
        return volumes
    whole, left, found = sum(volume.size for volume in volumes), files, []
    for volume in volumes[:-1]:
        share = files * volume.size // whole
        found.append(replace(volume, files=share))
        left -= share
    return [*found, replace(volumes[-1], files=left)]


def _sees(drive: Drive, system: System, volume: Volume) -> Sees:
    if volume.end > drive.reach(system.own_driver):
        return Sees.NO
    kind = volume.format.system
    if kind is FileSystem.OWN and volume.of not in {"", system.name}:
        return Sees.NO
    if volume.size <= system.writes.get(kind, 0) and volume.format.cluster <= system.most_cluster:
        return Sees.BOOTS if volume.of == system.name else Sees.WRITES
    return Sees.READS if volume.size <= system.reads.get(kind, 0) else Sees.NO


def _starts_here(system: System, chosen: Sequence[Wish]) -> bool:
    """It is installed on the drive: it starts from a volume of its own, or on top of one that does."""
    names = {wish.system.name for wish in chosen}
    return system.name in names or (system.starts is Starts.ON and system.on in names)


def _order(systems: Sequence[System]) -> tuple[System, ...]:
    """Older first, what runs on another behind it, what overwrites boot code just before the manager, that last."""
    last = {Code.LEAVES: 0, Code.OVERWRITES: 1, Code.MANAGES: 2}
    # What one runs on is no later than what runs on it.
    rank = {one.name: (last[one.code], one.order) for one in systems}
    found = sorted((one for one in systems if one.starts is not Starts.ON), key=lambda one: rank[one.name])
    for one in sorted((one for one in systems if one.starts is Starts.ON), key=lambda one: rank[one.name]):
        base = next(place for place, other in enumerate(found) if other.name == one.on)
        behind = base + 1
        while behind < len(found) and (found[behind].on == one.on or rank[found[behind].name] <= rank[one.name]):
            behind += 1
        found.insert(behind, one)
    return tuple(found)


def _cut(drive: Drive, systems: Sequence[System], volume: Volume, count: int) -> str:
    """What cutting a shared volume in two would save, in words; empty where that is little."""
    if volume.of or not volume.waste or count >= len(LETTERS):
        return ""
    half = volume.size // drive.grain // 2 * drive.grain
    writers = [one for one in systems if _sees(drive, one, volume) is Sees.WRITES]
    form = _shared_format(drive, writers, _common(writers), half, min(one.most_cluster for one in writers))
    if form is None:
        return ""
    lost = form.waste(volume.files or 0)
    if volume.waste - lost < WORTH_CUTTING:
        return ""
    return (
        f"{volume.letter} as two of {written(half)} would lose {written(lost)} instead of {written(volume.waste)}, "
        "and needs one more letter."
    )

"""Goes over a finished plan by itself: what it says of clusters, reaches, starting and losses is worked out anew.

Shares no code with the planner: clusters are found by trying how many still fit, what a system may do with a volume is
read straight off its rules.
"""

from core.workshop.storage.systems import System
from core.workshop.storage.volumes import StoragePlan, Volume


def problems(plan: StoragePlan) -> list[str]:
    """Every way in which a plan breaks a rule, in words; empty where it holds."""
    return [*_places(plan), *_formats(plan), *_starts(plan), *_matrix(plan), *_labels_and_sums(plan), *_order(plan)]


def _places(plan: StoragePlan) -> list[str]:
    found, last = [], 63 * plan.drive.sector
    if any(one.front > (plan.volumes[0].start if plan.volumes else 0) for one in _starting(plan)):
        found.append("What a system takes at the front is overlaid.")
    for volume in plan.volumes:
        if volume.start < last:
            found.append(f"{volume.letter} begins before what lies before it ends.")
        if volume.size <= 0 or volume.size % plan.drive.sector or volume.start % plan.drive.sector:
            found.append(f"{volume.letter} is not made of whole sectors.")
        last = volume.start + volume.size
    if plan.volumes and last > plan.drive.size:
        found.append("The last volume runs over the end of the drive.")
    return found


def _formats(plan: StoragePlan) -> list[str]:
    return [
        f"{volume.letter}: {volume.format.clusters} clusters of {volume.format.cluster} are not {volume.format.system}."
        for volume in plan.volumes
        if volume.format.cluster and not _is_format(volume, plan.drive.sector)
    ]


def _is_format(volume: Volume, sector: int) -> bool:
    kind, count, cluster = str(volume.format.system), volume.format.clusters, volume.format.cluster
    low, high = {"FAT12": (1, 4084), "FAT16": (4085, 65524), "FAT32": (65525, 268435444)}[kind]
    if not low <= count <= high or cluster & (cluster - 1) or cluster < sector:
        return False

    def bytes_for(clusters: int) -> int:
        bits = int(kind[3:])
        table = ((clusters + 2) * bits / 8) / sector
        tables = 2 * (int(table) + (table > int(table)))
        head = 32 * sector if bits == 32 else sector + 16384
        return head + tables * sector + clusters * cluster

    # That many fit; a few more would not (their tables may take the room of one).
    return bytes_for(count) <= volume.size < bytes_for(count + 2)


def _starting(plan: StoragePlan) -> list[System]:
    names = {volume.of for volume in plan.volumes}
    return [one for one in plan.systems if one.name in names]


def _starts(plan: StoragePlan) -> list[str]:
    found = []
    firmware = min(
        [plan.drive.size, *(end.size for end in plan.drive.ends if end.drivers_too or not plan.drive.overlay)]
    )
    manager = any(one.code == "manages" for one in _starting(plan))
    firsts = [one.name for one in _starting(plan) if one.starts == "first"]
    if len(firsts) > 1 and not manager:
        found.append(f"{' and '.join(firsts)} both want the first volume.")
    for one in _starting(plan):
        own = [volume for volume in plan.volumes if volume.of == one.name]
        if len(own) != 1:
            found.append(f"{one.name} has {len(own)} volumes of its own.")
        if one.starts == "first" and not manager and own[0] is not plan.volumes[0]:
            found.append(f"{one.name} does not start from the first volume.")
        within = firmware if one.start_within is None else min(firmware, one.start_within)
        if own[0].start + own[0].size > within:
            found.append(f"{one.name} lies beyond what it can start from.")
        if one.start_id is not None and plan.drive.id != one.start_id:
            found.append(f"{one.name} does not start from this id.")
        if own[0].size < one.needs:
            found.append(f"{one.name} has less than it needs.")
        if one.starts in {"floppy", "on"}:
            found.append(f"{one.name} has a volume and starts elsewhere.")
    return found


def _matrix(plan: StoragePlan) -> list[str]:
    found = []
    for one in plan.systems:
        row = plan.sees.get(one.name, ())
        if len(row) != len(plan.volumes):
            found.append(f"{one.name} has no row.")
            continue
        for volume, said in zip(plan.volumes, row, strict=True):
            if str(said) != (right := _does(plan, one, volume)):
                found.append(f"{one.name} and {volume.letter}: {right}, not {said}.")
    return found


def _does(plan: StoragePlan, system: System, volume: Volume) -> str:
    for end in plan.drive.ends:
        held = end.drivers_too or not (system.own_driver or plan.drive.overlay)
        if held and volume.start + volume.size > end.size:
            return "no"
    kind = volume.format.system
    if str(kind) == "own" and volume.of != system.name and volume.of:
        return "no"
    write, read = system.writes.get(kind), system.reads.get(kind)
    if write is not None and volume.size <= write and volume.format.cluster <= system.most_cluster:
        return "boots" if volume.of == system.name else "writes"
    return "reads" if read is not None and volume.size <= read else "no"


def _labels_and_sums(plan: StoragePlan) -> list[str]:
    found = []
    letters = [volume.letter for volume in plan.volumes]
    if letters != sorted(set(letters)) or (letters and letters[0] != "C"):
        found.append("Letters do not run on from C.")
    lost = sum(volume.files * volume.format.cluster // 2 for volume in plan.volumes if volume.files is not None)
    if plan.waste != lost:
        found.append(f"{plan.waste} bytes are said to be lost, {lost} are.")
    end = plan.volumes[-1].start + plan.volumes[-1].size if plan.volumes else plan.drive.size - plan.spare
    if plan.spare < 0 or end + plan.spare != plan.drive.size:
        found.append("Volumes and what is spare do not make the drive.")
    return found


def _order(plan: StoragePlan) -> list[str]:
    found = []
    names = [one.name for one in plan.order]
    for place, one in enumerate(plan.order):
        if one.starts == "on" and one.on not in names[:place]:
            found.append(f"{one.name} is installed before {one.on}.")
        for later in plan.order[place + 1 :]:
            based = later.starts == "on" or one.starts == "on"
            if not based and one.code == "manages" and later.code != "manages":
                found.append(f"{later.name} is installed after the boot manager.")
            if not based and one.code == "overwrites" and later.code == "leaves":
                found.append(f"{later.name} is installed after {one.name}, which overwrites boot code.")
            if not based and one.code == later.code and one.order > later.order:
                found.append(f"{one.name} is newer than {later.name} and installed before it.")
    return found

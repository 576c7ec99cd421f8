"""A storage plan as a recipe: what is saved first, volumes, systems in their order with their restarts, drivers."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.recipes import MOST_MINUTES, MOST_RESTARTS, MOST_STEPS, JobKind, Need, Proof, Recipe, Step
from core.safety import Hazard
from core.workshop.storage import StorageError
from core.workshop.storage.sizes import written
from core.workshop.storage.systems import Starts, System
from core.workshop.storage.volumes import Sees, StoragePlan

MOST_DRIVERS = 16
# How the step begins that installs a system: what was tried at it is kept under that.
INSTALL = "Install "
# How the step begins that makes the disks or the card it is installed from, read back and compared.
WRITE = "Write "
# Minutes for each disk of a set that is written and read back: common practice, no source.
DISK_MINUTES = 3


@dataclass(frozen=True)
class Driver:
    """Minutes of hands, and restarts."""

    name: str
    minutes: int = 5
    restarts: int = 1


_DRIVER = re.compile(r"([^:]{1,40}):\s*(\d{1,3})\s*min(?:,\s*(\d{1,2})\s*restarts?)?")


def read_drivers(typed: str) -> tuple[Driver, ...]:
    """A line each in their order: "sound: 6 min, 1 restart". Raises StorageError with the line."""
    found = []
    for number, line in enumerate(typed.splitlines(), 1):
        if not line.strip():
            continue
        match = _DRIVER.fullmatch(line.strip())
        if not match or int(match[2]) > MOST_MINUTES or int(match[3] or 0) > MOST_RESTARTS:
            raise StorageError(
                f"Line {number}: a name, a colon, its minutes: sound: 6 min, 1 restart.", "drivers", number
            )
        found.append(Driver(match[1].strip(), int(match[2]), int(match[3] or 0)))
    if len(found) > MOST_DRIVERS:
        raise StorageError(f"{MOST_DRIVERS} drivers at most.", "drivers")
    return tuple(found)


@dataclass(frozen=True)
class Before:
    """What stands before it: whether what is on the old drive is kept as an image, where that drive is set aside, and
    the adapter’s firmware with the newest known (empty: there is none, or nobody knows)."""

    keep_old: bool = True
    set_aside: str = ""
    adapter: str = ""
    newest: str = ""


def recipe(plan: StoragePlan, before: Before, drivers: Sequence[Driver] = ()) -> Recipe:
    """Steps that can be left and taken up. Raises StorageError for a plan from which nothing starts."""
    if not plan.order:
        raise StorageError("Nothing would start from it.", "systems")
    steps = [*_first(before), *(_media(system) for system in plan.order if system.media), _volumes(plan)]
    at = {volume.of: volume.letter for volume in plan.volumes if volume.of}
    for system in plan.order:
        where = at.get(system.name) or at.get(system.on, "")
        media = f" from {system.media}" if system.media else ""
        steps.append(
            Step(
                f"{INSTALL}{system.name}: on {where}{media}. Each failure is noted with its words and what is varied.",
                system.minutes,
                system.alone,
                needs=(Need(system.media),) if system.media else (),
                undone=False,
                attended=True,
                restarts=system.restarts,
            )
        )
    steps += [
        Step(f"Driver: {one.name}.", one.minutes, attended=True, restarts=one.restarts, undone=True) for one in drivers
    ]
    for system in plan.systems:
        seen = [
            volume.letter
            for volume, sees in zip(plan.volumes, plan.sees[system.name], strict=True)
            if sees is not Sees.NO
        ]
        if system.starts is Starts.FLOPPY and seen:
            steps.append(
                Step(f"Start {system.name} from floppy; it reads {', '.join(seen)}.", 5, attended=True, restarts=1)
            )
    steps += [
        Step("From cold it comes up by itself: a photo of what it shows.", 3, 2, proof=Proof.PHOTO, attended=True),
        Step("First copy of the finished drive, read back and equal; label the drive.", 6, 20),
    ]
    if len(steps) > MOST_STEPS:
        raise StorageError(
            f"That is {len(steps)} steps; a job has {MOST_STEPS} at most. Plan fewer drivers.", "drivers"
        )
    return Recipe(
        "storage-install", f"Set up {written(plan.drive.size)} for {_names(plan)}"[:80], JobKind.SOFTWARE, tuple(steps)
    )


def _names(plan: StoragePlan) -> str:
    return ", ".join(system.name for system in plan.order)


def _first(before: Before) -> list[Step]:
    steps = []
    if before.set_aside:
        steps.append(Step(f"Set the original drive aside: {before.set_aside}; label it.", 4, hazards=(Hazard.STATIC,)))
    if before.keep_old:
        steps.append(
            Step(
                "Copy the old drive to a file, write-protected, read twice and equal. Keep it until the machine sells.",
                5,
                60,
                proof=Proof.COUNT,
                asks="blocks that could not be read",
            )
        )
    if before.adapter and before.adapter != before.newest:
        newest = (
            f", {before.newest} is the newest known: load that first" if before.newest else ": is there a newer one?"
        )
        steps.append(Step(f"The adapter’s firmware is {before.adapter}{newest}."[:300], 6, undone=False))
    steps.append(Step("Wipe the new medium from end to end, and record it.", 3, 15, undone=False))
    return steps


def _media(system: System) -> Step:
    """The set is written before anything is formatted: a disk that reads badly costs minutes here, an evening later."""
    counted = re.match(r"(\d{1,2})\b", system.media)
    return Step(
        f"{WRITE}{system.name}: {system.media}, from the images that are kept; each is read back and compared.",
        DISK_MINUTES * max(1, int(counted[1]) if counted else 1),
        proof=Proof.COUNT,
        asks="how many did not read back equal",
        high=Decimal(0),
        undone=False,
    )


def _volumes(plan: StoragePlan) -> Step:
    made = "; ".join(
        f"{volume.letter}{f' “{volume.label}”' if volume.label else ''} {written(volume.size)} {volume.format.system}"
        + (f", clusters of {written(volume.format.cluster)}" if volume.format.cluster else "")
        for volume in plan.volumes
    )
    rest = f" Leave {written(plan.spare)} free." if plan.spare >= plan.drive.grain else ""
    return Step(f"Make the volumes: {made}. C active.{rest}"[:300], 6, 5, undone=False, attended=True, restarts=1)

"""A drive to scale in bytes: its volumes, where a reach ends, what is lost in clusters."""

from dataclasses import dataclass
from typing import Any

from core.workshop.storage.planner import MUCH_LOST
from core.workshop.storage.sizes import MIB, written
from core.workshop.storage.volumes import StoragePlan, Volume

WIDE, BESIDE, NARROW = 1180.0, 700.0, 340.0
# Under so many units a volume has its letter only.
WORDS_FROM, NAME_FROM = 96.0, 22.0


@dataclass(frozen=True)
class VolumeDrawn:
    volume: Volume
    x: float
    wide: float
    words: str

    @property
    def named(self) -> bool:
        return self.wide >= NAME_FROM

    @property
    def middle(self) -> float:
        return self.x + self.wide / 2

    @property
    def told(self) -> bool:
        """Its words stand in it, not in the list alone."""
        return self.wide >= WORDS_FROM


@dataclass(frozen=True)
class EndDrawn:
    """A stem where a reach ends; `decides`: something lies beyond it, or would. `row`: so that words do not overlap."""

    x: float
    name: str
    figure: str
    decides: bool
    row: int
    before: bool

    @property
    def y(self) -> float:
        return 4.0 + 34 * self.row


@dataclass(frozen=True)
class Lost:
    """What a volume loses in clusters; None where nobody knows how many files there will be."""

    volume: Volume
    mib: float | None
    bar: float
    much: bool


@dataclass(frozen=True)
class DriveDrawn:
    width: float
    volumes: tuple[VolumeDrawn, ...]
    ends: tuple[EndDrawn, ...]
    spare: VolumeDrawn | None
    lost: tuple[Lost, ...]
    bar_y: float
    high: float


def drive_drawn(plan: StoragePlan, width: float = WIDE) -> DriveDrawn:
    """Front at the left. A front that is too thin to be seen is not drawn."""
    ends = sorted(plan.drive.ends, key=lambda end: end.size)
    whole = max([plan.drive.size, *(end.size for end in ends if end.size < plan.drive.size * 1.15)])
    scale = width / whole
    volumes = tuple(
        VolumeDrawn(one, one.start * scale, max(1.0, one.size * scale), written(one.size)) for one in plan.volumes
    )
    last = plan.volumes[-1].end if plan.volumes else 0
    free = plan.drive.size - last
    spare = None
    if free * scale >= 1:
        words = f"spare {written(free)}"
        spare = (
            VolumeDrawn(Volume("", last, free, plan.volumes[0].format), last * scale, free * scale, words)
            if volumes
            else None
        )
    stems = []
    for row, end in enumerate(ends):
        beyond = end.size < plan.drive.size
        x = min(end.size, whole) * scale
        stems.append(EndDrawn(x, f"{end.name} ends", f"{end.size:,}", beyond, row, x > width * 0.6))
    most = max([MIB, *(one.waste or 0 for one in plan.volumes)])
    lost = tuple(
        Lost(
            one,
            None if one.waste is None else one.waste / MIB,
            130 * (one.waste or 0) / most,
            (one.waste or 0) > MUCH_LOST,
        )
        for one in plan.volumes
        if one.format.cluster
    )
    bar_y = 8.0 + 34 * len(stems)
    return DriveDrawn(width, volumes, tuple(stems), spare, lost, bar_y, bar_y + 62)


# Beyond so many volumes who sees what stands turned: a volume a row.
MOST_ACROSS = 8


def drawn(plan: StoragePlan, width: float = WIDE) -> dict[str, Any]:
    """A plan as pages show it, `width` units across on a desk."""
    return {
        "desk": drive_drawn(plan, width),
        "phone": drive_drawn(plan, NARROW),
        "matrix": [(system, list(zip(plan.volumes, plan.sees[system.name], strict=True))) for system in plan.systems],
        "turned": [
            (volume, [(system, plan.sees[system.name][place]) for system in plan.systems])
            for place, volume in enumerate(plan.volumes)
        ]
        if len(plan.volumes) > MOST_ACROSS
        else [],
        "hands": sum(system.minutes for system in plan.order),
        "restarts": sum(system.restarts for system in plan.order),
    }

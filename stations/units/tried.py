"""Whether it was found out if a unit works: asked by earlier rooms of whoever tests."""

from collections.abc import Callable

from stations.common.registry import Registry
from stations.units.models import Unit

# Who knows whether a step that shows if it works was passed or failed on a unit.
kinds: Registry[Callable[[Unit], bool]] = Registry("who knows whether it was tried")


def was_tried(unit: Unit) -> bool:
    return any(asked(unit) for asked in kinds.values())

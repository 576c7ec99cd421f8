"""What is recorded as not in a unit, and its model has or somebody ticked as there: the plan does not ask for what it
needs, so it is asked whether that is right.

Common practice, no source: a fact that takes a caution away is looked at twice.
"""

from dataclasses import dataclass

from core.machine.supply import Battery, Supply

_INSIDE = frozenset({Supply.LINEAR, Supply.SWITCHING})
_UNKNOWN = frozenset({Supply.UNKNOWN})


@dataclass(frozen=True)
class Inside:
    """What there is to mind in a machine; None or unknown where nobody said."""

    picture_tube: bool | None = None
    battery: Battery = Battery.UNKNOWN
    supply: Supply = Supply.UNKNOWN


def left_out(of_model: Inside, here: Inside, ticked_tube: bool = False, ticked_battery: bool = False) -> list[str]:
    """A sentence for each thing recorded as not `here` that its model has, or that is ticked as there."""
    found = []
    if here.picture_tube is False and (of_model.picture_tube or ticked_tube):
        found.append(f"{_whose(ticked_tube)} a CRT, and none is recorded in it: nobody is asked to discharge it.")
    if here.battery is Battery.NONE and (of_model.battery.is_in or ticked_battery):
        found.append(
            f"{_whose(ticked_battery)} a battery, and none is recorded in it: nobody is asked to look for a leak. "
            "Of one that was taken out, say so."
        )
    if of_model.supply in _INSIDE and here.supply not in _INSIDE | _UNKNOWN:
        found.append(
            f"Its model has its PSU inside ({of_model.supply.label}), and “{here.supply.label}” is recorded: nobody is "
            "asked to discharge it."
        )
    return found


def _whose(ticked: bool) -> str:
    return "What came with it has" if ticked else "Its model has"

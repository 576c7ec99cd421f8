"""From which end of a machine to which end of a part a way is wanted."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs, Screen
from core.catalogue.fit.paths import ANY, Path, Rates, Ways, Wish, all_of, end
from core.catalogue.fit.rules.outside import taken


@dataclass(frozen=True)
class Wanted:
    """A way from `start` to `goal`, with the rates that come in and what the goal takes."""

    start: str
    goal: str
    given: Rates = ANY
    takes: Callable[[Rates], bool] = all_of

    def ways(self, among: Ways, wish: Wish) -> list[Path]:
        """The best ways, the best first."""
        return among.several(self.start, self.goal, wish, self.given, self.takes)


def wanted(machine: Machine, part: Needs) -> Iterator[Wanted]:
    """Every pair of ends that is not the same plug and could be joined."""
    for drive in part.drives or ():
        for bus in machine.offers.buses or ():
            if not bus.plug or not drive.plug or not bus.interface or end(bus.plug) == end(drive.plug):
                continue
            if drive.interface is None or drive.interface.split()[0] == bus.interface.split()[0]:
                yield Wanted(bus.plug, drive.plug)
    for wire in part.wires or ():
        for port in machine.offers.ports or ():
            alike = (port.protocol or "").lower() == (wire.protocol or "").lower()
            if port.plug and wire.plug and alike and end(port.plug) != end(wire.plug):
                yield Wanted(port.plug, wire.plug)
    for screen in part.screens or ():
        for picture in machine.offers.pictures or ():
            for signal in screen.signals or ():
                if picture.end and screen.plug:
                    goal, given = f"{screen.plug}/{signal}", Rates(picture.line, picture.field)
                    if end(goal) != end(picture.end) or taken(screen, given) is False:
                        yield Wanted(picture.end, goal, given, partial(_locks, screen))


def _locks(screen: Screen, rates: Rates) -> bool:
    """Whether a screen may be given these; what is not known is not ruled out."""
    return taken(screen, rates) is not False

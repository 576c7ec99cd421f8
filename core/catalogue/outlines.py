"""The usual outline of a machine by its form factor: where to begin when nobody has taken one apart here yet.

Common practice, no source: minutes, counts and places are put right on the machine itself.
"""

from collections.abc import Mapping

from core.catalogue.assemblies import Assembly, Fastener, Plug, StoredCharge, StripDown
from core.machine.casing import FormFactor
from core.safety import Hazard

_MAINS = Hazard.CHARGE


def _a(name: str, layer: int, x: tuple[int, int], minutes: tuple[int, int], *ways: str, **more) -> Assembly:  # type: ignore[no-untyped-def]
    needs = tuple(frozenset(way.split(" + ")) for way in ways)
    return Assembly(name, layer, *x, *minutes, needs, **more)


def _screws(count: int) -> tuple[Fastener, ...]:
    return (Fastener(count),)


_BOARD = {"board": True, "hazards": (Hazard.STATIC,)}
_SUPPLY = {"charge": StoredCharge.SUPPLY}
_OUTLINES: Mapping[FormFactor, tuple[Assembly, ...]] = {
    FormFactor.KEYBOARD: (
        _a("Bottom screws and top shell", 0, (0, 400), (3, 4), fasteners=_screws(6)),
        _a("Keyboard", 1, (0, 400), (3, 4), "Bottom screws and top shell", plugs=(Plug("Keyboard ribbon"),)),
        _a("Shield", 2, (0, 400), (4, 5), "Keyboard", fasteners=_screws(4), hazards=(Hazard.EDGES,)),
        _a("Main board", 3, (0, 400), (4, 5), "Shield", fasteners=_screws(4), **_BOARD),
    ),
    FormFactor.DESKTOP: (
        _a("Lid", 0, (0, 400), (2, 2), fasteners=_screws(5), hazards=(Hazard.EDGES,)),
        _a(
            "Drive cage",
            1,
            (240, 400),
            (5, 6),
            "Lid",
            fasteners=_screws(4),
            plugs=(Plug("Drive ribbon"), Plug("Drive power")),
        ),
        _a("Power supply", 1, (240, 400), (5, 6), "Lid", fasteners=_screws(4), **_SUPPLY),
        _a("Cards", 1, (0, 150), (3, 4), "Lid", fasteners=_screws(3), **_BOARD),
        _a("Battery", 2, (150, 240), (2, 2), "Lid", hazards=(Hazard.LEAK,)),
        _a("Main board", 3, (0, 400), (6, 8), "Drive cage + Power supply + Cards", fasteners=_screws(7), **_BOARD),
    ),
    FormFactor.TOWER: (
        _a("Side panel", 0, (0, 200), (2, 2), fasteners=_screws(3), hazards=(Hazard.EDGES,)),
        _a("Cards", 1, (0, 200), (3, 4), "Side panel", fasteners=_screws(3), **_BOARD),
        _a(
            "Drive cage",
            1,
            (200, 420),
            (5, 6),
            "Side panel",
            fasteners=_screws(6),
            plugs=(Plug("Drive ribbon"), Plug("Drive power")),
        ),
        _a("Power supply", 1, (0, 200), (5, 6), "Side panel", fasteners=_screws(4), **_SUPPLY),
        _a("Battery", 2, (200, 260), (2, 2), "Side panel", hazards=(Hazard.LITHIUM,)),
        _a("Main board", 2, (0, 200), (6, 8), "Cards + Power supply", fasteners=_screws(8), **_BOARD),
    ),
    FormFactor.ALL_IN_ONE: (
        _a("Back shell", 0, (0, 250), (4, 5), fasteners=_screws(5), two_people=True),
        _a("CRT discharge", 1, (0, 250), (3, 2), "Back shell", charge=StoredCharge.TUBE, stays=True),
        _a("CRT neck board", 2, (60, 190), (2, 3), "CRT discharge", brittle=True, hazards=(Hazard.TUBE,)),
        _a(
            "Main board",
            2,
            (0, 250),
            (5, 6),
            "CRT discharge",
            plugs=(Plug("Display lead"), Plug("Drive ribbon")),
            **_BOARD,
        ),
        _a("Display and supply board", 2, (190, 250), (6, 8), "CRT neck board", fasteners=_screws(4), **_SUPPLY),
        _a("Drive", 3, (0, 150), (4, 5), "Main board", fasteners=_screws(4)),
    ),
    FormFactor.LAPTOP: (
        _a("Battery pack", 0, (0, 120), (1, 1), hazards=(Hazard.SWOLLEN_CELL,)),
        _a("Keyboard", 0, (0, 310), (5, 6), "Battery pack", clips=4, brittle=True, plugs=(Plug("Keyboard ribbon"),)),
        _a("Display", 1, (0, 310), (8, 10), "Keyboard", fasteners=_screws(4), plugs=(Plug("Display lead", tied=True),)),
        _a("Drive", 1, (200, 310), (3, 3), "Keyboard", fasteners=_screws(2)),
        _a("Upper shell", 2, (0, 310), (8, 10), "Display + Drive", fasteners=_screws(10), clips=8, brittle=True),
        _a("Main board", 3, (0, 310), (6, 8), "Upper shell", fasteners=_screws(5), **_BOARD),
    ),
    FormFactor.LUGGABLE: (
        _a("Handle and top cover", 0, (0, 480), (4, 4), fasteners=_screws(4), two_people=True),
        _a("CRT discharge", 1, (0, 200), (3, 2), "Handle and top cover", charge=StoredCharge.TUBE, stays=True),
        _a("Drive cage", 1, (210, 480), (6, 6), "CRT discharge", fasteners=_screws(4), plugs=(Plug("Drive ribbon"),)),
        _a("Power supply", 2, (210, 380), (6, 8), "Drive cage", fasteners=_screws(4), **_SUPPLY),
        _a("Cards", 3, (0, 200), (3, 4), "CRT discharge", fasteners=_screws(3), **_BOARD),
        _a("Main board", 4, (0, 480), (8, 10), "Power supply + Cards", fasteners=_screws(8), **_BOARD),
    ),
    FormFactor.TERMINAL: (
        _a("Cover", 0, (0, 380), (3, 4), fasteners=_screws(4), two_people=True),
        _a("CRT discharge", 1, (0, 380), (3, 2), "Cover", charge=StoredCharge.TUBE, stays=True),
        _a("CRT neck board", 2, (120, 260), (2, 3), "CRT discharge", brittle=True, hazards=(Hazard.TUBE,)),
        _a("Logic board", 2, (0, 120), (4, 5), "CRT discharge", fasteners=_screws(4), **_BOARD),
        _a("Supply board", 2, (260, 380), (6, 8), "CRT discharge", fasteners=_screws(4), **_SUPPLY),
    ),
    FormFactor.MONITOR: (
        _a("Back cover", 0, (0, 360), (3, 4), fasteners=_screws(4), two_people=True),
        _a("CRT discharge", 1, (0, 360), (3, 2), "Back cover", charge=StoredCharge.TUBE, stays=True),
        _a("CRT neck board", 2, (120, 240), (2, 3), "CRT discharge", brittle=True, hazards=(Hazard.TUBE,)),
        _a("Main and supply board", 3, (0, 360), (8, 10), "CRT neck board", fasteners=_screws(4), **_SUPPLY),
    ),
    FormFactor.DRIVE: (
        _a("Shell", 0, (0, 150), (2, 2), fasteners=_screws(4)),
        _a("Control board", 1, (0, 150), (3, 4), "Shell", fasteners=_screws(4), **_BOARD),
        _a("Mechanism", 1, (0, 150), (3, 4), "Shell", fasteners=_screws(4), plugs=(Plug("Motor plug"),)),
    ),
    FormFactor.ADAPTER: (
        _a("Shell", 0, (0, 80), (4, 5), fasteners=_screws(4), brittle=True, hazards=(_MAINS,)),
        _a("Transformer", 1, (0, 80), (6, 8), "Shell", fasteners=_screws(4), **_SUPPLY),
    ),
}


def outline(form_factor: FormFactor) -> StripDown:
    """The usual outline of a shape; empty for those that have none (a board, a card, a chip, a cabinet)."""
    return StripDown({assembly.name: assembly for assembly in _OUTLINES.get(form_factor, ())})

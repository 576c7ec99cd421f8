"""What can hurt somebody, and the usual caution for it: one wording each, said at every step where it applies.

Common practice, no source; every one defers to local rules and to people who are licensed for the work.
"""

from collections.abc import Iterable, Mapping
from enum import StrEnum


class Hazard(StrEnum):
    CHARGE = "charge"
    LIVE = "live"
    TUBE = "tube"
    STATIC = "static"
    LEAK = "leak"
    SWOLLEN_CELL = "swollen_cell"
    LITHIUM = "lithium"
    HEAT = "heat"
    SOLDER = "solder"
    SOLVENT = "solvent"
    PEROXIDE = "peroxide"
    DUST = "dust"
    SANDING = "sanding"
    LIFT = "lift"
    EDGES = "edges"
    MOVING = "moving"

    @property
    def label(self) -> str:
        return _LABELS[self]

    @property
    def words(self) -> str:
        return _WORDS[self]


_LABELS = {
    Hazard.CHARGE: "reaching into a PSU",
    Hazard.LIVE: "measuring while it runs",
    Hazard.TUBE: "work behind a CRT",
    Hazard.STATIC: "bare boards and chips",
    Hazard.LEAK: "a leaked cell or its crust",
    Hazard.SWOLLEN_CELL: "a swollen cell or pack",
    Hazard.LITHIUM: "lithium cells",
    Hazard.HEAT: "hot air or freezer spray",
    Hazard.SOLDER: "soldering",
    Hazard.SOLVENT: "solvents",
    Hazard.PEROXIDE: "whitening with peroxide",
    Hazard.DUST: "old dust or insulation",
    Hazard.SANDING: "sanding or spraying",
    Hazard.LIFT: "lifting something heavy",
    Hazard.EDGES: "sheet-metal edges",
    Hazard.MOVING: "fans, belts and spindles that turn",
}
_WORDS = {
    Hazard.CHARGE: "Unplugged is not discharged: a PSU holds its charge with the plug out. Discharge it with the "
    "proper tool, never with a screwdriver, and measure before you reach in.",
    Hazard.LIVE: "Live work: wrist strap off, one hand, insulated probes, nobody alone in the room. The mains side only "
    "by competent people under your local rules.",
    Hazard.TUBE: "CRT: only people trained for it, under your local rules. Implosion goggles, wrist strap off. "
    "Discharge before each reach to the neck or the anode, until a second discharge stays silent; never put a hand meter "
    "on an anode.",
    Hazard.STATIC: "Bare boards and chips: plug out, wrist strap and mat. Strap off again before anything is live.",
    Hazard.LEAK: "Leaked cells are corrosive: gloves and goggles. Bag what comes out; disposal by your local rules.",
    Hazard.SWOLLEN_CELL: "A swollen cell is never charged, pressed, pierced or posted. Keep it in a metal box with sand, "
    "away from what burns, and hand it in under your local rules.",
    Hazard.LITHIUM: "Lithium cells: never short, crush, heat or solder on the cell, and never charge a primary one. Tape "
    "the contacts of one that is out.",
    Hazard.HEAT: "Hot air and freezer spray: goggles, ventilation, no flame: some sprays burn. Never on a CRT.",
    Hazard.SOLDER: "Soldering: unplugged and discharged, fumes drawn off, goggles. Old solder holds lead: wash your hands.",
    Hazard.SOLVENT: "Solvents: power off, ventilation, gloves, no flame or spark. A hidden spot first: plastics and "
    "markings dissolve.",
    Hazard.PEROXIDE: "Peroxide burns skin and eyes: gloves, goggles, sleeves. Never in a closed vessel; keep it off "
    "markings, labels and metal. Strong peroxide may be restricted where you are: local rules.",
    Hazard.DUST: "Old dust and flaking paint may hold lead, old insulation asbestos: a fine-dust mask, wipe damp, never "
    "brush it dry. Fibrous insulation stays where it is: ask licensed people.",
    Hazard.SANDING: "Sanding and spraying: old paint may hold lead. Sand wet, mask and ventilation; no flame or spark near "
    "a spray.",
    Hazard.LIFT: "Heavy: lift with two, from the knees, the heavy side towards you; clear the table first.",
    Hazard.EDGES: "Sheet-metal edges cut: gloves, unplugged, and look before you reach.",
    Hazard.MOVING: "Fans, belts and spindles turn: sleeves, hair and fingers stay clear.",
}
# What a finding brings with it while it is dealt with, by its kind.
OF_FINDING: Mapping[str, tuple[Hazard, ...]] = {
    "leak": (Hazard.LEAK, Hazard.LITHIUM),
    "cell": (Hazard.SWOLLEN_CELL, Hazard.LEAK),
}
# Shapes that take two people, or come close to it.
HEAVY = frozenset({"all_in_one", "tower", "luggable", "terminal", "monitor"})


def at_the_table(form_factor: str) -> tuple[Hazard, ...]:
    """When a thing comes out of its box, before anything is known of it."""
    return (Hazard.LEAK, Hazard.DUST, *([Hazard.LIFT] if form_factor in HEAVY else []))


def when_taken_apart(tube: bool) -> tuple[Hazard, ...]:
    """When a thing is taken apart; with a CRT in it, or with nobody knowing whether there is one."""
    return (Hazard.CHARGE, *([Hazard.TUBE] if tube else []), Hazard.STATIC, Hazard.LEAK, Hazard.EDGES)


def said(hazards: Iterable[Hazard]) -> tuple[str, ...]:
    """The cautions of these hazards, each once, in the order given."""
    return tuple(hazard.words for hazard in dict.fromkeys(hazards))


# What is said where machines come in and nobody knows yet what is in them.
UNPOWERED = (
    "Don’t power it yet.",
    "Leaked cells are corrosive: gloves and goggles.",
    "CRTs and supplies hold charge with the plug out.",
    "Old dust and finishes may hold lead, old insulation asbestos.",
    "Lift with two.",
    "Your local rules come first.",
)

"""Old parts made to do again, assembly by assembly, as recipes with what has to be reckoned for each.

Common practice, no source, where nothing else is said.
"""

from collections.abc import Sequence
from decimal import Decimal
from enum import StrEnum
from math import pi

from core.catalogue.recipe_library import COMES_WITH
from core.catalogue.recipes import JobKind, Need, Proof, Recipe, Step
from core.safety import Hazard
from core.workshop.care import CareError
from core.workshop.care.agents import NEUTRALISERS, Agent, Chemistry
from core.workshop.care.capacitors import Place, needs
from core.workshop.care.plans import AFTER, PHOTO


class Kind(StrEnum):
    """What of an assembly is reconditioned."""

    BEARINGS = "bearings and rails"
    BELTS = "belts and rollers"
    PASTE = "thermal paste"
    CAPACITORS = "capacitors"
    BATTERY = "battery"
    CONTACTS = "contacts"
    SWITCHES = "switches"
    FANS = "fans"
    DRIVE = "drive heads and alignment"
    MECHANISM = "mechanism"


class Runs(StrEnum):
    """What runs on what."""

    METAL = "metal on metal"
    PLASTIC = "plastic on plastic or metal"
    SINTERED = "a sintered bushing"


# For each pair: the lubricant's kind, and what it is kept off.
LUBRICANTS = {
    Runs.METAL: ("light machine oil", "ml", Decimal(1), "One drop. A rail that has a track for grease: a trace of it."),
    Runs.PLASTIC: ("plastic-safe grease", "g", Decimal(1), "A trace. Mineral oil makes plastic brittle."),
    Runs.SINTERED: ("turbine oil", "ml", Decimal(1), "Two drops, let it soak. Grease clogs its pores."),
}
NEVER_ON = "Never on belts, rubber rollers, brakes, heads, disks, contacts or lenses."


class Mended(StrEnum):
    """How a broken mechanism is made good."""

    REPLACED = "replaced"
    PRINTED = "printed"
    GLUED = "glued"


# A glued part is looked at again after so many days.
WATCHED_DAYS = 14
GLUED = "care-mechanism-glued"
# A flat or round belt is so much shorter than its way; the rest is its tension.
BELT_STRETCH = Decimal("0.93")
# mm of paste, thin enough that the metal does the work.
PASTE_MM = Decimal("0.1")


def belt_length(drive_mm: Decimal, driven_mm: Decimal, apart_mm: Decimal, crossed: bool = False) -> Decimal:
    """mm of the way of a belt over two pulleys so far apart: 2c + π(D+d)/2 + (D−d)²/4c, with (D+d)² where it is
    crossed (handbook formula, from memory). Raises CareError."""
    if min(drive_mm, driven_mm) <= 0 or max(drive_mm, driven_mm, apart_mm) > 1000:
        raise CareError("Diameters above 0, a metre at most.", "drive")
    if apart_mm * 2 <= drive_mm + driven_mm:
        raise CareError("The pulleys would touch: measure from axle to axle.", "apart")
    spread = drive_mm + driven_mm if crossed else drive_mm - driven_mm
    return 2 * apart_mm + Decimal(pi) / 2 * (drive_mm + driven_mm) + spread**2 / (4 * apart_mm)


def belt_to_buy(way_mm: Decimal) -> Decimal:
    """mm all round of the belt to be bought, lying slack."""
    return (way_mm * BELT_STRETCH).quantize(Decimal(1))


def paste_ml(area_cm2: Decimal) -> Decimal:
    """ml of thermal paste. Raises CareError."""
    if not 0 < area_cm2 <= 400:
        raise CareError("From above 0 to 400 cm².", "area")
    return max(Decimal("0.1"), (area_cm2 * PASTE_MM / 10).quantize(Decimal("0.1")))


_LIBRARY = {recipe.code: recipe for recipe in COMES_WITH}
_READY = {
    Kind.CONTACTS: ("clean-contacts",),
    Kind.SWITCHES: ("clean-keyswitches",),
    Kind.FANS: ("oil-fan",),
    Kind.DRIVE: ("grease-drive", "align-drive"),
}


def ready(kind: Kind, part: str) -> Recipe:
    """What needs no figures of this very machine: the recipes of the shelf, put after one another."""
    return _recipe(kind, part, [step for code in _READY[kind] for step in _LIBRARY[code].steps])


def bearings(part: str, runs: Runs) -> Recipe:
    lubricant, unit, amount, how = LUBRICANTS[runs]
    steps = [
        PHOTO,
        Step(
            "Take the old grease off with isopropanol and a wooden stick, down to the bare surface.",
            10,
            hazards=(Hazard.SOLVENT,),
            needs=(Need("isopropanol", Decimal(10), "ml"),),
            undone=False,
        ),
        Step(f"{lubricant[:1].upper()}{lubricant[1:]}: {how} {NEVER_ON}", 5, needs=(Need(lubricant, amount, unit),)),
        Step("Move it through its whole way by hand: no notch, no squeal. Wipe off what came out.", 4),
        AFTER,
    ]
    return _recipe(Kind.BEARINGS, part, steps)


def belts(part: str, way_mm: Decimal) -> Recipe:
    steps = [
        PHOTO,
        Step("Take the old belt off, all of it: what has turned to tar sticks to skin and cloth for good.", 6),
        Step(
            "Clean pulleys and rollers with isopropanol; rubber rollers with water and washing-up liquid only.",
            8,
            hazards=(Hazard.SOLVENT,),
            needs=(Need("isopropanol", Decimal(5), "ml"),),
        ),
        Step(
            f"Lay on a belt of {belt_to_buy(way_mm):f} mm all round, slack; its way is {way_mm:.0f} mm. Not twisted.",
            5,
            needs=(Need(f"belt {belt_to_buy(way_mm):f} mm", Decimal(1), "pieces"),),
        ),
        Step("Turn it by hand ten times: it stays in the middle of both pulleys.", 2, hazards=(Hazard.MOVING,)),
        AFTER,
    ]
    return _recipe(Kind.BELTS, part, steps)


def paste(part: str, area_cm2: Decimal) -> Recipe:
    amount = paste_ml(area_cm2)
    steps = [
        PHOTO,
        Step("Twist the heat sink loose, never lever it: dried paste holds like glue.", 5, hazards=(Hazard.STATIC,)),
        Step(
            "Take the old paste off both sides with isopropanol.",
            6,
            hazards=(Hazard.STATIC, Hazard.SOLVENT),
            needs=(Need("isopropanol", Decimal(5), "ml"),),
        ),
        Step(
            f"{amount:f} ml of thermal paste on {area_cm2.normalize():f} cm², as thin as paper; none beside it.",
            5,
            hazards=(Hazard.STATIC,),
            needs=(Need("thermal paste", amount, "ml"),),
        ),
        Step("Press the sink on evenly, fasten it crosswise.", 4),
        AFTER,
    ]
    return _recipe(Kind.PASTE, part, steps)


def capacitors(part: str, places: Sequence[Place]) -> Recipe:
    """A kit fitted one after another. Raises CareError where something has to be measured before it is bought."""
    unmeasured = next((place for place in places if place.not_measured), None)
    if unmeasured:
        missing = " and ".join(unmeasured.not_measured)
        raise CareError(f"{unmeasured.names[0]}: measure its {missing} before you buy.", "capacitors")
    count = sum(len(place.names) for place in places)
    steps = [
        *_LIBRARY["recap-supply"].steps[:2],
        Step(
            f"Change {count} one at a time, the new one in before the next is out; stripe to stripe. What reads low in "
            "the circuit is bad, what reads well there may be bad all the same.",
            min(600, 4 * count),
            hazards=(Hazard.SOLDER,),
            undone=False,
            needs=(*needs(places), Need("solder wick", Decimal(2 * count), "cm")),
        ),
        Step("Look at each joint from both sides; no bridge, no lifted ring.", 5),
        AFTER,
    ]
    return _recipe(Kind.CAPACITORS, part, steps)


def battery(part: str, chemistry: Chemistry, leaked: bool | None) -> Recipe:
    """The old cell out, what leaked taken away by its chemistry, a holder with the right cell."""
    how = NEUTRALISERS[chemistry]
    steps = [
        Step(
            "Look at the cell and the traces about it before you touch either.",
            2,
            proof=Proof.PHOTO,
            hazards=_CELL[chemistry],
        ),
        Step(
            "Cut or unsolder its leads, tape its contacts, bag it; where it goes is said by your local rules.",
            8,
            hazards=(Hazard.SOLDER, *_CELL[chemistry]),
            undone=False,
        ),
    ]
    if leaked is not False:
        agent = () if how.agent is None else (Need(how.agent.value, Decimal(10), "ml"),)
        steps.append(Step(how.words, 10, 5, hazards=(Hazard.LEAK,), needs=agent, undone=False))
        if how.agent is not None:
            steps += [
                Step(
                    "Rinse it with water until nothing of it is left.",
                    5,
                    needs=(Need(Agent.WATER.value, Decimal(50), "ml"),),
                ),
                Step(
                    "Displace the water with isopropanol, dry it a day; then look at every trace and through-hole.",
                    8,
                    1440,
                    hazards=(Hazard.SOLVENT,),
                    needs=(Need(Agent.ISOPROPANOL.value, Decimal(20), "ml"),),
                ),
            ]
    steps += [
        Step(
            "A holder away from the board with a cell of the kind that belongs there, plus to plus; one that must not "
            "be charged gets a diode.",
            12,
            hazards=(Hazard.SOLDER,),
            needs=(Need("cell holder", Decimal(1), "pieces"),),
        ),
        Step("The clock keeps its time with the plug out for five minutes.", 2, 5),
    ]
    return _recipe(Kind.BATTERY, part, steps)


_CELL = {
    Chemistry.LITHIUM: (Hazard.LEAK, Hazard.LITHIUM),
    Chemistry.UNKNOWN: (Hazard.LEAK, Hazard.LITHIUM),
    Chemistry.ALKALINE: (Hazard.LEAK,),
    Chemistry.NICKEL: (Hazard.LEAK,),
    Chemistry.LEAD: (Hazard.LEAK,),
}


def mechanism(part: str, broke: str, mended: Mended) -> Recipe:
    """What broke made good, tried often enough to trust it; what is glued is looked at again later."""
    if not broke:
        raise CareError("Say what broke: hinge pin, latch, gear.", "broke")
    doing = {
        Mended.REPLACED: Step(f"Fit another {broke}; keep the old one with the machine.", 15),
        Mended.PRINTED: Step(
            f"Print {broke} to its measures, fit it dry, file where it binds.", 30, 120, needs=(Need("printed part"),)
        ),
        Mended.GLUED: Step(
            f"Clean the break of {broke}, glue it under clamp, nothing in the bearing; let it set a day.",
            12,
            1440,
            needs=(Need("glue", Decimal(1), "ml"),),
            undone=False,
        ),
    }[mended]
    steps = [
        PHOTO,
        Step("Find out why it broke: dry grease, a spring too strong, age. That first, or it breaks again.", 8),
        doing,
        Step(
            "Work it fifty times.",
            5,
            proof=Proof.COUNT,
            asks="how often it failed",
            high=Decimal(0),
            hazards=(Hazard.MOVING,),
        ),
        AFTER,
    ]
    return _recipe(Kind.MECHANISM, part, steps, "glued" if mended is Mended.GLUED else mended.value)


def _recipe(kind: Kind, part: str, steps: Sequence[Step], more: str = "") -> Recipe:
    if not part:
        raise CareError("Say on what: drive, main board, lid.", "part")
    code = "care-" + kind.value.replace(" ", "-") + (f"-{more}" if more else "")
    return Recipe(code, f"{kind[:1].upper()}{kind[1:]}: {part}"[:80], JobKind.RECONDITION, tuple(steps))

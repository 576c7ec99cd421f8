"""The recipes that make old parts do again: grease, capacitors, cells, belts. Common practice, no source."""

from decimal import Decimal

from core.catalogue.recipes import JobKind, Proof, Recipe, Step, read_needs
from core.safety import Hazard

_PHOTO = Step("Take a photo of it as it is, in the light you will use again.", 1, proof=Proof.PHOTO)
_AFTER = Step("Take the same photo again.", 1, proof=Proof.PHOTO)
_ENHANCED = ("period", "enhanced")

RECONDITION = (
    Recipe(
        "grease-drive",
        "Clean and grease a drive’s rails and spindle",
        JobKind.RECONDITION,
        (
            Step("Note which way each lead goes; take a photo.", 2, proof=Proof.PHOTO, hazards=(Hazard.STATIC,)),
            Step(
                "Take the hardened grease off rails, worm and eject slide with isopropanol and a wooden stick.",
                10,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("isopropanol 10 ml; wooden sticks 3 pieces"),
                undone=False,
            ),
            Step(
                "A trace of plastic-safe grease on slides, of oil on rails; none near the head or the disk.",
                5,
                needs=read_needs("synthetic grease 1 g; light oil 1 ml"),
            ),
            Step("Move the head by its worm through its whole way: no notch, no squeal.", 3),
            Step(
                "Clean the head with a swab damp with isopropanol, once across.",
                3,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("isopropanol 1 ml; cotton swabs 2 pieces"),
            ),
        ),
        findings=("noise",),
        at=("drive",),
        due_months=36,
        due_hours=500,
    ),
    Recipe(
        "align-drive",
        "Check a drive’s speed and alignment",
        JobKind.RECONDITION,
        (
            Step(
                "Read disks written on three other drives, each from the outermost to the innermost track.",
                8,
                proof=Proof.COUNT,
                asks="sectors not read at first go",
                attended=True,
            ),
            Step(
                "Measure its speed by the strobe or the index pulse.",
                4,
                proof=Proof.READING,
                asks="turns a minute",
                attended=True,
                hazards=(Hazard.MOVING,),
            ),
            Step(
                "Mark where the adjusters stand before one is touched; move one at a time, a hair at a time.",
                15,
                hazards=(Hazard.MOVING, Hazard.LIVE),
                attended=True,
                why="Without the mark there is no way back to where it was.",
            ),
            Step(
                "Read the three disks again.",
                6,
                proof=Proof.COUNT,
                asks="sectors not read at first go",
                high=Decimal(0),
                attended=True,
            ),
        ),
        at=("drive",),
        due_months=60,
        due_hours=1000,
    ),
    Recipe(
        "change-cell",
        "Take an old cell off the board",
        JobKind.RECONDITION,
        (
            Step(
                "Look at the cell and the traces around it before you touch either.",
                2,
                hazards=(Hazard.LEAK, Hazard.LITHIUM),
                proof=Proof.PHOTO,
            ),
            Step(
                "Measure what the cell still holds.",
                2,
                proof=Proof.READING,
                asks="voltage of the cell",
                unit="V",
                low=Decimal(0),
                high=Decimal(10),
            ),
            Step(
                "Cut or unsolder its leads and bag it; tape its contacts.",
                8,
                hazards=(Hazard.SOLDER, Hazard.LITHIUM),
                undone=False,
                why="A cell left on the board is the usual end of the board.",
            ),
            Step(
                "Wipe the place with a little vinegar if it is green or white from a nickel cell, then water, then "
                "isopropanol.",
                6,
                hazards=(Hazard.LEAK, Hazard.SOLVENT),
                needs=read_needs("household vinegar 5 ml; isopropanol 5 ml"),
            ),
            Step(
                "Fit a holder away from the board with the new cell of the right kind, plus to plus; a primary cell "
                "needs a diode against charging.",
                12,
                hazards=(Hazard.SOLDER,),
                needs=read_needs("cell holder with lead; cell of the right kind"),
            ),
            Step("The clock keeps its time with the plug out for five minutes.", 2, 5),
        ),
        findings=("cell",),
        at=("cell", "battery"),
        due_months=60,
    ),
    Recipe(
        "recap-supply",
        "Change the electrolytic capacitors of a PSU",
        JobKind.RECONDITION,
        (
            Step(
                "Discharge the large capacitors with the tool and measure each below 5 V before you reach in.",
                4,
                hazards=(Hazard.CHARGE,),
                proof=Proof.READING,
                asks="highest voltage left",
                unit="V",
                low=Decimal(0),
                high=Decimal(5),
            ),
            Step("Photograph every capacitor with its stripe and its value.", 4, proof=Proof.PHOTO),
            Step(
                "Take the old ones out, one at a time, and fit the new one before the next: same µF, same volts or "
                "more, 105 °C, stripe to stripe; suppressors on the mains side only of class X and Y.",
                45,
                hazards=(Hazard.SOLDER,),
                undone=False,
                needs=read_needs("solder wick 20 cm; capacitor set"),
            ),
            Step("Look at each joint from both sides; no bridge, no lifted ring.", 5),
            Step(
                "On its own load, on the bench, behind a current limiter: the 5 V rail.",
                6,
                hazards=(Hazard.LIVE,),
                proof=Proof.READING,
                asks="5 V rail",
                unit="V",
                low=Decimal("4.75"),
                high=Decimal("5.25"),
                attended=True,
            ),
        ),
        findings=("swollen",),
        checks=("supply",),
        at=("supply",),
    ),
    Recipe(
        "oil-fan",
        "Clean and oil a fan",
        JobKind.RECONDITION,
        (
            Step("Note which way it blows.", 1, hazards=(Hazard.MOVING,), proof=Proof.PHOTO),
            Step("Clean the blades with a damp brush, both sides.", 4, hazards=(Hazard.DUST,)),
            Step(
                "Lift the label, one drop of light oil on the bearing, turn it, press the label down again.",
                3,
                needs=read_needs("light oil 1 ml"),
            ),
            Step("It turns on by itself after a flick for several seconds, without rubbing.", 1),
        ),
        findings=("noise",),
        at=("fan",),
        due_months=48,
        due_hours=2000,
    ),
    Recipe(
        "clean-keyswitches",
        "Bring dead keys back",
        JobKind.RECONDITION,
        (
            Step("Mark the keys that fail on a sketch.", 3, proof=Proof.COUNT, asks="keys that fail"),
            Step(
                "Work each of them fifty times; then one drop of contact cleaner for switches, and fifty times more.",
                12,
                15,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("contact cleaner 5 ml"),
            ),
            Step(
                "Press every key in a keyboard test.",
                5,
                proof=Proof.COUNT,
                asks="keys that still fail",
                high=Decimal(0),
            ),
        ),
        checks=("function",),
        at=("keyboard",),
    ),
)

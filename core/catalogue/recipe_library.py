"""The recipes the application comes with: how the usual pieces of work are done.

Common practice, no source; the shop lays its own over them. Minutes are for a usual machine; a shop's own times
correct them. Cleaning, reconditioning and whitening of surfaces stand here, repair and software in
recipe_library_inside.py.
"""

from decimal import Decimal

from core.catalogue.recipes import JobKind, Proof, Recipe, Step, read_needs
from core.machine.casing import FormFactor
from core.safety import Hazard

_PHOTO = Step("Take a photo of it as it is, in the light you will use again.", 1, proof=Proof.PHOTO)
_AFTER = Step("Take the same photo again.", 1, proof=Proof.PHOTO)
_ENHANCED = ("period", "enhanced")

CLEAN = (
    Recipe(
        "clean-case",
        "Wash the case and its covers",
        JobKind.CLEAN,
        (
            _PHOTO,
            Step(
                "Vacuum the loose dust with a soft brush at the nozzle.",
                6,
                hazards=(Hazard.DUST,),
                needs=read_needs("soft brush; vacuum cleaner; fine-dust mask"),
            ),
            Step(
                "Wash plastic and painted metal in lukewarm water with a little washing-up liquid; keep labels and "
                "markings dry.",
                15,
                why="Hot water warps old plastic; labels float off.",
                needs=read_needs("washing-up liquid 5 ml; soft sponge"),
            ),
            Step("Go into grooves and vents with a soft toothbrush.", 8, needs=read_needs("soft toothbrush")),
            Step("Dry with a cloth, then leave it standing so that water runs out of ribs.", 3, 720),
            Step("No water is left in ribs, bosses or between layers.", 1),
            _AFTER,
        ),
        findings=("residue",),
        extent_from=10,
    ),
    Recipe(
        "clean-residue",
        "Take off sticky residue and stickers’ glue",
        JobKind.CLEAN,
        (
            _PHOTO,
            Step(
                "Try isopropanol on a hidden spot and look at the swab: no colour may come off.",
                2,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("isopropanol 2 ml; cotton swabs 2 pieces"),
            ),
            Step("Warm the glue with a hair dryer, hand-warm, and roll it off with a thumb.", 6),
            Step(
                "Wipe what is left with isopropanol, from outside in; change the cloth.",
                6,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("isopropanol 15 ml; microfibre cloth"),
            ),
            Step("Nothing sticks under a fingertip.", 1),
        ),
        findings=("residue",),
    ),
    Recipe(
        "clean-inside",
        "Take the dust out of the inside",
        JobKind.CLEAN,
        (
            Step(
                "Look before you brush: fibrous insulation or flaking paint is left alone.",
                2,
                hazards=(Hazard.DUST, Hazard.STATIC),
                proof=Proof.PHOTO,
            ),
            Step(
                "Vacuum with a conductive nozzle and an antistatic brush; hold fans so that they don’t turn.",
                10,
                why="A fan driven by air feeds a voltage into the board.",
                hazards=(Hazard.STATIC,),
                needs=read_needs("antistatic brush; vacuum cleaner"),
            ),
            Step(
                "Wipe what is left with a brush damp with isopropanol; let it dry.",
                8,
                30,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("isopropanol 20 ml"),
            ),
            Step("No fluff lies on boards, in sockets or in the supply’s vents.", 2),
        ),
        due_months=60,
    ),
    Recipe(
        "clean-contacts",
        "Clean edge contacts and sockets",
        JobKind.CLEAN,
        (
            Step(
                "Wipe edge contacts along their length with isopropanol on lint-free cloth; nothing that "
                "grinds gold off.",
                6,
                hazards=(Hazard.STATIC, Hazard.SOLVENT),
                needs=read_needs("isopropanol 5 ml; lint-free cloth"),
            ),
            Step("Work each card or chip in and out of its socket three times.", 6, hazards=(Hazard.STATIC,)),
            Step(
                "One drop of contact oil at most in plugs that corrode again.", 3, needs=read_needs("contact oil 1 ml")
            ),
            Step("Every chip and card sits all the way down.", 2),
        ),
        checks=("function",),
    ),
    Recipe(
        "clean-keyboard",
        "Wash keycaps, clean below them",
        JobKind.CLEAN,
        (
            Step("Take a photo straight from above: it is the map for putting the caps back.", 1, proof=Proof.PHOTO),
            Step(
                "Pull the caps straight up with a wire puller; long keys last, their wire stays in its clips.",
                15,
                needs=read_needs("wire keycap puller"),
                why="A cap pulled at an angle breaks its stem.",
            ),
            Step("Wash the caps lukewarm in a net, lay them face up on a towel.", 8, 480),
            Step(
                "Vacuum below, wipe the plate with a damp brush.",
                10,
                hazards=(Hazard.DUST,),
                needs=read_needs("soft brush"),
            ),
            Step("Press the caps on by the photo; every key comes back up.", 15),
            Step("How many keys do not come back up?", 1, proof=Proof.COUNT, asks="keys that stick", high=Decimal(0)),
        ),
        forms=(
            FormFactor.KEYBOARD,
            FormFactor.LAPTOP,
            FormFactor.ALL_IN_ONE,
            FormFactor.LUGGABLE,
            FormFactor.TERMINAL,
        ),
        at=("keyboard",),
    ),
)

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
        "Change the electrolytic capacitors of a supply",
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

WHITEN = (
    Recipe(
        "whiten-cream",
        "Whiten with peroxide cream under film",
        JobKind.WHITEN,
        (
            Step("Take the part off, take out all metal, mask labels and markings.", 15, proof=Proof.PHOTO),
            Step("Try it on the inside of a part: no streak after an hour.", 3, 60, hazards=(Hazard.PEROXIDE,)),
            Step(
                "Spread the cream evenly, wrap it in film without a bubble.",
                15,
                hazards=(Hazard.PEROXIDE,),
                needs=read_needs("peroxide cream 12 % 80 ml; cling film 2 m; gloves; goggles"),
                undone=False,
            ),
            Step(
                "Into the light; turn it a quarter and work the cream through the film every hour: dry cream streaks.",
                12,
                240,
                hazards=(Hazard.PEROXIDE,),
                needs=read_needs("daylight or lamp"),
                attended=True,
            ),
            Step("Wash it off lukewarm, dry it.", 8, 60, hazards=(Hazard.PEROXIDE,)),
            Step(
                "Measure it against the sheltered spot, in the same light.",
                4,
                proof=Proof.COLOUR,
                asks="ΔE00 to the sheltered spot",
                high=Decimal(4),
            ),
        ),
        findings=("yellowing",),
        extent_from=5,
        approaches=_ENHANCED,
    ),
    Recipe(
        "whiten-bath",
        "Whiten in a warm bath",
        JobKind.WHITEN,
        (
            Step("Take the part off, take out all metal, mask labels and markings.", 15, proof=Proof.PHOTO),
            Step(
                "Fill a tub that can stay open; peroxide last, to a few per cent; all of the part under the surface.",
                10,
                hazards=(Hazard.PEROXIDE,),
                needs=read_needs("peroxide 12 % 1000 ml; open tub; gloves; goggles; ventilation"),
                undone=False,
            ),
            Step(
                "Keep it hand-warm, at most 40 °C; turn what floats every hour.",
                12,
                360,
                hazards=(Hazard.PEROXIDE,),
                proof=Proof.READING,
                asks="warmest the bath was",
                unit="°C",
                high=Decimal(40),
                attended=True,
                why="Warmer plastic warps and goes chalky.",
            ),
            Step("Rinse, dry, wait a day before you judge it: wet plastic looks whiter.", 6, 1440),
            Step(
                "Measure it against the sheltered spot.",
                4,
                proof=Proof.COLOUR,
                asks="ΔE00 to the sheltered spot",
                high=Decimal(4),
            ),
        ),
        findings=("yellowing",),
        extent_from=30,
        approaches=_ENHANCED,
    ),
    Recipe(
        "whiten-sun",
        "Whiten in sunlight alone",
        JobKind.WHITEN,
        (
            Step("Take the part off, mask labels and markings.", 12, proof=Proof.PHOTO),
            Step(
                "Lay it in the sun where air moves: the plastic stays hand-warm. Turn it every two hours.",
                10,
                480,
                needs=read_needs("daylight"),
                undone=False,
                why="Light alone bleaches some plastics and yellows others: a hidden part first.",
            ),
            Step(
                "Measure it against the sheltered spot.",
                4,
                proof=Proof.COLOUR,
                asks="ΔE00 to the sheltered spot",
                high=Decimal(6),
            ),
        ),
        findings=("yellowing",),
        approaches=_ENHANCED,
    ),
)

REFINISH = (
    Recipe(
        "polish-scratch",
        "Polish a scratch out of bare plastic",
        JobKind.REFINISH,
        (
            _PHOTO,
            Step("Is the face textured? Then stop here: polish leaves a bald spot.", 1),
            Step(
                "Wet paper, 1000 then 2000, along the grain, no wider than needed.",
                10,
                hazards=(Hazard.SANDING,),
                needs=read_needs("wet paper 1000 1 sheets; wet paper 2000 1 sheets"),
                undone=False,
            ),
            Step(
                "Plastic polish in small circles, wipe, look from the side.", 8, needs=read_needs("plastic polish 3 ml")
            ),
            _AFTER,
        ),
        findings=("scratch",),
        approaches=_ENHANCED,
    ),
    Recipe(
        "touch-up-paint",
        "Touch up flaked paint",
        JobKind.REFINISH,
        (
            _PHOTO,
            Step(
                "Wipe loose flakes off damp; feather the edge with wet paper.",
                10,
                hazards=(Hazard.SANDING, Hazard.DUST),
                needs=read_needs("wet paper 1000 1 sheets"),
                undone=False,
            ),
            Step(
                "Mix the colour on card, let it dry, compare it in daylight.",
                15,
                60,
                needs=read_needs("daylight; paint 5 ml"),
                proof=Proof.COLOUR,
                asks="ΔE00 of the dry sample to the case",
                high=Decimal(2),
            ),
            Step("Dab it on thin, three coats, an hour between them.", 12, 180, hazards=(Hazard.SOLVENT,)),
            _AFTER,
        ),
        findings=("paint",),
        approaches=_ENHANCED,
    ),
    Recipe(
        "treat-rust",
        "Take rust off and seal the steel",
        JobKind.REFINISH,
        (
            _PHOTO,
            Step(
                "Brush loose rust off damp; take the part into a rust remover made for thin steel.",
                15,
                240,
                hazards=(Hazard.SOLVENT, Hazard.EDGES),
                needs=read_needs("rust remover 200 ml; gloves"),
                undone=False,
            ),
            Step("Rinse, dry at once with warm air, wipe with isopropanol.", 8, 30, hazards=(Hazard.SOLVENT,)),
            Step("A thin coat of primer or clear wax; contact faces for earth stay bare.", 8, 120),
            Step(
                "Earth: measured from the treated sheet to the earth pin.",
                3,
                proof=Proof.READING,
                asks="resistance",
                unit="Ω",
                low=Decimal(0),
                high=Decimal("0.5"),
            ),
        ),
        findings=("rust",),
        extent_from=3,
    ),
    Recipe(
        "bond-crack",
        "Bond a crack from inside",
        JobKind.REFINISH,
        (
            _PHOTO,
            Step("Close it without force and hold it with tape; a crack under tension opens again.", 5),
            Step(
                "Let solvent cement run in from inside, no drop on the face; a strip of the same plastic across it.",
                10,
                hazards=(Hazard.SOLVENT,),
                needs=read_needs("solvent cement 2 ml; plastic strip"),
                undone=False,
            ),
            Step("Leave it clamped until the next day.", 2, 1200),
            Step("It holds a light push of the thumb.", 1),
        ),
        findings=("crack", "broken"),
    ),
)

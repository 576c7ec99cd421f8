"""The recipes for what one sees: cleaning, whitening, refinishing. Common practice, no source."""

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
            Step("No fluff lies on boards, in sockets or in the PSU’s vents.", 2),
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

"""The recipes for what is inside: repair, upgrade, software, putting together again. Common practice, no source."""

from decimal import Decimal

from core.catalogue.recipes import JobKind, Proof, Recipe, Step, read_needs
from core.safety import Hazard

_CONFIRM = Step("Off, a minute’s rest, and on again: it holds.", 3, 1, attended=True)

REPAIR = (
    Recipe(
        "repair-supply",
        "Find and mend a fault in the PSU",
        JobKind.REPAIR,
        (
            Step(
                "Discharge the large capacitors and measure below 5 V before you reach in.",
                4,
                hazards=(Hazard.CHARGE,),
                proof=Proof.READING,
                asks="highest voltage left",
                unit="V",
                low=Decimal(0),
                high=Decimal(5),
            ),
            Step("Look, smell, measure the fuse: a blown one has a cause.", 8, proof=Proof.PHOTO),
            Step("Measure bridge, switch and output diodes with the plug out.", 15, hazards=(Hazard.CHARGE,)),
            Step(
                "Exchange what is bad, and what it took with it.",
                40,
                hazards=(Hazard.SOLDER,),
                undone=False,
                needs=read_needs("solder wick 10 cm"),
            ),
            Step(
                "On its own load behind a current limiter: the 5 V rail.",
                8,
                hazards=(Hazard.LIVE,),
                proof=Proof.READING,
                asks="5 V rail",
                unit="V",
                low=Decimal("4.75"),
                high=Decimal("5.25"),
                attended=True,
            ),
        ),
        checks=("supply",),
        at=("supply",),
    ),
    Recipe(
        "repair-no-start",
        "Find why it does not start",
        JobKind.REPAIR,
        (
            Step("Reduce it to PSU, board and display; everything else unplugged.", 10, hazards=(Hazard.STATIC,)),
            Step(
                "Measure the rails at the board, not at the plug.",
                5,
                hazards=(Hazard.LIVE,),
                proof=Proof.READING,
                asks="5 V at the board",
                unit="V",
                low=Decimal("4.75"),
                high=Decimal("5.25"),
                attended=True,
            ),
            Step(
                "Clock, reset, then whether the buses move: in this order.", 15, hazards=(Hazard.LIVE,), attended=True
            ),
            Step(
                "Exchange what is suspected with a part known to be good; put the other one back if nothing changes.",
                25,
                hazards=(Hazard.STATIC,),
            ),
            _CONFIRM,
        ),
        checks=("power",),
        at=("main board",),
    ),
    Recipe(
        "repair-corrosion",
        "Mend what a leaked cell ate",
        JobKind.REPAIR,
        (
            Step(
                "Take the cell out and bag it; find out which kind it was.",
                4,
                hazards=(Hazard.LEAK,),
                proof=Proof.PHOTO,
                undone=False,
            ),
            Step(
                "Neutralise: nickel or alkaline with vinegar, lead or acid with baking soda; water, isopropanol, dry.",
                15,
                60,
                hazards=(Hazard.LEAK, Hazard.SOLVENT),
                needs=read_needs("household vinegar 10 ml; baking soda 5 g; isopropanol 20 ml; gloves; goggles"),
            ),
            Step(
                "Take out sockets and parts that have gone green underneath.",
                25,
                hazards=(Hazard.SOLDER,),
                undone=False,
            ),
            Step(
                "Measure every trace of the place end to end; wire what is open.",
                30,
                proof=Proof.COUNT,
                asks="traces wired",
                hazards=(Hazard.SOLDER,),
            ),
            Step("Seal bare copper.", 5, 60, needs=read_needs("board lacquer 2 ml")),
        ),
        findings=("leak",),
        at=("main board",),
    ),
    Recipe(
        "repair-solder",
        "Renew cracked joints",
        JobKind.REPAIR,
        (
            Step(
                "Wiggle plugs and look at their joints under the loupe: rings around pins.",
                6,
                proof=Proof.COUNT,
                asks="joints with a ring",
                hazards=(Hazard.STATIC,),
            ),
            Step(
                "Draw the old solder off, solder anew; heavy parts get two.",
                15,
                hazards=(Hazard.SOLDER,),
                undone=False,
                needs=read_needs("solder wick 10 cm; solder 2 g"),
            ),
            Step("Nothing changes when you wiggle it while it runs.", 3, hazards=(Hazard.LIVE,), attended=True),
        ),
        findings=("loose",),
        checks=("function",),
    ),
    Recipe(
        "repair-rework",
        "Undo an old bodge",
        JobKind.REPAIR,
        (
            Step("Draw what the wires do before you cut one: some are the maker’s own.", 8, proof=Proof.PHOTO),
            Step(
                "Take off what was not the maker’s; put the trace or part back.",
                20,
                hazards=(Hazard.SOLDER,),
                undone=False,
            ),
            Step(
                "Measure from end to end.",
                4,
                proof=Proof.READING,
                asks="resistance of the trace",
                unit="Ω",
                low=Decimal(0),
                high=Decimal(1),
            ),
        ),
        findings=("rework",),
    ),
    Recipe(
        "refit-feet",
        "Refit what is loose or rattles",
        JobKind.REPAIR,
        (
            Step("Find it: turn the closed machine slowly, ear at the case.", 3),
            Step(
                "Refit it with the fastener that belongs there; a stripped boss gets a sleeve, not a thicker screw.", 8
            ),
            Step("Turn it again: nothing moves.", 1),
        ),
        findings=("loose",),
    ),
)

UPGRADE = (
    Recipe(
        "upgrade-memory",
        "Fit memory",
        JobKind.UPGRADE,
        (
            Step("Write down what it counts now.", 2, proof=Proof.COUNT, asks="K of memory counted", unit="K"),
            Step("Fit it notch to notch, banks in their order, links set for the size.", 8, hazards=(Hazard.STATIC,)),
            Step("What does it count now?", 3, proof=Proof.COUNT, asks="K of memory counted", unit="K", attended=True),
            Step("A memory test through twice.", 2, 60, attended=True),
        ),
        approaches=("period", "enhanced", "conserve"),
        at=("memory",),
    ),
    Recipe(
        "upgrade-storage",
        "Fit solid-state storage",
        JobKind.UPGRADE,
        (
            Step("Is there an image of the old disk, read twice and equal? Keep the disk.", 5),
            Step("Fit it where the old one sat, on its own bracket; no hole is drilled.", 15, hazards=(Hazard.STATIC,)),
            Step("Set links: first or only, as the bus wants.", 4),
            Step("It is seen at start.", 3, attended=True),
        ),
        approaches=("enhanced",),
        at=("drive", "disk"),
        visible_modern=False,
    ),
)

SOFTWARE = (
    Recipe(
        "image-storage",
        "Keep an image of what is on it",
        JobKind.SOFTWARE,
        (
            Step("Write-protect the disk or its adapter before it is connected.", 3),
            Step(
                "Read it through twice; both must be equal.",
                5,
                60,
                proof=Proof.COUNT,
                asks="blocks that could not be read",
            ),
            Step("Keep image and checksum with the unit; label the disk.", 4),
        ),
    ),
    Recipe(
        "install-system",
        "Install the system it is sold with",
        JobKind.SOFTWARE,
        (
            Step("Is there a licence or a free one for it? Note which.", 2),
            Step("Set clock and firmware; note the settings before and after.", 5, attended=True),
            Step("Partition, make bootable, format.", 6, 15, undone=False, attended=True),
            Step("Install; answer for the country it goes to.", 10, 40, attended=True),
            Step("From cold it comes up by itself to its prompt or desktop.", 3, 2, attended=True),
        ),
        at=("drive", "disk"),
    ),
    Recipe(
        "wipe-storage",
        "Clear storage before sale",
        JobKind.SOFTWARE,
        (
            Step("Has the owner asked for an image? Then that first.", 1),
            Step("Write over the whole of it, once, and read it back.", 4, 90, undone=False, attended=True),
            Step(
                "How many blocks read back as anything but what was written?",
                2,
                proof=Proof.COUNT,
                asks="blocks that differ",
                high=Decimal(0),
            ),
        ),
    ),
    Recipe(
        "set-firmware",
        "Set firmware, clock and drive types",
        JobKind.SOFTWARE,
        (
            Step("Photograph every page as it is.", 3, proof=Proof.PHOTO, attended=True),
            Step("Set date, drives, memory as fitted; note each change on the settings sheet.", 8, attended=True),
            Step("Off for a minute and on: it kept them.", 3, 1, attended=True),
        ),
    ),
    Recipe(
        "demo-disk",
        "Make a start disk that shows what it can do",
        JobKind.SOFTWARE,
        (
            Step("Format a disk in the very drive that will read it.", 3, 3, attended=True),
            Step("Copy what may be passed on; label it with what it does.", 8, attended=True),
            Step("It starts from it, from cold.", 3, 1, attended=True),
        ),
    ),
)

REASSEMBLE = (
    Recipe(
        "close-up",
        "Put it together and look once more",
        JobKind.REASSEMBLE,
        (
            Step(
                "Every tray is empty, every plug is in.",
                3,
                proof=Proof.COUNT,
                asks="fasteners left over",
                high=Decimal(0),
            ),
            Step("Turn it: nothing rattles.", 1, hazards=(Hazard.LIFT,)),
            Step(
                "Earth: from a bare screw of the case to the earth pin.",
                2,
                proof=Proof.READING,
                asks="resistance",
                unit="Ω",
                low=Decimal(0),
                high=Decimal("0.5"),
            ),
        ),
    ),
)

"""Invented makers and models, suppliers, parts and sales elsewhere. Nothing here exists."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Model:
    maker: str
    name: str
    form_factor: str
    years: tuple[int, int]
    size: tuple[int, int, int]
    supply: str
    battery: str = "none"
    tube: bool = False
    drives: int = 0
    keyboard: bool = True
    keeps_data: bool | None = None
    needs_cell: bool = False
    price: int = 100
    expected: tuple[tuple[str, int], ...] = ()


MODELS = (
    Model(
        "Tessaly",
        "64",
        "keyboard",
        (1983, 1987),
        (404, 75, 216),
        "external_ac",
        price=95,
        expected=(("adapter", 3), ("television lead", 1), ("all keycaps", 3), ("feet", 1)),
    ),
    Model(
        "Tessaly",
        "48",
        "keyboard",
        (1981, 1984),
        (330, 60, 200),
        "external_dc",
        price=70,
        expected=(("adapter", 3), ("all keycaps", 3), ("cassette lead", 1)),
    ),
    Model(
        "Halden",
        "M2",
        "all_in_one",
        (1986, 1990),
        (246, 346, 277),
        "linear",
        "lithium",
        True,
        1,
        price=240,
        expected=(("keyboard", 4), ("mouse", 2), ("battery cover", 1), ("handle cap", 1)),
    ),
    Model(
        "Corvane",
        "Micro 3",
        "desktop",
        (1988, 1992),
        (410, 110, 390),
        "switching",
        "nicd",
        False,
        2,
        price=150,
        expected=(("keyboard", 4), ("drive bay covers", 1), ("case screws", 1), ("key for the lock", 1)),
    ),
    Model(
        "Corvane",
        "Stack 4",
        "tower",
        (1991, 1995),
        (190, 430, 420),
        "switching",
        "lithium",
        False,
        2,
        price=130,
        expected=(("side panel", 3), ("bay covers", 1), ("feet", 1)),
    ),
    Model(
        "Brisk",
        "Luggable 88",
        "luggable",
        (1985, 1988),
        (480, 230, 390),
        "switching",
        "none",
        True,
        2,
        price=260,
        expected=(("keyboard lead", 3), ("handle", 2), ("slot covers", 1), ("drive latches", 2)),
    ),
    Model(
        "Orrin",
        "Slate 20",
        "laptop",
        (1992, 1995),
        (310, 55, 250),
        "external_dc",
        "nicd",
        False,
        1,
        price=120,
        expected=(("adapter", 4), ("battery pack", 2), ("hinge covers", 1)),
    ),
    Model(
        "Orrin",
        "Desk 16",
        "desktop",
        (1989, 1993),
        (380, 130, 380),
        "switching",
        "lithium",
        False,
        1,
        price=165,
        expected=(("keyboard", 4), ("mouse", 1), ("front badge", 1)),
    ),
    Model(
        "Orrin",
        "Disk 40",
        "drive",
        (1988, 1993),
        (160, 70, 240),
        "linear",
        "none",
        False,
        1,
        False,
        price=95,
        expected=(("data lead", 2), ("terminator", 1)),
    ),
    Model(
        "Halden",
        "View 12",
        "monitor",
        (1986, 1991),
        (330, 300, 340),
        "linear",
        "none",
        True,
        0,
        False,
        price=85,
        expected=(("stand", 2), ("signal lead", 2)),
    ),
    Model(
        "Pellmark",
        "Term 220",
        "terminal",
        (1982, 1988),
        (320, 330, 340),
        "linear",
        "none",
        True,
        0,
        price=140,
        expected=(("keyboard", 4), ("line lead", 1)),
    ),
    Model(
        "Corvane",
        "Video 2",
        "card",
        (1990, 1994),
        (330, 30, 110),
        "none",
        "none",
        False,
        0,
        False,
        price=45,
        expected=(("bracket", 1),),
    ),
)

# What a replacement of a thing costs about, whatever the model.
ESTIMATES = {
    "keyboard": "28.00",
    "mouse": "12.00",
    "adapter": "14.00",
    "all keycaps": "9.00",
    "side panel": "18.00",
    "front badge": "6.00",
    "drive latches": "11.00",
    "battery pack": "30.00",
    "keyboard lead": "8.00",
    "stand": "15.00",
}
# What to look out for, what it offers and the adapter it wants, by model.
NOTES = {
    "Tessaly 64": {
        "adapter": "9 V AC, 1 A",
        "offers": "cartridge port; two joystick ports; serial port\nmemory: 64 KiB, soldered",
        "hazards": "The adapter gives AC. A DC one of the same voltage kills it.",
    },
    "Tessaly 48": {"adapter": "9 V DC, 1 A, centre minus", "hazards": "Centre minus: most adapters are the other way."},
    "Halden M2": {
        "offers": "one 3.5 inch drive; SCSI\nmemory: 1 MiB, four sockets for 30-pin modules",
        "hazards": "CRT: holds charge with the plug out. Only somebody trained opens it.",
        "shots": "inside",
    },
    "Corvane Micro 3": {
        "offers": "5 ISA slots; two 5.25 inch bays\nmemory: 1 to 8 MiB",
        "hazards": "Rechargeable cell on the board: look for a leak before anything else.",
    },
    "Orrin Slate 20": {"adapter": "15 V DC, 2 A, centre plus"},
    "Brisk Luggable 88": {"hazards": "Mains filter capacitors of its age burst. CRT: holds charge."},
    "Orrin Desk 16": {"offers": "3 ISA slots; ATA\nmemory: 2 to 16 MiB in 72-pin modules"},
}
# How the makers numbered (invented, like the makers).
PATTERNS = (
    ("Halden", "HM-{year:1}{week:2}{sequence:3}-{plant:2}", "year digit and week, then the line"),
    ("Tessaly", "T{year:2}{week:2}{sequence:5}", "year and week of assembly"),
)
RULES = (("Corvane", 1500, "v100_120", "v220_240"),)

SUPPLIERS = (
    ("Quayside sale room", "Marrowick"),
    ("Pell Head school", "Pell Head"),
    ("Saltgate clearances", "Saltgate"),
    ("Northferry auctions", "Northferry"),
    ("Norrvik bruktsal", "Norrvik"),
    ("Lighthouse museum", "Marrowick"),
    ("Harbour college", "Marrowick"),
)

PARTS = (
    ("Electrolytic capacitor kit, small", "new", "A1", 12, "54.00", True),
    ("Battery holder, two cells", "new", "A2", 6, "15.00", True),
    ("Lithium cell 3 V", "new", "A3", 10, "22.00", False),
    ("Drive belt, small", "new", "B1", 5, "20.00", False),
    ("Keycap, cream", "tested", "B2", 40, "16.00", False),
    ("Logic chip 74LS42", "old_stock", "C1", 14, "12.60", False),
    ("Memory chip 41256", "tested", "C2", 36, "43.20", False),
    ("Solid-state disk module", "new", "D1", 3, "87.00", True),
    ("Mains filter capacitor", "new", "A4", 8, "14.40", True),
    ("Rubber foot", "new", "B3", 24, "7.20", False),
)

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
        "all_in_one",
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
        "board",
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

"""What is tried at several faults, each with what it says of the suspects and with its own cautions.

Chances are judgement (common practice, no source).
"""

from core.bench.suspects import Action
from core.safety import Hazard

CHARGE, LIVE, TUBE, HEAT, STATIC, SOLVENT, DUST = (
    Hazard.CHARGE,
    Hazard.LIVE,
    Hazard.TUBE,
    Hazard.HEAT,
    Hazard.STATIC,
    Hazard.SOLVENT,
    Hazard.DUST,
)

RESEAT = Action(
    "reseat", "Seat every socketed chip, board and plug again; clean the contacts", "changed it", "changed nothing", 12,
    {"contact": 0.75, "memory": 0.2, "rom": 0.2, "joint": 0.2, "cable": 0.35, "connector": 0.75, "keyconn": 0.7},
    0.03, hazards=(CHARGE, STATIC, SOLVENT), changes=("chips", "boards", "plugs"), then=("disturb",),
)  # fmt: skip
LOOK_CLOSE = Action(
    "look-close", "Look over the board with a loupe: crust, burns, cracked joints, bulging tops", "found something",
    "found nothing", 10,
    {"corrosion": 0.85, "caps": 0.5, "joint": 0.45, "track": 0.5, "earlier": 0.6, "regulator": 0.3, "lead": 0.3,
     "supplycaps": 0.45, "short": 0.2, "filtercap": 0.5},
    0.08, hazards=(CHARGE, STATIC, DUST),
)  # fmt: skip
MEASURE_RAILS = Action(
    "rails", "Measure every rail at the board, running", "a rail is wrong", "all rails are right", 6,
    {"supply": 0.92, "regulator": 0.9, "short": 0.85, "fuse": 0.95, "supplycaps": 0.6, "mainslead": 0.97, "switch": 0.9,
     "caps": 0.25, "adapter": 0.93, "inrush": 0.6},
    0.03, hazards=(LIVE,),
)  # fmt: skip
RIPPLE = Action(
    "ripple", "Look at the ripple of the rails with a scope", "too much ripple", "clean", 8,
    {"supplycaps": 0.9, "caps": 0.5, "regulator": 0.4, "supply": 0.4}, 0.04, hazards=(LIVE,),
)  # fmt: skip
HEAT_COOL = Action(
    "heat-cool", "Warm and cool one area at a time while it runs", "comes and goes with it", "makes no difference", 20,
    {"joint": 0.8, "thermal": 0.85, "caps": 0.5, "chip": 0.45, "crack": 0.7, "supplycaps": 0.5, "memory": 0.3},
    0.06, risk=0.05, hazards=(HEAT, LIVE),
)  # fmt: skip
DISTURB = Action(
    "disturb", "Disturb what was reseated one at a time: lift and press one chip, then one board, then one plug",
    "one of them does it", "none does", 15, {"contact": 0.8, "connector": 0.8, "keyconn": 0.75, "memory": 0.3, "joint": 0.3},
    0.04, hazards=(CHARGE, STATIC),
)  # fmt: skip
UNPLUG_ALL = Action(
    "unplug-all", "Take everything off that is plugged in from outside, then start", "starts then", "the same", 2,
    {"outside": 0.95}, 0.02, changes=("each thing plugged in",), then=("plug-back",),
)  # fmt: skip
PLUG_BACK = Action(
    "plug-back", "Plug the outside things in again one at a time, a start after each", "one of them does it",
    "none does", 8, {"outside": 0.9}, 0.03,
)  # fmt: skip
ADAPTER_PLATE = Action(
    "adapter-plate", "Compare the plates of adapter and machine: AC or DC, volts, amperes, poles of the plug",
    "they differ", "all agree", 2, {"adapter": 0.7}, 0.02, when="supply=external_ac|external_dc",
)  # fmt: skip
FLEX = Action(
    "flex", "Press and flex the board gently with an insulated stick while it runs; stay clear of PSU and CRT", "comes and goes with it",
    "makes no difference", 6,
    {"joint": 0.8, "crack": 0.8, "contact": 0.6, "track": 0.5, "cable": 0.4, "lead": 0.5, "connector": 0.6, "shield": 0.4},
    0.05, risk=0.03, hazards=(LIVE,),
)  # fmt: skip
SWAP_SUPPLY = Action(
    "swap-supply", "Run it from a PSU known to be good", "works then", "stays as it is", 12,
    {"supply": 0.95, "supplycaps": 0.93, "fuse": 0.9, "mainslead": 0.93, "adapter": 0.96, "switch": 0.85, "regulator": 0.2,
     "inrush": 0.7},
    0.03, needs="supply", caution="Same rails, same polarity, never AC for DC. Current limited at the first try.",
    hazards=(CHARGE,),
)  # fmt: skip
SWAP_MEMORY = Action(
    "swap-memory", "Put in memory known to be good", "works then", "stays as it is", 10,
    {"memory": 0.95, "contact": 0.35}, 0.03, needs="memory", hazards=(CHARGE, STATIC),
)  # fmt: skip
SWAP_SCREEN = Action(
    "swap-screen", "Try another screen and cable known to be good, of the right standard", "picture then",
    "stays as it is", 5, {"screen": 0.96, "cable": 0.9, "standard": 0.9, "converter": 0.85}, 0.02, needs="screen",
    changes=("the screen", "its cable", "the standard"), then=("own-cable", "converter-out"),
)  # fmt: skip
STRIP = Action(
    "strip", "Take out everything that is not needed to start", "changed it", "changed nothing", 15,
    {"card": 0.92, "short": 0.6, "drive": 0.6, "memory": 0.15, "conflict": 0.9, "addon": 0.9}, 0.03,
    hazards=(CHARGE, STATIC), changes=("cards", "drives", "memory"), then=("put-back",),
)  # fmt: skip
PUT_BACK = Action(
    "put-back", "Put back one thing at a time, a start after each", "one of them does it", "none does", 15,
    {"card": 0.9, "drive": 0.7, "memory": 0.4, "conflict": 0.7, "addon": 0.85, "short": 0.5}, 0.03, hazards=(CHARGE, STATIC),
)  # fmt: skip
OWN_CABLE = Action(
    "own-cable",
    "Its own screen with the other cable",
    "picture then",
    "stays as it is",
    3,
    {"cable": 0.94},
    0.03,
)
CONVERTER_OUT = Action(
    "converter-out",
    "Leave the converter or adapter out, or put another version of its firmware in",
    "picture then",
    "the same",
    8,
    {"converter": 0.92},
    0.03,
)
RUSTLE = Action(
    "rustle", "At switch-on, from outside: a rustle at the glass and a glow in the neck?", "none", "both there", 2,
    {"flyback": 0.85, "supplycaps": 0.3}, 0.1, hazards=(TUBE,), when="tube",
)  # fmt: skip
SWAP_ROM = Action(
    "swap-rom", "Read the firmware chips and compare, or swap in known ones", "differs", "the same", 25,
    {"rom": 0.92, "contact": 0.2}, 0.03, risk=0.03, needs="firmware", hazards=(CHARGE, STATIC),
)  # fmt: skip
CLOCK = Action(
    "clock", "Look for the clock and reset at the processor with a scope", "missing or stuck", "there and free", 10,
    {"clock": 0.93, "reset": 0.93, "cpu": 0.1, "logic": 0.2, "corrosion": 0.4}, 0.04, hazards=(LIVE,),
)  # fmt: skip
SWAP_KEYBOARD = Action(
    "swap-keyboard", "Try a keyboard known to be good", "works then", "stays as it is", 4,
    {"keyboard": 0.95, "membrane": 0.95, "keyconn": 0.6, "lead": 0.9, "switchkey": 0.95}, 0.03, needs="keyboard",
)  # fmt: skip
SWAP_DRIVE = Action(
    "swap-drive", "Try a drive known to be good on the same lead", "works then", "stays as it is", 10,
    {"drive": 0.95, "heads": 0.95, "belt": 0.95, "speed": 0.95, "motor": 0.95, "align": 0.95}, 0.03, needs="drive",
    hazards=(CHARGE, STATIC),
)  # fmt: skip
SWAP_LEAD = Action(
    "swap-lead", "Try another data lead, and mind which end is which", "works then", "stays as it is", 5,
    {"lead": 0.93, "cable": 0.93, "termination": 0.3}, 0.03, needs="lead", hazards=(CHARGE,),
)  # fmt: skip

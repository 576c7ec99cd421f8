"""Symptoms, their suspects and what to try.

Weights and chances are judgement (common practice, no source); a shop's own closed faults correct them.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from core.bench.suspects import Action, Suspect

CHARGE = "Unplugged and given time. A supply and a picture tube hold charge; measure before you touch."
LIVE = "Live work: one hand, insulated probes, nobody alone in the room; mains side only by competent people."
TUBE = "Behind a picture tube: only people trained for it, under your local rules."
HEAT = "Hot air and freezer spray: goggles, ventilation, never on a picture tube."


@dataclass(frozen=True)
class Symptom:
    """What is seen. `suspects` at least six; `actions` tell them apart (for a short they are made as one goes)."""

    code: str
    words: str
    suspects: tuple[Suspect, ...]
    actions: tuple[Action, ...]


def _suspects(*rows: tuple[str, str, float] | tuple[str, str, float, dict[str, float]]) -> tuple[Suspect, ...]:
    return tuple(Suspect(row[0], row[1], row[2], row[3] if len(row) > 3 else {}) for row in rows)


LEAK: dict[str, float] = {"leak": 4.0, "rust": 1.5}
CAPS: dict[str, float] = {"swollen": 4.0, "leak": 1.3}
WORK: dict[str, float] = {"rework": 4.0, "missing": 1.3}
LOOSE: dict[str, float] = {"loose": 3.0, "broken": 2.0, "missing": 1.5}

# Actions that serve several symptoms.
RESEAT = Action(
    "reseat", "Seat every socketed chip, board and plug again; clean the contacts", "changed it", "changed nothing", 12,
    {"contact": 0.75, "memory": 0.2, "rom": 0.2, "joint": 0.2, "cable": 0.35, "connector": 0.75, "keyconn": 0.7},
    0.03, caution=CHARGE,
)  # fmt: skip
LOOK_CLOSE = Action(
    "look-close", "Look over the board with a loupe: crust, burns, cracked joints, bulging tops", "found something",
    "found nothing", 10,
    {"corrosion": 0.85, "caps": 0.5, "joint": 0.45, "track": 0.5, "earlier": 0.6, "regulator": 0.3, "lead": 0.3,
     "supplycaps": 0.45, "short": 0.2, "filtercap": 0.5},
    0.08, caution=CHARGE,
)  # fmt: skip
MEASURE_RAILS = Action(
    "rails", "Measure every rail at the board, running", "a rail is wrong", "all rails are right", 6,
    {"supply": 0.92, "regulator": 0.9, "short": 0.85, "fuse": 0.95, "supplycaps": 0.6, "mainslead": 0.97, "switch": 0.9,
     "caps": 0.25, "adapter": 0.93, "inrush": 0.6},
    0.03, caution=LIVE,
)  # fmt: skip
RIPPLE = Action(
    "ripple", "Look at the ripple of the rails with a scope", "too much ripple", "clean", 8,
    {"supplycaps": 0.9, "caps": 0.5, "regulator": 0.4, "supply": 0.4}, 0.04, caution=LIVE,
)  # fmt: skip
HEAT_COOL = Action(
    "heat-cool", "Warm and cool one area at a time while it runs", "comes and goes with it", "makes no difference", 20,
    {"joint": 0.8, "thermal": 0.85, "caps": 0.5, "chip": 0.45, "crack": 0.7, "supplycaps": 0.5, "memory": 0.3},
    0.06, risk=0.05, caution=HEAT,
)  # fmt: skip
FLEX = Action(
    "flex", "Press and flex the board gently with an insulated stick while it runs", "comes and goes with it",
    "makes no difference", 6,
    {"joint": 0.8, "crack": 0.8, "contact": 0.6, "track": 0.5, "cable": 0.4, "lead": 0.5, "connector": 0.6, "shield": 0.4},
    0.05, risk=0.03, caution=LIVE,
)  # fmt: skip
SWAP_SUPPLY = Action(
    "swap-supply", "Run it from a supply known to be good", "works then", "stays as it is", 12,
    {"supply": 0.95, "supplycaps": 0.93, "fuse": 0.9, "mainslead": 0.93, "adapter": 0.96, "switch": 0.85, "regulator": 0.2,
     "inrush": 0.7},
    0.03, needs="supply", caution="Same rails, same polarity, never AC for DC. Current limited at the first try.",
)  # fmt: skip
SWAP_MEMORY = Action(
    "swap-memory", "Put in memory known to be good", "works then", "stays as it is", 10,
    {"memory": 0.95, "contact": 0.35}, 0.03, needs="memory", caution=CHARGE,
)  # fmt: skip
SWAP_SCREEN = Action(
    "swap-screen", "Try another screen and cable known to be good, of the right standard", "picture then",
    "stays as it is", 5, {"screen": 0.96, "cable": 0.9, "standard": 0.9}, 0.02, needs="screen",
)  # fmt: skip
STRIP = Action(
    "strip", "Take out everything that is not needed to start", "changed it", "changed nothing", 15,
    {"card": 0.92, "short": 0.6, "drive": 0.6, "memory": 0.15, "conflict": 0.9, "addon": 0.9}, 0.03, caution=CHARGE,
)  # fmt: skip
SWAP_ROM = Action(
    "swap-rom", "Read the firmware chips and compare, or swap in known ones", "differs", "the same", 25,
    {"rom": 0.92, "contact": 0.2}, 0.03, risk=0.03, needs="firmware",
)  # fmt: skip
CLOCK = Action(
    "clock", "Look for the clock and reset at the processor with a scope", "missing or stuck", "there and free", 10,
    {"clock": 0.93, "reset": 0.93, "cpu": 0.1, "logic": 0.2, "corrosion": 0.4}, 0.04, caution=LIVE,
)  # fmt: skip
SWAP_KEYBOARD = Action(
    "swap-keyboard", "Try a keyboard known to be good", "works then", "stays as it is", 4,
    {"keyboard": 0.95, "membrane": 0.95, "keyconn": 0.6, "lead": 0.9, "switchkey": 0.95}, 0.03, needs="keyboard",
)  # fmt: skip
SWAP_DRIVE = Action(
    "swap-drive", "Try a drive known to be good on the same lead", "works then", "stays as it is", 10,
    {"drive": 0.95, "heads": 0.95, "belt": 0.95, "speed": 0.95, "motor": 0.95, "align": 0.95}, 0.03, needs="drive",
)  # fmt: skip
SWAP_LEAD = Action(
    "swap-lead", "Try another data lead, and mind which end is which", "works then", "stays as it is", 5,
    {"lead": 0.93, "cable": 0.93, "termination": 0.3}, 0.03, needs="lead",
)  # fmt: skip

SYMPTOMS: tuple[Symptom, ...] = (
    Symptom("dead", "Nothing at all: no light, no fan, no sound", _suspects(
        ("mainslead", "mains lead or plug", 8), ("fuse", "fuse", 14), ("switch", "mains switch", 8, LOOSE),
        ("supply", "supply does not start", 30), ("supplycaps", "dried capacitors in the supply", 16, CAPS),
        ("short", "a short on a rail holds the supply down", 14, WORK), ("inrush", "inrush resistor or thermistor open", 5),
        ("softstart", "needs its battery or keyboard to be switched on", 5)),
        (MEASURE_RAILS, SWAP_SUPPLY, RIPPLE, LOOK_CLOSE,
         Action("fuse-lead", "Unplugged: measure fuse and lead from end to end", "open", "sound", 4,
                {"fuse": 0.97, "mainslead": 0.95, "inrush": 0.2}, 0.02, caution=CHARGE),
         Action("switch-ohms", "Unplugged: measure the mains switch both ways", "does not close", "closes", 4,
                {"switch": 0.94}, 0.02, caution=CHARGE),
         Action("unload", "Take all loads off and start the supply alone on a dummy load", "starts then", "still dead", 8,
                {"short": 0.93, "softstart": 0.2}, 0.04, caution=LIVE),
         Action("battery-first", "Fit or measure the battery that the switch needs", "starts then", "still dead", 6,
                {"softstart": 0.92}, 0.02)),),
    Symptom("trips", "Trips or blows its fuse at once", _suspects(
        ("short", "a short on a rail", 30, WORK), ("rectifier", "rectifier or switching transistor shorted", 20),
        ("filtercap", "mains filter capacitor shorted", 18, CAPS), ("tantalum", "shorted tantalum capacitor", 16, CAPS),
        ("earlier", "earlier work: reversed plug or part", 8, WORK), ("winding", "shorted winding", 4),
        ("fuse", "wrong fuse fitted", 4)),
        (LOOK_CLOSE, STRIP,
         Action("rail-ohms", "Unplugged: ohms of each rail to ground", "a rail is near nothing", "all rise", 6,
                {"short": 0.92, "tantalum": 0.93, "earlier": 0.4}, 0.04, caution=CHARGE),
         Action("mains-ohms", "Unplugged and discharged: ohms across the mains input", "near nothing", "as usual", 5,
                {"filtercap": 0.85, "rectifier": 0.9, "winding": 0.4}, 0.03, caution=CHARGE),
         Action("lift-filter", "Lift one leg of the filter capacitor and try current limited", "holds then", "still trips", 15,
                {"filtercap": 0.94}, 0.03, caution=LIVE),
         Action("fuse-plate", "Compare the fuse with the plate: value and slow or fast", "wrong one", "right one", 2,
                {"fuse": 0.95}, 0.02)),),
    Symptom("no-picture", "Runs, but no picture", _suspects(
        ("screen", "the screen", 16), ("cable", "wrong or broken cable", 14), ("standard", "wrong signal standard", 12),
        ("video", "video board or chip", 18, LEAK), ("memory", "memory, so it never gets so far", 14),
        ("contact", "a socket or edge contact", 12, LOOSE), ("rom", "firmware chip", 6),
        ("corrosion", "corroded tracks", 8, LEAK)),
        (SWAP_SCREEN, SWAP_MEMORY, RESEAT, LOOK_CLOSE, SWAP_ROM,
         Action("sync", "Look for sync and video at the output with a scope", "nothing there", "signal is there", 6,
                {"video": 0.85, "memory": 0.7, "rom": 0.85, "contact": 0.6, "corrosion": 0.7}, 0.05, caution=LIVE),
         Action("life", "Does it beep, move a drive, answer the caps key?", "signs of life", "none", 2,
                {"screen": 0.9, "cable": 0.9, "standard": 0.9, "video": 0.8}, 0.25))),
    Symptom("colours", "Wrong colours, a colour missing, tint", _suspects(
        ("cable", "a core of the cable or a pin", 24, LOOSE), ("standard", "other colour standard or mode", 16),
        ("termination", "termination missing or wrong", 8), ("video", "video output stage", 18),
        ("screen", "the screen’s own amplifier", 18), ("joint", "cracked joint at the socket", 12, LOOSE),
        ("caps", "coupling capacitor", 6, CAPS)),
        (SWAP_SCREEN, FLEX, LOOK_CLOSE,
         Action("pins", "Measure every core of the cable from end to end", "one is open or crossed", "all sound", 5,
                {"cable": 0.95}, 0.02),
         Action("term-ohms", "Measure the termination: 75 Ω ± 5 %", "wrong", "right", 4, {"termination": 0.95, "video": 0.1}, 0.03),
         Action("mode", "Set the other standard or mode", "right colours then", "the same", 3, {"standard": 0.95}, 0.02),
         Action("rgb", "Look at the three colours at the output with a scope", "one is missing", "all there", 6,
                {"video": 0.88, "joint": 0.7, "caps": 0.7}, 0.05, caution=LIVE))),
    Symptom("beeps", "Beeps and stops, or shows a code", _suspects(
        ("memory", "memory", 34), ("video", "video board or chip", 16), ("contact", "a socket or edge contact", 14, LOOSE),
        ("keyboard", "keyboard or its fuse", 8), ("rom", "firmware chip", 8), ("card", "a card that disturbs", 8),
        ("logic", "a chip on the board", 8, LEAK), ("corrosion", "corroded tracks", 4, LEAK)),
        (SWAP_MEMORY, RESEAT, STRIP, SWAP_KEYBOARD, SWAP_ROM, LOOK_CLOSE, CLOCK,
         Action("swap-video", "Try a video board known to be good", "gets further", "the same", 8, {"video": 0.94}, 0.03,
                needs="video board", caution=CHARGE))),
    Symptom("no-drive", "Drive not found", _suspects(
        ("lead", "data lead or its direction", 20, LOOSE), ("jumper", "jumpers, select or master", 20),
        ("termination", "termination", 10), ("setup", "set-up memory lost or wrong", 18), ("drive", "the drive", 18),
        ("controller", "controller", 8), ("contact", "edge contact", 6, LOOSE)),
        (SWAP_DRIVE, SWAP_LEAD, RESEAT,
         Action("jumpers", "Compare jumpers and termination with the drive’s table", "wrong", "right", 5,
                {"jumper": 0.94, "termination": 0.9}, 0.02),
         Action("set-up", "Enter the drive in set-up by hand", "found then", "the same", 4, {"setup": 0.94}, 0.02),
         Action("spin", "Does it spin up and seek when it gets power?", "dead", "spins", 2, {"drive": 0.75}, 0.05),
         Action("other-machine", "Try the drive in a machine known to be good", "fails there too", "works there", 12,
                {"drive": 0.95, "jumper": 0.3, "termination": 0.3}, 0.03, needs="test machine"))),
    Symptom("no-read", "Drive turns but does not read", _suspects(
        ("heads", "dirty heads", 30), ("belt", "slipped or sticky belt", 16), ("speed", "speed off", 10),
        ("align", "out of alignment", 10), ("disk", "the disk itself", 14), ("lead", "data lead", 8, LOOSE),
        ("grease", "stiff grease on the rails", 12)),
        (SWAP_DRIVE, SWAP_LEAD,
         Action("other-disk", "Try disks written elsewhere, two or three", "reads some", "reads none", 3,
                {"disk": 0.93, "align": 0.6, "heads": 0.2}, 0.06),
         Action("clean-heads", "Clean the heads", "reads then", "the same", 6, {"heads": 0.92}, 0.03),
         Action("rpm", "Measure the speed", "off by over 2 %", "right", 5, {"speed": 0.95, "belt": 0.8}, 0.04),
         Action("rails-move", "Move the head carriage by hand, unpowered", "stiff", "free", 3, {"grease": 0.94}, 0.04),
         Action("own-disk", "Format here and read here", "works", "fails", 6, {"align": 0.9, "disk": 0.85}, 0.12))),
    Symptom("random", "Crashes at random", _suspects(
        ("memory", "memory", 22), ("supplycaps", "ripple from dried capacitors", 18, CAPS), ("joint", "cracked joint", 12, LOOSE),
        ("thermal", "a chip that fails when warm", 12), ("contact", "a socket or edge contact", 14, LOOSE),
        ("card", "a card or driver that disturbs", 10), ("drive", "the drive", 8), ("corrosion", "corroded tracks", 4, LEAK)),
        (SWAP_MEMORY, RIPPLE, HEAT_COOL, FLEX, RESEAT, STRIP, SWAP_SUPPLY, LOOK_CLOSE,
         Action("mem-night", "Run the memory test overnight", "errors", "clean", 5, {"memory": 0.88, "thermal": 0.4, "supplycaps": 0.4, "joint": 0.3}, 0.05),
         Action("no-disk", "Run for an hour without touching the drive", "stays up", "crashes all the same", 6, {"drive": 0.85}, 0.2))),
    Symptom("closed", "Fails only when it is closed up", _suspects(
        ("shield", "the shield touches something", 26), ("cable", "a cable is pinched or pulled", 18, LOOSE),
        ("screw", "a wrong or long screw", 14, WORK), ("thermal", "gets too warm", 16), ("joint", "the board bends, a joint opens", 14, LOOSE),
        ("fan", "the fan is held or turned round", 6), ("connector", "a plug half off", 6, LOOSE)),
        (FLEX, HEAT_COOL, RESEAT,
         Action("one-cover", "Put covers and shields on one at a time", "fails with one", "fails only with all", 12,
                {"shield": 0.9, "screw": 0.7, "cable": 0.6, "fan": 0.5}, 0.15),
         Action("insulate", "Lay card between shield and board", "works then", "still fails", 6, {"shield": 0.93, "screw": 0.4}, 0.04),
         Action("no-screws", "Close it with no screws at all", "works then", "still fails", 4, {"screw": 0.94, "joint": 0.6}, 0.06),
         Action("fan-blow", "Blow air in from outside while closed", "holds longer", "the same", 8, {"thermal": 0.9, "fan": 0.85}, 0.05))),
    Symptom("keyboard", "Keyboard dead, or keys missing", _suspects(
        ("membrane", "membrane or foil", 24), ("keyconn", "connector or tail", 20, LOOSE), ("lead", "keyboard lead", 14, LOOSE),
        ("keyboard", "the keyboard’s own chip", 12), ("port", "fuse or chip at the port", 16, LEAK),
        ("switchkey", "single worn switches", 10), ("standard", "the wrong kind for this machine", 4)),
        (SWAP_KEYBOARD, RESEAT, LOOK_CLOSE,
         Action("lead-ohms", "Measure the lead from end to end while bending it", "opens", "sound", 5, {"lead": 0.94}, 0.02),
         Action("port-volts", "Measure 5 V at the port", "missing", "there", 3, {"port": 0.85}, 0.03, caution=LIVE),
         Action("which-keys", "Press every key: does a whole row or column miss?", "a row or column", "single keys or all", 4,
                {"membrane": 0.75, "keyconn": 0.7, "keyboard": 0.2}, 0.06),
         Action("kind-plate", "Compare plug and switch on the keyboard with what the machine wants", "wrong kind", "right", 2, {"standard": 0.95}, 0.02))),
    Symptom("unsteady", "Picture rolls, shrinks or flickers", _suspects(
        ("supplycaps", "dried capacitors in the supply", 24, CAPS), ("caps", "dried capacitors in the deflection", 22, CAPS),
        ("joint", "cracked joint at a warm part", 20, LOOSE), ("standard", "wrong signal standard", 12), ("flyback", "line transformer", 8),
        ("pots", "dirty presets", 8), ("cable", "cable or earth", 6)),
        (RIPPLE, HEAT_COOL, FLEX, LOOK_CLOSE, SWAP_SCREEN,
         Action("presets", "Turn the presets a little and back", "comes right", "the same", 4, {"pots": 0.92}, 0.05, caution=TUBE),
         Action("esr", "Measure the capacitors’ series resistance in place", "some are high", "all low", 12,
                {"caps": 0.9, "supplycaps": 0.88}, 0.06, caution=CHARGE))),
    Symptom("no-sound", "No sound, or hum", _suspects(
        ("volume", "volume, jack or setting", 22), ("speaker", "loudspeaker", 18), ("lead", "lead to the loudspeaker", 14, LOOSE),
        ("amp", "amplifier chip", 18), ("caps", "coupling capacitor", 16, CAPS), ("earth", "earth loop", 6), ("corrosion", "corroded tracks", 6, LEAK)),
        (LOOK_CLOSE,
         Action("headphones", "Listen at the output with headphones", "sound there", "none there", 2, {"speaker": 0.93, "lead": 0.9, "volume": 0.3}, 0.05),
         Action("speaker-ohms", "Measure the loudspeaker", "open", "sound", 3, {"speaker": 0.95}, 0.02),
         Action("settings", "Turn the volume up, pull all plugs, set sound on", "sound then", "none", 2, {"volume": 0.95, "earth": 0.3}, 0.02),
         Action("touch-input", "Touch the amplifier’s input with a wet finger: does it hum?", "hums", "silent", 4, {"caps": 0.6, "volume": 0.6}, 0.15, caution=LIVE))),
    Symptom("warm", "Works cold, fails warm, or the reverse", _suspects(
        ("thermal", "a chip that fails when warm", 24), ("joint", "cracked joint", 26, LOOSE), ("supplycaps", "dried capacitors", 22, CAPS),
        ("crack", "crack in a track", 10, LOOSE), ("regulator", "regulator that drops out warm", 10), ("contact", "a socket", 8, LOOSE)),
        (HEAT_COOL, FLEX, RIPPLE, RESEAT, LOOK_CLOSE, SWAP_SUPPLY,
         Action("rail-watch", "Log +5 V from cold until it fails", "drops before it fails", "stays", 30, {"regulator": 0.9, "supplycaps": 0.6}, 0.04, caution=LIVE))),
    Symptom("forgets", "Clock or settings are lost", _suspects(
        ("battery", "flat cell", 40), ("holder", "holder or contacts", 16, LEAK), ("corrosion", "leak ate the tracks", 18, LEAK),
        ("diode", "diode or charging path", 10), ("rtc", "clock chip or its crystal", 10), ("jumper", "clear jumper left on", 6)),
        (LOOK_CLOSE,
         Action("cell-volts", "Measure the cell under its load", "low", "right", 2, {"battery": 0.95, "diode": 0.2}, 0.02),
         Action("chip-volts", "Measure the cell’s volts at the clock chip, off", "missing there", "there", 4, {"holder": 0.85, "corrosion": 0.85, "diode": 0.85}, 0.04),
         Action("jumper-look", "Look for the clear jumper", "on", "off", 2, {"jumper": 0.96}, 0.02))),
)  # fmt: skip

# The loads that may hold a rail down; which of them are there, the technician knows.
LOADS = ("board", "drives", "cards", "screen", "fan", "keyboard", "sound", "clock")
SHORT = Symptom(
    "short",
    "A rail is short to ground: which load?",
    tuple(Suspect(load, f"the {load}", weight) for load, weight in zip(LOADS, (3, 2, 2, 1, 1, 1, 1, 1), strict=True)),
    (),
)
SYMPTOMS = (*SYMPTOMS, SHORT)
BY_CODE: Mapping[str, Symptom] = {symptom.code: symptom for symptom in SYMPTOMS}


def off_load(loads: tuple[str, ...]) -> Action:
    """The action that takes these loads off together to find a short among all."""
    return Action(
        "off-" + "-".join(loads),
        f"Take off {', '.join(loads)} together",
        "the short is gone",
        "it is still there",
        4.0 * len(loads),
        dict.fromkeys(loads, 0.97),
        0.03,
        caution=CHARGE,
    )

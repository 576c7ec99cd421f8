"""Symptoms, their suspects and what to try.

Weights and chances are judgement (common practice, no source); a shop's own closed faults correct them.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from core.bench.checks import BenchFacts
from core.bench.conditions import holds
from core.bench.fault_actions import (
    ADAPTER_PLATE,
    CLOCK,
    CONVERTER_OUT,
    DISTURB,
    FLEX,
    HEAT_COOL,
    LOOK_CLOSE,
    MEASURE_RAILS,
    OWN_CABLE,
    PLUG_BACK,
    PUT_BACK,
    RESEAT,
    RIPPLE,
    RUSTLE,
    STRIP,
    SWAP_DRIVE,
    SWAP_KEYBOARD,
    SWAP_LEAD,
    SWAP_MEMORY,
    SWAP_ROM,
    SWAP_SCREEN,
    SWAP_SUPPLY,
    UNPLUG_ALL,
)
from core.bench.suspects import USUAL_REPAIR, Action, Suspect
from core.safety import Hazard

CHARGE, LIVE, TUBE, HEAT = Hazard.CHARGE, Hazard.LIVE, Hazard.TUBE, Hazard.HEAT
STATIC, SOLDER, LEAKED, LITHIUM = Hazard.STATIC, Hazard.SOLDER, Hazard.LEAK, Hazard.LITHIUM
SOLVENT, MOVING, EDGES, DUST = Hazard.SOLVENT, Hazard.MOVING, Hazard.EDGES, Hazard.DUST


@dataclass(frozen=True)
class Symptom:
    """What is seen. `suspects` at least six; `actions` tell them apart (for a short they are made as one goes).

    `when` says on which things it can be seen (see core/bench/conditions.py).
    """

    code: str
    words: str
    suspects: tuple[Suspect, ...]
    actions: tuple[Action, ...]
    when: str = ""

    def for_facts(self, facts: BenchFacts) -> "Symptom":
        """With the suspects and actions that this very thing can have."""
        named = facts.named
        actions = (a for a in self.actions if holds(a.when, named))
        return replace(
            self,
            suspects=tuple(s for s in self.suspects if holds(s.when, named)),
            actions=tuple(near_tube(a) if facts.tube else a for a in actions),
        )


def near_tube(action: Action) -> Action:
    """Inside a machine with a CRT every reach is near it."""
    reaches = {CHARGE, LIVE, HEAT} & set(action.hazards)
    return replace(action, hazards=tuple(dict.fromkeys((*action.hazards, TUBE)))) if reaches else action


def symptoms_for(facts: BenchFacts) -> tuple[Symptom, ...]:
    """What this thing can show, with the suspects and actions it can have."""
    return tuple(symptom.for_facts(facts) for symptom in SYMPTOMS if holds(symptom.when, facts.named))


def _suspects(*rows: tuple[str, str, float] | tuple[str, str, float, dict[str, float]]) -> tuple[Suspect, ...]:
    return tuple(
        Suspect(
            row[0], row[1], row[2], row[3] if len(row) > 3 else {}, ONLY_WHEN.get(row[0], ""), repair_minutes(row[0])
        )
        for row in rows
    )


# What mending each takes, the start after it too, for somebody who has what it needs at hand: minutes (common practice,
# no source). What stands in none of these takes USUAL_REPAIR.
MINUTES: Mapping[float, str] = {
    5: "outside nokeyboard bright volume breaker switched asks zone near two standard poles",
    10: "fuse mainslead cable lead jumper termination setup battery adapter connector medium card converter screen lid "
    "softstart cut keyboard transit foreign slot conflict writer",
    20: "contact memory rom drive keyconn speaker drives cards fan screw panellead port name century version order "
    "image table disk tool newer beyond grease heads cache sound bent assembled",
    60: "switch membrane switchkey regulator joint pots amp diode holder inverter backlight leadbreak thermofuse motor "
    "speed sensor glue align rtc clock",
    90: "inrush supply rectifier filtercap filterleak tantalum smoothing video logic chip crack caps flyback "
    "panel controller earlier shield",
    120: "supplycaps corrosion track short winding board",
}
_MINUTES = {code: float(minutes) for minutes, codes in MINUTES.items() for code in codes.split()}


def repair_minutes(code: str) -> float:
    return _MINUTES.get(code, USUAL_REPAIR)


# Suspects that only some machines have.
ONLY_WHEN = {
    "flyback": "tube",
    "pots": "tube",
    "nokeyboard": "machine",
    "softstart": "machine & battery!=none",
    "video": "form!=monitor",
    "memory": "form!=monitor",
    "rom": "form!=monitor",
    "adapter": "supply=external_ac|external_dc",
    "mainslead": "supply!=external_ac|external_dc",
    "inrush": "supply!=linear|external_ac|external_dc",
}


LEAK: dict[str, float] = {"leak": 4.0, "rust": 1.5}
CAPS: dict[str, float] = {"swollen": 4.0, "leak": 1.3}
WORK: dict[str, float] = {"rework": 4.0, "missing": 1.3}
LOOSE: dict[str, float] = {"loose": 3.0, "broken": 2.0, "missing": 1.5}

# On which things a symptom can be seen.
PLUGGED = "form!=board|card|chip|cabinet"
DRIVES = "form!=board|card|chip|cabinet|adapter|monitor"

SYMPTOMS: tuple[Symptom, ...] = (
    Symptom("dead", "Nothing at all: no light, no fan, no sound", _suspects(
        ("mainslead", "mains lead or plug", 8), ("fuse", "fuse", 14), ("switch", "mains switch", 8, LOOSE),
        ("supply", "PSU does not start", 30), ("supplycaps", "dried capacitors in the PSU", 16, CAPS),
        ("short", "a short on a rail holds the PSU down", 14, WORK), ("inrush", "inrush resistor or thermistor open", 5),
        ("softstart", "needs its battery or keyboard to be switched on", 5, {"needscell": 6.0}),
        ("adapter", "the adapter: its volts, its kind, its plug", 22),
        ("outside", "something plugged in from outside stops the start", 6)),
        (UNPLUG_ALL, PLUG_BACK, ADAPTER_PLATE, MEASURE_RAILS, SWAP_SUPPLY, RIPPLE, LOOK_CLOSE,
         Action("fuse-lead", "Unplugged: measure fuse and lead from end to end", "open", "sound", 4,
                {"fuse": 0.97, "mainslead": 0.95, "inrush": 0.2}, 0.02, hazards=(CHARGE,)),
         Action("switch-ohms", "Unplugged: measure the mains switch both ways", "does not close", "closes", 4,
                {"switch": 0.94}, 0.02, hazards=(CHARGE,)),
         Action("unload", "Take all loads off and start the PSU alone on a dummy load", "starts then", "still dead", 8,
                {"short": 0.93, "softstart": 0.2}, 0.04,
                hazards=(CHARGE, LIVE), changes=("every load",), then=("load-back",)),
         Action("load-back", "Put the loads back one at a time, a start after each", "one of them stops it", "none does", 12,
                {"short": 0.92}, 0.04, hazards=(CHARGE, LIVE)),
         Action("battery-first", "Fit or measure the battery that the switch needs", "starts then", "still dead", 6,
                {"softstart": 0.92}, 0.02, hazards=(LITHIUM, LEAKED), when="battery!=none")), PLUGGED),
    Symptom("trips", "Trips or blows its fuse at once", _suspects(
        ("short", "a short on a rail", 30, WORK), ("rectifier", "rectifier or switching transistor shorted", 20),
        ("filtercap", "mains filter capacitor shorted", 18, CAPS), ("tantalum", "shorted tantalum capacitor", 16, CAPS),
        ("earlier", "earlier work: reversed plug or part", 8, WORK), ("winding", "shorted winding", 4),
        ("fuse", "wrong fuse fitted", 4), ("adapter", "the wrong adapter: AC for DC, too many volts, poles", 16), ("outside", "something plugged in from outside", 6)),
        (UNPLUG_ALL, PLUG_BACK, ADAPTER_PLATE, LOOK_CLOSE, STRIP, PUT_BACK,
         Action("rail-ohms", "Unplugged: ohms of each rail to ground", "a rail is near nothing", "all rise", 6,
                {"short": 0.92, "tantalum": 0.93, "earlier": 0.4}, 0.04, hazards=(CHARGE,)),
         Action("mains-ohms", "Unplugged and discharged: ohms across the mains input", "near nothing", "as usual", 5,
                {"filtercap": 0.85, "rectifier": 0.9, "winding": 0.4}, 0.03, hazards=(CHARGE,)),
         Action("lift-filter", "Discharged and unplugged: lift one leg of the filter capacitor; close up, then try it current limited",
                "holds then", "still trips", 15, {"filtercap": 0.94}, 0.03, hazards=(CHARGE, SOLDER, LIVE)),
         Action("fuse-plate", "Unplugged: compare the fuse with the plate, value and slow or fast", "wrong one", "right one", 2,
                {"fuse": 0.95}, 0.02)), PLUGGED),
    Symptom("trips-once", "Trips once, then starts", _suspects(
        ("inrush", "inrush resistor or thermistor: too much at the first moment", 24),
        ("filterleak", "mains filter leaks to earth", 20, CAPS), ("moisture", "damp in the PSU", 14),
        ("supplycaps", "dried capacitors in the PSU", 14, CAPS),
        ("breaker", "the breaker of the room: quick, or loaded already", 16), ("switch", "worn mains switch that arcs", 6, LOOSE),
        ("outside", "something plugged in from outside", 6)),
        (UNPLUG_ALL, PLUG_BACK, LOOK_CLOSE,
         Action("other-socket", "Another circuit, with nothing else on it", "holds there", "trips there too", 3, {"breaker": 0.93}, 0.05),
         Action("inrush-ohms", "Unplugged and discharged: ohms of the inrush part, cold", "far off its marking", "as marked", 6,
                {"inrush": 0.88}, 0.04, hazards=(CHARGE,)),
         Action("earth-leak", "Insulation of the mains side to earth, by somebody competent with the proper tester", "too low", "high", 8,
                {"filterleak": 0.92, "moisture": 0.8}, 0.03, hazards=(CHARGE,)),
         Action("dry-out", "Let it stand open, unplugged, in a warm dry room for two days", "holds then", "the same", 5, {"moisture": 0.9}, 0.05),
         Action("soft-start", "Isolated and current limited: start it from there ten times", "trips without the limit only", "no difference", 12,
                {"inrush": 0.8, "filterleak": 0.2, "switch": 0.5}, 0.06, hazards=(LIVE,))), PLUGGED),
    Symptom("no-picture", "Runs, but no picture", _suspects(
        ("screen", "the screen", 16), ("cable", "wrong or broken cable", 14), ("standard", "wrong signal standard", 12),
        ("video", "video board or chip", 18, LEAK), ("memory", "memory, so it never gets so far", 14),
        ("contact", "a socket or edge contact", 12, LOOSE), ("rom", "firmware chip", 6),
        ("corrosion", "corroded tracks", 8, LEAK),
        ("converter", "the converter between, or its firmware", 6), ("flyback", "line transformer: no high voltage", 8)),
        (SWAP_SCREEN, OWN_CABLE, CONVERTER_OUT, RUSTLE, SWAP_MEMORY, RESEAT, DISTURB, LOOK_CLOSE, SWAP_ROM,
         Action("sync", "Look for sync and video at the output with a scope", "nothing there", "signal is there", 6,
                {"video": 0.85, "memory": 0.7, "rom": 0.85, "contact": 0.6, "corrosion": 0.7}, 0.05, hazards=(LIVE,)),
         Action("life", "Does it beep, move a drive, answer the caps key?", "signs of life", "none", 2,
                {"screen": 0.9, "cable": 0.9, "standard": 0.9, "video": 0.8, "converter": 0.9}, 0.25)), "shows"),
    Symptom("colours", "Wrong colours, a colour missing, tint", _suspects(
        ("cable", "a core of the cable or a pin", 24, LOOSE), ("standard", "other colour standard or mode", 16),
        ("termination", "termination missing or wrong", 8), ("video", "video output stage", 18),
        ("screen", "the screen’s own amplifier", 18), ("joint", "cracked joint at the socket", 12, LOOSE),
        ("caps", "coupling capacitor", 6, CAPS),
        ("converter", "the converter between, or its firmware", 8)),
        (SWAP_SCREEN, OWN_CABLE, CONVERTER_OUT, FLEX, LOOK_CLOSE,
         Action("pins", "Measure every core of the cable from end to end", "one is open or crossed", "all sound", 5,
                {"cable": 0.95}, 0.02),
         Action("term-ohms", "Measure the termination: 75 Ω ± 5 %", "wrong", "right", 4, {"termination": 0.95, "video": 0.1}, 0.03),
         Action("mode", "Set the other standard or mode", "right colours then", "the same", 3, {"standard": 0.95}, 0.02),
         Action("rgb", "Look at the three colours at the output with a scope", "one is missing", "all there", 6,
                {"video": 0.88, "joint": 0.7, "caps": 0.7}, 0.05, hazards=(LIVE,))), "shows"),
    Symptom("beeps", "Beeps and stops, or shows a code", _suspects(
        ("memory", "memory", 34), ("video", "video board or chip", 16), ("contact", "a socket or edge contact", 14, LOOSE),
        ("keyboard", "keyboard or its fuse", 8), ("rom", "firmware chip", 8), ("card", "a card that disturbs", 8),
        ("logic", "a chip on the board", 8, LEAK), ("corrosion", "corroded tracks", 4, LEAK),
        ("nokeyboard", "no keyboard is plugged in", 3, {"missing keyboard": 40.0}),
        ("outside", "something plugged in from outside", 4)),
        (Action("plug-keyboard", "Plug a keyboard in, any that fits", "goes on then", "the same", 1, {"nokeyboard": 0.97, "keyboard": 0.3}, 0.02),
         UNPLUG_ALL, PLUG_BACK, SWAP_MEMORY, RESEAT, DISTURB, STRIP, PUT_BACK, SWAP_KEYBOARD, SWAP_ROM, LOOK_CLOSE, CLOCK,
         Action("swap-video", "Try a video board known to be good", "gets further", "the same", 8, {"video": 0.94}, 0.03,
                needs="video board", hazards=(CHARGE, STATIC))), "machine"),
    Symptom("no-drive", "Drive not found", _suspects(
        ("lead", "data lead or its direction", 20, LOOSE), ("jumper", "jumpers, select or master", 20),
        ("termination", "termination", 10), ("setup", "set-up memory lost or wrong", 18), ("drive", "the drive", 18),
        ("controller", "controller", 8), ("contact", "edge contact", 6, LOOSE),
        ("converter", "the adapter between, or its firmware", 6)),
        (SWAP_DRIVE, SWAP_LEAD, RESEAT, DISTURB, CONVERTER_OUT,
         Action("jumpers", "Compare jumpers and termination with the drive’s table", "wrong", "right", 5,
                {"jumper": 0.94, "termination": 0.9}, 0.02),
         Action("set-up", "Enter the drive in set-up by hand", "found then", "the same", 4, {"setup": 0.94}, 0.02),
         Action("spin", "Does it spin up and seek when it gets power?", "dead", "spins", 2, {"drive": 0.75}, 0.05),
         Action("other-controller", "The same drive and lead on another controller", "found then", "the same", 8, {"controller": 0.93, "setup": 0.2}, 0.03, hazards=(CHARGE, STATIC)),
         Action("other-machine", "Try the drive in a machine known to be good", "fails there too", "works there", 12,
                {"drive": 0.95, "jumper": 0.3, "termination": 0.3}, 0.03, needs="test machine")), DRIVES),
    Symptom("no-read", "Drive turns but does not read", _suspects(
        ("heads", "dirty heads", 30), ("belt", "slipped or sticky belt", 16), ("speed", "speed off", 10),
        ("align", "out of alignment", 10), ("disk", "the disk itself", 14), ("lead", "data lead", 8, LOOSE),
        ("grease", "stiff grease on the rails", 12)),
        (SWAP_DRIVE, SWAP_LEAD,
         Action("other-disk", "Try disks written elsewhere, two or three", "reads some", "reads none", 3,
                {"disk": 0.93, "align": 0.6, "heads": 0.2}, 0.06),
         Action("clean-heads", "Diskette drive: clean the heads, without pressing; a sealed disk is never opened", "reads then", "the same", 6,
                {"heads": 0.92}, 0.03, hazards=(SOLVENT,)),
         Action("rpm", "Measure the speed", "off by over 2 %", "right", 5, {"speed": 0.95, "belt": 0.8}, 0.04, hazards=(MOVING,)),
         Action("rails-move", "Move the head carriage by hand, unpowered", "stiff", "free", 3, {"grease": 0.94}, 0.04),
         Action("own-disk", "Format here and read here", "works", "fails", 6, {"align": 0.9, "disk": 0.85}, 0.12)), DRIVES),
    Symptom("stuck", "Mechanism stuck or misaligned", _suspects(
        ("grease", "grease gone stiff", 30), ("foreign", "something fell in", 14, LOOSE), ("bent", "a part bent or snapped", 16, LOOSE),
        ("transit", "transport screw or lock left in", 8), ("assembled", "put together wrongly before", 12, WORK),
        ("sensor", "a sensor that never sees it", 10), ("motor", "motor or its driver", 10), ("glue", "rubber or glue gone sticky", 10)),
        (Action("by-hand", "Unplugged: move it by hand through its whole way", "stiff or blocked", "free", 4,
                {"grease": 0.9, "foreign": 0.9, "bent": 0.85, "transit": 0.92, "assembled": 0.6, "glue": 0.9}, 0.06, hazards=(EDGES,)),
         Action("light", "Look in with a light from both ends", "something is in the way", "nothing", 4,
                {"foreign": 0.92, "bent": 0.7, "transit": 0.85, "assembled": 0.5}, 0.05),
         Action("degrease", "Unplugged: wipe the old grease off one rail, a drop of light oil", "moves then", "the same", 12,
                {"grease": 0.92, "glue": 0.4}, 0.04, risk=0.02, hazards=(SOLVENT,)),
         Action("compare", "Compare with a photograph or a second one", "differs", "the same", 8, {"assembled": 0.9, "bent": 0.5}, 0.05),
         Action("sensor-look", "Move it by hand and watch the sensor on a meter", "never changes", "changes", 8, {"sensor": 0.93}, 0.04),
         Action("motor-alone", "Feed the motor alone, current limited", "does not turn", "turns", 8, {"motor": 0.92}, 0.04, hazards=(MOVING,))),
        "form!=board|card|chip|adapter"),
    Symptom("no-system", "Starts, but finds no system", _suspects(
        ("medium", "the medium: unreadable, or not made to start from", 24), ("order", "set to start from elsewhere", 14),
        ("setup", "set-up memory lost or wrong", 12), ("drive", "the drive", 14), ("lead", "data lead or its direction", 10, LOOSE),
        ("table", "partition table or its active mark", 12), ("newer", "written by a tool or system too new for it", 8),
        ("converter", "the adapter between, or its firmware", 8), ("termination", "termination", 4)),
        (SWAP_DRIVE, SWAP_LEAD, CONVERTER_OUT,
         Action("other-medium", "Start from another medium that starts elsewhere", "starts then", "the same", 4, {"medium": 0.94, "newer": 0.8, "table": 0.85}, 0.04),
         Action("medium-there", "Start another machine from this medium", "does not start there", "starts there", 6, {"medium": 0.92, "table": 0.7}, 0.05, needs="test machine"),
         Action("order-look", "Look which drive it starts from, and set it", "was another", "was this one", 3, {"order": 0.95, "setup": 0.5}, 0.03),
         Action("table-look", "Look at the partition table with the system’s own tool; change nothing yet", "wrong", "right", 6, {"table": 0.93, "newer": 0.6}, 0.04),
         Action("raw", "Read its first sector raw: blank, or not to be read at all?", "not to be read", "blank, or written", 5,
                {"drive": 0.9, "lead": 0.8, "converter": 0.5, "termination": 0.5}, 0.05),
         Action("set-up-drive", "Enter the drive in set-up by hand", "found then", "the same", 4, {"setup": 0.93}, 0.03)), "machine"),
    Symptom("installing", "Stops while installing", _suspects(
        ("medium", "one medium of the set, or the drive that reads it", 24), ("version", "the wrong version for this machine", 16),
        ("memory", "memory", 14), ("volume", "volume too large, or made by another tool", 14), ("name", "a name that the installer trips over", 4),
        ("drive", "the drive it installs on", 10), ("converter", "the adapter between, or its firmware", 8),
        ("image", "the image it was written from: cut short, or another format", 8), ("tool", "the tool it was written with", 6),
        ("thermal", "gets too warm", 4), ("card", "a card or driver that disturbs", 6)),
        (SWAP_MEMORY, SWAP_DRIVE, STRIP, PUT_BACK, CONVERTER_OUT,
         Action("image-sum", "Compare size and checksum of the image with what is known of it", "differs", "the same", 3, {"image": 0.93}, 0.03),
         Action("other-tool", "Write the medium anew with another tool, read it back", "goes on then", "stops there too", 12,
                {"tool": 0.92, "medium": 0.6}, 0.06),
         Action("read-all", "Read every medium of the set from end to end, or compare checksums", "one is bad", "all good", 10, {"medium": 0.94}, 0.03),
         Action("other-kind", "The same system from another kind of medium", "goes on then", "stops there too", 15, {"medium": 0.9, "converter": 0.4}, 0.06),
         Action("small-volume", "A volume well under the system’s limit, made by its own tool", "goes on then", "the same", 15, {"volume": 0.93, "name": 0.4}, 0.04),
         Action("plain-name", "Give the volume a short plain name", "goes on then", "the same", 3, {"name": 0.94}, 0.03),
         Action("other-version", "One version earlier, or later", "goes on then", "the same", 20, {"version": 0.92}, 0.04),
         Action("where", "Does it stop at the same place each time?", "at the same place", "anywhere", 15,
                {"medium": 0.85, "version": 0.85, "volume": 0.8, "name": 0.85, "memory": 0.2, "thermal": 0.1}, 0.3)), "machine"),
    Symptom("loses-files", "Loses files, or they come back damaged", _suspects(
        ("medium", "bad places on the medium", 22), ("beyond", "written beyond what a system or firmware reaches: it comes round to the front", 14),
        ("memory", "memory", 12), ("converter", "the adapter between, or its firmware", 10), ("cut", "switched off while it was writing", 14),
        ("cache", "a write cache or driver that keeps back", 8), ("lead", "data lead", 8, LOOSE), ("supply", "a rail that sags while it writes", 6),
        ("writer", "a system that reads these volumes and must not write them", 8)),
        (SWAP_MEMORY, SWAP_LEAD, CONVERTER_OUT, MEASURE_RAILS,
         Action("surface", "Read the whole of it, compare with the table of bad places", "new bad places", "none new", 20, {"medium": 0.94, "lead": 0.3}, 0.03),
         Action("far-end", "Work on a copy: write near the end of it, then look whether the front changed", "the front changed", "nothing changed", 10,
                {"beyond": 0.95}, 0.02, risk=0.05),
         Action("who-writes", "Let only one system write it for a while", "stays whole then", "the same", 15, {"writer": 0.93}, 0.06),
         Action("shut-down", "Shut it down as its system wants, wait, then switch off", "stays whole then", "the same", 8, {"cut": 0.92, "cache": 0.6}, 0.06),
         Action("no-cache", "Without cache and drivers at start", "stays whole then", "the same", 10, {"cache": 0.92}, 0.05)), "machine"),
    Symptom("wrong-date", "Date or time are wrong, and come back wrong", _suspects(
        ("century", "its firmware or system knows no such year", 24), ("battery", "flat cell", 20), ("rtc", "the clock runs slow or fast", 12),
        ("asks", "nothing reads the clock at start", 14), ("zone", "time zone or summer time", 8), ("two", "two systems each put it right", 6)),
        (Action("set-old", "Set a date of its own time, such as 28 February 1994, and look again from cold", "right then", "wrong again", 6,
                {"century": 0.95, "zone": 0.3}, 0.04),
         Action("cell-volts", "Measure the cell under its load", "low", "right", 2, {"battery": 0.95}, 0.02, hazards=(LIVE, LITHIUM, LEAKED)),
         Action("day-off", "Against a good clock over a day, off and on", "runs away", "keeps time", 10, {"rtc": 0.93}, 0.05),
         Action("firmware-date", "Compare firmware’s date with the system’s", "differ", "the same", 2, {"asks": 0.93, "zone": 0.6, "two": 0.5}, 0.05),
         Action("one-system", "Start only one of its systems for a day", "stays right", "the same", 5, {"two": 0.92}, 0.05)), "machine"),
    Symptom("own-dark", "Own panel dark, an outside screen works", _suspects(
        ("backlight", "the lamp behind the panel", 26), ("inverter", "the inverter of the lamp", 22), ("panellead", "the lead through the hinge", 18, LOOSE),
        ("switched", "switched to the outside screen", 10), ("lid", "the lid switch", 8), ("panel", "the panel itself", 12),
        ("bright", "brightness turned down", 4)),
        (Action("torch", "Shine a torch on the panel: is there a faint picture?", "a faint picture", "nothing", 1, {"backlight": 0.92, "inverter": 0.92, "lid": 0.85, "bright": 0.9, "panellead": 0.4}, 0.06),
         Action("keys-screen", "Press the keys for screen and brightness, and take the outside screen off", "picture then", "the same", 1, {"switched": 0.93, "bright": 0.93}, 0.02),
         Action("swap-panel", "Try a panel known to be good", "picture then", "the same", 20, {"panel": 0.94, "panellead": 0.3}, 0.04, needs="panel",
                caution="The inverter gives hundreds of volts: off and unplugged to change anything.", hazards=(STATIC,)),
         Action("hinge", "Move the lid slowly through its whole way", "comes and goes", "no difference", 2, {"panellead": 0.85, "lid": 0.4}, 0.04),
         Action("lid-switch", "Press the lid switch with a stick", "comes on", "the same", 2, {"lid": 0.93}, 0.03),
         Action("swap-lamp", "Try a lamp known to be good", "lights", "stays dark", 15, {"backlight": 0.93}, 0.04, needs="lamp",
                caution="The inverter gives hundreds of volts: off and unplugged to change anything. Such lamps hold mercury: never broken.", hazards=(STATIC,)),
         Action("swap-inverter", "Try an inverter known to be good", "lights", "stays dark", 12, {"inverter": 0.93}, 0.04, needs="inverter",
                caution="The inverter gives hundreds of volts: off and unplugged to change anything.", hazards=(STATIC,))),
        "form=laptop|luggable|all_in_one"),
    Symptom("random", "Crashes at random", _suspects(
        ("memory", "memory", 22), ("supplycaps", "ripple from dried capacitors", 18, CAPS), ("joint", "cracked joint", 12, LOOSE),
        ("thermal", "a chip that fails when warm", 12), ("contact", "a socket or edge contact", 14, LOOSE),
        ("card", "a card or driver that disturbs", 10), ("drive", "the drive", 8), ("corrosion", "corroded tracks", 4, LEAK),
        ("adapter", "the adapter sags under load", 10), ("outside", "something plugged in from outside", 5)),
        (UNPLUG_ALL, PLUG_BACK, DISTURB, PUT_BACK, SWAP_MEMORY, RIPPLE, HEAT_COOL, FLEX, RESEAT, STRIP, SWAP_SUPPLY, LOOK_CLOSE,
         Action("mem-hours", "Run the memory test for hours, with somebody near", "errors", "clean", 5, {"memory": 0.88, "thermal": 0.4, "supplycaps": 0.4, "joint": 0.3}, 0.05),
         Action("no-disk", "Run for an hour without touching the drive", "stays up", "crashes all the same", 6, {"drive": 0.85}, 0.2)), "machine"),
    Symptom("closed", "Fails only when it is closed up", _suspects(
        ("shield", "the shield touches something", 26), ("cable", "a cable is pinched or pulled", 18, LOOSE),
        ("screw", "a wrong or long screw", 14, WORK), ("thermal", "gets too warm", 16), ("joint", "the board bends, a joint opens", 14, LOOSE),
        ("fan", "the fan is held or turned round", 6), ("connector", "a plug half off", 6, LOOSE),
        ("near", "a shield or cover that only comes near: it couples in", 10)),
        (FLEX, HEAT_COOL, RESEAT, DISTURB,
         Action("spacer", "Hold the shield a finger’s breadth off on plastic spacers, then nearer", "fails once it is near", "fails touching only", 8,
                {"near": 0.9, "shield": 0.1, "cable": 0.3}, 0.1, hazards=(LIVE,)),
         Action("one-cover", "Put covers and shields on one at a time", "fails with one", "fails only with all", 12,
                {"shield": 0.9, "screw": 0.7, "cable": 0.6, "fan": 0.5}, 0.15),
         Action("insulate", "Lay insulating sheet between shield and board", "works then", "still fails", 6, {"shield": 0.93, "screw": 0.4, "near": 0.1}, 0.04,
                hazards=(CHARGE,)),
         Action("no-screws", "Close it with the earth screws only", "works then", "still fails", 4, {"screw": 0.94, "joint": 0.6}, 0.06,
                caution="Screws that carry the earth stay in.", hazards=(CHARGE,)),
         Action("fan-blow", "Blow air in from outside while closed", "holds longer", "the same", 8, {"thermal": 0.9, "fan": 0.85}, 0.05, hazards=(MOVING,))), "opens & form!=cabinet"),
    Symptom("keyboard", "Keyboard dead, or keys missing", _suspects(
        ("membrane", "membrane or foil", 24), ("keyconn", "connector or tail", 20, LOOSE), ("lead", "keyboard lead", 14, LOOSE),
        ("keyboard", "the keyboard’s own chip", 12), ("port", "fuse or chip at the port", 16, LEAK),
        ("switchkey", "single worn switches", 10), ("standard", "the wrong kind for this machine", 4),
        ("nokeyboard", "no keyboard is plugged in", 1, {"missing keyboard": 40.0})),
        (SWAP_KEYBOARD, RESEAT, DISTURB, LOOK_CLOSE,
         Action("lead-ohms", "Measure the lead from end to end while bending it", "opens", "sound", 5, {"lead": 0.94}, 0.02),
         Action("port-volts", "Measure 5 V at the port", "missing", "there", 3, {"port": 0.85}, 0.03, hazards=(LIVE,)),
         Action("which-keys", "Press every key: does a whole row or column miss?", "a row or column", "single keys or all", 4,
                {"membrane": 0.75, "keyconn": 0.7, "keyboard": 0.2}, 0.06),
         Action("kind-plate", "Compare plug and switch on the keyboard with what the machine wants", "wrong kind", "right", 2, {"standard": 0.95, "nokeyboard": 0.5}, 0.02)), "keyboard"),
    Symptom("unsteady", "Picture rolls, shrinks or flickers", _suspects(
        ("supplycaps", "dried capacitors in the PSU", 24, CAPS), ("caps", "dried capacitors in the deflection", 22, CAPS),
        ("joint", "cracked joint at a warm part", 20, LOOSE), ("standard", "wrong signal standard", 12), ("flyback", "line transformer", 8),
        ("pots", "dirty presets", 8), ("cable", "cable or earth", 6),
        ("near", "something near it: a transformer, a loudspeaker, a shield left off", 6),
        ("converter", "the converter between, or its firmware", 5)),
        (RIPPLE, HEAT_COOL, FLEX, LOOK_CLOSE, SWAP_SCREEN, OWN_CABLE, CONVERTER_OUT, RUSTLE,
         Action("presets", "Mark each preset, then turn it a little and back with an insulated tool, by somebody trained for live tube work",
                "comes right", "the same", 4, {"pots": 0.92}, 0.05, hazards=(TUBE, LIVE), when="tube"),
         Action("move-away", "Move it a metre away, turn it round, take everything off the top", "comes right", "the same", 3, {"near": 0.93}, 0.03, hazards=(Hazard.LIFT,)),
         Action("esr", "Measure the capacitors’ series resistance in place", "some are high", "all low", 12,
                {"caps": 0.9, "supplycaps": 0.88}, 0.06, hazards=(CHARGE,))), "shows"),
    Symptom("no-sound", "No sound, or hum", _suspects(
        ("volume", "volume, jack or setting", 22), ("speaker", "loudspeaker", 18), ("lead", "lead to the loudspeaker", 14, LOOSE),
        ("amp", "amplifier chip", 18), ("caps", "coupling capacitor", 16, CAPS), ("earth", "earth loop", 6), ("corrosion", "corroded tracks", 6, LEAK)),
        (LOOK_CLOSE,
         Action("headphones", "Listen at the output with headphones: volume down, held off the ear", "sound there", "none there", 2, {"speaker": 0.93, "lead": 0.9, "volume": 0.3}, 0.05),
         Action("speaker-ohms", "Unplugged: measure the loudspeaker", "open", "sound", 3, {"speaker": 0.95}, 0.02, hazards=(CHARGE,)),
         Action("settings", "Turn the volume up, pull all plugs, set sound on", "sound then", "none", 2, {"volume": 0.95, "earth": 0.3}, 0.02),
         Action("feed-input", "Feed a small signal from a generator through a capacitor into the amplifier’s input", "heard", "silent", 5,
                {"caps": 0.6, "volume": 0.6, "amp": 0.05}, 0.4, hazards=(LIVE,))), "machine"),
    Symptom("warm", "Works cold, fails warm, or the reverse", _suspects(
        ("thermal", "a chip that fails when warm", 24), ("joint", "cracked joint", 26, LOOSE), ("supplycaps", "dried capacitors", 22, CAPS),
        ("crack", "crack in a track", 10, LOOSE), ("regulator", "regulator that drops out warm", 10), ("contact", "a socket", 8, LOOSE)),
        (HEAT_COOL, FLEX, RIPPLE, RESEAT, DISTURB, LOOK_CLOSE, SWAP_SUPPLY,
         Action("rail-watch", "Log +5 V from cold until it fails", "drops before it fails", "stays", 30, {"regulator": 0.9, "supplycaps": 0.6}, 0.04, hazards=(LIVE,))), "form!=chip|cabinet"),
    Symptom("forgets", "Clock or settings are lost", _suspects(
        ("battery", "flat cell", 40), ("holder", "holder or contacts", 16, LEAK), ("corrosion", "leak ate the tracks", 18, LEAK),
        ("diode", "diode or charging path", 10), ("rtc", "clock chip or its crystal", 10), ("jumper", "clear jumper left on", 6)),
        (LOOK_CLOSE,
         Action("cell-volts", "Measure the cell under its load", "low", "right", 2, {"battery": 0.95, "diode": 0.2}, 0.02, hazards=(LITHIUM, LEAKED)),
         Action("chip-volts", "Measure the cell’s volts at the clock chip, off", "missing there", "there", 4, {"holder": 0.85, "corrosion": 0.85, "diode": 0.85}, 0.04, hazards=(CHARGE, STATIC)),
         Action("crystal", "Look for the clock’s crystal with a scope, off and on its cell", "silent", "swings", 6, {"rtc": 0.85}, 0.06, hazards=(LIVE,)),
         Action("jumper-look", "Look for the clear jumper", "on", "off", 2, {"jumper": 0.96}, 0.02)), "form!=chip|cabinet|adapter|drive|monitor"),
    Symptom("no-work", "A bare board, card or chip does nothing", _suspects(
        ("contact", "its edge or socket contacts", 24, LOOSE), ("jumper", "jumpers or address", 18), ("conflict", "two want the same address or line", 12),
        ("slot", "the wrong kind of slot or bus for it", 14), ("chip", "a chip on it", 16, LEAK), ("track", "a broken track", 8, LEAK),
        ("rom", "its firmware, or one too old", 8)),
        (RESEAT, DISTURB, LOOK_CLOSE, SWAP_ROM,
         Action("other-slot", "Another slot of the test machine, alone in it", "works then", "the same", 5, {"contact": 0.4, "conflict": 0.92, "slot": 0.4}, 0.03, hazards=(CHARGE, STATIC)),
         Action("other-test", "Another test machine, of its own time", "works then", "the same", 12, {"slot": 0.93, "conflict": 0.7, "rom": 0.3}, 0.03, needs="test machine", hazards=(STATIC,)),
         Action("jumper-table", "Compare every jumper with its table", "wrong", "right", 5, {"jumper": 0.94, "conflict": 0.5}, 0.02),
         Action("twin", "A second one of its kind in the same place", "works then", "the same", 5, {"chip": 0.93, "track": 0.93, "rom": 0.7}, 0.03, needs="card", hazards=(CHARGE, STATIC))),
        "form=board|card|chip"),
    Symptom("no-output", "Adapter gives nothing, or the wrong volts", _suspects(
        ("leadbreak", "the lead breaks at the plug or the case", 34, LOOSE), ("thermofuse", "thermal fuse in the winding", 26),
        ("winding", "open winding", 10), ("rectifier", "rectifier", 10), ("smoothing", "dried smoothing capacitor", 14, CAPS),
        ("poles", "the plug is poled the other way", 6), ("mainslead", "mains lead or plug", 10)),
        (Action("bend", "Load on, meter on the plug: bend the lead along its whole length", "comes and goes", "no difference", 3, {"leadbreak": 0.9, "mainslead": 0.3}, 0.03, hazards=(LIVE,)),
         Action("primary-ohms", "Unplugged: ohms between the mains pins", "open", "some hundred ohms", 3, {"thermofuse": 0.95, "winding": 0.9, "mainslead": 0.85}, 0.03),
         Action("output-ac", "Alternating volts at a DC output, loaded", "much", "hardly any", 4, {"smoothing": 0.92, "rectifier": 0.5}, 0.03, hazards=(LIVE,)),
         Action("pole-look", "Which pole is inside? Against its plate", "the other way", "as its plate says", 2, {"poles": 0.95}, 0.02)),
        "form=adapter"),
)  # fmt: skip

# The loads that may hold a rail down; which of them are there, the technician knows.
LOADS = ("board", "drives", "cards", "screen", "fan", "keyboard", "sound", "clock")
SHORT = Symptom(
    "short",
    "A rail is short to ground: which load?",
    tuple(Suspect(load, f"the {load}", weight) for load, weight in zip(LOADS, (3, 2, 2, 1, 1, 1, 1, 1), strict=True)),
    (),
    "machine",
)
SYMPTOMS = (*SYMPTOMS, SHORT)
BY_CODE: Mapping[str, Symptom] = {symptom.code: symptom for symptom in SYMPTOMS}


def off_load(loads: tuple[str, ...]) -> Action:
    """The action that takes these loads off together to find a short among all: a minute a plug, and one measurement
    (common practice, no source)."""
    return Action(
        "off-" + "-".join(loads),
        f"Take off {', '.join(loads)} together",
        "the short is gone",
        "it is still there",
        3.0 + len(loads),
        dict.fromkeys(loads, 0.97),
        0.03,
        hazards=(CHARGE, STATIC),
        changes=loads,
    )


def load_action(code: str) -> Action | None:
    """The action of that code, whether it is still proposed or not; None for a code that names no loads."""
    loads = tuple(code.removeprefix("off-").split("-"))
    return off_load(loads) if code.startswith("off-") and set(loads) <= set(LOADS) else None

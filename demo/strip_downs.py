"""What two invented machines are put together from, and three that stand open on the bench."""

from dataclasses import replace
from datetime import datetime, timedelta

from core.catalogue.assembly_text import from_data
from demo.days import Hand
from stations.bench import stops
from stations.catalogue.models import MachineModel
from stations.catalogue.strip_downs import keep_for_model
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop import in_hand, openings, settings, strip_downs, treatment
from stations.workshop import services as workshop
from stations.workshop.forms_strip import UnlistedForm
from stations.workshop.models import Opening
from stations.workshop.new_job import JobDetails, NewJob

LUGGABLE = [
    {
        "name": "Handle and top cover",
        "layer": 0,
        "x": [0, 480],
        "minutes": [4, 4],
        "fasteners": "4 × M4 × 16 cross",
        "two_people": True,
        "how_off": "Lay it on its face on foam. Undo four screws, lift the cover straight up.",
        "how_on": "Slide it down at the back first. No lead may lie on an edge.",
    },
    {
        "name": "CRT anode lead",
        "layer": 1,
        "x": [0, 205],
        "minutes": [3, 2],
        "ways": [["Handle and top cover"]],
        "charge": "tube",
        "stays": True,
        "plugs": "Anode cap to CRT, one way",
        "how_off": "Discharge, then tie the cap back to the frame.",
    },
    {
        "name": "Drive cage",
        "layer": 1,
        "x": [215, 480],
        "minutes": [5, 6],
        "ways": [["CRT anode lead"]],
        "fasteners": "4 × M3 × 6 cross",
        "plugs": "Drive ribbon to main board, stripe; Drive power",
        "how_off": "One screw hides at the back of the bay. Both drives come out with the cage.",
    },
    {
        "name": "Display board",
        "layer": 2,
        "x": [0, 205],
        "minutes": [5, 6],
        "ways": [["CRT anode lead"]],
        "fasteners": "4 × M3 × 8 cross",
        "board": True,
    },
    {
        "name": "Supply board",
        "layer": 2,
        "x": [215, 385],
        "minutes": [6, 8],
        "ways": [["Drive cage"], ["Display board", "Fan"]],
        "fasteners": "4 × M3 × 8 cross",
        "charge": "supply",
        "board": True,
        "plugs": "P8 to main board, colours: og rd ye bu bk bk; P9 to main board, colours: bk bk wh rd rd rd; "
        "P12 to fan, tied: rd bk",
        "how_off": "Pull the plugs straight up. Undo four screws, lift the left edge first.",
        "how_on": "Right edge first. The two black wires of P8 and P9 lie side by side.",
    },
    {
        "name": "Fan",
        "layer": 2,
        "x": [400, 480],
        "minutes": [2, 3],
        "ways": [["Drive cage"]],
        "fasteners": "2 × M3 × 30 cross",
    },
    {
        "name": "Expansion cards",
        "layer": 3,
        "x": [0, 205],
        "minutes": [3, 4],
        "ways": [["Display board"]],
        "fasteners": "3 × M3 × 6 cross",
        "hazards": ["static"],
    },
    {
        "name": "Main shield",
        "layer": 3,
        "x": [215, 390],
        "minutes": [4, 5],
        "ways": [["Supply board"]],
        "fasteners": "6 × M3 × 6 cross",
        "hazards": ["edges"],
        "on_after": ["Earth strap"],
        "how_off": "Six screws; the earth strap is under the second.",
    },
    {"name": "Ports", "layer": 3, "x": [400, 480], "minutes": [3, 3], "ways": [["Fan"]], "fasteners": "2 × M3 × 6 hex"},
    {
        "name": "Earth strap",
        "layer": 4,
        "x": [400, 470],
        "minutes": [0, 1],
        "ways": [["Main shield"]],
        "must_be_in": True,
    },
    {
        "name": "Memory card",
        "layer": 4,
        "x": [215, 370],
        "minutes": [1, 2],
        "ways": [["Main shield"]],
        "clips": 2,
        "brittle": True,
        "hazards": ["static"],
        "test": "memory test on the open bench",
        "how_off": "Ease one clip after the other, then straight up.",
        "how_on": "Notch to the left, straight down until both clips click.",
    },
    {
        "name": "Main board",
        "layer": 5,
        "x": [0, 480],
        "minutes": [8, 10],
        "ways": [["Main shield", "Expansion cards", "Ports"]],
        "fasteners": "7 × M3 × 6 cross",
        "hazards": ["static"],
    },
]
ALL_IN_ONE = [
    {
        "name": "Back shell",
        "layer": 0,
        "x": [0, 246],
        "minutes": [4, 5],
        "fasteners": "2 × M4 × 60 star; 2 × M4 × 16 star",
        "two_people": True,
        "how_off": "The long screws sit in the handle. Battery door first.",
    },
    {
        "name": "CRT anode lead",
        "layer": 1,
        "x": [0, 246],
        "minutes": [3, 2],
        "ways": [["Back shell"]],
        "charge": "tube",
        "stays": True,
        "plugs": "Anode cap to CRT, one way",
    },
    {
        "name": "CRT neck board",
        "layer": 2,
        "x": [0, 110],
        "minutes": [2, 3],
        "ways": [["CRT anode lead"]],
        "hazards": ["tube"],
        "brittle": True,
        "worth": "40",
    },
    {
        "name": "Shield foil",
        "layer": 2,
        "x": [120, 246],
        "minutes": [2, 3],
        "ways": [["CRT anode lead"]],
        "fasteners": "3 × M3 × 6 cross",
        "on_after": ["Main board"],
    },
    {
        "name": "Main board",
        "layer": 3,
        "x": [0, 110],
        "minutes": [4, 5],
        "ways": [["CRT neck board"]],
        "clips": 4,
        "plugs": "Display lead to display board, one way; Drive ribbon to drive, pin 1",
        "hazards": ["static"],
        "how_on": "Slide it in by its grooves, clip by clip.",
    },
    {
        "name": "Display and supply board",
        "layer": 3,
        "x": [120, 246],
        "minutes": [6, 8],
        "ways": [["CRT neck board", "Shield foil"]],
        "fasteners": "5 × M3 × 10 cross",
        "charge": "supply",
    },
]


def of_the_models(runa: Person) -> None:
    keep_for_model(runa, MachineModel.objects.get(maker="Brisk", name="Luggable 88"), from_data(LUGGABLE))
    keep_for_model(runa, MachineModel.objects.get(maker="Halden", name="M2"), from_data(ALL_IN_ONE))


def standing_open(tobin: Person, now: datetime) -> None:
    """Three layers off and a tray short by a screw; on the way back with a gate that holds; built as one goes."""
    hand = Hand(tobin, now, "open machines")
    half = Unit.objects.get(number=136)
    _job(hand, half, "upgrade", "Fit the missing memory card", 10, "Memory card")
    _job(hand, half, "clean", "Clean and oil the fan", 8, "Fan")
    hand.do(stops.discharge, half, "tube", "", True)
    hand.do(stops.discharge, half, "supply", "3")
    opening = _open(hand, half, ["Memory card"])
    _press(hand, opening, upto="Drive cage", leave=1)
    hand.do(openings.note_odd, opening, "Drive cage", found=[3], odd="one hole had tape over it")
    _press(hand, opening, upto="Supply board", leave=2)

    back = Unit.objects.get(number=117)
    job = back.jobs.get(done_at=None)
    said = replace(as_kept(JobDetails, job), assembly="Display and supply board")
    hand.do(workshop.change_job, job, job.version, said)
    hand.do(stops.discharge, back, "tube", "", True)
    hand.do(stops.discharge, back, "supply", "1")
    opening = _open(hand, back, ["Display and supply board", "Main board"])
    _press(hand, opening)
    hand.do(openings.turn, opening, True)
    _press(hand, opening)

    drive = Unit.objects.get(number=127)
    opening = _open(hand, drive, [])
    for line in (
        {"name": "Cover", "fasteners": "6 × M3 × 4 star", "minutes": "3"},
        {"name": "Control board", "fasteners": "4 × M3 × 6 star", "plugs": "Motor plug, one way", "minutes": "4"},
    ):
        strip = strip_downs.strip_down_of(drive)
        form = UnlistedForm(line, strip=strip)
        if not form.is_valid():
            raise ValueError(form.errors)
        hand.do(openings.take_off_unlisted, opening, form.assembly(list(strip.assemblies)))
        _press(hand, opening)


def forgotten_clock(tobin: Person, yesterday: datetime) -> None:
    """A clock that was started yesterday and never stopped."""
    hand = Hand(tobin, yesterday + timedelta(minutes=50), "forgotten clock")
    hand.do(workshop.start_clock, Unit.objects.get(number=127).jobs.get(done_at=None))


def as_set(tobin: Person, now: datetime) -> None:
    """How a luggable was set when it came, and what was changed."""
    hand, unit = Hand(tobin, now, "settings"), Unit.objects.get(number=136)
    for row in (
        ("J3", "link", "3: 1-2", "3: 2-3", "memory: one bank of 256 K or two"),
        ("SW1", "bank", "01101100", "", "drives and screen at start; 7 and 8 not known"),
        ("Firmware", "firmware", "rev 1.04", "", ""),
    ):
        hand.do(settings.record_setting, unit, None, 0, settings.SetAs(*row))


def treatment_note(tobin: Person, now: datetime) -> None:
    """What the museum’s luggable is told besides its record."""
    hand = Hand(tobin, now, "treatment")
    words = "The yellowed key caps stay as they are: the museum wants them so."
    hand.do(
        treatment.keep_note,
        Unit.objects.get(number=134),
        0,
        words,
        "Dry and dark, 18 to 20 °C; turn it on twice a year.",
    )


def _job(hand: Hand, unit: Unit, kind: str, title: str, minutes: int, where: str) -> None:
    data = NewJob(kind=kind, title=title, estimate_minutes=minutes, reversible=True, assembly=where)
    hand.do(workshop.open_job, unit, data)


def _open(hand: Hand, unit: Unit, targets: list[str]) -> Opening:
    opening = hand.do(openings.open_up, unit, targets)
    hand.do(openings.read_cautions, opening)
    return opening


def _press(hand: Hand, opening: Opening, upto: str = "", leave: int = 0) -> None:
    """Press the very next thing, a few times a minute: until an assembly is done but for the last `leave` things, until
    something speaks against it, or until nothing is left."""
    while True:
        opening.refresh_from_db()
        strip = strip_downs.strip_down_of(opening.unit)
        rows = in_hand.rows_of(opening, strip)
        now = in_hand.in_hand(strip, opening, rows)
        if now is None:
            return
        left = len(now.things) - now.done
        here = now.assembly.name == upto
        if here and left <= leave:
            return
        try:
            with clock.at(hand.moment):
                openings.do_thing(hand.person, opening, now.mark)
        except Refused:
            return
        hand.wait(seconds=40)
        if here and left == 1:
            return

"""Storage: systems, a card planned for three, an installation at its fourth go, a wiped drive, a chip’s image kept."""

from datetime import datetime, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile

from core.catalogue.recipes import Proof
from core.flow.stage import GONE, Stage
from core.workshop.storage.install import Before, read_drivers
from core.workshop.storage.sizes import MIB
from core.workshop.storage.volumes import ENDS, Drive, End, Shared, Wish
from demo.days import Hand
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop import firmware, knowledge, recipe_run, sanitising, storage
from stations.workshop.models import Knowledge
from stations.workshop.storage import Asked

SYSTEMS = {
    "Tern DOS 6": """writes: FAT12 to 16 MiB, FAT16 to 2 GiB
starts: first
reaches: firmware
needs: 8 MiB
order: 6
boot code: overwrites
names: 11 letters, no spaces
minutes: 9, alone 4, restarts 1
media: 3 disks
source: its printed manual""",
    "Tern DOS 3": """writes: FAT12 to 16 MiB, FAT16 to 32 MiB
starts: floppy
reaches: firmware
order: 3
minutes: 5, restarts 1
source: common practice""",
    "Lantern 2": """writes: FAT12 to 16 MiB, FAT16 to 2 GiB
starts: on Tern DOS 6
order: 7
minutes: 14, alone 12, restarts 2
media: 7 disks
source: its printed manual""",
    "Skerry 1.2": """reads: FAT16 to 2 GiB
starts: floppy
reaches: own driver
order: 8
minutes: 5, restarts 1
source: tried here""",
}


def planned(tobin: Person, now: datetime) -> None:
    for name, rules in SYSTEMS.items():
        Hand(tobin, now - timedelta(days=30), f"system {name}").do(storage.keep_system, None, 0, name, rules)
    _card(tobin, now - timedelta(hours=5))
    _wiped(tobin, now - timedelta(days=4))
    _chip(Hand(tobin, now - timedelta(days=3), "chip"))


def _card(tobin: Person, now: datetime) -> None:
    """On the bare desk: an 8 GB card on an adapter; the second system fails three times, and is at its fourth go."""
    hand = Hand(tobin, now, "card")
    here = Unit.objects.filter(model__name="Desk 16", assessed_at__isnull=False, holding="owned")
    desk = here.exclude(stage__in=(*GONE, Stage.LISTED)).order_by("number").first()
    if desk is None:
        return
    systems = {system.name: system for system in storage.systems().values()}
    ends = (
        End("the machine’s firmware", ENDS["1,024 × 16 × 63"]),
        End("the adapter", ENDS["1,024 × 255 × 63"], drivers_too=True),
    )
    wishes = (
        Wish(systems["Tern DOS 6"], 300 * MIB, 4100),
        Wish(systems["Lantern 2"], 0),
        Wish(systems["Tern DOS 3"], 0, shares=False),
        Wish(systems["Skerry 1.2"], 0),
    )
    asked = Asked(Drive(8_000_000_000, ends), wishes, Shared(files=2600))
    before = Before(True, "drawer D4, in its bag", "1.4", "1.6")
    job = hand.do(storage.make_job, desk, asked, before, read_drivers("sound: 6 min, 1 restart"))
    for index, step in enumerate(recipe_run.steps_of_job(job)):
        if step.step.instruction.startswith("Install Lantern"):
            for words, varied in (
                ("stops at disk 4, “can’t read”", "disk 4 written anew"),
                ("stops at disk 4 again", "disks of another set"),
                ("hangs at the first restart", "started from a floppy that has the update"),
            ):
                hand.do(storage.failed, job, index, words, varied)
                hand.wait(minutes=12)
            return
        if step.step.alone_minutes:
            hand.do(recipe_run.start_alone, job, index)
            hand.wait(minutes=step.step.alone_minutes)
        hand.do(recipe_run.do_step, job, index, "0" if step.step.proof is Proof.COUNT else "")


def _wiped(tobin: Person, now: datetime) -> None:
    """A drive cleared with its certificate, and the table of its label against a scan."""
    hand, unit = Hand(tobin, now, "wiped"), Unit.objects.get(number=127)
    wiped = sanitising.Wiped("Drive 40 MB", "hard disk", "clear", "D40-118832", samples=2000, differing=0, imaged=True)
    hand.do(sanitising.sanitise, unit, wiped)
    tracks = sanitising.BadTracks("Drive 40 MB", "120/3, 121/3, 540/0", "120/3, 121/3, 122/3", cylinders=820, heads=6)
    hand.do(sanitising.keep_tracks, unit, tracks)


def _chip(hand: Hand) -> None:
    """What the firmware chip of a machine held, read out before another was tried, and put back."""
    unit = Unit.objects.get(number=114)

    def file(start: int, name: str) -> SimpleUploadedFile:
        held = bytes((7 * place + place // 251 + start) % 256 for place in range(32 * 1024))
        return SimpleUploadedFile(name, held, "application/octet-stream")

    later = knowledge.Known(
        "Start-up firmware, a later one",
        "firmware",
        "measured",
        "From another board of the same make.",
        edition="1.4",
        may_pass_on=False,
    )
    hand.do(knowledge.keep, unit, None, 0, later, file(3, "chip-1-4.bin"))
    kept = Knowledge.objects.get(unit=unit, edition="1.4")
    hand.do(firmware.read_out, unit, "main board", "1.3", file(0, "chip-1-3.bin"), file(0, "chip-1-3-again.bin"))
    hand.wait(minutes=20)
    hand.do(firmware.try_other, unit, "main board", kept)
    hand.wait(minutes=40)
    hand.do(firmware.put_back, unit, "main board", file(0, "chip-back.bin"), "no difference in any test")

"""What models offer and parts need, what was tried, and what is in one of the desks."""

from datetime import date, datetime, timedelta
from decimal import Decimal

from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from core.flow.stage import GONE, Stage
from core.stock.parts import Condition, PartKind
from demo.days import Hand
from demo.sheets import CONVERTERS, FIRMWARE, OFFERS, PARTS
from stations.catalogue import fit_sheets
from stations.catalogue.models import MachineModel, Tried
from stations.people.models import Person
from stations.stock import services as stock
from stations.stock.services import Sort
from stations.units import fitting, parts
from stations.units import offers as wanted
from stations.units.models import Unit
from stations.units.parts import Described, Place


def known(runa: Person, now: datetime) -> None:
    """Sheets of five models, of the parts and of the converters; what was tried."""
    hand = Hand(runa, now - timedelta(days=25), "fit")
    models = {str(model): model for model in MachineModel.objects.all()}
    for name, text in OFFERS.items():
        hand.do(fit_sheets.keep_offers, models[name], read_sheet(Offers, text))
    sheets = {
        name: hand.do(fit_sheets.keep_needs, None, name, read_sheet(Needs, _as_of_its_time(text)))
        for name, text in PARTS.items()
    }
    for name, way, price, drawer in CONVERTERS:
        hand.do(
            fit_sheets.keep_needs,
            None,
            name,
            read_sheet(Needs, f"converts\n  way: {way}\ndraws\n  +5: amps 0{FIRMWARE.get(name, '')}"),
        )
        if drawer:
            hand.do(stock.stock_part, Sort(name, Condition.NEW.value, drawer), "2", Decimal(price) * 2)
        else:
            hand.do(wanted.note_offer, wanted.Quote(name, "Quay surplus", Decimal(price), days=5))
    for name, drawer, count, paid in (
        ("SCSI host card, 16-bit", "D3", "1", "24.00"),
        ("Network card, 16-bit", "D3", "2", "18.00"),
        ("Sound card, 8-bit", "D4", "1", "9.00"),
        ("Display card, 512 KiB", "D4", "2", "16.00"),
        ("Display card, 1 MiB", "D4", "1", "21.00"),
        ("Memory module 1 MiB, 30-pin", "D5", "6", "15.00"),
        ("Processor 100 MHz, tripled", "D6", "1", "14.00"),
        ("Diskette drive, 1.44 MB", "F1", "2", "22.00"),
        ("SCSI card, 8-bit", "D3", "1", "4.00"),
        ("Solid-state disk, SCSI", "F2", "1", "4.00"),
        ("Splitter, drive to two small", "E4", "3", "4.50"),
        ("Maths chip 16 MHz", "D6", "1", "6.00"),
        ("Processor 40 MHz, doubled", "D6", "1", "12.00"),
        ("Slim drive in a printed frame", "F3", "1", "7.00"),
    ):
        hand.do(stock.stock_part, Sort(name, Condition.TESTED.value, drawer), count, Decimal(paid))
    hand.do(
        fit_sheets.keep_tried,
        Tried(
            sheet=sheets["Disk 4 GB, wide SCSI"],
            model=models["Halden M2"],
            runs=False,
            part_version="1.9",
            who="E. Norr, Norrvik",
            on=date(2026, 3, 14),
            region="230 V, 50 Hz",
            words="no start beyond 1 GiB",
        ),
    )
    hand.do(
        fit_sheets.keep_tried,
        Tried(
            sheet=sheets["Sound card, 8-bit"],
            model=models["Orrin Desk 16"],
            runs=True,
            who="Tobin Ashe",
            on=date(2026, 8, 2),
            region="115 V, 60 Hz",
            words="two hours",
        ),
    )


def _as_of_its_time(text: str) -> str:
    """What goes in and is not said to be otherwise is of its time, and comes out again."""
    goes_in = text.strip().partition("\n")[0] in {"cards", "modules", "processors", "drives"}
    text += "\nchanges\n  it: reversible yes; modern no" if goes_in and "\nchanges" not in text else ""
    return text + ("\nbrings none" if goes_in and "\nbrings" not in text else "")


def fitted(tobin: Person, now: datetime) -> None:
    """What is in one of the desks, slot by slot."""
    hand = Hand(tobin, now - timedelta(hours=5), "inside")
    here = Unit.objects.filter(model__name="Desk 16", holding="owned").exclude(stage__in=(*GONE, Stage.LISTED))
    desk = here.order_by("number").first()
    if desk is None:
        return
    inside = [
        (PartKind.CHIP, "Processor 16 MHz", "processor"),
        (PartKind.CARD, "Serial and printer card, 8-bit", "1"),
        (PartKind.CARD, "Display card, 16-bit", "2"),
        (PartKind.CARD, "Network card, 16-bit", "4"),
        (PartKind.CARD, "Sound card, 8-bit", "6"),
        (PartKind.DISK, "Disk 40 MB, 16-bit", "lower"),
        (PartKind.DRIVE, "Diskette drive, 1.44 MB", "small"),
        *((PartKind.MODULE, "Memory module 1 MiB, 30-pin", f"A{n}") for n in (1, 2, 3)),
        (PartKind.MODULE, "Memory module 1 MiB, 30-pin, other make", "A4"),
        (PartKind.MODULE, "Memory module 1 MiB, 30-pin", "B1"),
        (PartKind.MODULE, "Memory module 1 MiB, 30-pin, other make", "B2"),
    ]
    for kind, name, slot in inside:
        keeps = False if kind is PartKind.CARD else None
        hand.do(parts.record_part, Place(desk, slot), Described(kind, name, keeps_data=keeps))
    hand.do(fitting.say_whole, desk, True)

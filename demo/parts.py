"""Parts and where they go: parcels, a count with a difference, a donor beside its patient, a disk that was not
sanitised, a fixture found bad."""

from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from core.stock.parts import Condition, PartKind
from demo.days import Hand
from stations.buying.models import Lot
from stations.catalogue import weaknesses
from stations.catalogue.models import MachineModel
from stations.common.details import as_kept
from stations.intake import receiving
from stations.people.models import Person
from stations.stock import designs, orders, shelf
from stations.stock import services as stock
from stations.stock.models import KnownGood, StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from stations.units import part_tests, parts
from stations.units.models import Part, Unit
from stations.units.parts import Described, Place, Worths
from stations.workshop import issuing
from stations.workshop.models import Job

D = Decimal


def drawers(runa: Person, tobin: Person, now: datetime) -> None:
    """Consumables by measure, levels at which more is ordered, a part that is made, a drawer counted short."""
    hand = Hand(runa, now - timedelta(days=20), "drawers")
    for name, drawer, measure, amount, paid in (
        ("Isopropyl alcohol, 99 %", "K1", "ml", "2 l", "18.40"),
        ("Solder, 0.5 mm", "K2", "g", "250 g", "21.00"),
        ("Heat-shrink, 3 mm", "K2", "m", "5 m", "4.50"),
        ("Standoff M3 × 10, brass", "B4", "piece", "50", "6.50"),
    ):
        hand.do(stock.stock_part, Sort(name, "new", drawer, measure), amount, D(paid))
    board = hand.do(stock.stock_part, Sort("Video adapter board, own make", "new", "D2", modern=True), "5", D("38.00"))
    made = designs.DesignDetails("C", "board house in Ostvik", "own drawing; sold only in our machines")
    hand.do(designs.keep_design, board.item, 0, made)
    models = {str(model): model for model in MachineModel.objects.all()}
    for name, at, to, fits in (
        ("Lithium cell 3 V", 12, 30, ("Orrin Desk 16", "Corvane Stack 4")),
        ("Drive belt, small", 3, 10, ("Orrin Desk 16", "Brisk Luggable 88")),
        ("Solid-state disk module", 2, 6, ("Orrin Desk 16",)),
        ("Memory chip 41256", 8, 40, ("Tessaly 64", "Corvane Micro 3")),
    ):
        item = StockItem.objects.get(name=name)
        fit = [models[model] for model in fits if model in models]
        said = replace(as_kept(stock.ItemDetails, item), reorder_at=D(at), reorder_to=D(to))
        hand.do(stock.change_item, item, item.version, said, fit)
    feet = StockItem.objects.get(name="Rubber foot")
    Hand(tobin, now - timedelta(days=3), "count").do(stock.count, feet, D(22), "two rolled under the bench")


def parcels(runa: Person, now: datetime) -> None:
    """One came this morning, one is to come today, one next week from abroad."""
    hand = Hand(runa, now - timedelta(days=6), "parcels")
    came = hand.do(
        orders.order_parts,
        "Quay surplus",
        Terms(now.date(), postage=D("5.20")),
        [
            Ordered(Sort("Terminator, 8-bit bus", "tested", "C3"), "2", D("6.50")),
            Ordered(Sort("Drive belt, small", "new", "B1"), "4", D("3.10")),
        ],
    )
    today = [
        Ordered(Sort("Line transformer, 9-inch monochrome", "old_stock", "C2"), "1", D("26.00")),
        Ordered(Sort("Electrolytic capacitor kit, small", "new", "A1"), "2", D("4.40")),
    ]
    hand.do(orders.order_parts, "Old Mill parts", Terms(now.date(), postage=D("6.00")), today)
    abroad = Terms((now + timedelta(days=8)).date(), "SEK", D("0.088"), D("120"), D("3.50"), "by ferry")
    hand.do(orders.order_parts, "Norrvik bruktsal", abroad, [Ordered(Sort("Disk 20 MB, half height"), "2", D("240"))])
    Hand(runa, now - timedelta(minutes=20), "came").do(orders.take_in, came, {})


def bag_of_cards(runa: Person, now: datetime, lot: Lot) -> None:
    """A bag bought for a fixed price: cards into one drawer, sockets into another."""
    hand = Hand(runa, now - timedelta(days=1), "bag")
    cards, sockets = lot.lines.order_by("position")
    hand.do(receiving.receive_into_drawer, cards, 9, Sort("Serial card, 8-bit", "untested", "E1"))
    hand.do(receiving.receive_into_drawer, sockets, 1, Sort("Socket, 16 pins, turned", "new", "C4"), "120")


def donor_and_patient(tobin: Person, now: datetime) -> None:
    """A terminal kept for its parts beside one that wants them."""
    hand = Hand(tobin, now - timedelta(hours=20), "beside")
    patient, donor = Unit.objects.get(number=124), Unit.objects.get(number=125)
    tested = {}
    for unit, condition, worth in ((patient, Condition.UNTESTED, 18), (donor, Condition.UNTESTED, 18)):
        for kind, name, slot, serial in (
            (PartKind.BOARD, "Logic board", "on the base", f"LB-{unit.number}7"),
            (PartKind.BOARD, "Video board", "behind the tube", f"VB-{unit.number}2"),
            (PartKind.CHIP, "Character generator", "U14", ""),
            (PartKind.CARD, "Serial interface", "edge connector", f"SI-{unit.number}4"),
        ):
            described = Described(
                kind, name, serial, condition=condition, worth=D(worth), original=True, keeps_data=False
            )
            tested[unit.number, name] = hand.do(parts.record_part, Place(unit, slot), described)
    fixture = KnownGood.objects.get(name="Bench supply 5/12 V")
    bad = {"looks": True, "marks": True, "no-short": False}
    good = dict.fromkeys(("looks", "marks", "no-short", "rails", "reset", "answers"), True)
    values = {"no-short": "0.4", "rails": "5.02"}
    board = part_tests.Seen(bad, values, fixture, words="5 V drags: under half an ohm to ground")
    hand.do(part_tests.test_part, tested[124, "Logic board"], board)
    hand.do(part_tests.test_part, tested[125, "Logic board"], part_tests.Seen(good, {"no-short": "210"}, fixture))
    passed = dict.fromkeys(("looks", "marks", "pins", "in-circuit", "warm"), True)
    hand.do(part_tests.test_part, tested[125, "Character generator"], part_tests.Seen(passed))
    chip = part_tests.Seen({"marks": False}, figure="kB/s through the port", measured=D("5.8"), should_give=D("9.6"))
    hand.do(part_tests.test_part, tested[125, "Serial interface"], chip)


def disk_that_moved(tobin: Person, now: datetime) -> None:
    """A disk nobody sanitised went from one luggable to the other, and blocks it."""
    hand = Hand(tobin, now - timedelta(hours=5), "disk")
    source, target = Unit.objects.get(number=137), Unit.objects.get(number=136)
    described = Described(
        PartKind.DISK,
        "Disk 20 MB, half height",
        "D20-4471",
        setting="drive 0, terminated",
        worth=D("25"),
        original=True,
    )
    disk = hand.do(parts.record_part, Place(source, "right bay"), described)
    hand.do(parts.move_part, disk, Place(target, "right bay"), "its own does not spin up", Worths(D("25"), D("95")))


def single(runa: Person, tobin: Person, now: datetime) -> None:
    """Parts by themselves: a drive bought for its own price, two spare disks that are both dead."""
    hand = Hand(runa, now - timedelta(days=4), "single")
    drive = Described(PartKind.DRIVE, "Diskette drive, 720 kB", "FD-2290", condition=Condition.UNTESTED, worth=D("22"))
    hand.do(parts.buy_part, drive, D("14.00"), "F1")
    for serial in ("D40-118", "D40-131"):
        spare = Described(PartKind.DISK, "Disk 40 MB, spare", serial, worth=D("5"))
        part = hand.do(parts.buy_part, spare, D("9.50"), "F2")
        seen = part_tests.Seen(
            {"looks": True, "marks": True, "spins": False}, words="clicks, does not come up to speed"
        )
        Hand(tobin, now - timedelta(days=3), serial).do(part_tests.test_part, part, seen)


def found_bad(tobin: Person, now: datetime) -> None:
    """What was tested on a memory set counts no more: the set itself is bad."""
    hand = Hand(tobin, now - timedelta(hours=2), "bad")
    fixture = KnownGood.objects.get(name="Memory set, 256 KiB")
    part = Part.objects.get(name="Video board", unit__number=125)
    good = dict.fromkeys(("looks", "marks", "no-short", "rails", "reset", "answers"), True)
    hand.do(part_tests.test_part, part, part_tests.Seen(good, fixture=fixture))
    hand.do(shelf.found_bad, fixture, "one chip fails warm, at bit 5")


def known_to_fail(runa: Person, now: datetime) -> None:
    """What such machines are known to fail by."""
    hand = Hand(runa, now - timedelta(days=30), "weak")
    models = {str(model): model for model in MachineModel.objects.all()}
    known_ones: tuple[tuple[str | None, str, str, str, int, dict[str, Any]], ...] = (
        ("Corvane Micro 3", "the cell on the board leaks", "the board round the cell", "corrosion", 4, {}),
        ("Halden M2", "the line transformer cracks", "the transformer, for a hairline and soot", "", 1, {}),
        (
            "Orrin Desk 16",
            "filter capacitors of the PSU swell",
            "the four large capacitors",
            "supplycaps",
            3,
            {"serial_from": "O16-2000", "serial_to": "O16-4999"},
        ),
        (
            None,
            "second print over a slower grade",
            "print and date code under a lens",
            "",
            1,
            {"part_words": "Character generator"},
        ),
    )
    for model, what, look, suspect, factor, more in known_ones:
        known = weaknesses.WeaknessDetails(
            model=models.get(model or ""),
            what=what,
            look_at=look,
            suspect=suspect,
            factor=D(factor),
            told_by="seen here",
            **more,
        )
        hand.do(weaknesses.keep_weakness, None, 0, known)


def held(tobin: Person, now: datetime) -> None:
    """Two belts wait in their drawer for a job."""
    job = Job.objects.get(unit__number=136, title__startswith="Clean and oil the fan")
    belt = StockItem.objects.get(name="Drive belt, small")
    Hand(tobin, now - timedelta(minutes=10), "held").do(issuing.reserve, job, belt, D(2))

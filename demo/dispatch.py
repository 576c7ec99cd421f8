"""What happened after sales: boxes and carriers, a parcel on the table with a tube in it, returns, a claim, a period
closed."""

from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile

from core.selling.carriers import read_table
from core.selling.packing import Moment
from demo import pictures
from demo.days import Hand, packing_picture
from demo.norrvik import Shop
from simulators import bank
from simulators import carriers as source
from stations.bench import faults
from stations.books import taxes
from stations.common import clock
from stations.common.details import as_kept
from stations.dispatch import bank as money
from stations.dispatch import carriers, here_again, packing, parcels, receipts, returns, terms
from stations.dispatch.models import BankLine, BoxSize, Parcel
from stations.intake import settling
from stations.people.models import Person
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Sale
from stations.units.models import Unit

# Inside and outside in mm, and what it weighs.
BOXES = (
    ("Book box", (300, 220, 90), 6, 180),
    ("Keyboard box", (520, 330, 190), 8, 480),
    ("Half cube", (420, 420, 240), 8, 520),
    ("Desk box", (560, 520, 300), 10, 900),
    ("Screen inner", (460, 420, 420), 8, 780),
    ("Screen outer", (600, 560, 560), 12, 1500),
    ("Tower box", (680, 420, 620), 12, 1600),
    ("Tea chest", (800, 620, 620), 16, 2900),
)
ADDRESS = "Marrowick workshop\nQuay Lane 4\nMarrowick"


def set_up(runa: Person, since: datetime) -> None:
    """Terms, boxes and carriers, as they were when the shop began to keep them."""
    with clock.at(since):
        row = terms.terms()
        begun = clock.day_of(since).replace(day=1)
        terms.change_terms(
            runa,
            row.version,
            replace(
                as_kept(terms.TermsDetails, row),
                address=ADDRESS,
                tax_number="MW 204 118",
                thanks="Questions: reply to the message you ordered with.",
                global_since=begun.replace(month=begun.month - (begun.month - 1) % 3),
            ),
        )
        for name, (length, width, height), wall, weight in BOXES:
            inner = {"inner_length": length, "inner_width": width, "inner_height": height}
            outer = {name.replace("inner", "outer"): edge + 2 * wall for name, edge in inner.items()}
            carriers.add_box(runa, BoxSize(name=name, weight_g=weight, **inner, **outer))
        carriers.keep_tables(runa, read_table(source.table()))


def after_sales(shop: Shop) -> None:
    """A lot that was sold quickly, and what came of it."""
    lot = shop.buy(
        100,
        "Reading room of Pell Head",
        "Private seller, Pell Head",
        [
            ("Halden M2", 2, "powers_on", "both light up", "150.00", "9.2"),
            ("Tessaly 48", 3, "untested", "in a drawer", "25.00", "1.4"),
        ],
        price="280",
        freight="16",
    )
    hand = shop.hand(shop.runa, 99, "reading room")
    screen, broken, said, unsaid, fixed = shop.unpack(lot, hand, place="shelf 4")
    for unit in (screen, broken, said, unsaid, fixed):
        unit = hand.assess(unit, "period")
        if unit.data_on_board:
            hand.do(_sanitise, unit)
        if unit.number == said.number:
            hand.find(unit, "top", "broken", 1, "the space bar sticks now and then", 2)
        if unit.number == fixed.number:
            _fix(hand, unit)
        hand.test(unit)
    hand.moment = max(hand.moment, shop.now - timedelta(days=70))
    for unit, asking in ((screen, "236"), (broken, "229"), (said, "62"), (unsaid, "68"), (fixed, "66")):
        hand.offer(Unit.objects.get(pk=unit.pk), asking, reason="to make room on the shelf")
    for days, story, unit in (
        (34, _said, said),
        (26, _fixed, fixed),
        (20, _unsaid, unsaid),
        (9, _broken, broken),
        (2, _on_the_table, screen),
    ):
        hand.moment = shop.now - timedelta(days=days)
        story(hand, unit)
    _close_periods(shop.runa, shop.now)


def _sanitise(person: Person, unit: Unit) -> None:
    settling.record_sanitisation(person, unit, "clear", "written over once, read back")


def _fix(hand: Hand, unit: Unit) -> None:
    """It did not start; a joint was made good, and it started cold three times."""
    case = hand.do(faults.open_case, unit, "dead")
    hand.do(faults.close_case, case, "", "cracked joints at the supply socket", "joints made anew")


def _sale(unit: Unit) -> Sale:
    return Sale.objects.select_related("unit", "channel").get(open_for=unit)


def _said(hand: Hand, unit: Unit) -> None:
    """Sent back in words for what had been said; nothing is owed, a little is given."""
    hand.sell(Unit.objects.get(pk=unit.pk), "62.00", "Oskar Vinter, Northferry")
    sale = _sale(unit)
    hand.wait(days=16)
    back = hand.do(returns.ask, sale, "fault", "The space bar sticks. I did not expect that.")
    near = returns.near_of(back)
    if near:
        hand.do(returns.is_about, back, returns.told_of(sale).index(near[0]))
    hand.do(returns.settle, back, returns.Settlement(refund=Decimal("5.00"), lesson="Say it in the first sentence."))


def _unsaid(hand: Hand, unit: Unit) -> None:
    """A fault of which nothing was said: it is here again, and waits to be mended or settled."""
    hand.sell(Unit.objects.get(pk=unit.pk), "68.00", "Lene Aaby, Saltgate")
    hand.wait(days=5)
    words = "The cassette socket does nothing at all, with two recorders that work here."
    back = hand.do(returns.ask, _sale(unit), "fault", words)
    hand.wait(days=3)
    hand.do(here_again.receive, back)


def _fixed(hand: Hand, unit: Unit) -> None:
    """A repair that did not hold at its buyer’s: warranty, and the machine is here again."""
    hand.sell(Unit.objects.get(pk=unit.pk), "66.00", "Ruben Falk, Norrvik")
    sale = _sale(unit)
    hand.wait(days=4)
    back = hand.do(returns.ask, sale, "fault", "Since yesterday it is dead again.")
    told = returns.told_of(sale)
    fix = next((place for place, one in enumerate(told) if one.what == "fixed"), None)
    hand.do(returns.is_about, back, fix)
    hand.wait(days=3)
    hand.do(here_again.receive, back)
    hand.do(
        returns.settle,
        back,
        returns.Settlement(
            refund=Decimal("66.00"), take_back=True, cost=Decimal("6.90"), lesson="Three cold starts were too few."
        ),
    )


def _broken(hand: Hand, unit: Unit) -> None:
    """It arrived with a cracked case: claimed from the carrier, with pictures."""
    hand.sell(Unit.objects.get(pk=unit.pk), "229.00", "Ida Moen, Skerry", far="sent")
    sale = _sale(unit)
    hand.wait(days=4)
    parcel = Parcel.objects.get(items__sale=sale)
    words = "The upper left corner of the case is cracked, the tube is whole. The box was wet on one side."
    hand.do(parcels.broken, parcel, words, Decimal("120.00"))
    size = (unit.model and unit.model.size) or (400, 150, 380)
    picture = pictures.draw(f"broken {unit.number}", unit.form_factor, size, "front")
    file = SimpleUploadedFile("corner.jpg", picture, "image/jpeg")
    hand.do(parcels.add_pictures, parcel, Moment.DAMAGE, [file])


def _on_the_table(hand: Hand, unit: Unit) -> None:
    """Paid in two parts, the receipt written, half packed: the tube is next."""
    row = Unit.objects.get(pk=unit.pk)
    sale = hand.do(selling.sell, row, Decimal("236.00"), "Nils Roth, Saltgate", Decimal("9.00"))
    hand.do(payments.take_payment, sale, Decimal("100.00"))
    hand.do(receipts.issue, sale, "Nils Roth\nSalt Street 12\nSaltgate", "invoice")
    sale.refresh_from_db()
    _by_the_bank(hand, sale)
    parcel = hand.do(parcels.begin, sale)
    found = as_kept(parcels.Measured, parcel)
    found = replace(found, weight_g=9400, zone="home", address="Nils Roth\nSalt Street 12\nSaltgate")
    hand.do(parcels.measure, parcel, parcel.version, found)
    hand.do(parcels.add_pictures, parcel, Moment.BEFORE, [packing_picture(unit, 0)])
    for one in packing.plan_of(parcel).steps:
        if one.step.code == "face":
            break
        if not one.done:
            hand.do(parcels.tick, parcel, one.key)


def _by_the_bank(hand: Hand, sale: Sale) -> None:
    """What was open came by transfer, beside what nobody has placed yet."""
    day, came = f"{clock.day_of(hand.moment):%Y-%m-%d}", sale.owed
    entries = (
        bank.entry(came, day, "MW-1", "NILS ROTH", f"rest of {sale.unit.tag}"),
        bank.entry("0.42", day, "MW-2", "Marrowick Savings", "interest"),
        bank.entry("-6.90", day, "MW-3", "Skerry Post", "label"),
    )
    whole = bank.statement(*entries, moved=came + Decimal("0.42") - Decimal("6.90"))
    hand.do(money.take_in, "statement.xml", whole)
    hand.do(money.book, BankLine.objects.to_place().get(amount=came), [sale])


def _close_periods(runa: Person, now: datetime) -> None:
    with clock.at(now):
        for one in taxes.open_periods():
            if one.ended:
                taxes.close_period(runa, one.period.first)

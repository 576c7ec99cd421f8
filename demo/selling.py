"""What stands on offer and how: much to say of one, a price that has stood too long, words gone stale, offers made."""

from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import F

from core.selling.pictures import Cut
from demo.days import Hand
from demo.norrvik import Shop
from stations.common import clock
from stations.intake import capture
from stations.people.models import Person
from stations.selling import bundles, inbox, news, offers, pictures, placing, telling, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.models import Channel, Listing, Placement, Sale
from stations.units.models import Content, Unit
from stations.workshop import services as workshop

FAIR = "Table at the autumn fair"


def on_offer(shop: Shop) -> None:
    """Three from a loft: whitened unevenly and with a start-up command; too long on offer; of no model in the bank."""
    lot = shop.buy(
        136,
        "Loft in Pell Head",
        "Private seller, Pell Head",
        [
            ("Tessaly 64", 2, "untested", "the boys’, taken apart more than once", "30.00", "2.1"),
            ("Learning computer, no name", 1, "powers_on", "a light comes on", "5.00", "1.4"),
        ],
        price="26",
        freight="14",
    )
    hand, owner = shop.hand(shop.runa, 135, "loft"), shop.hand(shop.runa, 131, "loft offers")
    told, stood, unknown = shop.unpack(lot, hand, place="table 2")
    _much_to_say(hand, told)
    plate: dict[str, Any] = {"supply": "linear", "mains": "230 V", "mains_variant": "v220_240", "battery": "none"}
    plate |= {"picture_tube": False, "drives": 0, "keyboard": True}
    hand.do(capture.note_data, unknown, capture.DataOnBoard(False))
    hand.test(hand.assess(stood, "enhanced"))
    hand.test(hand.assess(unknown, "enhanced", **plate))
    for unit, asking, weeks in ((stood, "118", 18), (told, "148", 3), (unknown, "34", 2)):
        owner.moment = max(owner.moment, hand.moment, shop.now - timedelta(weeks=weeks))
        owner.offer(Unit.objects.get(pk=unit.pk), asking, reason="see what comes of it")


def _much_to_say(hand: Hand, unit: Unit) -> None:
    """A machine of which a buyer must be told a good deal."""
    unit = hand.assess(unit, "enhanced")
    hand.find(unit, "underside", "loose", 1, "tape in the place of one screw", 2)
    hand.find(unit, "inside", "rework", 2, "a leg of the disk controller, snapped and joined with wire", 3)
    for title, kind, result in (
        ("Whiten the top case", "whiten", "a little uneven on the left"),
        ("Paint the lid", "refinish", "close, not quite the colour of the case"),
    ):
        job = hand.work(unit, title, kind, 30, reversible=False)
        hand.do(workshop.log_labour, job, 30)
        hand.do(workshop.finish_job, job, workshop.JobResult(result, worked=True, publish_result=True))
    job = hand.work(unit, "Fit a memory card reader", "upgrade", 25, visible_modern=False)
    start = workshop.JobResult("reads and writes", worked=True, workaround="the reader works only after “LOAD*READER”")
    hand.do(workshop.log_labour, job, 25)
    hand.do(workshop.finish_job, job, start)
    hand.wait(days=1)
    hand.test(unit)


def since(runa: Person, tobin: Person, now: datetime) -> None:
    """Words that the record has left behind, one of them worded anew; an offer to decline and one to take."""
    live = Listing.objects.filter(status=Listing.Status.LIVE).select_related("unit").order_by("unit__number")
    hand = Hand(runa, now - timedelta(hours=5), "answers")
    stale = live.filter(unit__title="Tessaly 48").first()
    if stale:
        Content.objects.create(unit=stale.unit, name="dust cover", presence="extra")
    desk = live.filter(unit__title="Orrin Desk 16").first()
    if desk and desk.asking:
        for share, buyer in (("0.55", "a buyer in Norrvik"), ("0.98", "S. Lund, Northferry")):
            amount = (desk.asking * Decimal(share)).quantize(Decimal(1))
            hand.do(offers.take_down, desk.unit, amount, buyer)
    told = live.filter(unit__title="Tessaly 64").order_by("-asking").first()
    if told:
        facts = listing_facts(told.unit)
        tape = next((one for one in wording.must_say(facts) if "tape in the place" in one.what), None)
        if tape:
            words = "One of the six screws below is missing; a strip of tape holds that corner."
            hand.do(wording.word_anew, told.unit, tape.kind.value, tape.what, words)
        front, wrong = told.unit.photos.order_by("id").first(), told.unit.findings.order_by("id").first()
        if front and wrong:
            hand.do(pictures.mark, front, wrong, 0.3, 0.55)
            hand.do(pictures.straighten, front, 1, Cut(0.08, 0.08, 0.84, 0.84))


def on_channels(runa: Person, now: datetime) -> None:
    """On two channels and more; one of them silent, a second sale that was refused, questions, a bundle."""
    hand = Hand(runa, now - timedelta(hours=4), "channels")
    market, ferry, fair = (Channel.objects.get(name=name) for name in ("Quay market", "Ferry board", FAIR))
    live = list(Listing.objects.filter(status=Listing.Status.LIVE).select_related("unit").order_by("unit__number"))
    for listing in live:
        hand.do(placing.offer_on, listing.unit, market)
        if listing.below_floor_reason or not listing.floor or (listing.asking or 0) >= listing.floor:
            hand.do(placing.offer_on, listing.unit, fair)
    _silent(hand, ferry, live[-1].unit)
    sold = Sale.objects.filter(sent_at=None).order_by("unit__number").first()
    with clock.at(hand.moment):
        if sold:
            told = {"kind": "sale", "id": "s7", "listing": str(sold.unit.tag), "who": "P. Holm", "currency": "EUR"}
            news.go_through(news.keep(market, told | {"amount": str(sold.price), "fee": "9.00"}))
        asked = {"kind": "question", "id": "q4", "listing": str(live[0].unit.tag), "who": "M. Strand"}
        news.go_through(news.keep(market, asked | {"words": "Is the fan loud? It would stand in a bedroom."}))
        words = "Could it be fetched on a Saturday?"
        inbox.from_the_shop(live[1].unit, "Elin Varga", "01632 960112", words, None)
    units = [listing.unit for listing in live[:2]]
    together = bundles.sums_of(live[:2])
    price = ((together.asking * Decimal("0.985")) // 5 * 5).quantize(Decimal("0.01"))
    hand.do(bundles.put_together, units, "A desk for two: both for the price of a good one", price)


def _silent(hand: Hand, ferry: Channel, unit: Unit) -> None:
    """It stood on a board that has not answered since: held for somebody, it may still be on offer there."""
    hand.do(placing.offer_on, unit, ferry)
    there = Placement.objects.filter(unit=unit, channel=ferry)
    there.update(stands=True, confirmed=F("turn"))
    hand.do(offers.reserve, unit, "Ola Brandt", hand.moment + timedelta(days=4))
    there.update(stands=None)
    with clock.at(hand.moment):
        telling.trouble(ferry, "It does not answer.")

"""Races for one sale over two marketplaces that lose answers, fail and tell things twice: sold once, always."""

import random
import threading
from decimal import Decimal

from django.db import connection

from core.machine.tags import Tag
from simulators import marketplace
from stations.common import clock
from stations.ledger.documents import disagreements
from stations.queue import services as queue
from stations.queue.models import QueuedWork
from stations.selling import news, placing, telling
from stations.selling import services as selling
from stations.selling.models import Channel, ChannelMessage, Listing, Placement, Sale, UnitGrade
from stations.selling.remote import ChannelTrouble
from stations.units.models import Unit
from tests.stations.base import AtOnce

RACES, AT_A_TIME = 1000, 25


def alike(unit: Unit, count: int, channels: list[Channel]) -> list[Unit]:
    """So many more units as this one is, each on offer on these channels; written straight into the tables."""
    now, first = clock.now(), 5000
    rows = []
    for number in range(first, first + count):
        row = Unit.objects.get(pk=unit.pk)
        row.pk, row.number, row.line_index, row.share_posting_id = None, number, number, None
        rows.append(row)
    Unit.objects.bulk_create(rows)
    made = list(Unit.objects.filter(number__gte=first).order_by("number"))
    listing, grade = Listing.objects.get(unit=unit), UnitGrade.objects.filter(unit=unit).last()
    for row in (listing, grade):
        copies = []
        for one in made:
            copy = type(row)(**{f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields})
            copy.pk, copy.unit_id = None, one.pk
            copies.append(copy)
        type(row).objects.bulk_create(copies)
    Placement.objects.bulk_create(
        Placement(unit=one, channel=c, wanted=True, stands=True, turn=1, confirmed=1, changed_at=now)
        for one in made
        for c in channels
    )
    return made


class SoldOnce(AtOnce):
    takes = 200

    def setUp(self):
        super().setUp()
        self.markets, self.channels = [], []
        for name in ("Rail market", "South market"):
            server = marketplace.serve()
            threading.Thread(target=server.serve_forever, daemon=True).start()
            self.addCleanup(server.server_close)
            self.addCleanup(server.shutdown)
            self.markets.append(server.market)
            address = f"http://127.0.0.1:{server.server_port}"
            kind = Channel.Kind.MARKET
            self.channels.append(Channel.objects.create(name=name, kind=kind, address=address, set_up_by=self.owner))

    def test_a_thousand_races(self):
        dice = random.Random(20)
        type(self.model).objects.filter(pk=self.model.pk).update(photos_wanted=0, keeps_data=False)
        unit = self.assessed(supply="none", battery="none", drives=0, picture_tube=False)
        self.hand().do(selling.grade_unit, unit)
        self.hand().offer(Unit.objects.get(pk=unit.pk), "150", pictures=0)
        units = alike(Unit.objects.get(pk=unit.pk), RACES, self.channels)
        about = [str(Tag(one.number)) for one in units]
        for market in self.markets:
            for ref in about:
                market.listings[ref] = {"title": "x", "price": "150.00", "currency": "EUR", "state": "open"}
        for begin in range(0, RACES, AT_A_TIME):
            for market, who in zip(self.markets, ("Ines Falk", "Jon Marsh"), strict=True):
                of_these = about[begin : begin + AT_A_TIME]
                dice.shuffle(of_these)
                market.faults.twice = dice.randrange(4)
                for ref in of_these:
                    market.buy(ref, who)
                market.faults.errors, market.faults.lose = dice.randrange(3), dice.randrange(3)
                market.faults.nonsense = dice.randrange(2)
            self.together(*(lambda c=channel: self.read(c) for channel in self.channels))
            # Some of what is to be taken down, and of the refusals, while the others are sold.
            self.together(self.some_work, self.some_work)
        for _ in range(3):
            for channel in self.channels:
                self.read(channel)
        self.until_empty()

        self.assertEqual(Sale.objects.count(), RACES)
        self.assertEqual(Sale.objects.values("unit").distinct().count(), RACES)
        second = ChannelMessage.objects.filter(kind="sale", outcome="refused")
        self.assertEqual(second.count(), RACES, "of each pair one was refused")
        self.assertEqual(second.filter(told_at=None).count(), 0, "and the channel knows")
        self.assertEqual(ChannelMessage.objects.filter(kind="sale").exclude(outcome__in=["done", "refused"]).count(), 0)
        self.assertFalse(Placement.objects.filter(placing.NOT_AS_WANTED, unit__in=units).exists())
        refused = sum(len(market.answers) for market in self.markets)
        self.assertEqual(refused, RACES)
        who = set(Sale.objects.values_list("buyer", flat=True))
        self.assertEqual(who, {"Ines Falk", "Jon Marsh"}, "each was first at times")
        self.assertEqual(sum(Sale.objects.values_list("price", flat=True), Decimal(0)), 150 * RACES)
        self.assertEqual(disagreements(), [])

    def read(self, channel: Channel) -> int:
        """As the worker does it, until it was read."""
        turns = 1
        while turns < 10:
            try:
                news.read(Channel.objects.get(pk=channel.pk))
                break
            except ChannelTrouble:
                turns += 1
        return turns

    def some_work(self) -> int:
        for _ in range(AT_A_TIME):
            if queue.work_once(f"worker {threading.get_ident()}") is None:
                break
        return 1

    def until_empty(self) -> None:
        """Whatever is queued is due now, and again, until nothing is left."""
        for _ in range(200):
            QueuedWork.objects.filter(state__in=["waiting", "failed"]).update(
                state="waiting", due_at=clock.now(), tries=0, ended_at=None
            )
            QueuedWork.objects.filter(kind=telling.READ).delete()
            if not QueuedWork.objects.filter(state="waiting").exists():
                return
            self.together(*(self.drain for _ in range(2)))
        self.fail("the work never ended")

    def drain(self) -> int:
        # So much as is surely done before those who wait for it lose patience.
        for _ in range(150):
            if queue.work_once(f"worker {threading.get_ident()}") is None:
                break
        connection.close()
        return 1

"""On offer in several places and sold once: against the simulated marketplace, with all that goes wrong there."""

import re
import threading
from datetime import date, timedelta
from decimal import Decimal
from unittest import mock

from django.db import IntegrityError, transaction
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from simulators import marketplace
from stations.bench import stops
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.ledger.documents import disagreements
from stations.queue import services as queue
from stations.queue.models import QueuedWork
from stations.selling import looking, news, offers, placing, telling
from stations.selling import services as selling
from stations.selling.models import (
    Channel,
    ChannelMessage,
    Listing,
    Placement,
    Question,
    Reserved,
    Sale,
)
from stations.selling.remote import ChannelTrouble
from stations.units.models import Unit
from tests.stations.test_through_the_pages import Through

D = Decimal


class OnChannels(Through):
    """A unit on a hand-served channel, two marketplaces and the shop; what is queued is done when told to."""

    def setUp(self):
        super().setUp()
        self.markets = {}
        for name in ("Rail market", "South market"):
            server = marketplace.serve()
            threading.Thread(target=server.serve_forever, daemon=True).start()
            self.addCleanup(server.server_close)
            self.addCleanup(server.shutdown)
            channel = Channel.objects.create(
                name=name,
                kind=Channel.Kind.MARKET,
                address=f"http://127.0.0.1:{server.server_port}",
                fee_percent=D(12),
                set_up_by=self.owner,
            )
            self.markets[channel] = server.market
        (self.north, self.there), (self.south, self.elsewhere) = self.markets.items()
        self.now = timezone.now()

    def worked(self) -> None:
        """All that is queued, with its pauses, until nothing is left or it was given up."""
        for _ in range(60):
            with clock.at(self.now):
                if queue.work_once("w") is None:
                    waiting = QueuedWork.objects.filter(state="waiting").order_by("due_at").first()
                    if waiting is None:
                        return
                    self.now = max(self.now, waiting.due_at)
        self.fail("the work never ended")

    def one(self) -> None:
        """The next thing that is queued."""
        self.now = max(self.now, timezone.now())
        with clock.at(self.now):
            queue.work_once("w")

    def read(self, *channels: Channel) -> None:
        for channel in channels or (self.north, self.south):
            queue.put(telling.READ, {"channel": channel.pk})
        self.worked()

    def on_both(self, asking: str = "150") -> Unit:
        unit = self.listed(asking)
        for channel in self.markets:
            placing.offer_on(self.owner, unit, channel)
        self.worked()
        return unit

    def standing(self, unit: Unit, channel: Channel) -> str:
        return Placement.objects.get(unit=unit, channel=channel).standing.value

    def state_at(self, market, unit: Unit) -> str:
        return market.listings.get(str(unit.tag), {}).get("state", "never")


class Telling(OnChannels):
    def test_it_is_put_up_with_its_words_and_all_that_must_be_said(self):
        unit = self.on_both()
        there = self.there.listings[str(unit.tag)]
        listing = Listing.objects.get(unit=unit)
        self.assertEqual((there["title"], there["price"], there["currency"]), (listing.title, "150.00", "EUR"))
        self.assertIn("lithium", there["text"])
        self.assertEqual(self.standing(unit, self.north), "up")
        page = self.client.get(f"/selling/W-{unit.number}/")
        self.assertContains(page, "on offer there")
        self.assertContains(page, "Rail market")

    def test_another_price_is_told_and_the_same_is_not_told_twice(self):
        unit = self.on_both()
        listing = Listing.objects.get(unit=unit)
        selling.set_price(self.owner, unit, listing.version, self.channel, D(140))
        self.assertEqual(self.standing(unit, self.north), "changing")
        self.worked()
        self.assertEqual(self.there.listings[str(unit.tag)]["price"], "140.00")
        before = Placement.objects.get(unit=unit, channel=self.north)
        self.there.listings[str(unit.tag)]["price"] = "told again"
        looking.look_at(Listing.objects.select_related("unit", "channel").get(unit=unit))
        self.worked()
        self.assertEqual(self.there.listings[str(unit.tag)]["price"], "told again")
        self.assertEqual(self.again(before).standing.value, "up")

    def test_what_is_taken_off_may_be_there_until_the_channel_says_so(self):
        unit = self.on_both()
        self.there.faults.errors = 3
        placing.take_off(self.owner, Placement.objects.get(unit=unit, channel=self.north))
        self.assertEqual(self.standing(unit, self.north), "maybe_up")
        self.one()
        self.assertEqual(self.standing(unit, self.north), "maybe_up")
        self.assertContains(self.client.get("/selling/"), "may still be on offer there")
        self.assertContains(self.client.get("/selling/"), "Rail market has not answered")
        self.worked()
        self.assertEqual((self.standing(unit, self.north), self.state_at(self.there, unit)), ("off", "ended"))
        self.assertNotContains(self.client.get("/selling/"), "may still be on offer there")
        with self.assertRaisesRegex(Refused, "already"):
            placing.take_off(self.owner, Placement.objects.get(unit=unit, channel=self.north))

    def test_an_answer_that_is_lost_is_asked_for_again(self):
        unit = self.listed()
        self.there.faults.lose = 1
        placing.offer_on(self.owner, unit, self.north)
        self.one()
        # It was done there; we do not know it.
        self.assertEqual((self.standing(unit, self.north), self.state_at(self.there, unit)), ("going_up", "open"))
        self.worked()
        self.assertEqual(self.standing(unit, self.north), "up")

    def test_one_that_does_not_answer_is_given_up_seen_and_told_when_it_answers(self):
        unit = self.listed()
        self.there.faults.errors = 100
        placing.offer_on(self.owner, unit, self.north)
        self.worked()
        row = QueuedWork.objects.get(kind=placing.TELL, state="failed")
        self.assertEqual(row.error, "It answers with error 500.")
        self.assertContains(self.client.get("/queue/"), "It answers with error 500")
        self.there.faults.errors = 0
        with clock.at(self.now):
            queue.put_recurring()
        self.worked()
        self.now += timedelta(minutes=1)
        with clock.at(self.now):
            queue.put_recurring()
        self.worked()
        self.assertEqual(self.standing(unit, self.north), "up")
        self.assertIsNone(Channel.objects.get(pk=self.north.pk).trouble_since)

    def test_two_tellers_never_speak_at_once(self):
        unit = self.on_both()
        placement = Placement.objects.get(unit=unit, channel=self.north)
        placing.take_off(self.owner, placement)
        Placement.objects.filter(pk=placement.pk).update(held_by="another", held_until=self.now + timedelta(hours=1))
        self.worked()
        self.assertEqual(self.state_at(self.there, unit), "open", "left to who has it")
        Placement.objects.filter(pk=placement.pk).update(held_until=self.now - timedelta(seconds=1))
        telling.tell(placement.pk)
        self.assertEqual((self.standing(unit, self.north), self.state_at(self.there, unit)), ("off", "ended"))

    def test_a_marketplace_that_answers_nonsense_is_in_trouble(self):
        unit = self.listed()
        placement = placing.offer_on(self.owner, unit, self.north)
        self.there.put = lambda ref, wanted: (200, ["nonsense"])
        with self.assertRaisesRegex(ChannelTrouble, "nonsense"):
            telling.tell(placement.pk)
        self.there.put = lambda ref, wanted: (200, {"state": "who knows"})
        with self.assertRaisesRegex(ChannelTrouble, "does not say how"):
            telling.tell(placement.pk)
        self.there.since = lambda number: (200, {"news": "none", "next": -1})
        with self.assertRaisesRegex(ChannelTrouble, "without news"):
            news.read(self.north)
        self.assertTrue(Channel.objects.get(pk=self.north.pk).trouble)

    def test_an_answer_that_comes_too_late_is_none(self):
        unit = self.listed()
        placement = placing.offer_on(self.owner, unit, self.north)
        self.there.faults.slow = 0.6
        with mock.patch("stations.selling.remote.PATIENCE", 0.2), self.assertRaisesRegex(ChannelTrouble, "not answer"):
            telling.tell(placement.pk)
        self.assertEqual(self.again(placement).standing.value, "going_up")
        self.there.faults.slow = 0
        telling.tell(placement.pk)
        self.assertEqual(self.again(placement).standing.value, "up")

    def test_a_channel_with_short_titles_gets_a_short_one_and_words_too_long_are_said(self):
        unit = self.listed()
        Channel.objects.filter(pk=self.north.pk).update(title_length=12)
        placing.offer_on(self.owner, unit, self.north)
        self.worked()
        self.assertLessEqual(len(self.there.listings[str(unit.tag)]["title"]), 12)
        Channel.objects.filter(pk=self.south.pk).update(text_length=500)
        Listing.objects.filter(unit=unit).update(text="A long story. " * 60)
        placing.offer_on(self.owner, unit, self.south)
        self.worked()
        self.assertEqual(self.state_at(self.elsewhere, unit), "never")
        self.assertContains(self.client.get(f"/selling/W-{unit.number}/"), "it takes 500. Shorten them")
        self.assertIsNone(Channel.objects.get(pk=self.south.pk).trouble_since)
        selling.write_from_facts(self.owner, unit)
        Channel.objects.filter(pk=self.south.pk).update(text_length=6000)
        self.worked()
        self.assertEqual(self.state_at(self.elsewhere, unit), "open")

    def test_what_was_sold_there_is_not_put_up_again_and_the_channel_is_well(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        listing = Listing.objects.get(unit=unit)
        selling.set_price(self.owner, unit, listing.version, self.channel, D(140))
        self.worked()
        self.assertEqual(Sale.objects.get(unit=unit).buyer, "Ines Falk")
        self.assertIsNone(Channel.objects.get(pk=self.north.pk).trouble_since)

    @override_settings(MARKETPLACE_URL="")
    def test_without_a_marketplace_to_stand_in_it_is_said(self):
        Channel.objects.filter(pk=self.north.pk).update(address="stand-in")
        with self.assertRaisesRegex(ChannelTrouble, "No marketplace stands in"):
            news.read(self.again(self.north))

    def test_a_unit_that_is_stopped_comes_down_everywhere(self):
        unit = self.on_both()
        stop = stops.stop(self.owner, unit, "noise", "")
        self.assertEqual(self.standing(unit, self.north), "maybe_up")
        self.worked()
        self.assertEqual({self.state_at(m, unit) for m in self.markets.values()}, {"ended"})
        self.assertNotContains(self.client.get("/shop/"), f"W-{unit.number}/")
        self.assertIsNotNone(stop)


class ByHand(OnChannels):
    def test_somebody_says_what_was_done_and_is_told_what_changed(self):
        unit = self.listed()
        place = Placement.objects.get(unit=unit, channel=self.channel)
        self.assertContains(self.client.get("/selling/"), "to be put up")
        self.done(self.post("selling:placement", [place.pk, "confirm"], list="yes", seen=self.again(place).turn))
        self.assertEqual(self.again(place).standing.value, "up")
        self.post("selling:placement", [place.pk, "confirm"], seen=self.again(place).turn)
        listing = Listing.objects.get(unit=unit)
        selling.set_price(self.owner, unit, listing.version, self.channel, D(140))
        self.assertEqual(self.again(place).standing.value, "changing")
        there = self.client.get(f"/selling/channels/{self.channel.pk}/")
        self.assertContains(there, "All of it is done there: 1")
        (seen,) = re.findall(r'name="seen" value="(\d+:\d+)"', there.content.decode())
        self.done(self.post("selling:all-done", [self.channel.pk], seen=seen))
        self.assertEqual(self.again(place).standing.value, "up")
        selling.end_listing(self.owner, unit, "")
        self.assertEqual(self.again(place).standing.value, "maybe_up")
        # Seen while it was still to be changed there, it was not taken down by it.
        refused = self.client.get(self.post("selling:placement", [place.pk, "confirm"], seen=place.turn)["Location"])
        self.assertContains(refused, "Meanwhile it is")
        self.assertEqual(self.again(place).standing.value, "maybe_up")
        self.done(self.post("selling:placement", [place.pk, "confirm"], seen=self.again(place).turn))
        self.assertEqual(self.again(place).standing.value, "off")
        with self.assertRaisesRegex(Refused, "nothing to do"):
            placing.confirm_all(self.owner, self.channel, {})

    def test_what_came_to_do_since_is_not_said_to_be_done(self):
        first, second = self.listed(), self.listed()
        one, other = (Placement.objects.get(unit=unit, channel=self.channel) for unit in (first, second))
        seen = {one.pk: self.again(one).turn}
        self.assertEqual(placing.confirm_all(self.owner, self.channel, seen), 1)
        self.assertEqual([self.again(place).standing.value for place in (one, other)], ["up", "going_up"])
        seen = {other.pk: self.again(other).turn}
        selling.end_listing(self.owner, second, "")
        with self.assertRaises(Refused):
            placing.confirm_all(self.owner, self.channel, seen | {one.pk: self.again(one).turn})

    def test_a_marketplace_is_not_confirmed_by_hand(self):
        unit = self.listed()
        place = placing.offer_on(self.owner, unit, self.north)
        with self.assertRaisesRegex(Refused, "confirms that itself"):
            placing.confirm(self.owner, place, place.turn)
        with self.assertRaises(NotAllowed):
            placing.offer_on(self.viewer, unit, self.south)

    def test_where_the_fee_takes_too_much_it_is_not_offered_without_a_reason(self):
        unit = self.listed("80")
        Channel.objects.filter(pk=self.north.pk).update(fee_percent=D(60))
        page = self.client.post(f"/selling/W-{unit.number}/on/{self.north.pk}/", {"write_key": ""}, follow=True)
        self.assertContains(page, "it would not earn back its cost")
        Channel.objects.filter(pk=self.north.pk).update(fee_percent=D(100))
        with self.assertRaisesRegex(Refused, "take the whole price"):
            placing.offer_on(self.owner, unit, self.again(self.north))


class SoldOnce(OnChannels):
    def test_sold_on_one_it_ends_on_the_others(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        self.read()
        sale = Sale.objects.get(unit=unit)
        self.assertEqual((sale.channel, sale.buyer, sale.price, sale.fee), (self.north, "Ines Falk", D(150), D(18)))
        self.assertEqual(self.state_at(self.elsewhere, unit), "ended")
        self.assertEqual({self.standing(unit, c) for c in self.markets}, {"off"})
        self.assertEqual(Placement.objects.get(unit=unit, channel=self.channel).wanted, False)
        self.assertEqual(disagreements(), [])

    def test_read_days_later_it_was_sold_and_paid_on_the_day_on_which_that_happened(self):
        unit, today = self.on_both(), timezone.localdate()
        self.there.buy(str(unit.tag), "Ines Falk")
        self.there.pay(str(unit.tag), "132.00")
        with clock.at(timezone.now() + timedelta(days=3)):
            self.read()
        sale = Sale.objects.get(unit=unit)
        moments = [sale.sold_at, sale.payments.get().came_at]
        self.assertEqual([clock.day_of(moment) for moment in moments], [today, today])
        page = self.client.get(reverse("selling:channel", args=[self.north.pk]))
        self.assertContains(page, "Sold for 150.00 to Ines Falk.")

    def test_a_day_that_can_not_be_is_the_nearest_that_can(self):
        today = timezone.localdate()
        for told, kept in ((today + timedelta(days=1), today), (date(1999, 1, 1), self.lot.bought_on)):
            message = {"amount": "150.00", "currency": "EUR", "day": told.isoformat()}
            unit = self.on_both()
            self.there.tell("sale", str(unit.tag), who="Ines Falk", **message)
            self.read()
            self.assertEqual(clock.day_of(Sale.objects.get(unit=unit).sold_at), kept)

    def test_told_twice_or_read_again_it_is_one_sale(self):
        unit = self.on_both()
        self.there.faults.twice = 1
        self.there.buy(str(unit.tag), "Ines Falk")
        self.read()
        Channel.objects.update(read_to=0)
        self.read()
        self.assertEqual(Sale.objects.count(), 1)
        self.assertEqual(ChannelMessage.objects.filter(kind="sale").count(), 1)

    def test_the_second_sale_is_refused_there_and_shown(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        self.elsewhere.buy(str(unit.tag), "Jon Marsh")
        self.read()
        self.assertEqual(Sale.objects.get().buyer, "Ines Falk")
        second = ChannelMessage.objects.get(channel=self.south)
        self.assertTrue(second.was_refused)
        self.assertIn("sold to Ines Falk", second.words)
        self.assertEqual(self.elsewhere.answers[second.remote]["answer"], "refuse")
        self.assertContains(self.client.get("/selling/"), "A second sale on South market was refused")
        self.done(self.post("selling:message", [second.pk, "aside"]))
        self.assertNotContains(self.client.get("/selling/"), "A second sale")
        with self.assertRaisesRegex(Refused, "already"):
            news.set_aside(self.owner, second)

    def test_sold_at_the_table_it_is_refused_to_a_buyer_elsewhere(self):
        unit = self.on_both()
        self.done(
            self.post(
                "selling:sale", [unit.number], price="150", buyer="Somebody", postage="0", channel=self.channel.pk
            )
        )
        self.there.buy(str(unit.tag), "Ines Falk")
        self.read()
        self.assertEqual(Sale.objects.get().buyer, "Somebody")
        self.assertEqual(ChannelMessage.objects.get().outcome, "refused")

    def test_what_is_held_for_somebody_is_not_sold_to_another(self):
        unit = self.on_both()
        offers.reserve(self.owner, unit, "Ola Brandt", clock.now() + timedelta(days=2))
        # It was bought before the channel heard that it is held.
        self.there.buy(str(unit.tag), "Ines Falk")
        self.read()
        self.assertFalse(Sale.objects.exists())
        self.assertIn("held for Ola Brandt", ChannelMessage.objects.get().words)

    def test_a_sale_that_may_not_be_waits_for_somebody_and_holds_it(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        selling.end_listing(self.owner, unit, "a noise was heard")
        self.read()
        message = ChannelMessage.objects.get()
        self.assertEqual(message.outcome, "waits")
        self.assertEqual(Reserved.objects.get(open_for=unit).buyer, "Ines Falk")
        self.assertContains(self.client.get("/selling/"), "Rail market waits for you")
        page = self.client.post(f"/selling/messages/{message.pk}/take/", {"write_key": ""}, follow=True)
        self.assertContains(page, "not on offer")
        selling.publish(self.owner, self.again(unit))
        self.done(self.post("selling:message", [message.pk, "take"]))
        self.assertEqual(Sale.objects.get().buyer, "Ines Falk")
        with self.assertRaisesRegex(Refused, "decided that already"):
            news.refuse(self.owner, message)

    def test_one_that_waits_can_be_refused_and_its_buyer_is_let_go(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        selling.end_listing(self.owner, unit, "")
        self.read()
        message = ChannelMessage.objects.get()
        with self.assertRaises(NotAllowed):
            news.refuse(self.viewer, message)
        self.done(self.post("selling:message", [message.pk, "refuse"]))
        self.worked()
        self.assertFalse(Reserved.objects.filter(open_for=unit).exists())
        self.assertEqual(self.there.answers[message.remote]["answer"], "refuse")
        self.assertIsNotNone(self.again(message).told_at)

    def test_other_currencies_strangers_and_nonsense_are_kept_and_shown(self):
        unit = self.on_both()
        self.there.listings[str(unit.tag)]["currency"] = "SEK"
        self.there.buy(str(unit.tag), "Ines Falk")
        self.there.tell("sale", "W-9999", who="X", amount="10.00", currency="EUR")
        self.there.faults.nonsense = 1
        self.read(self.north)
        found = {message.outcome: message.words for message in ChannelMessage.objects.filter(outcome__in=["unread"])}
        self.assertIn("“id” is not text", found["unread"])
        waiting = set(ChannelMessage.objects.filter(outcome="waits").values_list("words", flat=True))
        self.assertEqual(
            waiting, {"It is in SEK; we reckon in EUR.", "It is about “W-9999”, which is nothing of ours."}
        )
        self.assertFalse(Sale.objects.exists())
        page = self.client.get("/selling/")
        self.assertContains(page, "told something that can’t be read")
        message = ChannelMessage.objects.get(words__startswith="It is in SEK")
        with self.assertRaisesRegex(Refused, "another currency"):
            news.take(self.owner, message)
        # What was read is not read again, whatever was in it.
        self.assertEqual(Channel.objects.get(pk=self.north.pk).read_to, len(self.there.news))

    def test_one_that_breaks_keeps_back_none_of_the_others(self):
        unit = self.on_both()
        self.there.ask(str(unit.tag), "M. Strand", "Is the fan loud?")
        self.there.buy(str(unit.tag), "Ines Falk")
        with mock.patch("stations.selling.inbox.take_in_question", side_effect=ValueError("something odd")):
            self.read(self.north)
        self.assertEqual(Sale.objects.get().buyer, "Ines Falk")
        broken = ChannelMessage.objects.get(kind="question")
        self.assertEqual((broken.outcome, broken.words), ("waits", "It could not be taken in: something odd"))
        with self.assertRaisesRegex(Refused, "no sale"):
            news.refuse(self.owner, broken)

    def test_a_marketplace_that_counts_anew_is_read_from_its_beginning(self):
        unit = self.on_both()
        self.there.ask(str(unit.tag), "M. Strand", "Is the fan loud?")
        self.there.ask(str(unit.tag), "M. Strand", "And the disk?")
        self.read(self.north)
        self.there.news.clear()
        self.there.buy(str(unit.tag), "Ines Falk")
        self.read(self.north)
        self.read(self.north)
        self.assertEqual((Sale.objects.get().buyer, Question.objects.count()), ("Ines Falk", 2))

    def test_readings_that_went_well_are_not_kept(self):
        self.read(self.north)
        self.now += timedelta(minutes=11)
        with clock.at(self.now):
            queue.put_recurring()
        self.assertFalse(QueuedWork.objects.filter(kind=telling.READ, state="done").exists())
        self.assertEqual(QueuedWork.objects.filter(kind=telling.READ, state="waiting").count(), 2)

    def test_a_payout_is_compared_with_what_was_due(self):
        unit = self.on_both()
        self.there.buy(str(unit.tag), "Ines Falk")
        self.there.pay(str(unit.tag), "132.00")
        self.read()
        self.assertEqual(Sale.objects.get().paid_out, D(132))
        self.there.pay(str(unit.tag), "100.00")
        self.there.pay("W-0999", "1.00")
        self.read()
        self.assertTrue(ChannelMessage.objects.filter(outcome="waits", words__contains="132.00 was due").exists())

    def test_the_database_keeps_a_message_and_a_placement_once(self):
        unit = self.on_both()
        given = {"raw": {}, "came_at": clock.now()}
        ChannelMessage.objects.create(channel=self.north, kind="sale", remote="a", **given)
        for make in (
            lambda: ChannelMessage.objects.create(channel=self.north, kind="sale", remote="a", **given),
            lambda: Placement.objects.create(unit=unit, channel=self.north, changed_at=clock.now()),
            lambda: Placement.objects.filter(unit=unit).update(confirmed=99999),
            lambda: Channel.objects.filter(pk=self.north.pk).update(address=""),
        ):
            with self.assertRaises(IntegrityError), transaction.atomic():
                make()

"""Answers told to channels, channels set up and changed, cards for a fair."""

import re
from datetime import timedelta
from decimal import Decimal
from unittest.mock import patch

from django.db import connection
from django.test.utils import CaptureQueriesContext

from stations.common import clock
from stations.common.refusals import Refused
from stations.people.models import HistoryEntry, Person
from stations.queue import services as queue
from stations.selling import cards, offers, placing
from stations.selling import services as selling
from stations.selling.models import (
    Channel,
    ChannelMessage,
    Offer,
    Question,
    Reserved,
)
from tests.stations.base import person
from tests.stations.test_channels import OnChannels

D = Decimal


class Answers(OnChannels):
    def test_questions_and_offers_come_into_one_list_and_go_back_answered(self):
        unit = self.on_both()
        self.there.ask(str(unit.tag), "M. Strand", "Is the fan loud?")
        self.elsewhere.offer(str(unit.tag), "K. Lund", "90.00")
        self.read()
        page = self.client.get("/selling/offers/")
        self.assertContains(page, "Is the fan loud?")
        self.assertContains(page, "K. Lund")
        question, offer = Question.objects.get(), Offer.objects.get()
        self.says(self.post("selling:question", [question.pk], answer=" "), "Say something to it")
        self.there.faults.errors = 1
        self.done(self.post("selling:question", [question.pk], answer="Hardly."))
        self.assertContains(self.client.get("/selling/offers/"), "has not heard it yet")
        self.done(self.post("selling:answer", [offer.pk], status="declined", list="yes"))
        self.worked()
        self.assertEqual(self.there.answers[question.remote]["words"], "Hardly.")
        self.assertEqual(self.elsewhere.answers[offer.remote]["answer"], "declined")
        self.assertNotContains(self.client.get("/selling/offers/"), "has not heard it yet")
        self.says(self.post("selling:question", [question.pk], answer="Again."), "answered before")

    def test_an_offer_for_what_is_gone_is_kept_and_can_be_declined(self):
        unit = self.on_both()
        selling.sell(self.owner, unit, D(150), "Somebody", D(9))
        self.there.offer(str(unit.tag), "K. Lund", "90.00")
        self.read()
        offer = Offer.objects.get()
        self.assertContains(self.client.get("/selling/offers/"), "not on offer any more")
        self.assertContains(self.client.get("/selling/"), "it is not on offer")
        with self.assertRaisesRegex(Refused, "not on offer"):
            offers.respond(self.owner, offer, Offer.Status.TAKEN)
        offers.respond(self.owner, offer, Offer.Status.DECLINED)

    def test_an_offer_taken_ends_it_elsewhere_and_its_time_brings_it_back(self):
        unit = self.on_both()
        self.there.offer(str(unit.tag), "K. Lund", "145.00")
        self.read()
        offers.respond(self.owner, Offer.objects.get(), Offer.Status.TAKEN)
        self.worked()
        self.assertEqual({self.state_at(m, unit) for m in self.markets.values()}, {"ended"})
        self.now += offers.HELD_FOR + timedelta(minutes=1)
        with clock.at(self.now):
            queue.put_recurring()
        self.worked()
        self.assertEqual({self.state_at(m, unit) for m in self.markets.values()}, {"open"})
        self.assertEqual(Reserved.objects.get().ended_words, "its time ran out")


class SettingUp(OnChannels):
    FORM = {
        "name": "Third",
        "kind": "market",
        "fee_percent": "5",
        "fee_fixed": "0",
        "title_length": "60",
        "text_length": "4000",
        "price_ends": "whole",
        "version": "1",
        "key": "secret",
    }

    def test_a_marketplace_wants_an_address_and_an_owner(self):
        self.says(self.post("selling:channels", **self.FORM), "Where does it answer?")
        there, form = "/selling/channels/", self.FORM | {"write_key": "", "address": "https://there"}
        self.says(self.client.post(there, form | {"address": "ftp://there"}), "begins with https://")
        self.sign_in(self.seller)
        self.says(self.client.post(there, form), "Only an owner")
        self.sign_in(self.owner)
        self.done(self.client.post(there, form))
        row = Channel.objects.get(name="Third")
        self.assertEqual((row.key, row.set_up_by), ("secret", self.owner))

    def test_the_key_is_never_shown_and_stays_unless_another_is_typed(self):
        Channel.objects.filter(pk=self.north.pk).update(key="open sesame")
        there = f"/selling/channels/{self.north.pk}/"
        self.assertNotContains(self.client.get(there), "open sesame")
        form = self.FORM | {"name": "Rail market", "address": self.north.address, "key": "", "write_key": ""}
        self.assertEqual(self.client.post(there, form).status_code, 302)
        self.assertEqual(self.again(self.north).key, "open sesame")
        stale = self.client.post(there, form | {"fee_percent": "7", "key": "another"})
        self.assertContains(stale, "Somebody else saved this")
        for secret in ("open sesame", "another"):
            self.assertNotContains(stale, secret)

    def test_how_it_is_served_changes_only_while_nothing_stands_there(self):
        self.on_both()
        there = f"/selling/channels/{self.north.pk}/"
        form = self.FORM | {"name": "Rail market", "kind": "hand", "address": self.north.address, "write_key": ""}
        self.assertContains(self.client.post(there, form), "Take it off first")

    def test_who_connected_it_is_gone_or_may_sell_no_longer_and_it_is_sold_all_the_same(self):
        for name, roles, active in (("demoted", ["viewer"], True), ("retired", ["owner"], False)):
            with self.subTest(name):
                unit = self.on_both()
                gone = person(name, *roles)
                Person.objects.filter(pk=gone.pk).update(is_active=active)
                Channel.objects.filter(pk=self.north.pk).update(set_up_by=gone)
                self.there.buy(str(unit.tag), "Ines Falk")
                self.read()
                self.assertEqual(ChannelMessage.objects.get(unit=unit).outcome, "done")
                self.assertEqual(HistoryEntry.objects.filter(action="selling.sell").latest("pk").who, self.owner)
                self.assertFalse(unit.placements.filter(stands=True).exists())


class CardsForAFair(OnChannels):
    def test_a_card_says_price_what_is_wrong_and_where_to_read_more(self):
        import pypdfium2

        unit = self.listed()
        fair = Channel.objects.create(name="Fair", kind=Channel.Kind.FAIR)
        placing.offer_on(self.owner, unit, fair)
        answer = self.client.get(f"/selling/channels/{fair.pk}/cards.pdf")
        self.assertEqual(answer["Content-Type"], "application/pdf")
        text = pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range()
        for words in ("150.00", str(unit.tag), "lithium", f"/shop/W-{unit.number}/"):
            self.assertIn(words, "".join(text.split()))

    def test_more_than_are_printed_at_once_are_printed_in_turn(self):
        import pypdfium2

        units = [self.listed(), self.listed()]
        fair = Channel.objects.create(name="Fair", kind=Channel.Kind.FAIR)
        page = f"/selling/channels/{fair.pk}/"
        self.assertNotContains(self.client.get(page), "Print its")
        for unit in units:
            placing.offer_on(self.owner, unit, fair)
        self.assertEqual(
            re.findall(r"cards.pdf\?from=(\d+)", self.client.get(page).content.decode()), [f"{units[0].number}"]
        )
        with patch.object(cards, "MOST", 1):
            found = re.findall(r"cards.pdf\?from=(\d+)", self.client.get(page).content.decode())
            self.assertEqual(found, [f"{unit.number}" for unit in units])
            for unit in units:
                answer = self.client.get(f"{page}cards.pdf?from={unit.number}")
                text = pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range()
                self.assertEqual([one for one in units if str(one.tag) in text], [unit])
        asked = {}
        for most in (1, 2):
            with patch.object(cards, "MOST", most), CaptureQueriesContext(connection) as queries:
                cards.cards(fair, "http://shop", "Harbour")
            asked[most] = len(queries)
        self.assertEqual(asked[1], asked[2])

    def test_what_is_wrong_is_said_whole_or_counted(self):
        import pypdfium2

        unit = self.proven()
        for side in ("front", "back", "top"):
            self.hand().find(unit, side, "crack", 2, f"a crack {'along the lid ' * 6}that opens")
        self.hand().offer(unit, "150", pictures=1)
        fair = Channel.objects.create(name="Fair", kind=Channel.Kind.FAIR)
        placing.offer_on(self.owner, self.again(unit), fair)
        answer = self.client.get(f"/selling/channels/{fair.pk}/cards.pdf")
        text = " ".join(pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range().split())
        self.assertRegex(text, r"And \d more to know")
        self.assertNotIn("a crack", text)
        self.assertNotIn("…", text)

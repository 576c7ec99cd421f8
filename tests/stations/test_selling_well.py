"""A price with its reasons, offers answered, what must be said: through the pages and services."""

import random
from datetime import timedelta
from decimal import Decimal

from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from core.bench.plan import hands_on
from core.selling.disclosure import DEFAULTS, Disclosure, DisclosureKind, told
from core.selling.grade import Lifting
from core.selling.listing import STANDARD, check_sentence, disclosures
from core.selling.price import lowest_for
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.people.models import ShopSettings
from stations.selling import holding, offers, wording
from stations.selling import services as selling
from stations.selling.as_recorded import listing_facts
from stations.selling.market import market_of, unit_books
from stations.selling.models import (
    Channel,
    Comparable,
    DisclosureWording,
    Listing,
    Offer,
    PriceStep,
    Reserved,
)
from stations.selling.selectors import grade_set, newest_run_of
from stations.selling.sheet import sheet_of
from stations.selling.waiting import pace_of
from stations.units.models import Unit
from tests.stations.base import ShopTest
from tests.stations.test_through_the_pages import Through

D = Decimal


def sales(model, count: int = 8, price: int = 160, **more) -> None:
    """Sales of a model, one every ten days, alike but for a little."""
    today = clock.today()
    given = {"grade": "A", "completeness": 100, "channel": "Quay market"} | more
    for number in range(count):
        day = today - timedelta(days=5 + 10 * number)
        Comparable.objects.create(model=model, sold_on=day, price=D(price + 4 * (number % 5)), **given)


class Priced(Through):
    def scene(self) -> None:
        super().scene()
        sales(self.model)

    def page(self, unit: Unit):
        return self.client.get(f"/selling/W-{unit.number}/")


class Grades(Priced):
    def test_what_lifting_a_cap_is_worth_is_the_price_there_less_the_work(self):
        unit = self.assessed()
        self.hand().test(unit, skip={"soak": "no time for it"})
        unit.refresh_from_db()
        sheet = sheet_of(unit)
        soak = next(lift for lift in sheet.lifts if lift.caps[0].reason == "not soaked")
        there, here = (sheet.found.band_at(grade).likely for grade in (soak.grade, sheet.now.grade))
        self.assertEqual(soak.more, there - here)
        self.assertEqual(soak.cost, D("4.80"))  # twelve minutes at 24 an hour
        self.assertEqual(soak.gain, soak.more - D("4.80"))
        self.assertContains(self.page(unit), "four hours on, then a cold start")

    def test_what_lifts_several_caps_is_one_row_and_costs_what_is_left_of_the_plan(self):
        unit = self.assessed()
        self.hand().test(unit, stop_at="soak")
        sheet = sheet_of(self.again(unit))
        steps = newest_run_of(unit).steps
        (row,) = [lift for lift in sheet.lifts if "finish the run" in lift.liftings]
        self.assertEqual(row.cost, round(D(24) * hands_on(steps, again=False) / 60, 2))
        self.assertLess(hands_on(steps, again=False), hands_on(steps, again=True))
        self.assertContains(self.page(unit), "The test plan is not finished; not soaked")

    def test_what_nobody_can_know_before_is_not_known(self):
        unit = self.proven()
        Unit.objects.filter(pk=unit.pk).update(looked_over_at=None)
        row = next(lift for lift in sheet_of(self.again(unit)).lifts if Lifting.LOOK in lift.liftings)
        self.assertEqual((row.grade, row.more, row.gain), (None, None, None))

    def test_without_sales_nobody_says_what_it_would_fetch(self):
        Comparable.objects.all().delete()
        unit = self.assessed()
        self.hand().test(unit, skip={"soak": "no time for it"})
        sheet = sheet_of(self.again(unit))
        self.assertEqual((sheet.band, sheet.waiting), (None, None))
        self.assertTrue(all(lift.gain is None for lift in sheet.lifts))
        self.assertContains(self.page(unit), "Somebody has to find what one like it fetched")


class Prices(Priced):
    STANDS = "listed"

    def test_of_a_model_without_sales_its_family_tells(self):
        unit = self.listed()
        other = type(self.model).objects.create(maker="Halden", name="M3", form_factor="all_in_one")
        Comparable.objects.update(model=other)
        found = market_of(unit, grade=sheet_of(unit).grade)
        self.assertTrue(found.of_family)
        self.assertContains(self.page(unit), "None is of this model")
        known = market_of(unit, sheet_of(unit).grade).band
        Comparable.objects.update(model=self.model)
        itself = market_of(unit, sheet_of(unit).grade).band
        self.assertGreater(known.high / known.low, itself.high / itself.low)

    def test_an_asking_price_over_the_band_is_said(self):
        unit = self.listed("390")
        page = self.page(unit)
        self.assertContains(page, "390.00 is over the band")
        self.assertContains(page, "in 100 that it goes in a week")

    def test_time_on_offer_brings_the_price_down(self):
        unit = self.listed("165")
        begun = sheet_of(unit).waiting
        long_ago = timezone.now() - timedelta(weeks=24)
        Listing.objects.filter(unit=unit).update(published_at=long_ago)
        PriceStep.objects.filter(unit=unit).update(begun_at=long_ago)
        late = sheet_of(self.again(unit)).waiting
        self.assertFalse(begun.markdown_due)
        self.assertTrue(late.markdown_due)
        self.assertLess(late.ask_now, begun.ask_now)
        self.assertLess(late.least, begun.least)
        self.assertContains(self.page(unit), "is too dear for the time left")

    def test_the_least_to_take_leaves_what_waiting_is_worth(self):
        for scheme, percent in (("none", 0), ("standard", 25), ("margin", 25)):
            ShopSettings.objects.update_or_create(pk=1, defaults={"tax_scheme": scheme, "tax_percent": percent})
            unit = self.listed()
            left = unit_books(unit).leaves(self.channel)
            least = lowest_for(D(60), left)
            self.assertGreaterEqual(left(least), D(60))
            self.assertLess(left(least - D("0.02")), D(60))

    def test_stays_on_offer_are_kept_and_the_pace_is_learned_from_them(self):
        self.assertEqual(pace_of(self.channel).told, 0)
        unit = self.listed("150")
        step = PriceStep.objects.get()
        self.assertEqual((step.asking, step.open_for, step.sold), (D(150), unit, False))
        listing = Listing.objects.get(unit=unit)
        selling.set_price(self.seller, unit, listing.version, self.channel, D(140))
        self.assertEqual(list(PriceStep.objects.values_list("asking", "sold")), [(D(150), False), (D(140), False)])
        PriceStep.objects.update(begun_at=timezone.now() - timedelta(days=9))
        selling.sell(self.seller, unit, D(140), "Ines Falk", D(9))
        self.assertEqual(PriceStep.objects.filter(sold=True, open_for=None).count(), 1)
        self.assertEqual(pace_of(self.channel).told, 1)
        self.assertGreater(pace_of(self.channel).pace, pace_of(None).pace * 0.99)
        with self.assertRaises(IntegrityError), transaction.atomic():
            PriceStep.objects.filter(sold=True).update(ended_at=None)

    def test_the_page_asks_as_many_questions_for_many_sales_and_offers(self):
        unit = self.listed()

        def count() -> int:
            with CaptureQueriesContext(connection) as seen:
                self.assertEqual(self.page(unit).status_code, 200)
            return len(seen)

        offers.take_down(self.seller, unit, D(90), "Ines Falk")
        few = count()
        sales(self.model, 30)
        for number in range(6):
            offers.take_down(self.seller, unit, D(80 + number), "Ines Falk")
        self.assertLessEqual(count(), few)


class WhatSalesTeach(Priced):
    STANDS = "listed"

    def test_our_own_sales_keep_what_was_said_and_teach_what_it_moves(self):
        unit = self.listed("150")
        selling.sell(self.owner, unit, D(150), "Ines Falk", D(9))
        own = Comparable.objects.get(own=True)
        self.assertIn("battery", own.said)
        self.assertIsNone(Comparable.objects.exclude(own=True).first().said)
        other = self.listed("150")
        self.assertContains(self.page(other), "Ours that said so went for ×")
        moved = {one.disclosure.kind.value: one.moves for one in sheet_of(other).said}
        self.assertAlmostEqual(moved["battery"].table, 1.0)
        self.assertGreater(moved["battery"].factor, 0.5)

    def test_the_price_is_that_of_its_channel(self):
        unit = self.listed("150")
        grade, elsewhere = sheet_of(unit).grade, Channel.objects.create(name="Ferry board")
        sales(self.model, 12, 230, channel="Ferry board")
        here, there = (market_of(unit, grade, channel).band.likely for channel in (self.channel, elsewhere))
        self.assertGreater(there, here)
        self.assertEqual(sheet_of(unit).band.likely, wording.market_now(unit, grade, self.channel).band.likely)

    def test_by_auction_the_page_says_where_to_begin_and_what_to_hold(self):
        unit = self.listed("150")
        sheet = sheet_of(unit)
        self.assertLessEqual(sheet.auction.start, sheet.auction.reserve)
        self.assertGreaterEqual(sheet.auction.worth, float(sheet.waiting.waiting) - 0.01)
        self.assertContains(self.page(unit), "By auction in a week instead")

    def test_a_listing_that_ends_holds_nothing(self):
        unit = self.listed("150")
        offers.reserve(self.owner, unit, "Ola Brandt", clock.now() + timedelta(days=2))
        selling.end_listing(self.owner, unit, "")
        self.assertIsNone(holding.reserved(unit))

    def test_words_that_are_refused_stand_at_their_field(self):
        unit = self.listed("150")
        one = sheet_of(unit).said[0].disclosure
        page = self.post("selling:word", [unit.number], kind=one.kind.value, what=one.what, words="Hm")
        self.assertContains(page, "Say it in a sentence that a buyer understands")
        self.assertContains(page, ">Hm</textarea>")


class Offers(Priced):
    def scene(self) -> None:
        super().scene()
        self.unit = self.listed("170")

    def offered(self, amount: str, **more) -> Offer:
        typed = {"offer-amount": amount, "offer-buyer": "Ines Falk", "offer-until": ""} | more
        self.done(self.post("selling:offer", [self.unit.number], **typed))
        return Offer.objects.latest("pk")

    def test_a_low_offer_is_told_from_one_to_take(self):
        low, high = self.offered("60"), self.offered("170")
        told = {offer.pk: offer for offer in sheet_of(self.unit).offers}
        self.assertFalse(told[low.pk].to_take)
        self.assertTrue(told[high.pk].to_take)
        self.assertTrue(told[low.pk].advised is None or D(60) < told[low.pk].advised < D(170))
        page = self.page(self.unit)
        self.assertContains(page, "Take it.")
        self.assertContains(page, "waiting is worth")

    def test_one_that_is_taken_is_held_for_its_buyer_alone(self):
        offer = self.offered("165")
        self.done(self.post("selling:answer", [offer.pk], status="taken"))
        held = Reserved.objects.get()
        self.assertEqual((held.buyer, held.price, held.open_for), ("Ines Falk", D(165), self.unit))
        self.assertIsNotNone(self.again(offer).waiting)
        self.client.logout()
        self.assertContains(self.client.get(f"/shop/W-{self.unit.number}/"), "Reserved")
        with self.assertRaisesRegex(Refused, "held for Ines Falk"):
            selling.sell(self.seller, self.unit, D(170), "Somebody else", D(9))
        with self.assertRaisesRegex(Refused, "held for Ines Falk"):
            offers.reserve(self.seller, self.unit, "Somebody else", clock.now() + timedelta(days=1))
        selling.sell(self.seller, self.unit, D(165), "ines falk", D(9))
        self.assertEqual(self.again(held).ended_words, "sold")

    def test_it_is_answered_once_and_by_who_may(self):
        offer = self.offered("120")
        with self.assertRaises(NotAllowed):
            offers.respond(self.viewer, offer, Offer.Status.DECLINED)
        self.done(self.post("selling:answer", [offer.pk], status="countered", counter="150"))
        self.assertEqual((self.again(offer).status, self.again(offer).counter), ("countered", D(150)))
        with self.assertRaisesRegex(Refused, "answered before"):
            offers.respond(self.seller, offer, Offer.Status.TAKEN)

    def test_a_counter_offer_lies_between(self):
        offer = self.offered("120")
        for counter, words in ((D(120), "more than the 120"), (D(200), "Anybody can have it for 170")):
            with self.assertRaisesRegex(Refused, words):
                offers.respond(self.seller, offer, Offer.Status.COUNTERED, counter)
        answer = self.post("selling:answer", [offer.pk], status="countered", counter="12x")
        self.assertContains(answer, "Type an amount, for example 120")
        self.assertContains(answer, 'value="12x"')

    def test_what_makes_no_sense_is_refused_with_what_was_typed(self):
        for typed, words in (
            ({"offer-amount": "0"}, "more than 0"),
            ({"offer-amount": "99999"}, "ten times"),
            ({"offer-amount": "90", "offer-until": "2020-01-01T10:00"}, "past"),
            ({"offer-amount": "90", "offer-buyer": ""}, "Who offered it"),
        ):
            full = {"offer-amount": "90", "offer-buyer": "Ines", "offer-until": ""} | typed
            self.says(self.post("selling:offer", [self.unit.number], **full), words, typed.get("offer-amount", ""))
        self.assertFalse(Offer.objects.exists())

    def test_one_that_ran_out_is_not_taken(self):
        offer = offers.take_down(self.seller, self.unit, D(150), "Ines", clock.now() + timedelta(hours=1))
        with clock.at(clock.now() + timedelta(hours=2)), self.assertRaisesRegex(Refused, "run out"):
            offers.respond(self.seller, offer, Offer.Status.TAKEN)

    def test_a_reservation_ends_by_itself_and_by_hand(self):
        until = clock.now() + timedelta(days=2)
        offers.reserve(self.seller, self.unit, "Ines Falk", until)
        with clock.at(until + timedelta(minutes=1)):
            self.assertIsNone(holding.reserved(self.unit))
            offers.reserve(self.seller, self.unit, "Per Nord", until + timedelta(days=1))
        self.assertEqual(Reserved.objects.filter(open_for=self.unit).get().buyer, "Per Nord")
        with clock.at(until + timedelta(minutes=2)):
            self.done(self.post("selling:do", [self.unit.number, "let-go"], words="never came"))
        self.assertFalse(Reserved.objects.filter(open_for__isnull=False).exists())
        for moment, words in (
            (clock.now() - timedelta(days=1), "from now on"),
            (clock.now() + timedelta(days=120), "90"),
        ):
            with self.assertRaisesRegex(Refused, words):
                offers.reserve(self.seller, self.unit, "Ines", moment)

    def test_only_what_is_on_offer_is_offered_for(self):
        selling.end_listing(self.seller, self.unit, "")
        with self.assertRaisesRegex(Refused, "not on offer"):
            offers.take_down(self.seller, self.unit, D(90), "Ines")


class MustBeSaid(Priced):
    def scene(self) -> None:
        super().scene()
        self.unit = self.listed()
        hand = self.hand()
        hand.find(self.unit, "front", "crack", 2, "hairline by the badge")
        hand.find(self.unit, "back", "rework", 2, "a wire across the board")
        selling.grade_unit(self.owner, self.unit)
        self.unit = self.again(self.unit)

    def raised(self):
        return disclosures(listing_facts(self.unit))

    def test_each_kind_has_its_words_and_each_fact_is_told(self):
        self.assertEqual(set(DEFAULTS), set(DisclosureKind))
        text = wording.in_full(Listing.objects.get(unit=self.unit), listing_facts(self.unit))
        for words in ("hairline by the badge", "a wire across the board", "lithium", "220–240 V", "sanitised (clear)"):
            self.assertIn(words, text)

    def test_worded_anew_it_is_told_so_until_the_fact_changes(self):
        crack = next(one for one in self.raised() if "hairline" in one.what)
        words = "There is a fine crack by the badge; it does not go through."
        typed = {"kind": crack.kind.value, "what": crack.what, "words": words}
        self.done(self.post("selling:word", [self.unit.number], **typed))
        page = self.client.get(f"/shop/W-{self.unit.number}/")
        self.assertContains(page, words)
        self.unit.findings.filter(kind="crack").update(words="it has grown through the bezel")
        page = self.client.get(f"/shop/W-{self.unit.number}/")
        self.assertNotContains(page, words)
        self.assertContains(page, "grown through the bezel")

    def test_nothing_is_left_out_by_wording_it_away(self):
        crack = next(one for one in self.raised() if "hairline" in one.what)
        with self.assertRaisesRegex(Refused, "in a sentence"):
            wording.word_anew(self.seller, self.unit, crack.kind.value, crack.what, "none")
        with self.assertRaisesRegex(Refused, "does not say this"):
            wording.word_anew(self.seller, self.unit, crack.kind.value, "no such thing", "Something quite else.")
        wording.word_anew(self.seller, self.unit, crack.kind.value, crack.what, "Worn a little at the front.")
        wording.word_anew(self.seller, self.unit, crack.kind.value, crack.what, "")
        self.assertFalse(DisclosureWording.objects.exists())

    def test_no_order_of_edits_loses_one(self):
        dice = random.Random(19)
        for _ in range(30):
            listing = Listing.objects.get(unit=self.unit)
            raised = self.raised()
            one = dice.choice(raised)
            edit = dice.randrange(5)
            if edit == 0:
                selling.save_text(
                    self.seller, self.unit, listing.version, "A machine", dice.choice(["", "Short.", "x" * 90])
                )
            elif edit == 1:
                selling.write_from_facts(self.seller, self.unit)
            elif edit == 2:
                words = dice.choice(["", f"In other words, number {dice.randrange(99)}."])
                wording.word_anew(self.seller, self.unit, one.kind.value, one.what, words)
            elif edit == 3:
                wording.word_sentence(
                    self.owner, one.kind.value, dice.choice(["", "Do know: {things}!"]) if one.what else ""
                )
            else:
                wording.take_changes(self.seller, self.unit, listing)
            facts = listing_facts(self.unit)
            text = wording.in_full(Listing.objects.get(unit=self.unit), facts)
            self.assertEqual(len(raised), len(wording.must_say(facts)))
            for told_one in wording.must_say(facts):
                self.assertIn(told_one.worded or told_one.what, text)

    def test_a_sentence_of_the_shop_keeps_the_place_of_the_facts(self):
        for code, words, problem in (
            ("defect", "It has faults.", "{things} has to be in it"),
            ("defect", "{things} and {more}.", "{more} is filled by nothing"),
            ("defect", "{things} {", "brace stands alone"),
            ("caution", "x" * 301, "300 characters"),
        ):
            self.assertIn(problem, check_sentence(code, words))
        self.assertTrue(all(check_sentence(code, words) == "" for code, words in STANDARD.items()))
        self.done(self.post("selling:sentences", code="defect", words="Please know: {things}."))
        self.assertContains(self.client.get(f"/shop/W-{self.unit.number}/"), "Please know: crack")
        answer = self.post("selling:sentences", code="defect", words="Nothing to see.")
        self.assertContains(self.client.get(answer["Location"]), "has to be in it")
        self.assertIn("Fault: a.", told([Disclosure(DisclosureKind.DEFECT, "a")], {"defect": "Fault: {things}."}))

    def test_what_changed_since_it_was_written_is_shown_and_taken_in(self):
        listing = Listing.objects.get(unit=self.unit)
        self.assertEqual(wording.changed(listing, listing_facts(self.unit)), [])
        selling.save_text(
            self.seller, self.unit, listing.version, listing.title, listing.text.replace("In the box", "You get")
        )
        self.unit.contents.filter(name="mouse").update(presence="missing")
        listing = Listing.objects.get(unit=self.unit)
        (box,) = wording.changed(listing, listing_facts(self.unit))
        self.assertTrue(box.by_hand)
        self.assertContains(self.page(self.unit), "The record has changed since this was written")
        wording.write_from_facts(self.seller, self.unit, listing)
        self.unit.contents.filter(name="keyboard").update(presence="missing")
        self.done(self.post("selling:do", [self.unit.number, "update"]))
        listing = Listing.objects.get(unit=self.unit)
        self.assertNotIn("keyboard;", listing.text)
        self.assertEqual(wording.changed(listing, listing_facts(self.unit)), [])

    def test_what_the_seller_made_of_it_is_told_apart(self):
        listing = Listing.objects.get(unit=self.unit)
        self.assertEqual(wording.edits(listing), [])
        selling.save_text(self.seller, self.unit, listing.version, listing.title, listing.text + "\n\nA lovely thing.")
        self.assertEqual(wording.edits(Listing.objects.get(unit=self.unit))[-1], ("new", "A lovely thing."))

    def test_the_text_fits_its_channel_with_all_that_must_be_said(self):
        type(self.channel).objects.update(text_length=500)
        listing = Listing.objects.get(unit=self.unit)
        typed = {"version": listing.version, "title": "M2", "text": "x" * 480}
        self.says(self.post("selling:text", [self.unit.number], **typed), "takes 500 at most")

    def test_the_public_page_shows_how_it_was_tested_and_nobody_s_name(self):
        self.client.logout()
        page = self.client.get(f"/shop/W-{self.unit.number}/")
        self.assertContains(page, "How it was tested")
        self.assertContains(page, "Its condition, face by face")
        for name in ("olga", "Olga", "sven"):
            self.assertNotContains(page, name)


class AnOldListing(ShopTest):
    def test_one_that_was_written_before_sentences_were_kept_says_nothing_of_changes(self):
        unit = self.listed()
        Listing.objects.filter(unit=unit).update(written={})
        listing = Listing.objects.get(unit=unit)
        self.assertEqual(wording.changed(listing, listing_facts(unit)), [])
        self.assertIsNotNone(grade_set(unit))

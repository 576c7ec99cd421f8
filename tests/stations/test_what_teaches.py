"""What is learned from is what was so: no time in which nobody could buy it, and no sale that came to nothing."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from core.intake.completeness import Presence
from core.money import ZERO, to_cent
from core.selling.grade import Grade
from core.selling.price import fee_on
from stations.buying import forecasts, plans
from stations.buying.models import SourceKind
from stations.catalogue.prices import prices_by_model
from stations.common import clock
from stations.dispatch import refunds, returns, warranty
from stations.intake import services as intake
from stations.people import shop_settings
from stations.selling import market, offers, payments
from stations.selling import services as selling
from stations.selling.models import Comparable, Listing, PriceStep, Sale
from stations.selling.sheet import sheet_of
from stations.selling.to_come import units_to_come, worth_to_us
from stations.selling.waiting import weeks_on_offer
from stations.units.models import Unit
from tests.hands import boxes_and_carriers
from tests.stations.test_plans import LINE, TERMS
from tests.stations.test_selling_well import Priced

D = Decimal


class TimeOnOffer(Priced):
    def scene(self) -> None:
        super().scene()
        self.unit = self.listed()
        PriceStep.objects.update(begun_at=timezone.now())

    def later(self, **span):
        return clock.at(timezone.now() + timedelta(**span))

    def stays(self) -> list[tuple[int, bool, bool]]:
        """Whole days of each stay, whether a sale ended it, whether it goes on."""
        rows = PriceStep.objects.all()
        return [(((row.ended_at or clock.now()) - row.begun_at).days, row.sold, row.ended_at is None) for row in rows]

    def sell(self, buyer: str = "Ines Falk"):
        return selling.sell(self.seller, self.again(self.unit), D(150), buyer, D(9))

    def tick(self, presence: Presence) -> None:
        ticks = dict.fromkeys(self.unit.contents.values_list("pk", flat=True), presence.value)
        intake.tick_contents(self.owner, self.again(self.unit), ticks)

    def test_while_it_is_withheld_it_does_not_stand_on_offer(self):
        with self.later(days=2, hours=1):
            self.tick(Presence.MISSING)
            self.assertEqual(self.stays(), [(2, False, False)])
        with self.later(days=9):
            self.tick(Presence.PRESENT)
        with self.later(days=12, hours=1):
            self.assertEqual(self.stays(), [(2, False, False), (3, False, True)])
            listing = Listing.objects.get(unit=self.unit)
            # Twelve days since it was listed, and five on offer.
            self.assertEqual(weeks_on_offer(listing, clock.now()), 0)
            self.assertEqual(weeks_on_offer(listing, clock.now() + timedelta(days=3)), 1)
            selling.set_price(self.seller, self.again(self.unit), listing.version, self.channel, D(145))
            self.assertEqual(self.stays()[1:], [(3, False, False), (0, False, True)])

    def test_nor_while_it_is_held_for_somebody_and_who_buys_it_ends_the_stay_before(self):
        with self.later(days=2, hours=1):
            offers.reserve(self.owner, self.unit, "Ola Brandt", clock.now() + timedelta(days=5))
            self.assertEqual(self.stays(), [(2, False, False)])
        with self.later(days=4):
            self.sell("Ola Brandt")
        self.assertEqual(self.stays(), [(2, True, False)])

    def test_what_was_held_and_let_go_stands_there_again(self):
        with self.later(days=2, hours=1):
            offers.reserve(self.owner, self.unit, "Ola Brandt", clock.now() + timedelta(days=1))
        with self.later(days=6):
            offers.end_those_that_ran_out()
            self.assertEqual(self.stays(), [(2, False, False), (0, False, True)])

    def test_a_sale_that_was_called_off_is_none(self):
        with self.later(days=2, hours=1):
            refunds.call_off(self.owner, self.sell(), "never paid")
        self.assertEqual(self.stays(), [(2, False, False)])

    def test_a_sale_that_is_put_on_another_day_ended_it_then(self):
        with self.later(days=6, hours=1):
            sale = self.sell()
            selling.correct_sold_on(self.owner, sale, clock.today() - timedelta(days=3), "by the bank’s paper")
            ended = PriceStep.objects.get().ended_at
            self.assertEqual(ended, self.again(sale).sold_at)


class WhatWasPaid(Priced):
    """A sale below what was asked is none at what was asked."""

    def test_what_buyers_take_off_is_reckoned_with_in_what_waiting_brings(self):
        first = self.listed()
        before = sheet_of(first).waiting.waiting
        for _ in range(2):
            selling.sell(self.seller, self.listed(), D(105), "Ines Falk", D(9))
        self.assertEqual(set(PriceStep.objects.filter(sold=True).values_list("sold_for", flat=True)), {D(105)})
        sheet = sheet_of(self.again(first))
        # (4 + 2 × 0.7) ÷ 6.
        self.assertEqual(sheet.waiting.pace.off_in_100, 10)
        self.assertLess(sheet.waiting.waiting, before)
        self.assertContains(self.page(first), "Buyers take 10 in 100 off what is asked")
        sale = Sale.objects.last()
        refunds.call_off(self.owner, sale, "never paid")
        self.assertFalse(PriceStep.objects.filter(unit=sale.unit, sold_for__gt=0).exists())


class WhatItFetched(Priced):
    """A sale is a guide to others by what it fetched, not by what was agreed first."""

    def scene(self) -> None:
        super().scene()
        self.sale = selling.sell(self.seller, self.listed(), D(150), "Ines Falk", D(9))

    def price(self) -> Decimal:
        return self.again(self.sale.comparable).price

    def test_what_was_taken_off_the_price_and_put_on_again(self):
        given = refunds.refund(self.owner, self.sale, D(20), "as agreed at the door")
        self.assertEqual((self.price(), PriceStep.objects.get().sold_for), (D(130), D(130)))
        refunds.take_back(self.owner, given, "another sale’s")
        self.assertEqual(self.price(), D(150))

    def test_answering_for_it_took_the_postage_that_was_paid(self):
        boxes_and_carriers(self.owner)
        hand = self.hand().wait(days=4)
        Unit.objects.update(battery="none")
        hand.pay(self.sale)
        hand.send(hand.pack(self.sale), "Marrow Parcel", "6.90")
        self.assertEqual(self.sale.parcel_item.postage, D("6.90"))
        back = returns.ask(self.seller, self.again(self.sale), "fault", "dead")
        returns.settle(self.owner, back, returns.Settlement(cost=D(5)))
        self.assertEqual(warranty.answered()[Grade(self.sale.grade)].cost, D("11.90"))

    def test_what_was_not_said_of_it_and_what_happened_to_it_afterwards(self):
        self.hand().wait(days=4).hand_over(self.sale.unit)
        for reason, price in (("damaged", 150), ("not_as_said", 130)):
            back = returns.ask(self.seller, self.again(self.sale), reason, "a crack")
            returns.settle(self.owner, back, returns.Settlement(refund=D(20)))
            self.assertEqual(self.price(), D(price))


class WhatWasDecided(Priced):
    """A unit that nobody finishes brings what such a one brings, not what its line was thought worth."""

    def brings(self, **said) -> list[D | None]:
        Unit.objects.update(**({"path": "", "approach": "period"} | said))
        return units_to_come([self.lot.pk], lambda line, brings: ZERO)[self.lot.pk]

    def selling_takes(self, price: D) -> D:
        return fee_on(price, market.terms_of(self.channel, shop_settings.settings())) + shop_settings.settings().postage

    def test_donors_and_what_is_scrapped_or_sold_as_it_stands(self):
        (unit,) = self.receive()
        Comparable.objects.all().delete()
        # Its line’s estimates are all it is known by: 22 of 100 for parts, 55 as it stands, less fee and postage.
        Unit.objects.filter(pk=unit.pk).update(model=None)
        thought = self.again(unit).expected_worth
        self.assertGreater(self.brings()[0], thought / 2)
        for said, share in (
            ({"approach": "donor"}, D("0.22")),
            ({"path": "part_out"}, D("0.22")),
            ({"path": "sell"}, D("0.55")),
            ({"path": "scrap"}, D(0)),
            ({"path": "scrap", "approach": "donor"}, D(0)),
        ):
            there = to_cent(thought * share)
            self.assertEqual(self.brings(**said)[0], max(ZERO, there - self.selling_takes(there)), said)

    def test_sales_elsewhere_know_better(self):
        (unit,) = self.receive()
        Unit.objects.filter(pk=unit.pk).update(model=self.model)
        for price, grade in 8 * [(160, "B"), (90, "untested"), (20, "parts")]:
            Comparable.objects.create(
                model=self.model, sold_on=clock.today(), grade=grade, completeness=100, price=price, channel="Quay"
            )
        parts = to_cent(D(repr(prices_by_model({self.model.pk})[self.model.pk].parts)))
        self.assertEqual(self.brings(approach="donor")[0], parts - self.selling_takes(parts))
        self.assertLess(parts, 30)

    def test_what_is_done_next_is_ranked_by_that(self):
        (unit,) = self.receive()
        worth = {}
        for said in ({}, {"approach": "donor"}, {"path": "scrap"}):
            self.brings(**said)
            found = Unit.objects.annotate(worth=worth_to_us()).get(pk=unit.pk).worth
            worth[str(said)] = found / unit.line.worth_likely
        self.assertEqual([round(share, 2) for share in worth.values()], [1, D("0.22"), 0])


class WhatSendingTakes(Priced):
    def sent(self, price: str) -> None:
        hand = self.hand().wait(days=4)
        sale = selling.sell(self.seller, self.listed(), D(150), "Ines Falk", D(9))
        Unit.objects.update(battery="none")
        hand.pay(sale)
        hand.send(hand.pack(sale), "Marrow Parcel", price)

    def test_the_next_of_its_model_is_reckoned_with_as_those_before_took(self):
        boxes_and_carriers(self.owner)
        first = self.listed()
        with self.assertNumQueries(2):  # what is usual, and what was sent
            usual = market.postage_of(first)
        self.assertEqual((usual.amount, usual.words), (D(9), ""))
        floor = market.unit_books(first).floors(self.channel)[0]
        to_come = units_to_come([self.lot.pk], lambda line, brings: ZERO)[self.lot.pk]
        self.sent("21")
        self.sent("30")
        reckoned = market.postage_of(first)
        # (9 + 21 + 30) ÷ 3 of its shape, and (20 + 21 + 30) ÷ 3 of its model.
        self.assertEqual((reckoned.amount, reckoned.words), (D("23.67"), "as 2 of its model took"))
        self.assertGreater(market.unit_books(first).floors(self.channel)[0], floor)
        now = units_to_come([self.lot.pk], lambda line, brings: ZERO)[self.lot.pk]
        self.assertEqual(now[0], to_come[0] - D("14.67"))
        page = self.page(first)
        self.assertContains(page, 'value="23.67"')
        self.assertContains(page, "as 2 of its model took")
        self.assertEqual(selling.sell(self.seller, first, D(150), "Ola Brandt", None).postage, D("23.67"))

    def test_a_bid_is_reckoned_so_too_where_nobody_typed_it_and_stays_as_it_was_made(self):
        boxes_and_carriers(self.owner)
        made = {}
        for postage in (None, D(9)):
            plan = plans.plan_bid(self.owner, replace(TERMS, postage=postage))
            plans.add_line(self.owner, plan, LINE)
            plans.add_line(self.owner, plan, replace(LINE, description="Orrin tower", form_factor="tower"))
            made[postage] = (plan, forecasts.terms_of(plan))
            self.assertEqual((made[postage][1].postage, made[postage][1].postages), (9.0, ()))
        bought = plans.plan_bid(self.owner, replace(TERMS, postage=None))
        plans.add_line(self.owner, bought, LINE)
        plans.buy(self.owner, bought, D(100), SourceKind.AUCTION)
        before = {pk: forecasts.forecast_of(plan).mean for pk, (plan, _) in made.items()}
        self.sent("30")
        self.assertEqual(forecasts.terms_of(made[None][0]).postages, (("all_in_one", 19.5),))
        self.assertLess(forecasts.forecast_of(made[None][0]).mean, before[None] - 20)
        self.assertEqual(forecasts.terms_of(made[D(9)][0]).postages, ())
        self.assertEqual(forecasts.terms_of(self.again(bought)).postages, ())

    def test_what_was_fetched_teaches_nothing_of_it(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "Ines Falk", D(9))
        self.hand().wait(days=4).hand_over(sale.unit)
        self.assertEqual(market.postage_of(self.listed()).words, "")

    def test_a_channel_that_keeps_more_than_its_terms_say_is_told(self):
        there = reverse("selling:channel", args=[self.channel.pk])
        for more in (0, 0, 6):
            sale = selling.sell(self.seller, self.listed(), D(150), "Ines Falk", D(9))
            if more:
                payments.correct_fee(self.owner, sale, sale.fee + more, "by its paper")
            else:
                self.assertNotContains(self.client.get(there), "sales it kept")
        page = self.client.get(there)
        self.assertContains(page, "Of 3 sales it kept <b>11.3 %</b> of what they fetched")
        self.assertContains(page, "10 %. Floors are reckoned too low")

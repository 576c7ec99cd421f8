"""What is learned from is what was so: no time in which nobody could buy it, and no sale that came to nothing."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone

from core.intake.completeness import Presence
from stations.common import clock
from stations.dispatch import refunds
from stations.intake import services as intake
from stations.selling import offers
from stations.selling import services as selling
from stations.selling.models import Listing, PriceStep
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

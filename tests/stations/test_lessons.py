"""What the shop learned, from the records to the page."""

from datetime import timedelta
from decimal import Decimal
from math import exp

from django.urls import reverse

from stations.bench import faults
from stations.bench import services as bench
from stations.bench.models import FaultCase
from stations.books.lessons import lessons
from stations.common import clock
from stations.selling import services as selling
from stations.selling.models import PriceStep
from tests.stations.base import ShopTest
from tests.stations.test_selling_well import Priced

D = Decimal
ASKED = 8


class NothingYet(ShopTest):
    def test_it_says_so(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("books:learned"))
        for words in (
            "nothing that had a likely price is sold yet",
            "nothing that had a likely price stood on offer yet",
            "none was found yet",
            "none was made yet",
            "Nothing of what was claimed is tested yet.",
        ):
            self.assertContains(page, words)


class Learned(Priced):
    def offered(self, days):
        """On offer for so many days."""
        unit = self.listed()
        PriceStep.objects.filter(unit=unit).update(begun_at=clock.now() - timedelta(days=days))
        return unit

    def sold(self, price, days=7):
        unit = self.offered(days)
        selling.sell(self.seller, unit, D(price), "Ines Falk", D(9))
        return unit

    def learned(self):
        return self.client.get(reverse("books:learned"))

    def test_what_was_sold_and_what_still_stands(self):
        self.sold(140)
        self.offered(14)
        likely = PriceStep.objects.order_by("pk").first().likely
        found = lessons().offered
        self.assertEqual((found.stays, found.sales.came, found.fetched.count), (2, 1, 1))
        self.assertAlmostEqual(found.fetched.at, float(D(140) / likely))
        # One week and two at the usual pace: neither taught anything before the month began.
        ratios = [float(D(150) / step.likely) for step in PriceStep.objects.order_by("pk")]
        at = [0.12 * exp(-6 * (ratio - 1)) for ratio in ratios]
        self.assertAlmostEqual(found.sales.expected, at[0] + 2 * at[1], places=3)
        page = self.learned()
        self.assertContains(page, "1 sale came where")
        self.assertContains(page, self.channel.name)
        self.assertContains(page, "too few to tell")
        # What was tested of the claim with which it came.
        (claim,) = lessons().claims
        self.assertEqual((claim.seen, claim.worked), (2, 2))
        self.assertGreater(claim.learned.odds[0], claim.start[0])

    def test_time_and_again_for_less_than_was_thought(self):
        unit = self.sold(90)
        step = PriceStep.objects.get()
        self.assertGreater(step.likely, 110)
        asked = {"unit": unit, "channel": self.channel, "asking": step.asking, "likely": step.likely, "sold": True}
        begun = {"begun_at": step.begun_at, "ended_at": step.ended_at}
        for price in range(5):
            PriceStep.objects.create(**asked, **begun, sold_for=D(90 + price))
        page = self.learned()
        self.assertContains(page, "we think too much of things, or ask too little")
        self.assertEqual([row.stays for row in lessons().by_channel], [6])
        self.assertEqual(sum(row.stays for row in lessons().by_price), 6)

    def fault(self, cause="", words="", fix="replaced", unit=None):
        case = faults.open_case(self.technician, unit or self.assessed(), "no-picture")
        faults.close_case(self.technician, case, cause, words, fix)
        return self.again(case)

    def test_first_suspects_and_what_became_of_repairs(self):
        case = self.fault("video", unit=self.proven())
        order = sorted(zip(case.start, case.suspect_words, strict=True), reverse=True)
        FaultCase.objects.filter(pk=case.pk).update(cause=order[0][1])
        self.fault(words="a coin in the slot")
        # Found, and not mended.
        self.fault(order[1][1], fix="")
        found = lessons()
        self.assertEqual((found.suspects.hits, found.suspects.count), (1, 3))
        self.assertEqual((found.repairs.all, found.repairs.not_known), (2, 2))
        with clock.at(clock.now() + timedelta(days=1)):
            bench.note_start(self.technician, case.unit, False, True, "dark again")
        found = lessons()
        self.assertEqual((found.repairs.back_unproven, found.repairs.not_known, found.repairs.proven.count), (1, 1, 0))
        page = self.learned()
        self.assertContains(page, "of 0 proven cold and closed up, 0 came back")
        self.assertContains(page, "of 2 never proven, 1 came back,")
        self.assertContains(page, "of 1 nobody knows")
        self.assertContains(page, "of 3 found, 1 was what was suspected")

    def test_proven_and_back_all_the_same(self):
        case = self.fault("video", unit=self.proven())
        for day, words in ((1, ""), (3, "dark again")):
            with clock.at(clock.now() + timedelta(days=day)):
                bench.note_start(self.technician, case.unit, not words, True, words)
        found = lessons()
        self.assertEqual((found.repairs.proven.hits, found.repairs.proven.count), (1, 1))
        self.assertContains(self.learned(), "of 1 proven cold and closed up, 1 came back")

    def test_it_asks_no_more_however_much_there_is(self):
        self.sold(140)
        case = self.fault("video")
        with self.assertNumQueries(ASKED):
            lessons()
        self.offered(3)
        self.fault("video", unit=case.unit)
        with self.assertNumQueries(ASKED):
            lessons()

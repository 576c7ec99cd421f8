import json
import re
from datetime import UTC, date, datetime
from decimal import Decimal
from zoneinfo import ZoneInfo

from django.db import IntegrityError, transaction

from core.selling.grade import Grade
from stations.bench.models import TestRun
from stations.books.selectors import complaints, units_earnings
from stations.common.clock import day_of
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.dispatch import parcels
from stations.intake import capture
from stations.ledger.models import Account
from stations.ledger.selectors import balance, by_kind
from stations.people.shop_settings import settings
from stations.selling import selectors
from stations.selling import services as selling
from stations.selling.as_recorded import listing_facts
from stations.selling.market import compared_with
from stations.selling.models import Comparable, Listing
from stations.units.models import Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.stations.base import ShopTest

D = Decimal


class TheShopsDay(ShopTest):
    """Half past midnight at the shop is still yesterday in UTC; it is today everywhere."""

    def test_what_is_told_to_buyers_and_what_the_pages_say_agree(self):
        unit = self.proven()
        half_past = datetime(2026, 7, 1, 0, 30, tzinfo=ZoneInfo("Europe/Berlin"))
        TestRun.objects.filter(unit=unit).update(started_at=half_past, finished_at=half_past)
        self.assertEqual(listing_facts(unit).tested_on, "on 01 July 2026")
        self.assertEqual(day_of(half_past.astimezone(UTC)), date(2026, 7, 1))

    def test_the_clock_goes_forward_and_back(self):
        for month, day in ((3, 29), (10, 25)):
            for hour in (0, 23):
                moment = datetime(2026, month, day, hour, 59, tzinfo=ZoneInfo("Europe/Berlin"))
                self.assertEqual(day_of(moment.astimezone(UTC)), date(2026, month, day))


class Grading(ShopTest):
    def test_two_people_give_the_same_grade(self):
        unit = self.proven()
        first, second = (selling.grade_unit(who, unit) for who in (self.owner, self.technician))
        self.assertEqual((first.grade, first.total), (second.grade, second.total))
        self.assertEqual(first.grade, "A")

    def test_not_while_work_or_a_run_is_open(self):
        unit = self.assessed()
        with self.assertRaisesRegex(Refused, "run is going on"):
            self.hand().test(unit, stop_at="fn-picture")
            selling.grade_unit(self.seller, unit)

    def test_a_repair_after_the_test_caps_it(self):
        unit = self.proven()
        job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        workshop.finish_job(self.owner, job, JobResult("fitted"))
        self.assertEqual(selectors.graded_now(unit).grade, Grade.C)


class PricingAndListing(ShopTest):
    def test_under_the_floor_only_with_a_reason(self):
        unit = self.proven()
        with self.assertRaises(Refused) as caught:
            selling.set_price(self.seller, unit, 1, self.channel, D("40"))
        self.assertEqual(caught.exception.field, "below_floor_reason")
        # cost 39.40, margin wanted 20, postage 9, fee 10 %: (39.40 + 20 + 9) / 0.9 = 76.00
        self.assertIn("76.00", caught.exception.message)
        selling.set_price(self.seller, unit, 1, self.channel, D("40"), "shop-soiled")

    def test_a_stale_price_is_told_so(self):
        unit = self.proven()
        selling.set_price(self.seller, unit, 1, self.channel, D(90))
        with self.assertRaises(StaleEdit):
            selling.set_price(self.owner, unit, 1, self.channel, D(95))

    def test_everything_that_blocks_is_said_at_once(self):
        unit = self.assessed()
        with self.assertRaises(Refused) as caught:
            selling.publish(self.seller, unit)
        for words in ("Not proven", "No grade", "No price", "1 photo missing", "not sanitised"):
            self.assertIn(words, caught.exception.message)

    def test_listed_when_nothing_blocks(self):
        unit = self.listed()
        self.assertEqual((unit.stage, unit.listing.status), ("listed", "live"))
        self.assertIn("Halden M2", unit.listing.title)

    def test_the_database_refuses_a_listing_without_a_price(self):
        unit = self.listed()
        with self.assertRaises(IntegrityError), transaction.atomic():
            Listing.objects.filter(unit=unit).update(asking=None)

    def test_the_public_page_tells_machines_too(self):
        unit = self.listed()
        Listing.objects.filter(unit=unit).update(text="</script><b>&")
        page = self.client.get(f"/shop/W-{unit.number}/")
        found = re.search(r'<script type="application/ld\+json">(.*?)</script>', page.content.decode(), re.S)
        data = json.loads(found[1])
        self.assertEqual((data["@type"], data["offers"]["price"], data["sku"]), ("Product", "150.00", str(unit.tag)))
        words, *said = data["description"].split("\n\n")
        self.assertEqual(words, "</script><b>&")
        self.assertTrue(any(sentence.startswith("Mains: 220–240 V") for sentence in said))

    def test_drafts_are_not_public(self):
        unit = self.proven()
        selling.set_price(self.seller, unit, 1, self.channel, D(90))
        self.assertEqual(self.client.get(f"/shop/W-{unit.number}/").status_code, 404)


class SellingIt(ShopTest):
    STANDS = "listed"

    def test_the_sale_stands_in_the_books_with_fee_postage_and_tax(self):
        row = settings()
        type(row).objects.update(tax_scheme="margin", tax_percent=D(20))
        unit = self.listed()
        sale = selling.sell(self.seller, unit, D("150"), "a reader", D("9"))
        # 39.40 was paid for it in all; without its part of the freight 39.40 x 118 / 130 = 35.76 counts as purchase:
        # margin 150 - 35.76 = 114.24, a sixth of it is 19.04
        self.assertEqual((sale.fee, sale.tax), (D("15.00"), D("19.04")))
        sums = by_kind(Account.UNIT, [unit.pk])[unit.pk]
        self.assertEqual((sums["sale"], sums["fee"], sums["postage"], sums["tax"]), (D(-150), D(15), D(9), D("19.04")))
        self.assertEqual(-balance(Account.UNIT, unit.pk), D("67.56"))
        self.assertTrue(Comparable.objects.filter(own=True, price=150).exists())

    def test_it_sells_once(self):
        unit = self.listed()
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        with self.assertRaisesRegex(Refused, "not on offer"):
            selling.sell(self.seller, unit, D(150), "another", D(9))

    def test_sent_and_closed_in_order(self):
        unit = self.listed()
        sale = selling.sell(self.seller, unit, D(150), "a reader", D(9))
        with self.assertRaisesRegex(Refused, "not sent yet"):
            parcels.close_sale(self.seller, sale)
        self.hand().hand_over(unit)
        self.assertEqual(Unit.objects.get(pk=unit.pk).stage, "closed")

    def test_technicians_do_not_sell(self):
        with self.assertRaises(NotAllowed):
            selling.sell(self.technician, self.listed(), D(150), "x", D(0))

    def test_a_listing_can_end(self):
        unit = self.listed()
        selling.end_listing(self.seller, unit, "wanted for the fair")
        self.assertEqual(self.again(unit).stage, "graded")

    def test_what_it_fetched_says_nothing_of_what_it_should_have(self):
        """A sale counts for the next of its kind; for the one that was sold there is what was known before."""
        unit = self.listed()
        sale = selling.sell(self.seller, unit, D(150), "A. Reader", D(9))
        (other,) = self.receive()
        self.assertEqual([row.pk for row in compared_with(other)[0]], [sale.comparable_id])
        self.assertEqual(compared_with(self.again(unit)), ([], []))


class OnCommission(ShopTest):
    def test_the_owners_part_is_owed_and_only_ours_is_earned(self):
        unit = self.listed()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        before = balance(Account.UNIT, unit.pk)
        selling.sell(self.seller, self.again(unit), D("150.00"), "a reader", D(9))
        self.assertEqual(balance(Account.OWNER_OWED, 0), D("-112.50"))
        # 150 in, 112.50 owed, 15 fee, 9 postage
        self.assertEqual(balance(Account.UNIT, unit.pk) - before, D("-13.50"))
        self.assertEqual(complaints(), [])
        self.assertEqual(units_earnings([unit])[unit.pk].bars[-1].label, "its owner")

"""What a period earned, from the book to the page, the file and the check of the books."""

import csv
from datetime import date, timedelta
from decimal import Decimal

from django.urls import reverse

from core.books.statement import Line, Place
from core.books.tax import Period
from stations.books import statements
from stations.books.selectors import complaints
from stations.common import clock
from stations.dispatch import refunds
from stations.intake import settling
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post
from stations.selling import services as selling
from stations.stock import services as stock
from stations.units.models import Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest

D = Decimal


def days(before: int, until: int = 0) -> Period:
    """From so many days ago to before the day after `until` days ago."""
    today = clock.today()
    return Period(today - timedelta(days=before), today - timedelta(days=until - 1))


class WorkedAt(ShopTest):
    """An hour of work at a proven unit, all booked today."""

    def scene(self):
        unit = self.proven()
        job = workshop.open_job(self.owner, unit, NewJob("Clean it", "clean", 30))
        workshop.log_labour(self.owner, job, 60)
        workshop.end_here(self.owner, job, "clean enough")
        self.unit = self.again(unit)
        self.labour = statements.statement(days(9)).sum_of(Line.LABOUR)
        self.carried = statements.statement(days(9)).closing.held[Place.OURS]

    def setUp(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def sell(self):
        self.hand().offer(self.unit, "150", pictures=1)
        return selling.sell(self.seller, self.again(self.unit), D(150), "a reader", D(9))

    def page(self, **asked):
        return self.client.get(reverse("books:period"), asked)


# With what every page asks.
ASKED = 18


class APeriod(WorkedAt):
    def test_before_anything_is_sold_all_that_was_paid_is_stock(self):
        found = statements.statement(days(9))
        # 130 for the lot with premium and freight, 10 for belts, and what was worked.
        self.assertEqual(found.closing.stock, D(140) + self.labour)
        self.assertEqual((found.earned, found.cost_of_sold, found.off), (0, 0, 0))
        self.assertEqual(found.sum_of(Line.BOUGHT), D(140))
        self.assertEqual(found.sum_of(Line.CASH), D(-140))

    def test_sold_its_cost_is_an_expense_and_the_buyer_owes(self):
        self.sell()
        found = statements.statement(days(9))
        self.assertEqual(found.cost_of_sold, self.carried)
        # 150, less 10 % and 9 of postage, less what it cost.
        self.assertEqual(found.earned, D(126) - self.carried)
        self.assertEqual(found.before_labour, found.earned + self.labour)
        self.assertEqual(found.sum_of(Line.BUYERS), D(150))
        self.assertEqual(found.earned, sum(amount for _, amount in found.stands))
        (part,) = statements.parts_of(days(9), [self.unit])
        self.assertEqual((part.came, part.taken, part.cost), (D(150), D(24), self.carried))
        self.assertEqual(part.earned, found.of_units)
        self.balanced()

    def test_called_off_in_a_later_period_it_is_stock_again(self):
        """By the days on which that happened: each period has its own."""
        sold_on, back_on = clock.now() - timedelta(days=2), clock.now()
        with clock.at(sold_on):
            sale = self.sell()
        with clock.at(back_on):
            refunds.call_off(self.owner, sale, "never paid")
        before, after = statements.statement(days(9, 1)), statements.statement(days(0))
        self.assertEqual(before.earned, D(126) - before.cost_of_sold)
        self.assertEqual(after.cost_of_sold, -before.cost_of_sold)
        self.assertEqual(after.earned, -before.earned)
        self.assertEqual(statements.statement(days(9)).earned, 0)
        for period in (days(9, 1), days(0)):
            self.assertEqual(list(statements.concerned(period)), [self.unit])
        self.balanced()

    def test_written_off_its_cost_is_lost_with_the_labour_in_it(self):
        settling.write_off(self.owner, self.unit, "crushed")
        found = statements.statement(days(9))
        self.assertEqual((found.sum_of(Line.LOST), found.labour_gone), (self.carried, self.labour))
        self.assertEqual((found.earned, found.before_labour), (-self.carried, self.labour - self.carried))
        settling.take_back_write_off(self.owner, self.again(self.unit), "it is not")
        found = statements.statement(days(9))
        self.assertEqual((found.earned, found.labour_gone), (0, 0))

    def test_what_goes_into_a_sold_unit_later_is_an_expense_of_its_own_day(self):
        with clock.at(clock.now() - timedelta(days=2)):
            self.sell()
        legs = [
            Leg(Account.STOCK, self.part.pk, EntryKind.PART_ISSUED, D(-3)),
            Leg(Account.UNIT, self.unit.pk, EntryKind.PART_ISSUED, D(3), self.lot.pk),
        ]
        post(self.owner, "mended for its buyer", legs)
        found = statements.statement(days(0))
        # All of it was booked after it was sold.
        self.assertEqual((found.earned, found.cost_of_sold), (-self.carried - 3, self.carried + 3))
        (part,) = statements.parts_of(days(0), list(statements.concerned(days(0))))
        self.assertEqual(part.cost, self.carried + 3)

    def test_every_line_is_the_sum_of_the_entries_it_leads_to(self):
        self.sell()
        stock.count(self.owner, self.part, D(2), "one rolled away")
        found = statements.statement(days(9))
        for line in Line:
            self.assertEqual(statements.sum_of(days(9), line), found.sum_of(line), line)
        self.assertEqual(found.sum_of(Line.LOST), D("3.33"))

    def test_a_cost_that_came_from_nowhere_is_a_complaint(self):
        legs = [
            Leg(Account.UNIT, self.unit.pk, EntryKind.LABOUR, D(5), self.lot.pk),
            Leg(Account.BUYER_OWES, 0, EntryKind.LABOUR, D(-5)),
        ]
        post(self.owner, "odd", legs)
        self.assertIn("-5.00 of the stock", [one.words[:18] for one in complaints()])

    def test_the_page_asks_no_more_however_much_was_sold(self):
        self.sell()
        self.page()
        with self.assertNumQueries(ASKED):
            self.page()
        for unit in self.receive(2):
            Unit.objects.filter(pk=unit.pk).update(stage="sold")
            self.sold_somehow(unit)
        with self.assertNumQueries(ASKED):
            page = self.page()
        self.assertEqual(len(page.context["parts"]), 3)

    def sold_somehow(self, unit):
        legs = [
            Leg(Account.UNIT, unit.pk, EntryKind.SALE, D(-20), self.lot.pk),
            Leg(Account.CASH, 0, EntryKind.SALE, D(20)),
        ]
        post(self.owner, f"sale of {unit.tag}", legs)


class ThePage(WorkedAt):
    def test_it_says_what_was_earned_and_leads_to_the_entries(self):
        self.sell()
        page = self.page()
        earned = D(126) - self.carried
        self.assertContains(page, f"<b>{earned} earned</b>")
        self.assertContains(page, f"{clock.today().year} so far")
        fees = reverse("books:entries")
        self.assertContains(page, f"of={Line.FEES}")
        page = self.client.get(fees, {"of": "fees"})
        self.assertContains(page, "<b>€15.00")
        self.assertContains(page, "fee")

    def test_days_that_can_not_be_are_said_at_their_field(self):
        for asked, field, words in (
            ({"first": "2026-03-02", "last": "2026-03-01"}, "last", "It ends before it begins."),
            ({"first": f"{clock.today() + timedelta(days=1)}"}, "first", "That day is still to come."),
            ({"first": "1969-12-31"}, "first", "Nothing was booked before 1970."),
            ({"last": "0001-01-01"}, "last", "Nothing was booked before 1970."),
            ({"first": "yesterday"}, "first", "Type a day: 2026-07-31."),
        ):
            for there in ("books:period", "books:entries"):
                form = self.client.get(reverse(there), asked).context["form"]
                self.assertEqual(form.errors, {field: [words]}, asked)
                self.assertEqual(form[field].value(), asked[field])
        # A last day that is still to come is today.
        self.assertContains(self.page(last="9999-12-31"), f"{clock.today().year} so far")

    def test_the_file_has_every_entry_and_comes_to_nothing(self):
        self.sell()
        answer = self.client.get(reverse("books:entries-csv"))
        rows = list(csv.DictReader(answer.content.decode("utf-8-sig").splitlines()))
        self.assertEqual(sum(D(row["amount"].lstrip("'")) for row in rows), 0)
        (fee,) = [row for row in rows if row["kind"] == "fee" and row["account"] == "unit"]
        self.assertEqual((fee["at"], fee["lot"], fee["amount"]), (str(self.unit.tag), self.lot.code, "15.00"))
        answer = self.client.get(reverse("books:entries-csv"), {"of": "fees"})
        self.assertEqual(len(answer.content.decode().splitlines()), 2)

    def test_the_list_of_the_stock_is_the_stock_on_any_day(self):
        with clock.at(clock.now() - timedelta(days=1)):
            self.sell()
        settling.write_off(self.owner, self.receive()[0], "crushed")
        unit_of_none = Leg(Account.UNIT, 10**9, EntryKind.TRANSFER, D(7))
        post(
            self.owner,
            "one that was no unit",
            [unit_of_none, Leg(Account.STOCK, self.part.pk, EntryKind.TRANSFER, D(-7))],
        )
        for period in (days(9, 1), days(9), days(0)):
            there = {"first": period.first.isoformat(), "last": period.last.isoformat()}
            answer = self.client.get(reverse("books:stock-csv"), there)
            rows = list(csv.DictReader(answer.content.decode("utf-8-sig").splitlines()))
            costs = [D(row["cost"].lstrip("'")) for row in rows]
            self.assertEqual(sum(costs, D(0)), statements.statement(period).closing.stock)
        self.assertIn(("drawers", "A1", "Belt"), [(row["where"], row["tag"], row["what"]) for row in rows])
        self.assertNotIn(str(self.unit.tag), [row["tag"] for row in rows])

    def test_what_nobody_recorded_is_said_to_be_lacking(self):
        self.assertNotContains(self.page(), "is not known yet")
        type(self.lot).objects.filter(pk=self.lot.pk).update(priced=False)
        self.assertContains(self.page(), "is not known yet")
        self.assertContains(self.page(), "As far as costs are known:")
        long_ago = self.page(first="2020-01-01", last="2020-12-31")
        self.assertNotContains(long_ago, "is not known yet")
        self.assertContains(long_ago, "Nothing was sold, and nothing came back.")
        self.assertEqual(long_ago.context["title"], "2020")


class Named(ShopTest):
    def test_a_year_that_runs_is_told_so_and_a_month_first(self):
        for first, today, words in (
            (date(2026, 1, 1), date(2026, 12, 1), "2026 so far"),
            (date(2026, 12, 1), date(2026, 12, 1), "December 2026 so far"),
            (date(2026, 10, 1), date(2026, 12, 1), "2026, quarter 4 so far"),
            (date(2026, 1, 1), date(2026, 12, 31), "2026"),
            (date(2026, 2, 3), date(2026, 12, 1), "3 February to 1 December 2026"),
            (date(2025, 2, 3), date(2026, 12, 1), "3 February 2025 to 1 December 2026"),
        ):
            self.assertEqual(Period(first, today + timedelta(days=1)).words_on(today), words)

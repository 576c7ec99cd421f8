"""The journal of a period, read by a program that keeps accounts (beancount), and what it comes to there."""

from collections import defaultdict
from datetime import timedelta
from decimal import Decimal

from beancount import loader
from beancount.core.data import Transaction
from django.urls import reverse

from stations.books import statements
from stations.books.journal import journal_of
from stations.common import clock
from stations.dispatch import refunds
from stations.intake import settling
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post
from tests.stations.test_periods import WorkedAt, days

D = Decimal
ASKED = 13


class Journal(WorkedAt):
    def read(self, period):
        """What moved in each account in the period; what the other program complains of fails."""
        there = {"first": period.first.isoformat(), "last": period.last.isoformat()}
        answer = self.client.get(reverse("books:journal"), there)
        self.assertIn(f"journal-{period.first}-{period.last}.", answer["Content-Disposition"])
        self.text = answer.content.decode()
        self.entries, errors, _ = loader.load_string(self.text)
        self.assertEqual(errors, [])
        moved = defaultdict(D)
        for entry in self.entries:
            for leg in entry.postings if isinstance(entry, Transaction) else ():
                moved[leg.account] += leg.units.number
        return moved

    def check(self, period):
        """What it earned there, and what its stock is, is what our page says."""
        moved, ours = self.read(period), statements.statement(period)

        def came_to(*roots):
            return sum((amount for name, amount in moved.items() if name.startswith(roots)), D(0))

        self.assertEqual(-came_to("Income", "Expenses"), ours.earned)
        self.assertEqual(came_to("Assets:Stock"), ours.closing.stock)
        return moved

    def test_bought_worked_at_sold_returned_and_sold_anew(self):
        # 12 of its cost stood on it for a week, 3 came while it was away; the rest is of today.
        for amount, ago in ((12, 7), (3, 3)):
            legs = [
                Leg(Account.LOT, self.lot.pk, EntryKind.TRANSFER, D(-amount), self.lot.pk),
                Leg(Account.UNIT, self.unit.pk, EntryKind.TRANSFER, D(amount), self.lot.pk),
            ]
            post(self.owner, "an old share", legs, clock.today() - timedelta(days=ago))
        with clock.at(clock.now() - timedelta(days=5)):
            sale = self.sell()
        with clock.at(clock.now() - timedelta(days=2)):
            refunds.call_off(self.owner, sale, "never paid")
        there = f"Assets:Stock:Units:{self.unit.tag}"
        away = self.check(days(9, 3))
        self.assertEqual((away["Income:Sales"], away["Expenses:CostOfSold"], away[there]), (-150, 15, 0))
        back = self.check(days(2))
        self.assertEqual((back["Income:Refunds"], back["Expenses:CostOfSold"]), (150, -15))
        self.assertEqual(back[there], self.carried + 15)
        self.check(days(9))
        self.assertEqual(self.check(days(0))[there], self.carried + 15)
        self.sell()
        self.assertEqual(self.check(days(0))["Expenses:CostOfSold"], self.carried + 15)
        # Days before anything.
        self.assertEqual(self.check(days(90, 60)), {})

    def test_what_is_lost_and_what_is_no_longer_there(self):
        settling.write_off(self.owner, self.receive()[0], "crushed")
        legs = [
            Leg(Account.UNIT, 10**9, EntryKind.TRANSFER, D(7)),
            Leg(Account.STOCK, self.part.pk, EntryKind.TRANSFER, D(-7)),
        ]
        post(self.owner, "one that was no unit", legs)
        moved = self.check(days(9))
        self.assertEqual(moved["Assets:Stock:Units"], 7)

    def test_what_goes_into_a_sold_unit_later_is_an_expense_of_its_own_day(self):
        with clock.at(clock.now() - timedelta(days=2)):
            self.sell()
        legs = [
            Leg(Account.STOCK, self.part.pk, EntryKind.PART_ISSUED, D(-3)),
            Leg(Account.UNIT, self.unit.pk, EntryKind.PART_ISSUED, D(3), self.lot.pk),
        ]
        post(self.owner, "mended for its buyer", legs)
        self.assertEqual(self.check(days(0))["Expenses:CostOfSold"], self.carried + 3)

    def test_words_that_would_end_a_string(self):
        legs = [
            Leg(Account.STOCK, self.part.pk, EntryKind.PURCHASE, D(2)),
            Leg(Account.CASH, 0, EntryKind.PURCHASE, D(-2)),
        ]
        words = 'a "drawer"\\ of\n2026-01-01 close Assets:Money'
        made = post(self.owner, words, legs)
        self.check(days(0))
        (there,) = [entry for entry in self.entries if entry.meta.get("posting") == str(made.pk)]
        self.assertEqual(there.narration, " ".join(words.split()))
        self.assertEqual(there.payee, self.owner.name)

    def test_lots_of_which_the_cost_is_not_known_are_named(self):
        self.check(days(9))
        self.assertNotIn("not known", self.text)
        self.lot.priced = False
        self.lot.save()
        self.check(days(9))
        self.assertIn(f"; What units cost is not known, and lacks here, of {self.lot.code}.", self.text)

    def test_a_book_that_does_not_add_up_is_said_by_whoever_reads_it(self):
        """The checks at its end can fail."""
        self.sell()
        self.read(days(9))
        wrong = self.text.replace(" Expenses:Fees  15.00 EUR", " Expenses:Fees  15.01 EUR", 1)
        wrong = wrong.replace(" Assets:Buyers  150.00 EUR", " Assets:Buyers  149.99 EUR", 1)
        self.assertNotEqual(wrong, self.text)
        _, errors, _ = loader.load_string(wrong)
        self.assertIn("Balance failed for 'Expenses:Fees'", " ".join(error.message for error in errors))

    def test_it_asks_no_more_however_much_was_sold(self):
        self.sell()
        with self.assertNumQueries(ASKED):
            journal_of(days(9))
        self.receive(2)
        with self.assertNumQueries(ASKED):
            journal_of(days(9))

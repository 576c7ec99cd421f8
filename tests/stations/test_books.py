from decimal import Decimal
from io import StringIO

from django.core.management import CommandError, call_command
from django.db import OperationalError, connection, transaction
from django.db.models import Sum
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from stations.books.selectors import complaints, lot_results, units_earnings
from stations.buying import selectors as buying
from stations.buying.services import record_lot
from stations.common.refusals import Refused
from stations.intake import capture, settling
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.ledger.selectors import by_kind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people.models import Person, ShopSettings
from stations.selling import services as selling
from stations.units.models import Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest, line_data, lot_data

D = Decimal


class TheLedger(ShopTest):
    def test_what_does_not_balance_is_not_written(self):
        with self.assertRaises(ValueError):
            post(self.owner, "odd", [Leg(Account.CASH, 0, EntryKind.FEE, D(1))])

    def test_an_entry_can_be_neither_changed_nor_deleted(self):
        entry = LedgerEntry.objects.first()
        for act in (entry.save, entry.delete):
            with self.assertRaises(TypeError):
                act()
        for sql in ("UPDATE ledger_ledgerentry SET amount = 1", "DELETE FROM ledger_ledgerentry"):
            with (
                self.assertRaisesRegex(OperationalError, "append-only"),
                transaction.atomic(),
                connection.cursor() as cursor,
            ):
                cursor.execute(sql)

    def test_a_posting_is_reversed_once(self):
        posting = LedgerEntry.objects.first().posting
        reverse_posting(self.owner, posting, "test")
        with self.assertRaisesRegex(Refused, "already"):
            reverse_posting(self.owner, posting, "test")


class LedgerBalances(HypothesisTestCase):
    @settings(max_examples=25)
    @given(st.lists(st.integers(-(10**6), 10**6), min_size=1, max_size=6), st.booleans())
    def test_always(self, cents, undo):
        who, _ = Person.objects.get_or_create(username="clerk")
        legs = [Leg(Account.UNIT, i, EntryKind.FEE, D(c) / 100) for i, c in enumerate(cents)]
        legs.append(Leg(Account.CASH, 0, EntryKind.FEE, -sum(leg.amount for leg in legs)))
        posting = post(who, "generated", legs)
        if posting and undo:
            reverse_posting(who, posting, "undone")
            self.assertEqual({d["account_id"]: d["amount"] for d in _sums() if d["amount"]}, {})
        self.assertEqual(complaints(), [])


def _sums():
    return LedgerEntry.objects.values("account", "account_id").annotate(amount=Sum("amount"))


class CheckBooks(ShopTest):
    STANDS = "listed"

    def run_check(self) -> str:
        out = StringIO()
        call_command("check_books", stdout=out, stderr=out)
        return out.getvalue()

    def test_every_cent_stands_somewhere_from_purchase_to_profit(self):
        unit = self.listed()
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        self.assertIn("The books add up", self.run_check())

    def test_tampering_is_found(self):
        unit = self.listed()
        sale = selling.sell(self.seller, unit, D(150), "a reader", D(9))
        for act, words in (
            (lambda: type(self.lot).objects.update(landed_total=1), "the lot says 1.00"),
            (lambda: type(sale).objects.update(price=140), "sale is -140.00 on the document"),
            (lambda: type(self.part).objects.update(quantity=0), "0 pieces worth 10.00"),
            (self.cent_gone, "off by"),
        ):
            with self.subTest(words):
                point = transaction.savepoint()
                act()
                self.assertTrue(any(words in complaint.words for complaint in complaints()), complaints())
                with self.assertRaises(CommandError):
                    self.run_check()
                transaction.savepoint_rollback(point)

    def cent_gone(self):
        with connection.cursor() as cursor:
            cursor.execute("SET @wendopolis_ledger_unlocked = 1")
            cursor.execute("UPDATE ledger_ledgerentry SET amount = amount + 0.01 ORDER BY id LIMIT 1")
            cursor.execute("SET @wendopolis_ledger_unlocked = NULL")

    def test_a_lots_profit_is_the_sum_of_its_units_and_losses(self):
        unit = self.listed()
        self.receive(2)
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        (result,) = lot_results([self.lot_again()])
        units = units_earnings(list(Unit.objects.filter(lot=self.lot)))
        self.assertEqual(result.money.margin, sum(m.margin for m in units.values()) - D("11.82"))
        self.assertEqual(result.money.sale, D(150))


class WhatALotMayStillBring(ShopTest):
    def figures(self) -> set[Decimal]:
        """As the books, the page of the lot and the floor have it."""
        (result,), row = lot_results([self.lot_again()]), buying.with_money([self.lot_again()])[0]
        status = buying.lot_status(row)
        return {result.to_come, status.to_come}

    def test_one_figure_net_of_finishing_and_selling_wherever_it_stands(self):
        self.lot.lines.update(finish_cost=D(20))
        # Three thought worth 100 and one of 30, each less 20 to finish.
        self.assertEqual(self.figures(), {D(250)})
        unit = self.listed("150")
        # Asked for 150, less 10 % and 9 of postage; the other two as before.
        self.assertEqual(self.figures(), {D(126) + 2 * D(80) + D(10)})
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        self.assertEqual(self.figures(), {2 * D(80) + D(10)})
        self.lot.lines.update(finish_cost=D(40))
        # One that costs more to finish than it brings is left as it is.
        self.assertEqual(self.figures(), {2 * D(60)})
        settling.write_off(self.owner, self.receive()[0], "crushed")
        self.assertEqual(self.figures(), {D(60)})

    def test_what_was_spent_on_finishing_is_not_reckoned_twice(self):
        self.lot.lines.update(finish_cost=D(20))
        unit = self.assessed()
        job = workshop.open_job(self.owner, unit, NewJob("Clean it", "clean", 30))
        workshop.log_labour(self.owner, job, 15)
        spent = by_kind(Account.UNIT, [unit.pk])[unit.pk][EntryKind.LABOUR]
        self.assertTrue(0 < spent < 20)
        self.assertEqual(self.figures(), {D(80) + spent + 2 * D(80) + D(10)})
        workshop.log_labour(self.owner, job, 300)
        self.assertEqual(self.figures(), {D(100) + 2 * D(80) + D(10)})

    def test_what_is_expected_is_left_after_tax_and_comes_so_when_it_is_sold(self):
        # Of 100.00 and 18.00 of premium each of the three bears 35.76, the other piece 10.73; at 25 % a fifth is tax.
        unshared = record_lot(self.owner, lot_data(), [line_data(quantity=3), line_data("Tessaly 48", 1, 30)])
        for scheme, expected in (
            ("none", D(330)),
            ("standard", D(264)),
            ("margin", D("287.60")),
            ("global", D("287.60")),
        ):
            with self.subTest(scheme):
                ShopSettings.objects.update_or_create(pk=1, defaults={"tax_scheme": scheme, "tax_percent": D(25)})
                self.assertEqual(self.figures(), {expected})
                (row,) = buying.with_money([unshared])
                self.assertEqual(buying.lot_status(row).to_come, expected)
        ShopSettings.objects.update(tax_scheme="margin")
        unit = self.listed("150")
        (before,) = lot_results([self.lot_again()])
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        (after,) = lot_results([self.lot_again()])
        came, gone = after.money.margin - before.money.margin, before.to_come - after.to_come
        self.assertEqual((came, gone), (D("103.15"), D("103.15")))

    def test_what_is_not_ours_brings_us_our_part_or_nothing(self):
        unit = self.listed("150")
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        # 37.50 of 150 are ours; 15 of fee and 9 of postage go out of that, as in the sale.
        self.assertEqual(self.figures(), {D("13.50") + 2 * D(100) + D(30)})
        other = self.receive()[0]
        capture.set_ownership(self.owner, other, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        self.lot.lines.update(finish_cost=D(20))
        self.assertEqual(self.figures(), {D("13.50") + D(5) + D(80) + D(10)})
        self.lot.lines.update(finish_cost=D(0))
        capture.set_ownership(self.owner, other, capture.Ownership("custody", "E. Norr"))
        self.assertEqual(self.figures(), {D("13.50") + D(100) + D(30)})


class RebuildStages(ShopTest):
    def test_finds_and_mends_a_wrong_column(self):
        unit = self.assessed()
        out = StringIO()
        call_command("rebuild_stages", "--check", stdout=out)
        self.assertIn("1 units, 0 differ", out.getvalue())
        Unit.objects.filter(pk=unit.pk).update(stage="sold", station="books")
        with self.assertRaises(SystemExit):
            call_command("rebuild_stages", "--check", stdout=out)
        call_command("rebuild_stages", stdout=out)
        self.assertEqual(self.again(unit).stage, "assessed")

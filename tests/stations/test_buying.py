from decimal import Decimal

from core.buying.share import Basis
from stations.books.selectors import complaints
from stations.buying import services as buying
from stations.buying.models import Lot
from stations.intake import services as intake
from stations.ledger.models import Account, Posting
from stations.ledger.selectors import balance, balances, by_kind
from stations.people.refusals import NotAllowed, Refused, StaleEdit
from stations.selling import services as selling
from tests.stations.base import ShopTest, line_data, lot_data

D = Decimal


class RecordingALot(ShopTest):
    def test_what_was_paid_stands_on_the_lines(self):
        self.assertEqual(self.lot.landed_total, D("130.00"))
        standing = balances(Account.LINE, [self.line.pk, self.other_line.pk])
        self.assertEqual(list(standing.values()), [D("118.18"), D("11.82")])
        self.assertEqual(balance(Account.LOT, self.lot.pk), 0)
        self.assertEqual(balance(Account.CASH, 0), D("-140.00"))

    def test_a_lot_in_another_currency_is_kept_in_ours(self):
        lot = buying.record_lot(self.owner, lot_data(currency="GBP", rate=D("1.17")), [line_data()])
        self.assertEqual(lot.landed_total, D("117.00") + D("21.06") + D("14.04"))

    def test_gifts_and_custody_have_no_price(self):
        for kind, field in (("donation", "price"), ("custody", "owner_name")):
            with self.assertRaises(Refused) as caught:
                buying.record_lot(self.owner, lot_data(source_kind=kind), [line_data()])
            self.assertEqual(caught.exception.field, field)

    def test_only_buyers_and_owners_may(self):
        for who in (self.technician, self.seller, self.viewer):
            with self.assertRaisesRegex(NotAllowed, "Only a buyer or an owner may record a lot"):
                buying.record_lot(who, lot_data(), [line_data()])

    def test_a_lot_has_lines(self):
        with self.assertRaisesRegex(Refused, "at least one line"):
            buying.record_lot(self.owner, lot_data(), [])


class SharingAgain(ShopTest):
    def test_reverses_and_never_edits(self):
        before = list(Posting.objects.values_list("pk", flat=True))
        buying.share_lot(self.owner, self.lot, Basis.COUNT)
        standing = balances(Account.LINE, [self.line.pk, self.other_line.pk])
        self.assertEqual(list(standing.values()), [D("97.50"), D("32.50")])
        self.assertEqual(Posting.objects.filter(pk__in=before).count(), len(before))
        self.assertEqual(Posting.objects.exclude(pk__in=before).filter(reverses__isnull=False).count(), 1)

    def test_moves_on_to_units_that_were_received(self):
        one, two = self.receive(2)
        self.assertEqual([balance(Account.UNIT, u.pk) for u in (one, two)], [D("39.40"), D("39.39")])
        buying.share_lot(self.owner, self.lot, Basis.COUNT)
        self.assertEqual([balance(Account.UNIT, u.pk) for u in (one, two)], [D("32.50"), D("32.50")])
        self.assertEqual(balance(Account.LINE, self.line.pk), D("32.50"))

    def test_after_a_sale_only_what_is_left_is_shared_again(self):
        sold = self.listed()
        selling.sell(self.seller, sold, D(150), "a reader", D(9))
        other, gone = self.receive(2)
        intake.write_off(self.owner, gone, "rust")
        lines = list(self.lot.lines.all())
        _, shown, _ = buying.shares_on(self.lot_again(), lines, Basis.COUNT, buying.kept_pieces(self.lot))
        sharing = buying.share_lot(self.owner, self.lot, Basis.COUNT)
        self.assertEqual(shown, [sharing.shares.get(line=line).amount for line in lines])
        # sold 39.40 and written off 39.39 stand fast; 51.21 goes over one M2 and one Tessaly
        carried = [by_kind(Account.UNIT, [u.pk])[u.pk]["transfer"] for u in (sold, other, gone)]
        self.assertEqual(carried, [D("39.40"), D("25.61"), D("39.39")])
        self.assertEqual(balance(Account.LINE, self.other_line.pk), D("25.60"))
        self.assertEqual(balance(Account.LINE, self.line.pk), 0)
        self.assertEqual(complaints(), [])

    def test_nothing_left_is_nothing_to_share(self):
        self.other_line.delete()
        for unit in self.receive(3):
            intake.write_off(self.owner, unit, "rust")
        with self.assertRaisesRegex(Refused, "nothing is left to share"):
            buying.share_lot(self.owner, self.lot, Basis.COUNT)

    def test_by_weight_wants_weights(self):
        self.lot.lines.update(weight_kg=None)
        with self.assertRaisesRegex(Refused, "Line 1 has no weight"):
            buying.share_lot(self.owner, self.lot, Basis.WEIGHT)


class Correcting(ShopTest):
    def lines(self):
        return [{name: getattr(line, name) for name in ("id", *line_data())} for line in self.lot.lines.all()]

    def test_a_corrected_charge_reverses_and_shares_again(self):
        buying.correct_lot(self.owner, self.lot, 1, lot_data(price=D(200)), self.lines())
        self.assertEqual(self.lot_again().landed_total, D("248.00"))
        self.assertEqual(sum(balances(Account.LINE, [self.line.pk, self.other_line.pk]).values()), D("248.00"))
        self.assertEqual(balance(Account.LOT, self.lot.pk), 0)

    def test_a_stale_save_is_told_so(self):
        buying.correct_lot(self.owner, self.again(self.lot), 1, lot_data(title="Cellar"), self.lines())
        with self.assertRaises(StaleEdit) as caught:
            buying.correct_lot(self.owner, self.again(self.lot), 1, lot_data(title="Loft"), self.lines())
        self.assertEqual(caught.exception.current.title, "Cellar")
        self.assertEqual(Lot.objects.get(pk=self.lot.pk).title, "Cellar")

    def test_a_received_line_stays(self):
        self.receive(2)
        with self.assertRaisesRegex(Refused, "can’t be for fewer"):
            buying.correct_lot(
                self.owner, self.lot, 1, lot_data(), [{**self.lines()[0], "quantity": 1}, self.lines()[1]]
            )
        with self.assertRaisesRegex(Refused, "taken off"):
            buying.correct_lot(self.owner, self.lot_again(), self.lot_again().version, lot_data(), self.lines()[1:])

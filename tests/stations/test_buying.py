import socket
import threading
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal

from core.buying.landed import Charge, ChargeKind, read_bands
from core.buying.share import Basis
from simulators import rates as source
from stations.books.selectors import complaints
from stations.buying import charges, rates, sharing
from stations.buying import services as buying
from stations.buying.models import ChargeShare, ExchangeRate, Lot
from stations.buying.sharing import share_lot
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.intake import settling
from stations.ledger.models import Account, Posting
from stations.ledger.selectors import balance, balances, by_kind
from stations.selling import services as selling
from tests.stations.base import ShopTest, as_recorded, line_data, lot_data

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
        for kind, field in (("donation", "charges"), ("custody", "owner_name")):
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
        share_lot(self.owner, self.lot, Basis.COUNT)
        standing = balances(Account.LINE, [self.line.pk, self.other_line.pk])
        self.assertEqual(list(standing.values()), [D("97.50"), D("32.50")])
        self.assertEqual(Posting.objects.filter(pk__in=before).count(), len(before))
        self.assertEqual(Posting.objects.exclude(pk__in=before).filter(reverses__isnull=False).count(), 1)

    def test_moves_on_to_units_that_were_received(self):
        one, two = self.receive(2)
        self.assertEqual([balance(Account.UNIT, u.pk) for u in (one, two)], [D("39.40"), D("39.39")])
        share_lot(self.owner, self.lot, Basis.COUNT)
        self.assertEqual([balance(Account.UNIT, u.pk) for u in (one, two)], [D("32.50"), D("32.50")])
        self.assertEqual(balance(Account.LINE, self.line.pk), D("32.50"))

    def test_after_a_sale_only_what_is_left_is_shared_again(self):
        sold = self.listed()
        selling.sell(self.seller, sold, D(150), "a reader", D(9))
        other, gone = self.receive(2)
        settling.write_off(self.owner, gone, "rust")
        lines = list(self.lot.lines.all())
        lot = self.lot_again()
        shown = sharing.shares_on(lot, lines, charges.current(lot), Basis.COUNT).shares
        done = share_lot(self.owner, self.lot, Basis.COUNT)
        self.assertEqual(list(shown), [done.shares.get(line=line).amount for line in lines])
        # sold 39.40 and written off 39.39 stand fast; 51.21 goes over one M2 and one Tessaly, charge by charge,
        # and where a charge leaves a cent over, the earlier line has it
        carried = [by_kind(Account.UNIT, [u.pk])[u.pk]["transfer"] for u in (sold, other, gone)]
        self.assertEqual(carried, [D("39.40"), D("25.62"), D("39.39")])
        self.assertEqual(balance(Account.LINE, self.other_line.pk), D("25.59"))
        self.assertEqual(balance(Account.LINE, self.line.pk), 0)
        self.assertEqual(complaints(), [])

    def test_nothing_left_is_nothing_to_share(self):
        self.other_line.delete()
        for unit in self.receive(3):
            settling.write_off(self.owner, unit, "rust")
        with self.assertRaisesRegex(Refused, "nothing is left to share"):
            share_lot(self.owner, self.lot, Basis.COUNT)

    def test_by_weight_wants_weights(self):
        self.lot.lines.update(weight_kg=None)
        with self.assertRaisesRegex(Refused, "Line 1 has no weight"):
            share_lot(self.owner, self.lot, Basis.WEIGHT)


class EachChargeItsOwnWay(ShopTest):
    CHARGES = (
        Charge(ChargeKind.PRICE, D(100)),
        Charge(ChargeKind.PREMIUM, bands=read_bands("20 to 50; 10")),
        Charge(ChargeKind.FREIGHT, D(300), currency="SEK", rate=D("0.1"), basis=Basis.WEIGHT, name="ferry"),
        Charge(ChargeKind.OTHER, percent=D(10), of=(ChargeKind.PREMIUM, ChargeKind.FREIGHT)),
    )

    def record(self):
        lines = [line_data("M2", 1, 90, weight_kg=D(2)), line_data("Disk", 2, 30, weight_kg=D("0.5"))]
        return buying.record_lot(self.owner, lot_data(charges=self.CHARGES), lines)

    def test_is_worked_out_kept_and_read_back(self):
        lot = self.record()
        # Premium 20 % of 50 and 10 % of 50; the last is 10 % of 15.00 and 30.00, in euro since those differ.
        held = charges.current(lot)
        self.assertEqual([(c.label, c.foreign, c.base) for c in held], [
            ("price", D(100), D(100)), ("buyer’s premium", D(15), D(15)), ("ferry", D(300), D(30)),
            ("other charges", D("4.50"), D("4.50")),
        ])  # fmt: skip
        self.assertEqual(tuple(charges.charges_of(lot)), self.CHARGES)
        self.assertEqual(lot.landed_total, D("149.50"))

    def test_the_table_adds_up_by_row_and_column(self):
        lot = self.record()
        done = share_lot(self.owner, lot, Basis.COUNT)
        lines = list(lot.lines.all())
        table = sharing.charge_table(done, lines)
        self.assertEqual([c.label for c in table.charges][2], "ferry")
        self.assertEqual([row.parts[2] for row in table.rows], [D(20), D(10)])  # 2 kg against 2 × 0.5 kg
        self.assertEqual([row.parts[0] for row in table.rows], [D("33.33"), D("66.67")])
        self.assertEqual([sum(c) for c in zip(*(row.parts for row in table.rows), strict=True)], list(table.totals))
        self.assertEqual([row.total for row in table.rows], [done.shares.get(line=line).amount for line in lines])
        self.assertEqual((table.total, table.others), (lot.landed_total, (0, 0, 0, 0)))
        with self.assertNumQueries(3):
            sharing.charge_table(done, lines)

    def test_by_hand_some_and_the_rest_shared(self):
        lot = self.record()
        first, second = lot.lines.all()
        share_lot(self.owner, lot, Basis.VALUE, {first.pk: D("5.00")})
        self.assertEqual(list(balances(Account.LINE, [first.pk, second.pk]).values()), [D("5.00"), D("144.50")])
        with self.assertRaisesRegex(Refused, "only 149.50 is left") as caught:
            share_lot(self.owner, lot, Basis.VALUE, {first.pk: D(200)})
        self.assertEqual(caught.exception.field, f"fixed_{first.pk}")
        share_lot(self.owner, lot, Basis.COUNT, {first.pk: None})
        self.assertEqual(sum(balances(Account.LINE, [first.pk, second.pk]).values()), D("149.50"))
        self.assertEqual(complaints(), [])

    def test_a_corrected_charge_leaves_the_old_one_on_record(self):
        lot = self.record()
        share_lot(self.owner, lot, Basis.COUNT)
        rows = [as_recorded(line) for line in lot.lines.all()]
        lot = self.again(lot)
        buying.correct_lot(self.owner, lot, lot.version, lot_data(charges=self.CHARGES[:2]), rows)
        self.assertEqual((lot.charges.count(), len(charges.current(lot))), (6, 2))
        current = lot.sharings.last()
        self.assertEqual(sum(p.amount for p in ChargeShare.objects.filter(share__sharing=current)), D("115.00"))
        self.assertEqual(complaints(), [])


class ExchangeRates(ShopTest):
    def test_fetched_from_the_source_and_looked_up_by_day(self):
        server = source.serve()
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        with self.settings(RATES_URL=f"http://127.0.0.1:{server.server_port}/rates.xml"):
            self.assertGreater(rates.fetch(self.owner), 300)
            count = ExchangeRate.objects.count()
            rates.fetch(self.owner)
            self.assertEqual(ExchangeRate.objects.count(), count)
        day = date.today() - timedelta(days=20)
        known = rates.known_rate("SEK", day)
        self.assertTrue(0 <= (day - known.on).days <= 3)
        self.assertAlmostEqual(float(known.rate), 1 / source.per_euro("SEK", known.on), places=5)
        self.assertEqual(rates.known_rate("EUR", day).rate, 1)
        self.assertIsNone(rates.known_rate("SEK", day - timedelta(days=400)))
        rows = list(ExchangeRate.objects.all()[:50])
        for ours in ("EUR", "SEK", "XTS"):
            with self.settings(BASE_CURRENCY=ours):
                with self.assertNumQueries(1):
                    found = rates.published(rows)
                singly = [rates.known_rate(row.currency, row.on) for row in rows]
                self.assertEqual([rate for _, rate in found], [one and one.rate for one in singly])

    def test_a_dead_source_or_nonsense_is_said_and_nothing_is_kept(self):
        dead = socket.socket()
        dead.bind(("127.0.0.1", 0))
        self.addCleanup(dead.close)
        for url, words in (("", "No source"), (f"http://127.0.0.1:{dead.getsockname()[1]}/", "does not answer")):
            with self.settings(RATES_URL=url), self.assertRaisesRegex(Refused, words):
                rates.fetch(self.owner)
        self.assertFalse(ExchangeRate.objects.exists())


class Correcting(ShopTest):
    def lines(self):
        return [as_recorded(line) for line in self.lot.lines.all()]

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
                self.owner, self.lot, 1, lot_data(), [replace(self.lines()[0], quantity=1), self.lines()[1]]
            )
        with self.assertRaisesRegex(Refused, "taken off"):
            buying.correct_lot(self.owner, self.lot_again(), self.lot_again().version, lot_data(), self.lines()[1:])

"""Pieces of a lot that do not come: nobody waits for them, what comes carries what was paid, and what nothing carries
is lost. Figures by hand: 130 was paid for three and one, by count 32.50 each."""

from dataclasses import replace
from decimal import Decimal as D

from django.urls import reverse

from core.buying.landed import Charge, ChargeKind
from core.buying.share import Basis
from stations.books.selectors import lot_results
from stations.buying import charges, selectors
from stations.buying import services as buying
from stations.buying.models import LotLine
from stations.buying.not_come import say_not_come
from stations.buying.sharing import share_lot
from stations.common.refusals import Refused
from stations.dispatch import here_again, returns
from stations.dispatch.returns import Settlement
from stations.floor.selectors import open_lots
from stations.intake import receiving
from stations.intake import services as intake
from stations.intake.selectors import lines_to_receive
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.permissions import NotAllowed
from stations.selling import services as selling
from stations.units.costs import purchase_of
from tests.hands import boxes_and_carriers
from tests.stations.base import ShopTest, as_recorded, line_data, lot_data


class Missing(ShopTest):
    def scene(self) -> None:
        share_lot(self.owner, self.lot, Basis.COUNT)

    def missing(self, pieces: int, line: LotLine | None = None, why: str = "never sent") -> None:
        say_not_come(self.owner, self.again(line or self.line), pieces, why)
        self.balanced()

    def on_line(self, line: LotLine | None = None):
        return balance(Account.LINE, (line or self.line).pk)

    def paid(self, price: str) -> None:
        """The price is put right: so much was paid in the end, and nothing beside it."""
        lot = self.lot_again()
        said = lot_data(title=lot.title, charges=(Charge(ChargeKind.PRICE, D(price)),))
        buying.correct_lot(self.owner, lot, lot.version, said, None)
        self.balanced()

    def result(self):
        (found,) = lot_results([self.lot_again()])
        return found


class ShortDelivery(Missing):
    def test_nobody_waits_for_it_and_the_others_carry_what_was_paid(self):
        (one,) = self.receive()
        self.missing(1)
        self.assertEqual(self.again(self.line).outstanding, 1)
        self.assertEqual({line.pk: line.outstanding for line in lines_to_receive()}[self.line.pk], 1)
        # 130 over three pieces that come.
        self.assertEqual((balance(Account.UNIT, one.pk), self.on_line()), (D("43.34"), D("43.33")))
        (other,) = self.receive()
        self.assertEqual((balance(Account.UNIT, other.pk), self.on_line()), (D("43.33"), 0))
        with self.assertRaisesMessage(Refused, "0 of 3 are still to be received"):
            self.receive()
        self.balanced()

    def test_what_was_paid_back_is_nobodys_cost(self):
        (one,) = self.receive()
        self.paid("75")
        self.missing(1)
        self.assertEqual(balance(Account.UNIT, one.pk), D("25.00"))

    def test_of_a_lot_of_one_line(self):
        lot = buying.record_lot(self.owner, lot_data(), [line_data("Board", 4)])
        share_lot(self.owner, lot, Basis.COUNT)
        line = lot.lines.get()
        (one,) = intake.receive(self.owner, line, 1)
        self.missing(2, line)
        self.assertEqual((balance(Account.UNIT, one.pk), self.on_line(line)), (D("65.00"), D("65.00")))

    def test_more_came_than_were_bought(self):
        units = self.receive(3)
        line = self.again(self.line)
        buying.correct_line(self.owner, line, replace(as_recorded(line), quantity=4))
        # 130 over five pieces.
        self.assertEqual([balance(Account.UNIT, unit.pk) for unit in units], [D("26.00")] * 3)
        self.assertEqual(self.on_line(), D("26.00"))
        (more,) = self.receive()
        self.assertEqual((balance(Account.UNIT, more.pk), self.on_line()), (D("26.00"), 0))
        self.balanced()

    def test_fewer_were_bought_than_was_typed(self):
        (one,) = self.receive()
        lot = self.lot_again()
        lines = [replace(as_recorded(line), id=line.pk) for line in lot.lines.all()]
        lines[0] = replace(lines[0], quantity=1)
        buying.correct_lot(self.owner, lot, lot.version, lot_data(title=lot.title), lines)
        self.assertEqual((balance(Account.UNIT, one.pk), self.on_line()), (D("65.00"), 0))
        self.balanced()

    def test_it_comes_after_all(self):
        self.missing(2)
        self.missing(0, why="a second parcel")
        self.assertEqual((self.on_line(), self.on_line(self.other_line)), (D("97.50"), D("32.50")))
        self.assertEqual(len(self.receive(3)), 3)

    def test_a_unit_that_was_none_and_does_not_come(self):
        (one, two) = self.receive(2)
        receiving.un_receive(self.owner, two, "counted twice")
        self.missing(2)
        self.assertEqual(balance(Account.UNIT, one.pk), D("65.00"))

    def test_refused(self):
        self.receive(2)
        for pieces in (2, -1):
            with self.assertRaisesMessage(Refused, "2 of 3 were received already; 1 at most can be missing."):
                self.missing(pieces)
        with self.assertRaisesMessage(Refused, "Say why"):
            self.missing(1, why=" ")
        with self.assertRaises(NotAllowed):
            say_not_come(self.seller, self.line, 1, "never sent")
        self.missing(1)
        line = self.again(self.line)
        with self.assertRaisesMessage(Refused, "2 of “Halden M2” were received and 1 said not to come already"):
            buying.correct_line(self.owner, line, replace(as_recorded(line), quantity=2))


class NothingComes(Missing):
    def everything(self) -> None:
        self.missing(3)
        self.missing(1, self.other_line)

    def test_what_was_paid_is_lost_and_nothing_is_waited_for(self):
        self.everything()
        self.assertEqual(self.lot_again().lost, D("130.00"))
        self.assertEqual((balance(Account.LOT, self.lot.pk), self.on_line(), self.on_line(self.other_line)), (0, 0, 0))
        self.assertTrue(self.result().finished)
        self.assertEqual(self.result().money.margin, D("-130.00"))
        self.assertNotIn(self.lot, open_lots())
        self.assertEqual(selectors.lot_status(selectors.with_money([self.lot_again()])[0]).ahead.pieces, ())

    def test_paid_back_before_or_after_it_is_no_loss(self):
        self.paid("0")
        self.everything()
        self.assertEqual((self.lot_again().lost, self.result().finished), (0, True))
        self.paid("20")
        self.assertEqual(self.lot_again().lost, D("20.00"))
        self.paid("0")
        self.assertEqual((self.lot_again().lost, self.result().money.margin), (0, 0))

    def test_the_day_one_of_it_comes_it_carries_all_of_it(self):
        self.everything()
        self.missing(2, why="one came in March")
        (one,) = self.receive()
        self.assertEqual((self.lot_again().lost, balance(Account.UNIT, one.pk)), (0, D("130.00")))

    def test_of_a_lot_that_nobody_shared(self):
        lot = buying.record_lot(self.owner, lot_data(), [line_data("Board", 2)])
        line = lot.lines.get()
        self.missing(2, line)
        self.assertEqual((self.again(lot).lost, charges.current(lot)[0].base), (D("130.00"), D(100)))
        self.missing(0, line)
        self.assertEqual((self.again(lot).lost, balance(Account.LOT, lot.pk)), (0, D("130.00")))


class AfterASale(Missing):
    STANDS = "listed"

    def scene(self) -> None:
        super().scene()
        ShopTest.scene(self)

    def test_what_the_sold_one_does_not_carry_is_lost(self):
        selling.sell(self.seller, self.listed(), D(150), "a reader", D(9))
        self.missing(1, self.other_line)
        self.assertEqual((self.on_line(), self.lot_again().lost), (D("97.50"), 0))
        self.missing(2)
        self.assertEqual((self.on_line(), self.lot_again().lost), (0, D("97.50")))
        self.missing(1)
        self.assertEqual((self.on_line(), self.lot_again().lost), (D("97.50"), 0))


class AfterAllIsSold(ShopTest):
    """What is put right once all of it has left with its cost is the lot’s own: no unit that was sold costs more."""

    def scene(self) -> None:
        self.other_line.delete()
        self.line.quantity = 1
        self.line.save()
        share_lot(self.owner, self.lot, Basis.COUNT)
        super().scene()
        self.sale = selling.sell(self.seller, self.listed("200"), D(200), "a reader", D(9))

    def paid(self, price: str) -> tuple[D, D]:
        lot = self.lot_again()
        said = lot_data(title=lot.title, charges=(Charge(ChargeKind.PRICE, D(price)),))
        buying.correct_lot(self.owner, lot, lot.version, said, None)
        self.balanced()
        return self.lot_again().lost, lot_results([self.lot_again()])[0].money.margin

    def test_a_bill_that_comes_late_and_a_refund_that_does(self):
        carried = balance(Account.UNIT, self.sale.unit_id)
        (before,) = [one.money.margin for one in lot_results([self.lot_again()])]
        self.assertEqual(self.paid("150"), (D("20.00"), before - 20))
        self.assertEqual(self.paid("100"), (D("-30.00"), before + 30))
        self.assertEqual(balance(Account.UNIT, self.sale.unit_id), carried)
        self.assertEqual(self.paid("130"), (0, before))

    def test_what_is_given_back_carries_all_of_it_once_it_is_shared_again(self):
        self.paid("150")
        hand = self.hand()
        boxes_and_carriers(self.owner)
        hand.pay(self.sale)
        hand.hand_over(self.sale.unit)
        back = returns.ask(self.owner, self.again(self.sale), "mind", "")
        here_again.receive(self.owner, back)
        returns.settle(self.owner, self.again(back), Settlement(refund=D(200), take_back=True))
        share_lot(self.owner, self.lot, Basis.COUNT)
        lot = self.lot_again()
        self.assertEqual((lot.lost, balance(Account.LINE, self.line.pk)), (0, 0))
        self.assertEqual(purchase_of([self.again(self.sale.unit)])[self.sale.unit_id], D("150.00"))
        self.balanced()


class ThePage(Missing):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.owner)
        self.there = reverse("buying:line", args=[self.lot.number, self.line.pk])

    def say(self, **typed):
        shown = self.client.get(self.there).context["missing"]
        given = {"pieces": "1", "why": "never sent", "seen": shown._mark} | typed
        return self.client.post(reverse("buying:line-not-come", args=[self.lot.number, self.line.pk]), given)

    def test_is_said_where_it_is_waited_for(self):
        self.assertContains(self.client.get(reverse("intake:table")), f'href="{self.there}">More or fewer come?')
        self.assertRedirects(self.say(), reverse("buying:lot", args=[self.lot.number]))
        self.assertContains(self.client.get(reverse("buying:lot", args=[self.lot.number])), "1 does not come")
        self.assertContains(self.client.get(self.there), "3 of 3 were not received yet")
        self.assertContains(self.client.get(reverse("buying:suppliers")), "1 did not come")
        them = reverse("buying:supplier", args=[self.lot.supplier_id])
        self.assertContains(self.client.get(them), "1 of 4 pieces did not come.")

    def test_refused_at_the_field(self):
        self.assertContains(self.say(pieces="4"), "3 at most can be missing.")
        self.assertContains(self.say(pieces="many", why=""), "Say why: it stands in the story.")
        self.assertContains(self.say(pieces=""), "How many?")

    def test_what_somebody_received_meanwhile_is_seen(self):
        seen = self.client.get(self.there).context["missing"]._mark
        self.receive()
        self.assertContains(self.say(seen=seen), "Somebody else saved this while you were typing")
        self.assertEqual(self.again(self.line).not_come, 0)

"""What was said of a planned lot by mistake: an answer, that it is left."""

from decimal import Decimal as D

from django.urls import reverse

from core.buying.share import Basis
from stations.buying import plans, taken_back, told
from stations.buying import services as buying
from stations.buying.models import BidPlan, PlanLine, SourceKind
from stations.buying.sharing import share_lot
from stations.common.refusals import Refused
from stations.intake import services as intake
from tests.stations.base import line_data, lot_data
from tests.stations.test_pages import PageTest
from tests.stations.test_plans import LINE, TERMS


class TakenBack(PageTest):
    def plan(self) -> BidPlan:
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, LINE)
        return self.again(plan)

    def test_a_wrong_answer_is_taken_back_and_nothing_is_as_if_it_had_been_given(self):
        self.plan()

        def stands():
            return [
                (line.quantity, line.rho, line.seen, line.doubt, *line.cases.values_list("odds", flat=True))
                for line in PlanLine.objects.order_by("pk")
            ]

        before = stands()
        whole = PlanLine.objects.get()
        for ask, said in (("through", "works"), ("power", "comes_on")):
            plans.answer(self.owner, self.again(whole), ask, said)
        piece, other = whole.pieces.order_by("pk")
        plans.answer(self.owner, self.again(piece), "leak", "leaked")
        # One of two answers about a piece: it stays a piece, and is looked at no more.
        plans.not_answered(self.owner, self.again(piece), "through")
        self.assertEqual((self.again(piece).seen, self.again(whole).quantity), (False, 2))
        for one, ask in ((other, "power"), (piece, "leak")):
            plans.not_answered(self.owner, self.again(one), ask)
        self.assertEqual(stands(), before)
        with self.assertRaisesMessage(Refused, "took that answer back already"):
            plans.not_answered(self.owner, self.again(whole), "leak")

    def test_what_was_typed_anew_of_a_piece_stays_when_its_answer_is_taken_back(self):
        self.plan()
        whole = PlanLine.objects.get()
        plans.answer(self.owner, whole, "power", "comes_on")
        piece = whole.pieces.get()
        PlanLine.objects.filter(pk=piece.pk).update(description="the one with the lid")
        plans.not_answered(self.owner, self.again(piece), "power")
        self.assertEqual((self.again(whole).quantity, self.again(piece).description), (3, "the one with the lid"))
        self.assertEqual(*[[case.odds for case in self.again(one).cases.all()] for one in (whole, piece)])

    def test_what_was_left_can_be_bid_for_after_all(self):
        plan = self.plan()
        with self.assertRaisesMessage(Refused, "only what was left"):
            plans.bid_after_all(self.owner, plan)
        plans.leave(self.owner, plan)
        told.record_told(self.owner, plan, self.again(plan).version, D(90), {})
        with self.assertRaisesMessage(Refused, "What became of it is written down already"):
            plans.bid_after_all(self.owner, plan)
        told.record_told(self.owner, plan, self.again(plan).version, None, {})
        plans.bid_after_all(self.owner, plan)
        self.assertTrue(self.again(plan).is_open)

    def test_a_lot_that_was_not_bought_leaves_nothing_but_its_number(self):
        plan = self.plan()
        lot = plans.buy(self.owner, plan, D(100), SourceKind.PRIVATE)
        share_lot(self.owner, lot, Basis.COUNT)
        there = reverse("buying:lot", args=[lot.number])
        self.assertContains(self.client.get(there), "It was not bought")
        self.client.post(reverse("buying:not-bought", args=[lot.number]), {"why": " "})
        self.assertFalse(self.again(plan).is_open, "why is asked")
        self.client.post(reverse("buying:not-bought", args=[lot.number]), {"why": "the wrong button"})
        lot, plan = self.again(lot), self.again(plan)
        self.assertEqual(
            (lot.landed_total, lot.lost, plan.is_open, plan.lot, plan.forecast_worth), (0, 0, True, None, None)
        )
        self.assertContains(self.client.get(there), "Nothing of it comes.")
        self.balanced()
        again = plans.buy(self.owner, plan, D(90), SourceKind.PRIVATE)
        intake.receive(self.owner, again.lines.get(), 1)
        with self.assertRaisesMessage(Refused, "1 of it was received: it was bought."):
            taken_back.not_bought(self.owner, again, "the wrong button")
        gift = buying.record_lot(self.owner, lot_data(source_kind="donation", charges=()), [line_data()])
        taken_back.not_bought(self.owner, gift, "recorded twice")
        self.balanced()

    def test_from_the_page(self):
        plan = self.plan()
        line = plan.lines.get()
        there = reverse("buying:plan", args=[plan.number])
        self.client.post(reverse("buying:plan-answer", args=[plan.number, line.pk]), {"ask": "power", "said": "dead"})
        piece = line.pieces.get()
        self.assertContains(self.client.get(there), "Not “")
        self.client.post(reverse("buying:plan-not-answered", args=[plan.number, piece.pk]), {"ask": "power"})
        self.assertNotContains(self.client.get(there), "Not “")
        self.client.post(reverse("buying:plan-decide", args=[plan.number, "leave"]))
        self.assertContains(self.client.get(there), "Bid for it after all")
        self.client.post(reverse("buying:plan-decide", args=[plan.number, "again"]))
        self.assertContains(self.client.get(there), "If we bid")
        self.assertTrue(self.again(plan).is_open)

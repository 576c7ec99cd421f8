"""The cheapest way to get what is wanted."""

from decimal import Decimal as D
from itertools import product
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from core.stock.cheapest import Offer, OfferError, Postage, Want, cheapest

WANTS = [Want("socket", 3), Want("fan"), Want("lead"), Want("feet", 4)]
OFFERS = [
    Offer("socket", "B", D("2.00")),
    Offer("fan", "B", D("9.00")),
    Offer("lead", "B", D("6.00")),
    Offer("feet", "D", D("1.50")),
    Offer("fan", "A", D("8.00")),
    Offer("lead", "C", D("5.00")),
    Offer("socket", "C", D("1.80")),
    Offer("feet", "B", D("4.00")),
]
ASKS = {"A": Postage(D("6.00")), "B": Postage(D("5.20")), "C": Postage(D("6.00")), "D": Postage(D("4.00"))}


class TheCheapestWay(TestCase):
    def test_by_hand_three_from_b_and_one_from_d(self):
        """B: 3 × 2 + 9 + 6 + 5.20 = 26.20; D: 4 × 1.50 + 4 = 10.00; by themselves 11.20 + 14 + 11 + 10 = 46.20."""
        basket = cheapest(WANTS, OFFERS, ASKS)
        self.assertEqual(basket.total, D("36.20"))
        self.assertEqual(basket.quantities, (3, 1, 1, 4, 0, 0, 0, 0))
        self.assertEqual(basket.postage, {"B": D("5.20"), "D": D("4.00")})
        self.assertEqual((basket.bound, basket.proven, basket.within), (D("36.20"), True, 0.0))
        self.assertEqual(basket.one_by_one, D("46.20"))

    def test_postage_that_is_free_from_an_amount_is_worth_reaching(self):
        asks = {"A": Postage(D("8"), free_from=D("20")), "B": Postage(D("5"))}
        offers = [Offer("x", "A", D("12")), Offer("y", "A", D("9")), Offer("y", "B", D("6"))]
        basket = cheapest([Want("x"), Want("y")], offers, asks)
        self.assertEqual((basket.total, basket.quantities), (D("21"), (1, 1, 0)))

    def test_what_a_seller_has_is_all_he_sells(self):
        offers = [Offer("x", "A", D("1"), most=2), Offer("x", "B", D("3"))]
        basket = cheapest([Want("x", 5)], offers, {"A": Postage(D("1")), "B": Postage(D("1"))})
        self.assertEqual(basket.quantities, (2, 3))
        self.assertEqual(basket.one_by_one, D("16"))

    def test_a_budget_gets_what_matters_first_and_says_what_is_missing(self):
        wants = [Want("screen", 1, 10), Want("sticker", 1, 1)]
        offers = [Offer("screen", "A", D("30")), Offer("sticker", "B", D("2"))]
        asks = {"A": Postage(D("5")), "B": Postage(D("4"))}
        basket = cheapest(wants, offers, asks, budget=D("40"))
        self.assertEqual((basket.missing, basket.total), ({"sticker": 1}, D("35")))
        self.assertIsNone(cheapest([Want("none")], offers, asks).one_by_one)

    def test_a_latest_day_leaves_out_what_nobody_promised(self):
        offers = [Offer("x", "A", D("1")), Offer("x", "B", D("2"), days=9), Offer("x", "C", D("3"), days=2)]
        asks = dict.fromkeys("ABC", Postage(D("1")))
        self.assertEqual(cheapest([Want("x")], offers, asks, within_days=3).quantities, (0, 0, 1))

    def test_bad_ones_are_refused_at_their_field(self):
        with self.assertRaisesRegex(OfferError, "What Z asks for postage is not known"):
            cheapest([Want("x")], [Offer("x", "Z", D(1))], {})
        for field, make in (
            ("quantity", lambda: Want("x", 0)),
            ("each", lambda: Offer("x", "A", D("-1"))),
            ("most", lambda: Offer("x", "A", D(1), most=0)),
            ("days", lambda: Offer("x", "A", D(1), days=-1)),
            ("postage", lambda: Postage(D("-0.01"))),
            ("name", lambda: cheapest([Want("x"), Want("x")], [], {})),
        ):
            with self.assertRaises(OfferError) as caught:
                make()
            self.assertEqual(caught.exception.at, field)

    @settings(deadline=None, max_examples=40)
    @given(st.data())
    def test_brute_force_on_few_offers(self, data):
        cents = st.integers(0, 900).map(lambda n: D(n) / 100)
        wants = [Want(name, data.draw(st.integers(1, 2)), data.draw(st.integers(1, 3))) for name in "xyz"]
        offers = [
            Offer(data.draw(st.sampled_from("xyz")), data.draw(st.sampled_from("ABC")), data.draw(cents), 1)
            for _ in range(data.draw(st.integers(1, 9)))
        ]
        free = st.none() | st.integers(0, 12).map(D)
        asks = {seller: Postage(data.draw(cents), data.draw(free)) for seller in "ABC"}
        budget = data.draw(st.none() | st.integers(0, 20).map(D))
        basket = cheapest(wants, offers, asks, budget)
        best = None
        for counts in product((0, 1), repeat=len(offers)):
            got = {w.name: sum(c for c, o in zip(counts, offers, strict=True) if o.want == w.name) for w in wants}
            if any(got[w.name] > w.quantity for w in wants):
                continue
            goods = {
                s: sum((o.each for c, o in zip(counts, offers, strict=True) if c and o.seller == s), D(0)) for s in asks
            }
            used = {o.seller for c, o in zip(counts, offers, strict=True) if c}
            cost = sum(goods.values()) + sum(asks[s].on(goods[s]) for s in used)
            lacks = sum((w.quantity - got[w.name]) * w.weight for w in wants)
            if (budget is None or cost <= budget) and (best is None or (lacks, cost) < best):
                best = (lacks, cost)
        lacks = sum(basket.missing.get(w.name, 0) * w.weight for w in wants)
        self.assertEqual((lacks, basket.total, basket.proven), (*best, True))

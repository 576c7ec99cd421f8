"""How a unit stands on a channel, what a channel tells, several units as one, an auction."""

from dataclasses import replace
from datetime import date
from decimal import Decimal
from itertools import product
from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st

from core.selling.auction import plan_auction
from core.selling.bundle import Piece, bundle_sums, share_price
from core.selling.channel import Nonsense, Standing, Told, read_news, standing
from core.selling.price import SellingTerms, left_of, lowest_for
from core.selling.waiting import Pace

D = Decimal
SALE = {"kind": "sale", "id": "s1", "listing": "W-0101-X", "who": "Ines", "amount": "120.00", "currency": "EUR"}
ANYTHING = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(list(SALE)), inner, max_size=6),
    max_leaves=8,
)


class Standings(TestCase):
    def test_what_is_wanted_beside_what_was_confirmed(self):
        found = {
            (wanted, stands, changed): standing(wanted, stands, changed)
            for wanted, stands, changed in product((True, False), (True, False, None), (True, False))
        }
        for changed in (True, False):
            self.assertIs(found[True, False, changed], Standing.GOING_UP)
            self.assertIs(found[True, None, changed], Standing.GOING_UP)
            self.assertIs(found[False, False, changed], Standing.OFF)
            # Nobody knows that it came down before the channel says so.
            self.assertIs(found[False, True, changed], Standing.MAYBE_UP)
            self.assertIs(found[False, None, changed], Standing.MAYBE_UP)
        self.assertIs(found[True, True, False], Standing.UP)
        self.assertIs(found[True, True, True], Standing.CHANGING)
        self.assertEqual({one for one in Standing if one.settled}, {Standing.OFF, Standing.UP})
        self.assertTrue(all(one.words and one.words_by_hand for one in Standing))


class News(TestCase):
    def test_a_sale_is_read(self):
        news = read_news(SALE | {"fee": "12.00"})
        self.assertEqual((news.kind, news.remote, news.amount, news.fee), (Told.SALE, "s1", D(120), D(12)))
        self.assertIsNone(read_news(SALE).fee)
        self.assertEqual(read_news(SALE | {"who": ""}).who, "a buyer there")
        days = [read_news(SALE | {"day": day}).on for day in ("2026-03-31", "", None)]
        self.assertEqual(days, [date(2026, 3, 31), None, None])

    def test_what_makes_no_sense_is_said_in_words(self):
        for change, words in (
            ({"kind": "gossip"}, "nobody here knows"),
            ({"id": ""}, "no “id”"),
            ({"id": 7}, "not text"),
            ({"id": "x" * 65}, "64 at most"),
            ({"amount": "a lot"}, "is not an amount"),
            ({"amount": 120}, "not an amount in text"),
            ({"amount": "0"}, "no amount above 0"),
            ({"amount": None}, "no amount above 0"),
            ({"amount": "-5"}, "in cents from 0"),
            ({"amount": "1e30"}, "in cents from 0"),
            ({"amount": "NaN"}, "in cents from 0"),
            ({"amount": "1.005"}, "in cents from 0"),
            ({"fee": "121.00"}, "more than the 120"),
            ({"currency": ""}, "no “currency”"),
            ({"day": "31.3.2026"}, "“31.3.2026”, is not a day"),
            ({"day": 20260331}, "is not a day"),
            ({"listing": ""}, "no “listing”"),
            ({"kind": "question"}, "no words"),
        ):
            with self.subTest(change), self.assertRaisesRegex(Nonsense, words):
                read_news(SALE | change)
        for raw in (None, 3, "sale", [SALE]):
            with self.assertRaisesRegex(Nonsense, "not an object"):
                read_news(raw)

    @given(ANYTHING | st.dictionaries(st.sampled_from(list(SALE)), ANYTHING, max_size=2).map(lambda odd: SALE | odd))
    @example(SALE | {"who": "x" * 500})
    def test_nothing_whatever_breaks_it(self, raw):
        try:
            news = read_news(raw)
        except Nonsense:
            return
        self.assertTrue(news.remote)
        self.assertLessEqual(len(news.who), 120)


def left_by(fee: str, scheme: str = "none", purchase: str = "20"):
    terms = SellingTerms(D(fee), D("0.35"), D(9), scheme, D(20))
    return lambda price: left_of(price, D(purchase), terms)


class Bundles(TestCase):
    def test_parcels_and_fixed_fees_are_saved(self):
        pieces = [Piece(D(100), D(60), D(70), left_by("10"), D(9)), Piece(D(50), D(30), D(30), left_by("10"), D(9))]
        sums = bundle_sums(pieces, fee_fixed=D("0.35"), parcels=1)
        self.assertEqual((sums.asking, sums.waiting, sums.saved), (D(150), D(100), D("9.35")))
        # 100 = 0.9·p − 2·(9 + 0.35) + 9.35, so that p = 109.35 ÷ 0.9.
        self.assertEqual(sums.least, D("121.50"))
        apart = bundle_sums(pieces, fee_fixed=D("0.35"), parcels=2)
        self.assertEqual(apart.saved, D("0.35"))
        self.assertGreater(apart.least, sums.least)

    def test_the_dearest_parcels_are_paid(self):
        pieces = [Piece(D(100), None, D(0), left_by("0"), D(postage)) for postage in (9, 40, 12)]
        saved = [bundle_sums(pieces, fee_fixed=D(0), parcels=parcels).saved for parcels in (1, 2, 3)]
        self.assertEqual(saved, [D(21), D(9), D(0)])

    def test_where_one_is_not_known_nobody_says_what_to_take(self):
        pieces = [Piece(D(100), D(60), D(70), left_by("10"), D(9)), Piece(D(50), None, None, left_by("10"), D(9))]
        sums = bundle_sums(pieces, fee_fixed=D(0), parcels=1)
        self.assertEqual((sums.waiting, sums.floor, sums.least, sums.proposed), (None, None, None, None))

    def test_their_floor_leaves_what_the_floors_of_each_do(self):
        pieces = [Piece(D(100), D(60), None, left_by("0"), D(9)), Piece(D(50), D(30), None, left_by("0"), D(9))]
        sums = bundle_sums(pieces, fee_fixed=D("0.35"), parcels=1)
        # 90 less one fixed fee and one postage.
        self.assertEqual((sums.floor, sums.least, sums.proposed), (D("80.65"), None, D("80.65")))
        dear = bundle_sums([replace(one, waiting=D(500)) for one in pieces], fee_fixed=D(0), parcels=1)
        self.assertGreater(dear.least, dear.asking)
        self.assertEqual(dear.proposed, D(150))

    def test_what_no_price_leaves_has_none(self):
        pieces = [Piece(D(100), None, D(0), lambda price: -price)] * 2
        sums = bundle_sums(pieces, fee_fixed=D(0), parcels=2)
        self.assertEqual((sums.waiting, sums.least), (D(0), None))

    def test_one_is_no_bundle(self):
        piece = Piece(D(100), D(60), D(70), left_by("10"), D(9))
        for pieces, parcels in (([piece], 1), ([piece, piece], 0), ([piece, piece], 3)):
            with self.assertRaises(ValueError):
                bundle_sums(pieces, fee_fixed=D(0), parcels=parcels)
        with self.assertRaises(ValueError):
            share_price(D("0.02"), [D(1), D(1), D(1)])

    @given(
        st.lists(st.tuples(st.integers(5, 400), st.integers(0, 300)), min_size=2, max_size=6),
        st.sampled_from(["none", "standard", "margin"]),
        st.integers(0, 20),
    )
    def test_least_and_floor_of_all_leave_what_those_of_each_do_and_little_less_does_not(self, rows, scheme, fee):
        left = left_by(str(fee), scheme)
        pieces = [Piece(D(asking), D(asking) / 2, D(waiting), left, D(9)) for asking, waiting in rows]
        sums = bundle_sums(pieces, fee_fixed=D("0.35"), parcels=1)

        def leaves(price: Decimal) -> Decimal:
            shares = share_price(price, [one.asking for one in pieces])
            self.assertEqual(sum(shares), price)
            self.assertTrue(all(share > 0 for share in shares))
            return sum((left(share) for share in shares), sums.saved)

        covered = sum((left(one.floor) for one in pieces), D(0))
        for found, wanted in ((sums.least, sums.waiting), (sums.floor, covered)):
            self.assertGreaterEqual(leaves(found), wanted)
            # Each share is rounded to the cent, and so are fee and tax of it.
            under = found - D("0.04") * len(pieces)
            if under >= D("0.01") * len(pieces):
                self.assertLess(leaves(under), wanted)


class Auctions(TestCase):
    def plan(self, pace: Pace, waiting: str = "60", covers: str = "12"):
        prices = [D(p) for p in range(20, 161, 5)]
        return plan_auction(D(100), prices, left_by("10"), pace, weeks=1.0, waiting=D(waiting), covers=D(covers))

    def test_it_is_worth_no_less_than_waiting(self):
        for waiting in ("0", "40", "80", "120"):
            plan = self.plan(Pace(), waiting)
            self.assertGreaterEqual(plan.worth, float(waiting) - 1e-9)

    def test_what_waiting_is_worth_more_raises_the_reserve(self):
        reserves = [self.plan(Pace(), waiting).reserve for waiting in ("10", "40", "70", "100")]
        self.assertEqual(reserves, sorted(reserves))
        self.assertLess(reserves[0], reserves[-1])

    def test_bidding_starts_where_selling_costs_nothing_or_at_the_reserve(self):
        self.assertEqual(self.plan(Pace(), covers="33").start, D(35))
        low = self.plan(Pace(), waiting="0", covers="155")
        self.assertEqual(low.start, low.reserve)

    def test_many_buyers_bring_it_over_the_likely_price(self):
        self.assertGreater(self.plan(Pace(8.0, 6.0)).ends_at, D(105))
        self.assertGreater(self.plan(Pace(8.0, 6.0)).chance, 0.95)

    def test_without_prices_or_time_there_is_none(self):
        for prices, weeks in (([], 1.0), ([D(0)], 1.0), ([D(5)], 0.0)):
            with self.assertRaises(ValueError):
                plan_auction(D(1), prices, left_by("1"), Pace(), weeks=weeks, waiting=D(0), covers=D(0))


class Lowest(TestCase):
    @given(st.integers(0, 50_000), st.integers(0, 30))
    def test_it_leaves_enough_and_two_cents_less_do_not(self, cents, fee):
        left, wanted = left_by(str(fee)), D(cents) / 100
        found = lowest_for(wanted, left)
        self.assertGreaterEqual(left(found), wanted)
        self.assertLess(left(found - D("0.02")), wanted)

    def test_where_the_fee_is_more_than_is_ours_no_price_is_enough(self):
        # Ten in 100 are ours, and the fee is fifteen.
        self.assertIsNone(lowest_for(D("0.01"), lambda price: price / 10 - price * 15 / 100))
        highest = D("99999999.99")
        self.assertEqual(lowest_for(highest, lambda price: price), highest)
        self.assertIsNone(lowest_for(highest + D("0.01"), lambda price: price))

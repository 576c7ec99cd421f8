from collections import defaultdict
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.statement import OF_SELLING, Line, Place, Statement, Stood

D = Decimal
CENTS = st.integers(1, 10**5).map(lambda cents: D(cents) / 100)
# What can happen to one of three units on a day, with an amount.
ACTS = st.sampled_from(["buy", "work", "part", "sell", "take back", "fee", "scrap", "pay", "nothing"])
HISTORY = st.lists(st.tuples(ACTS, st.integers(0, 2), CENTS), max_size=40)


class Shop:
    """Three units by hand, day by day: every act is entries (day, account, unit, kind, amount)."""

    def __init__(self):
        self.entries, self.sold_then, self.sold = [], [], set()
        self.cost_of_sold = defaultdict(D)  # by day
        self.day = 0

    def put(self, *legs):
        self.entries += [(self.day, *leg) for leg in legs]

    def carried(self, unit):
        rows = self.entries
        return sum((a for _, acc, u, kind, a in rows if acc == "unit" and u == unit and kind not in OF_SELLING), D(0))

    def cost(self, unit, account, kind, amount):
        self.put((account, 0, kind, -amount), ("unit", unit, kind, amount))
        if unit in self.sold:
            self.cost_of_sold[self.day] += amount

    def happen(self, act, unit, amount):
        self.day += 1
        if act == "buy":
            self.put(("cash", 0, "purchase", -amount), ("line", 0, "purchase", amount))
            self.put(("line", 0, "transfer", -amount))
            self.put(("unit", unit, "transfer", amount))
            if unit in self.sold:
                self.cost_of_sold[self.day] += amount
        elif act == "work":
            self.cost(unit, "own_labour", "labour", amount)
        elif act == "part":
            self.put(("cash", 0, "purchase", -amount), ("stock", 0, "purchase", amount))
            self.cost(unit, "stock", "part_issued", amount)
        elif act == "sell" and unit not in self.sold:
            self.put(("buyer_owes", unit, "sale", amount), ("unit", unit, "sale", -amount))
            self.cost_of_sold[self.day] += self.carried(unit)
            self.sold.add(unit)
        elif act == "take back" and unit in self.sold:
            self.put(("cash", 0, "refund", -amount), ("unit", unit, "refund", amount))
            self.cost_of_sold[self.day] -= self.carried(unit)
            self.sold.discard(unit)
        elif act == "fee":
            self.put(("cash", 0, "fee", -amount), ("unit", unit, "fee", amount))
        elif act == "scrap" and unit not in self.sold:
            carried = self.carried(unit)
            self.put(("unit", unit, "write_off", -carried), ("loss", 0, "write_off", carried))
        elif act == "pay":
            self.put(("cash", 0, "sale", amount), ("buyer_owes", unit, "sale", -amount))
        self.sold_then.append(frozenset(self.sold))

    def stood(self, after_days):
        """When day `after_days + 1` began."""
        sold = self.sold_then[after_days - 1] if after_days else frozenset()
        held, gone, labour = defaultdict(D), D(0), D(0)
        places = {"line": Place.LOTS, "stock": Place.DRAWERS}
        for day, account, unit, kind, amount in self.entries:
            if day > after_days or kind in OF_SELLING:
                continue
            if account in places:
                held[places[account]] += amount
            elif account == "unit":
                if unit in sold:
                    gone += amount
                else:
                    held[Place.OURS] += amount
                if kind == "labour" and unit in sold:
                    labour += amount
        return Stood(held, gone, labour)

    def statement(self, first, last):
        moved = defaultdict(D)
        for day, account, _, kind, amount in self.entries:
            if first < day <= last:
                moved[account, kind] += amount
        return Statement(self.stood(first), self.stood(last), moved)


class ThePeriod(TestCase):
    @given(HISTORY, st.integers(0, 40), st.integers(0, 40))
    def test_the_stock_is_accounted_for_and_what_was_earned_stands_somewhere(self, history, one, other):
        shop = Shop()
        for act in history:
            shop.happen(*act)
        first, last = sorted((min(one, shop.day), min(other, shop.day)))
        found = shop.statement(first, last)
        self.assertEqual(found.off, 0)
        # Walked day by day, by itself.
        walked = sum((amount for day, amount in shop.cost_of_sold.items() if first < day <= last), D(0))
        self.assertEqual(found.cost_of_sold, walked)
        self.assertEqual(found.earned, sum(amount for _, amount in found.stands))
        self.assertEqual(found.opening.stock + sum(amount for _, amount in found.stock_moved), found.closing.stock)

    @given(HISTORY, st.integers(0, 40))
    def test_two_periods_are_one(self, history, cut):
        shop = Shop()
        for act in history:
            shop.happen(*act)
        cut = min(cut, shop.day)
        whole, parts = shop.statement(0, shop.day), (shop.statement(0, cut), shop.statement(cut, shop.day))
        for figure in ("earned", "before_labour", "cost_of_sold", "stock_grew"):
            self.assertEqual(getattr(whole, figure), sum(getattr(part, figure) for part in parts), figure)
        for line in Line:
            self.assertEqual(whole.sum_of(line), sum(part.sum_of(line) for part in parts), line)

    def test_by_hand(self):
        """Bought for 60, an hour of 20 and a belt of 4 put in, sold for 150 less 15 fee; another for 40 stays."""
        shop = Shop()
        for act in [("buy", 0, D(60)), ("buy", 1, D(40)), ("work", 0, D(20)), ("part", 0, D(4))]:
            shop.happen(*act)
        before = shop.day
        for act in [("sell", 0, D(150)), ("fee", 0, D(15)), ("pay", 0, D(100))]:
            shop.happen(*act)
        found = shop.statement(before, shop.day)
        self.assertEqual((found.opening.stock, found.closing.stock, found.cost_of_sold), (124, 40, 84))
        self.assertEqual((found.earned, found.labour_gone, found.before_labour), (51, 20, 71))
        self.assertEqual((found.sum_of(Line.CASH), found.sum_of(Line.BUYERS)), (85, 50))

    def test_an_entry_that_no_line_of_it_holds_is_seen(self):
        """A cost that came from nowhere that is known: the stock can’t account for it."""
        stood = Stood({Place.OURS: D(10)}, D(0), D(0))
        found = Statement(Stood({}, D(0), D(0)), stood, {("unit", "gift"): D(10), ("cash", "gift"): D(-10)})
        self.assertEqual(found.off, -10)

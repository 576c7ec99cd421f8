"""Cost of inventories against worked examples from outside.

IAS 2 ¶23 (specific identification for what is told apart) and ¶25, ¶27 (weighted average, "calculated on a periodic
basis, or as each additional shipment is received"). The standard gives no figures; the figures are those of the worked
example of OpenStax, Principles of Accounting, volume 1, chapter 10.2 and 10.3 (a company that trades in one gadget;
values from memory): on hand 150 at 21, sold 120, bought 225 at 27, sold 180, bought 210 at 33.
"""

from decimal import Decimal as D
from unittest import TestCase

from core.stock.costing import issue_cost


class WorkedExample(TestCase):
    def test_moving_weighted_average(self):
        """Cost of goods sold 7,253 and inventory 8,902, in whole dollars as printed."""
        held, value, sold = D(150), D(150) * 21, D(0)
        for bought, price, issued in ((0, 0, 120), (225, 27, 180), (210, 33, 0)):
            held, value = held + bought, value + bought * D(price)
            if issued:
                cost = issue_cost(held, value, issued)
                held, value, sold = held - issued, value - cost, sold + cost
        self.assertEqual(held, 285)
        self.assertEqual((round(sold), round(value)), (7253, 8902))

    def test_specific_identification(self):
        """Cost of goods sold 7,260 and inventory 8,895: each piece leaves at what it cost itself, as a single part
        with an account of its own does."""
        stock = [D(21)] * 150 + [D(27)] * 225 + [D(33)] * 210
        sold = [D(21)] * 120 + [D(21)] * 20 + [D(27)] * 160
        # A single part is a drawer of one: it takes all there is on its account.
        self.assertEqual(sum(issue_cost(1, cost, 1) for cost in sold), 7260)
        self.assertEqual(sum(stock) - sum(sold), 8895)

    def test_the_last_piece_takes_what_rounding_left(self):
        """¶27 by hand: three for 10.00 are 3.33, 3.33 (of 6.67 for two: 3.34 by halves to even) and the rest."""
        held, value, costs = 3, D("10.00"), []
        for _ in range(3):
            costs.append(issue_cost(held, value, 1))
            held, value = held - 1, value - costs[-1]
        self.assertEqual((sum(costs), value), (D("10.00"), D(0)))
        self.assertEqual(costs, [D("3.33"), D("3.34"), D("3.33")])

"""What the drawings say must be what the numbers say."""

from decimal import Decimal
from itertools import pairwise
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from core.bench.assurance import how_sure
from core.bench.checks import Limits
from core.books.earnings import earnings
from core.buying.bid import Limit, forecast
from core.buying.planned import BidLine, BidTerms, Case, PlannedTax
from core.flow.stage import State, Station
from core.selling.grade import Grade
from core.selling.market import Comparable, Market, Subject
from stations.bench import drawing as bench
from stations.books import drawing as books
from stations.buying import drawing as buying
from stations.floor.rails import COLUMN, MOST, STATIONS, lay_out
from stations.selling.drawing import price_chart
from stations.units.models import Unit

D = Decimal
MONEY = st.integers(1, 10**6).map(lambda cents: D(cents) / 100)
LINE = BidLine(
    "M2", 3, (Case(0.5, 180, 240, 300, 12, 75), Case(0.3, 150, 200, 260, 36, 180), Case(0.1, 30, 50, 60), Case(0.1))
)


class ProfitAtABid(TestCase):
    DRAWN = forecast([LINE], BidTerms(fee=0.08, labour_rate=24))
    TAXED = forecast([LINE], BidTerms(0.08, 24, tax=PlannedTax("margin", D(25))))

    @settings(max_examples=40)
    @given(st.integers(0, 4000))
    def test_bars_stand_on_the_right_side_of_break_even(self, bid):
        picture = buying.distribution(self.DRAWN, self.DRAWN.at(D(bid)))
        self.assertTrue(0 <= picture.even <= buying.WIDTH)
        for bar in picture.bars:
            middle = bar.x + bar.width / 2
            self.assertEqual(bar.loss, middle < picture.even)
            self.assertAlmostEqual(bar.y + bar.height, buying.BASE, delta=0.11)
        self.assertLessEqual(picture.low, picture.high)

    def test_what_is_drawn_is_after_tax(self):
        plain, taxed = (buying.distribution(drawn, drawn.at(D(60))) for drawn in (self.DRAWN, self.TAXED))
        # What tax takes brings the mean nearer to break-even.
        self.assertLess(taxed.mean - taxed.even, plain.mean - plain.even)
        self.assertLess(self.TAXED.profits(D(60)).mean(), self.DRAWN.profits(D(60)).mean() - 20)
        self.assertAlmostEqual(self.TAXED.profits(D(60)).mean(), self.TAXED.at(D(60)).profit, delta=6)

    @given(st.integers(0, 3000), st.lists(st.integers(0, 3000), min_size=1, max_size=3))
    def test_limits_stand_in_order_on_the_scale_and_labels_do_not_touch(self, bid, amounts):
        limits = tuple(Limit(f"t{i}", D(amount)) for i, amount in enumerate(amounts))
        line = buying.stop_line(D(bid), limits)
        places = [mark.x for mark in line.marks]
        self.assertEqual(places, sorted(places))
        self.assertTrue(all(0 <= x <= buying.WIDTH for x in [*places, line.ours]))
        for one, other in pairwise(line.marks):
            self.assertTrue(other.x - one.x >= 52 or one.y != other.y)

    def test_a_target_that_no_bid_keeps_is_not_drawn(self):
        self.assertEqual(buying.stop_line(D(10), (Limit("loss", None),)).marks, ())


class LimitBands(TestCase):
    FIVE = Limits(D("4.75"), D("5.25"), "V", D("5.00"))

    @given(st.decimals(-5, 60, places=2))
    def test_a_reading_stands_between_the_limits_just_when_it_is(self, value):
        band = bench.limit_band(self.FIVE, value, D("0.05"), [])
        inside = band.low.x <= band.now.x <= band.high.x
        self.assertEqual(inside, self.FIVE.low <= value <= self.FIVE.high)
        self.assertTrue(bench.EDGE <= band.spread[0] <= band.now.x <= band.spread[1] <= bench.WIDTH - bench.EDGE)

    @given(*[st.decimals("0.01", 9999, places=2) for _ in range(4)])
    def test_what_is_written_touches_nothing_and_stays_on_the_drawing(self, low, nominal, high, value):
        low, nominal, high = sorted((low, nominal, high))
        if not low < nominal < high:
            return
        band = bench.limit_band(Limits(low, high, "Ω", nominal), value, D("0.05"), [])

        def room(mark, middle):
            half = len(mark.text) * bench.FIGURE / 2
            return middle - half, middle + half

        below = [room(band.low, band.low.x), room(band.nominal, band.nominal_text), room(band.high, band.high.x)]
        self.assertTrue(all(one[1] < other[0] for one, other in pairwise(below)), below)
        left, right = room(band.now, band.now_text)
        self.assertTrue(left >= 0 and right <= bench.WIDTH)

    def test_limits_decades_apart_are_drawn_by_decades(self):
        limits = Limits(D(10), D(5000), "Ω", D(60))
        under, over, nought = (bench.limit_band(limits, value, D("0.1"), []) for value in (D("7.4"), D(61), D(0)))
        self.assertGreater(under.low.x - under.now.x, 5)
        self.assertLess(abs(over.nominal.x - over.now.x), 2)
        self.assertEqual(nought.now.x, bench.EDGE)

    def test_nought_at_the_low_end_is_the_edge(self):
        band = bench.limit_band(Limits(D(0), D("0.5"), "Ω"), None, None, [D("0.1")])
        self.assertTrue(band.one_sided)
        self.assertEqual((band.low.x, band.now, len(band.earlier)), (bench.EDGE, None, 1))


class UnderLoad(TestCase):
    FIVE = Limits(D("4.75"), D("5.25"), "V")
    POINTS = st.lists(
        st.tuples(st.floats(0, 20).map(lambda a: round(a, 2)), st.floats(4, 6)),
        min_size=2,
        max_size=8,
        unique_by=lambda p: p[0],
    ).filter(lambda points: max(a for a, _ in points) - min(a for a, _ in points) > 0.1)

    @given(POINTS)
    def test_more_volts_stand_higher_and_more_amperes_further_right(self, points):
        chart = bench.load_chart(points, self.FIVE)
        for (x, y), (amps, volts) in zip(chart.points, points, strict=True):
            self.assertTrue(bench.LEFT <= x <= bench.CHART[0] and 0 <= y <= bench.BOTTOM)
            for (x2, y2), (amps2, volts2) in zip(chart.points, points, strict=True):
                self.assertTrue(x <= x2 or amps > amps2)
                self.assertTrue(y >= y2 or volts > volts2)
        self.assertTrue(all(0 <= y <= bench.BOTTOM for y in (chart.start[1], chart.end[1])))

    @given(POINTS)
    def test_marks_stand_on_the_chart_and_say_where_they_stand(self, points):
        chart = bench.load_chart(points, self.FIVE)
        self.assertLessEqual(len(chart.volts), 4)
        for mark in (*chart.volts, *chart.limits):
            self.assertTrue(-0.1 <= mark.x <= bench.BOTTOM + 0.1, mark)
        texts = [float(mark.text) for mark in chart.amps]
        self.assertEqual(texts, sorted(texts))


class HowSure(TestCase):
    @given(st.lists(st.booleans(), max_size=60))
    def test_the_filled_ticks_are_the_clean_starts_that_count(self, starts):
        sure = how_sure(starts)
        bar = bench.sure_bar(sure)
        since = next((n for n, ok in enumerate(reversed(starts)) if not ok), len(starts))
        self.assertEqual(sum(filled for _, filled in bar.ticks), min(since, len(bar.ticks)))
        self.assertTrue(0 <= bar.could_be <= 260 and 0 < bar.claim < 260)
        self.assertEqual(bar.could_be <= bar.claim, sure.could_be <= sure.claim)


class Waterfalls(TestCase):
    @given(
        st.dictionaries(st.sampled_from(["purchase", "part_issued", "labour", "fee", "tax"]), MONEY, min_size=1), MONEY
    )
    def test_each_step_begins_where_the_last_ended(self, costs, sale):
        money = earnings({**costs, "sale": -sale})
        fall = books.waterfall(money)
        steps, last = fall.columns[:-1], fall.columns[-1]
        self.assertEqual([column.amount for column in steps], [bar.amount for bar in money.bars])
        self.assertEqual((last.kind, last.amount), ("in", sale))
        for one, other in pairwise(steps):
            self.assertAlmostEqual(one.y, other.y + other.height, delta=1.01)
        self.assertAlmostEqual(min(column.y for column in steps), fall.cost_y, delta=0.11)
        self.assertLessEqual(last.x + fall.width, books.WIDTH + 0.11)


class PriceCharts(TestCase):
    @given(
        st.lists(st.tuples(MONEY, st.integers(0, 900)), min_size=1, max_size=15),
        st.none() | st.integers(1, 9000).map(float),
    )
    def test_dearer_is_higher_and_newer_is_further_right(self, sales, floor):
        market = Market([Comparable(max(price, D("0.01")), age, Grade.B) for price, age in sales])
        weighed = market.brought(Subject(Grade.B, 100))
        chart = price_chart(market.band(Subject(Grade.B, 100)), weighed, floor)
        self.assertTrue(chart.high <= chart.likely <= chart.low)
        paired = sorted(zip(weighed, chart.points, strict=True), key=lambda pair: pair[0].adjusted)
        heights = [point.y for _, point in paired]
        self.assertEqual(heights, sorted(heights, reverse=True))
        by_age = sorted(paired, key=lambda pair: pair[0].comparable.age_days)
        across = [point.x for _, point in by_age]
        self.assertEqual(across, sorted(across, reverse=True))
        self.assertTrue(all(0 < point.x < 560 and 0 < point.y < 210 for point in chart.points))


class Rails(TestCase):
    COUNTS = st.dictionaries(
        st.tuples(st.sampled_from([s.value for s in STATIONS[1:]]), st.sampled_from([s.value for s in State])),
        st.integers(1, 400),
        max_size=12,
    )

    @given(COUNTS, st.integers(0, 50))
    def test_every_unit_is_drawn_or_counted_within_its_station(self, counts, to_receive):
        units = [
            Unit(number=n + 1, title="x", station=station, state=state, form_factor="tower")
            for n, (station, state) in enumerate(
                key for key, count in counts.items() for _ in range(min(count, 2 * MOST))
            )
        ]
        rail = lay_out(units, counts, to_receive)
        self.assertEqual(len(rail.tokens) + sum(more.count for more in rail.more), sum(counts.values()))
        for token in rail.tokens:
            left = STATIONS.index(Station(token.unit.station)) * COLUMN
            self.assertTrue(left <= token.x and token.x + 35 <= left + COLUMN + 1, token)
        places = [(token.x, token.y) for token in rail.tokens] + [(more.x - 17, more.y) for more in rail.more]
        self.assertEqual(len(places), len(set(places)))

    def test_an_empty_lot_has_no_span(self):
        self.assertIsNone(lay_out([], {}, 0).span)

"""Markings read back from what would be printed, and the sums beside the bench."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.comparison import STOPWATCH, compare
from core.bench.electrics import contact_ohms, load_line
from core.bench.markings import (
    Colour,
    MarkingError,
    Suspicion,
    engineering,
    nearest_preferred,
    read_bands,
    read_capacitor,
    screen,
    series,
)
from core.machine.quantities import QuantityError, parse_reading

D = Decimal
DIGITS = list(Colour)[:10]
TOLERANCES = ("brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "gold", "silver")
LETTERS = {"F": 1, "G": 2, "J": 5, "K": 10, "M": 20}
TIMES = st.lists(st.floats(0.05, 5000), min_size=1, max_size=8)


class Bands(TestCase):
    @given(st.integers(10, 99), st.integers(0, 7), st.sampled_from(TOLERANCES))
    def test_four_bands_say_what_was_painted(self, figures, power, tolerance):
        first, second = divmod(figures, 10)
        read = read_bands([DIGITS[first], DIGITS[second], DIGITS[power], tolerance])
        self.assertEqual(read.value, D(figures) * 10**power)
        self.assertLess(read.low, read.value)
        self.assertGreater(read.high, read.value)

    @given(st.integers(100, 999), st.integers(0, 6), st.sampled_from(DIGITS))
    def test_a_sixth_band_changes_nothing(self, figures, power, sixth):
        digits = [DIGITS[int(figure)] for figure in str(figures)]
        five = [*digits, DIGITS[power], "brown"]
        self.assertEqual(read_bands(five), read_bands([*five, sixth]))

    @given(st.sampled_from(series(24)), st.integers(0, 6))
    def test_a_preferred_value_painted_is_its_own_nearest(self, value, power):
        figures = int(value * 10)
        read = read_bands([DIGITS[figures // 10], DIGITS[figures % 10], DIGITS[power], "gold"])
        self.assertEqual(nearest_preferred(read.value), read.value)

    def test_three_bands_have_twenty_percent(self):
        read = read_bands(["yellow", "violet", "red"])
        self.assertEqual((read.value, read.tolerance, read.words), (D(4700), D(20), "4.7 kΩ ± 20 %"))

    def test_read_from_the_wrong_end_is_told(self):
        with self.assertRaisesRegex(MarkingError, "other end"):
            read_bands(["gold", "red", "violet", "yellow"])
        with self.assertRaisesRegex(MarkingError, "no tolerance"):
            read_bands(["red", "red", "red", "white"])


class Capacitors(TestCase):
    @given(st.integers(10, 99), st.integers(0, 6), st.sampled_from(sorted(LETTERS)))
    def test_three_figures_and_a_letter(self, figures, power, letter):
        read = read_capacitor(f"{figures}{power}{letter}")
        self.assertEqual(read.value, D(figures) * 10**power * D("1e-12"))
        self.assertEqual(read.tolerance, LETTERS[letter])

    @given(st.integers(1, 999), st.integers(0, 9), st.sampled_from("pnuµ"))
    def test_the_prefix_stands_for_the_point(self, whole, tenth, prefix):
        read = read_capacitor(f"{whole}{prefix}{tenth}")
        scale = {"p": D("1e-12"), "n": D("1e-9")}.get(prefix, D("1e-6"))
        self.assertEqual(read.value, D(f"{whole}.{tenth}") * scale)
        self.assertIsNone(read.tolerance)

    @given(st.text(max_size=12))
    def test_any_text_is_read_or_refused_in_words(self, text):
        try:
            self.assertGreater(read_capacitor(text).value, 0)
        except MarkingError as refused:
            self.assertGreater(len(str(refused)), 5)

    def test_what_is_no_value(self):
        for text, says in (("1045", "as printed"), ("104X", "letter"), ("0n0", "0 is no value"), ("", "as printed")):
            with self.subTest(text), self.assertRaisesRegex(MarkingError, says):
                read_capacitor(text)


class Screening(TestCase):
    MARKED = read_capacitor("104K")

    @given(st.decimals("1e-12", "1e-3", places=15))
    def test_in_circuit_alone_never_convicts(self, reading):
        self.assertNotEqual(screen(self.MARKED, reading), Suspicion.BAD)

    @given(st.decimals("1e-9", "1e-6", places=12), st.decimals("1e-12", "1e-3", places=12))
    def test_out_of_circuit_decides_whatever_was_read_in_it(self, out, inside):
        inside_it = self.MARKED.low <= out <= self.MARKED.high
        wanted = Suspicion.GOOD if inside_it else Suspicion.BAD
        self.assertEqual(screen(self.MARKED, inside, out), wanted)


class Prefixes(TestCase):
    @given(st.decimals("1e-11", 10**10, places=11).filter(lambda d: d > 0), st.sampled_from("ΩVF"))
    def test_what_is_written_is_read_again(self, value, unit):
        words = engineering(value, unit)
        if "G" in words:
            return  # nobody measures gigaohms here, so nothing reads them
        self.assertEqual(parse_reading(words, unit), value)

    @given(st.decimals("1e-12", 10**12, places=12).filter(lambda d: d >= D("1e-12")))
    def test_one_to_three_figures_stand_before_the_point(self, value):
        number = D(engineering(value, "Ω").split()[0])
        self.assertGreaterEqual(number, 1)
        if value < 10**12:
            self.assertLess(number, 1000)

    @given(st.text(max_size=10), st.sampled_from(["V", "Ω", "s"]))
    def test_any_text_is_a_number_or_refused_in_words(self, text, unit):
        try:
            self.assertTrue(parse_reading(text, unit).is_finite())
        except QuantityError as refused:
            self.assertIn(unit, str(refused))


class Series(TestCase):
    def test_each_has_its_number_of_values_in_rising_order(self):
        for number in (3, 6, 12, 24, 48, 96, 192):
            with self.subTest(number):
                values = series(number)
                self.assertEqual(len(values), number)
                self.assertEqual(list(values), sorted(set(values)))
                self.assertTrue(1 <= values[0] < values[-1] < 10)
        with self.assertRaises(MarkingError):
            series(7)

    @given(st.decimals("0.01", 10**7, places=2).filter(lambda d: d > 0))
    def test_a_finer_series_is_never_further_off(self, value):
        def off(number: int) -> float:
            return abs((nearest_preferred(value, number) / value).ln())

        for coarse, fine in ((3, 6), (6, 12), (12, 24), (48, 96), (96, 192)):
            self.assertLessEqual(off(fine), off(coarse))


class BeforeAndAfter(TestCase):
    @given(TIMES)
    def test_the_same_runs_are_no_difference(self, times):
        self.assertEqual(compare(times, times).verdict, "no real difference")

    @given(TIMES, TIMES)
    def test_turned_round_it_says_the_opposite(self, before, after):
        opposite = {"faster": "slower", "slower": "faster"}
        there, back = compare(before, after), compare(after, before)
        self.assertEqual(opposite.get(there.verdict, there.verdict), back.verdict)
        self.assertAlmostEqual(there.low * back.high, 1, places=6)

    @given(TIMES, TIMES)
    def test_time_saved_and_speed_gained_are_two_sides_of_one_ratio(self, before, after):
        found = compare(before, after)
        self.assertAlmostEqual((1 - found.less) * (1 + found.faster), 1, places=6)
        self.assertLessEqual(found.low, found.after / found.before * (1 + 1e-9))
        self.assertGreaterEqual(found.high, found.after / found.before * (1 - 1e-9))

    @given(st.floats(1, 100), st.floats(1, 100))
    def test_a_stopwatch_never_sees_more_than_a_machines_own_clock(self, before, after):
        by_hand, by_clock = compare([before] * 3, [after] * 3, by_hand=True), compare([before] * 3, [after] * 3)
        self.assertGreaterEqual(by_hand.high - by_hand.low, by_clock.high - by_clock.low)
        if abs(before - after) < STOPWATCH:
            self.assertEqual(by_hand.verdict, "no real difference")

    def test_scores_count_the_other_way_and_nonsense_is_refused(self):
        self.assertEqual(compare([100.0, 101.0], [150.0, 151.0], scores=True).verdict, "faster")
        self.assertIn("more time", compare([10.0, 10.1], [20.0, 20.1]).words)
        for before, after in (([], [1.0]), ([1.0], [0.0]), ([-1.0], [1.0])):
            with self.assertRaises(ValueError):
                compare(before, after)


class UnderLoad(TestCase):
    @given(st.floats(9, 20), st.floats(0, 1), st.integers(2, 8), st.sampled_from((1, -1)))
    def test_a_perfect_source_is_found_again_on_either_side_of_0(self, volts, ohms, count, side):
        line = load_line([(amps, side * (volts - ohms * amps)) for amps in range(count)])
        self.assertAlmostEqual(line.ohms, ohms, places=6)
        self.assertAlmostEqual(line.at(0), side * volts, places=6)
        self.assertAlmostEqual(line.at(count), side * (volts - ohms * count), places=6)
        self.assertLess(line.worst, 1e-6)

    def test_what_makes_no_line(self):
        for points in ([(1, 5.0)], [(1, 5.0), (1, 4.9)], [(-1, 5.0), (1, 4.9)]):
            with self.subTest(points), self.assertRaises(ValueError):
                load_line(points)

    @given(st.floats(0, 10), st.floats(0.001, 100))
    def test_a_contact_by_its_drop(self, volts, amps):
        self.assertAlmostEqual(contact_ohms(volts, amps) * amps, volts, places=6)
        with self.assertRaises(ValueError):
            contact_ohms(volts, 0)

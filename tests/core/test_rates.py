from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.rates import MOST_BYTES, RatesError, cross_rate, read_rates

RATE = st.decimals("0.01", "10000", places=4)
CODES = ("SEK", "GBP", "USD", "JPY")


def published(days: dict[str, dict[str, str]]) -> bytes:
    """A list as it is published: days, and in each currencies with their rates."""
    cubes = "".join(
        f"<Cube time='{day}'>" + "".join(f"<Cube currency='{c}' rate='{r}'/>" for c, r in rates.items()) + "</Cube>"
        for day, rates in days.items()
    )
    return f"<Envelope><subject>rates</subject><Cube>{cubes}</Cube></Envelope>".encode()


class Reading(TestCase):
    @given(
        st.dictionaries(st.dates(date(2000, 1, 1), date(2030, 1, 1)), st.fixed_dictionaries({"SEK": RATE}), min_size=1)
    )
    def test_every_day_and_rate_comes_out_as_it_went_in(self, days):
        sent = {day.isoformat(): {"SEK": str(rates["SEK"])} for day, rates in days.items()}
        self.assertEqual({d.on: dict(d.per_euro) for d in read_rates(published(sent))}, days)

    def test_what_is_no_list_of_rates(self):
        good = {"SEK": "11.2"}
        for data, says in (
            (b"", "no list"),
            (b"<html><body>Sign in", "no list"),
            (b"<!DOCTYPE x [<!ENTITY a 'b'>]><Cube/>", "no list"),
            (b"<Envelope/>", "no rates"),
            (published({}), "no rates"),
            (published({"2026-02-31": good}), "no date"),
            (published({"2026-02-03": {"SEK": "eleven"}}), "no rate"),
            (published({"2026-02-03": {"SEK": "0"}}), "no rate"),
            (published({"2026-02-03": {"SEK": "-3"}}), "no rate"),
            (published({"2026-02-03": {"SEK": "Infinity"}}), "no rate"),
            (published({"2026-02-03": good}) + b" " * MOST_BYTES, "no list"),
        ):
            with self.subTest(data[:60]), self.assertRaisesRegex(RatesError, says):
                read_rates(data)

    @given(st.binary(max_size=200))
    def test_any_bytes_are_refused_in_words(self, data):
        with self.assertRaises(RatesError):
            read_rates(data)


class Crossing(TestCase):
    @given(st.fixed_dictionaries(dict.fromkeys(CODES, st.decimals("0.5", "200", places=4))))
    def test_there_and_back_is_one_and_by_a_third_the_same(self, rates):
        for one in CODES:
            self.assertEqual(cross_rate(rates, one, one), 1)
            for other in CODES:
                there, back = cross_rate(rates, one, other), cross_rate(rates, other, one)
                self.assertAlmostEqual(float(there * back), 1, delta=0.001)
                by_euro = cross_rate(rates, one, "EUR") * rates[other]
                self.assertAlmostEqual(float(by_euro / there), 1, delta=0.001)

    def test_by_hand(self):
        rates = {"SEK": Decimal("11.20"), "GBP": Decimal("0.85")}
        self.assertEqual(cross_rate(rates, "SEK", "EUR"), Decimal("0.0892857"))
        self.assertEqual(cross_rate(rates, "EUR", "GBP"), Decimal("0.850000"))
        self.assertEqual(cross_rate(rates, "GBP", "SEK"), Decimal("13.176471"))
        self.assertIsNone(cross_rate(rates, "XTS", "EUR"))
        self.assertIsNone(cross_rate(rates, "EUR", "XTS"))

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.machine.quantities import QuantityError, parse_reading
from core.machine.tags import Tag, TagError, parse_tag

NUMBERS = st.integers(1, 999_999)
ALPHABET = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class Tags(TestCase):
    @given(NUMBERS)
    def test_a_tag_reads_back(self, number):
        tag = Tag(number)
        for text in (str(tag), str(tag).lower(), f"  {tag} ", tag.short, str(number), str(tag).replace("W-", "W")):
            self.assertEqual(parse_tag(text), tag)

    @given(NUMBERS, st.sampled_from(ALPHABET))
    def test_any_other_check_character_is_caught(self, number, character):
        tag = Tag(number)
        if character != tag.check:
            with self.assertRaises(TagError):
                parse_tag(f"{tag.short}-{character}")

    @given(NUMBERS, st.integers(0, 9), st.data())
    def test_one_digit_mistyped_is_caught(self, number, digit, data):
        tag = Tag(number)
        digits = list(f"{number:04d}")
        at = data.draw(st.integers(0, len(digits) - 1))
        if digits[at] != str(digit):
            digits[at] = str(digit)
            typed = "".join(digits)
            if int(typed):
                with self.assertRaises(TagError):
                    parse_tag(f"W-{typed}-{tag.check}")

    def test_other_words_are_no_tags(self):
        for text in ("", "Halden", "L-031", "W-", "W-0-1", "HM2-00118-7B", "0"):
            self.assertIsNone(parse_tag(text))


class Readings(TestCase):
    def test_the_same_reading_however_it_is_typed(self):
        for text in ("5.06", "5,06", " 5.06 V", "5060 mV", "0.00506 kV"):
            self.assertEqual(parse_reading(text, "V"), Decimal("5.06"))

    def test_another_unit_is_said(self):
        with self.assertRaisesRegex(QuantityError, "read in V; you typed A"):
            parse_reading("5 A", "V")

    def test_nonsense_is_refused(self):
        for text in ("", "five", "5.0.6", "V", "--5", "5 mm"):
            with self.subTest(text), self.assertRaises(QuantityError):
                parse_reading(text, "V")

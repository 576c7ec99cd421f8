"""Check characters against ISO/IEC 7064, worked independently of the library that the tags use."""

import random
from unittest import TestCase

from stdnum import grid
from stdnum.iso7064 import mod_37_36

from core.machine.tags import Tag

ALPHABET = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def hybrid_37_36(text: str) -> str:
    """ISO/IEC 7064:2003, hybrid system with moduli 37 and 36: written out from the recursion of the standard."""
    carry = 36
    for character in text:
        carry = (carry + ALPHABET.index(character)) % 36 or 36
        carry = carry * 2 % 37
    return ALPHABET[(37 - carry) % 36]


class CheckCharacters(TestCase):
    def test_every_tag_to_ten_thousand(self):
        for number in range(1, 10_000):
            self.assertEqual(Tag(number).check, hybrid_37_36(f"W{number:04d}"))

    def test_the_published_release_identifier(self):
        """A12425GABC1234002M: the example of the Global Release Identifier standard, which uses MOD 37,36."""
        self.assertEqual(hybrid_37_36("A12425GABC1234002"), "M")
        self.assertTrue(grid.is_valid("A12425GABC1234002M"))

    def test_python_stdnum_validates_every_printed_tag(self):
        dice = random.Random(7064)
        for number in dice.sample(range(1, 10**6), 2000):
            self.assertTrue(mod_37_36.is_valid(str(Tag(number)).replace("-", "")))

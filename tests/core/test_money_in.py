"""For which sale money came in."""

from decimal import Decimal
from unittest import TestCase

from core.machine.tags import Tag
from core.selling.money_in import OpenSale, plain, proposals

D = Decimal
ONE = OpenSale(1, 147, "2026-0012", "Ines Falk, Marrowick", D("150.00"))
TWO = OpenSale(2, 148, "2026-0013", "R. Moen", D("150.00"))
THREE = OpenSale(3, 14, "", "", D("80.00"))


class For(TestCase):
    def found(self, amount, who="", words=""):
        return [one.sales[0].key for one in proposals(D(amount), who, words, [ONE, TWO, THREE])]

    def test_by_tag_however_it_is_written(self):
        tag = str(Tag(147))
        for words in (tag, tag.lower(), "for W-0147 thanks", "W147", "w 0147,W-9", f"({tag})"):
            self.assertEqual(self.found("1", words=words), [1], words)
        wrong = tag[:-1] + ("A" if tag[-1] != "A" else "B")
        for words in ("XW-0147", "W-01479", wrong, "0147", ""):
            self.assertEqual(self.found("1", words=words), [], words)

    def test_by_receipt(self):
        self.assertEqual(self.found("1", words="Receipt 2026-0013"), [2])
        self.assertEqual(self.found("1", words="12026-0013 2026-00131"), [])

    def test_the_same_amount_is_proposed_and_nothing_tells_them_apart(self):
        found = proposals(D(150), "", "", [TWO, ONE])
        self.assertEqual([one.sales[0].key for one in found], [1, 2])
        self.assertFalse(plain(found))

    def test_a_name_tells_them_apart_and_is_not_enough_plain(self):
        found = proposals(D(150), "FALK INÉS", "", [ONE, TWO])
        self.assertEqual(found[0].reasons, ("exactly what is open", "the buyer’s name"))
        self.assertTrue(plain(found))
        self.assertEqual(self.found("7", who="Ines Falk"), [])
        # One with an initial only is named by the rest.
        self.assertEqual(self.found("150", who="Moen, Rolf")[0], 2)
        self.assertEqual(self.found("150", who="Moenius")[0], 1)

    def test_a_number_says_more_than_an_amount(self):
        found = proposals(D(150), "", f"for {Tag(14)}", [ONE, TWO, THREE])
        self.assertEqual([one.sales[0].key for one in found], [3, 1, 2])
        self.assertTrue(plain(found))

    def test_an_amount_from_another_name_is_not_plain(self):
        (found,) = proposals(D(80), "Rolf Moen", "", [THREE])
        self.assertEqual(found.reasons, ("exactly what is open",))
        self.assertFalse(plain([found]))
        (found,) = proposals(D(150), "Rolf Moen", "", [ONE])
        self.assertEqual(found.reasons, ("exactly what is open", "from another name"))
        self.assertFalse(plain([found]))

    def test_several_that_were_paid_together(self):
        four = OpenSale(4, 15, "", "INES FALK, Marrowick", D("20.50"))
        sales = [ONE, TWO, THREE, four]
        (found,) = proposals(D("170.50"), "Ines Falk", "both", sales)
        self.assertEqual([sale.key for sale in found.sales], [4, 1])
        self.assertEqual((found.owed, found.buyer), (D("170.50"), four.buyer))
        self.assertEqual(found.reasons, ("exactly what is open", "the buyer’s name"))
        self.assertTrue(plain([found]))
        self.assertEqual(found.tags, f"{Tag(15)}, {Tag(147)}")
        many = [OpenSale(n, n, "", "R. Moen", D(9)) for n in range(1, 6)]
        self.assertEqual(proposals(D(45), "", "", many)[0].tags, f"{Tag(1)}, {Tag(2)}, {Tag(3)} and 2 more")
        # Of two buyers, by their tags.
        found = proposals(D(230), "", f"{Tag(147)} and {Tag(14)}", sales)
        self.assertEqual([sale.key for sale in found[0].sales], [3, 1])
        self.assertEqual(found[0].reasons, ("their tag is named", "exactly what is open"))
        self.assertTrue(plain(found))
        # Another sum is for none of them together.
        self.assertEqual(proposals(D(170), "Ines Falk", "", sales), [])
        self.assertEqual([len(one.sales) for one in proposals(D(170), "", f"{Tag(147)} {Tag(14)}", sales)], [1, 1])

    def test_no_more_than_are_asked_for(self):
        many = [OpenSale(n, n, "", "", D(9)) for n in range(1, 9)]
        self.assertEqual([one.sales[0].unit for one in proposals(D(9), "", "", many)], [1, 2, 3])
        self.assertFalse(plain([]))

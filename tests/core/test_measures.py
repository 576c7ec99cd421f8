"""What was typed in another unit is seen: nothing real is refused, and what is ten or a thousand times off is."""

from decimal import Decimal

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from core.machine.casing import FormFactor
from core.machine.mains import read_plate
from core.machine.measures import size_doubt, weight_doubt
from core.selling.packing import Box, Size, box_doubt, closed_doubt

EDGES = st.tuples(*[st.integers(120, 900)] * 3)
# g/cm³ over the box around a machine: an empty cabinet, a full luggable.
DENSITY = st.floats(0.05, 2.0)
D = Decimal


class Typed(SimpleTestCase):
    @given(EDGES, DENSITY)
    def test_what_can_be_is_taken_and_in_another_unit_it_is_not(self, edges, density):
        """Edges in centimetres, or the weight in kilograms; both at once, and then no machine is that small."""
        grams = round(edges[0] * edges[1] * edges[2] / 1000 * density)
        self.assertEqual((weight_doubt(edges, grams), size_doubt(FormFactor.DESKTOP, edges)), ("", ""))
        in_cm, in_kg = tuple(max(1, round(edge / 10)) for edge in edges), max(1, round(grams / 1000))
        self.assertTrue(weight_doubt(edges, in_kg))
        self.assertTrue(size_doubt(FormFactor.DESKTOP, in_cm))

    def test_words_say_what_to_type(self):
        self.assertIn("Type grams: 9.4 kg are 9400", weight_doubt((300, 350, 320), 9))
        self.assertIn("heavier than any metal", weight_doubt((30, 35, 32), 9400))
        self.assertEqual(
            size_doubt(FormFactor.DESKTOP, (30, 35, 32)), "No desktop is that small. Type millimetres: 30 cm are 300."
        )

    def test_small_things_are_small(self):
        for form in (FormFactor.CHIP, FormFactor.CARD, FormFactor.BOARD, FormFactor.DRIVE, FormFactor.ADAPTER):
            self.assertEqual(size_doubt(form, (40, 14, 5)), "")
        self.assertEqual(weight_doubt((40, 14, 5), 4), "")

    def test_the_plate_of_an_adapter(self):
        self.assertEqual(read_plate("9 V DC 500 mA").amps, D("0.5"))
        for plate, words in (("9 V DC 500 A", "500 mA are 0.5"), ("230 V AC 1 A", "less than the mains")):
            with self.subTest(plate), self.assertRaisesRegex(ValueError, words):
                read_plate(plate)


class Boxes(SimpleTestCase):
    BOX = Box("half", Size(400, 400, 400), Size(410, 410, 410), 700)

    def test_a_box(self):
        self.assertEqual(box_doubt(self.BOX.outer, 700), "")
        self.assertIn("millimetres", box_doubt(Size(41, 41, 41), 50))
        self.assertIn("Type grams", box_doubt(Size(120, 40, 40), 700))

    def test_a_closed_parcel(self):
        self.assertEqual(closed_doubt(self.BOX, 9000, 9000), "")
        self.assertEqual(closed_doubt(self.BOX, 9000, 12_000), "")
        self.assertIn("alone weigh 9", closed_doubt(self.BOX, 9000, 8999))
        self.assertIn("no filling is that heavy", closed_doubt(self.BOX, 9000, 90_000))

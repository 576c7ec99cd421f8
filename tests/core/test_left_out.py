"""A caution that a record takes away is asked about."""

from unittest import TestCase

from core.bench.left_out import Inside, left_out
from core.machine.supply import Battery, Supply

MODEL = Inside(True, Battery.NICD, Supply.LINEAR)


class LeftOut(TestCase):
    def test_what_is_recorded_as_its_model_has_it_or_not_known_asks_nothing(self):
        for here in (MODEL, Inside(), Inside(True, Battery.LITHIUM, Supply.SWITCHING)):
            with self.subTest(here=here):
                self.assertEqual(left_out(MODEL, here), [])
        self.assertEqual(left_out(MODEL, Inside(None, Battery.OUT)), [])

    def test_what_its_model_has_and_it_has_not_is_asked_each(self):
        tube, battery, supply = left_out(MODEL, Inside(False, Battery.NONE, Supply.EXTERNAL_DC))
        self.assertEqual(tube, "Its model has a CRT, and none is recorded in it: nobody is asked to discharge it.")
        self.assertIn("nobody is asked to look for a leak", battery)
        self.assertIn("Its model has its PSU inside (linear", supply)

    def test_of_no_model_what_is_ticked_as_there_is_asked(self):
        none = Inside(False, Battery.NONE, Supply.NONE)
        self.assertEqual(left_out(Inside(), none), [])
        (tube,) = left_out(Inside(), none, ticked_tube=True)
        self.assertTrue(tube.startswith("What came with it has a CRT"))
        (battery,) = left_out(Inside(), none, ticked_battery=True)
        self.assertTrue(battery.startswith("What came with it has a battery"))

"""What buyers pay of what is asked, as far as it was seen."""

from unittest import TestCase

from core.selling.waiting import Exposure, Pace, learn


class Paid(TestCase):
    def test_the_mean_drawn_to_all_of_it(self):
        self.assertEqual(learn([]).paid, 1.0)
        seen = [Exposure(1.0, 2.0, True, 0.8), Exposure(1.0, 2.0, True, 0.9), Exposure(1.2, 5.0, False)]
        # (4 + 0.8 + 0.9) ÷ 6.
        found = learn(seen)
        self.assertAlmostEqual(found.paid, 0.95)
        self.assertEqual((found.off_in_100, Pace().off_in_100), (5, 0))
        # What others teach comes first; more than all is all.
        self.assertAlmostEqual(learn([Exposure(1.0, 1.0, True, 1.4)], found).paid, (4 * 0.95 + 1) / 5)

    def test_what_says_nothing_of_it_teaches_nothing_of_it(self):
        self.assertEqual(learn([Exposure(1.0, 2.0, True)] * 9).paid, 1.0)

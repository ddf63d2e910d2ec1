"""Weights recalibrated by cases whose end is known."""

import numpy as np
from django.test import SimpleTestCase

from assay.judge.recalibrate import recalibrated


class Recalibrated(SimpleTestCase):
    def drawn(self, *, twice: float = 1.0):
        """Weights of two bells 3 apart of width 1: their log likelihood ratio is exactly 3 x; ``twice``: overstated."""
        rng = np.random.default_rng(4)
        y = np.arange(600) % 2 == 0
        x = np.where(y, 1.5, -1.5) + rng.standard_normal(600)
        return twice * 3 * x * 10 / np.log(10), y, np.arange(600) % 7

    def test_overstated_weights_are_halved_and_cost_less_on_what_was_left_out(self):
        found = recalibrated(*self.drawn(twice=2.0))
        self.assertAlmostEqual(found.slope, 0.5, delta=0.06)
        self.assertLess(found.after, found.before)
        self.assertAlmostEqual(found.worth(found.weighs(13.0)), 13.0)

    def test_right_weights_stay_as_they_are(self):
        found = recalibrated(*self.drawn())
        self.assertAlmostEqual(found.slope, 1.0, delta=0.12)
        self.assertAlmostEqual(found.shift, 0.0, delta=1.0)

    def test_few_cases_and_one_side_only_recalibrate_nothing(self):
        self.assertIsNone(recalibrated([10.0] * 30, [True] * 30, range(30)))
        self.assertIsNone(recalibrated([10.0] * 100, [True] * 95 + [False] * 5, range(100)))

    def test_sides_that_never_overlap_keep_a_finite_slope(self):
        x = np.r_[np.full(50, 20.0), np.full(50, -20.0)]
        found = recalibrated(x, x > 0, np.arange(100) % 3)
        self.assertTrue(0 < found.slope < 10)

    def test_crude_copies_of_one_batch_and_honest_outcomes_move_no_threshold(self):
        """Sixty genuine pairs and fifteen crude copies once moved the thresholds so that 57 % of good copies passed."""
        rng = np.random.default_rng(8)
        x, y = np.r_[rng.normal(15, 6, 60), rng.normal(-70, 20, 15)], np.arange(75) < 60
        self.assertIsNone(recalibrated(x, y, ["ours"] * 60 + ["Bowline"] * 15))
        found = recalibrated(x, y, ["ours"] * 60 + [f"batch {n % 3}" for n in range(15)])
        self.assertEqual((found.threshold(13.0), found.threshold(-20.0)), (13.0, -20.0))

    def test_a_threshold_only_moves_outwards_and_to_twice_at_most(self):
        found = recalibrated(*self.drawn(twice=2.0))
        self.assertTrue(found.is_better)
        self.assertLess(found.gain[0], found.before - found.after)
        for meant in (13.0, -20.0):
            self.assertGreaterEqual(found.threshold(meant) / meant, 1.0)
            self.assertLess(found.threshold(meant) / meant, 2.01)

"""Predictive distributions against published and computed values."""

import numpy as np
from django.test import SimpleTestCase
from scipy.stats import t as student

from assay.errors import CannotJudge
from assay.judge import spread


class ContinuousSpread(SimpleTestCase):
    def test_without_prior_it_is_the_textbook_prediction_interval(self):
        """Montgomery & Runger, U-700 alloy: n = 22, mean 13.71, s = 3.55 give (6.16, 21.26).

        Inputs and the printed interval from memory; 6.1614 and 21.2586 computed with scipy.
        """
        shape = np.tile([-1.0, 1.0], 11)
        values = 13.71 + shape * 3.55 * np.sqrt(21 / 22)
        low, high = spread.continuous(values, prior_scatter=0, prior_pairs=0).interval(0.95)
        self.assertAlmostEqual(low, 6.1614, delta=5e-4)
        self.assertAlmostEqual(high, 21.2586, delta=5e-4)

    def test_flat_prior_limit_of_the_conjugate_normal_model(self):
        """x = 10.2 9.9 10.4 10.1 10.3: the 95 % predictive interval is (9.59497, 10.76503), computed with scipy."""
        found = spread.continuous([10.2, 9.9, 10.4, 10.1, 10.3], prior_scatter=0, prior_pairs=0).interval(0.95)
        np.testing.assert_allclose(found, (9.59497, 10.76503), atol=1e-5)

    def test_density_and_tails_are_those_of_scipy(self):
        known = spread.continuous([2.1, 2.2, 2.15], prior_scatter=0.05, prior_pairs=4, uncertainty=0.02)
        frozen = student(known.dof, known.centre, known.scale)
        self.assertAlmostEqual(known.density(2.3), frozen.pdf(2.3), places=10)
        self.assertAlmostEqual(known.tail_probability(2.3), 2 * frozen.sf(2.3), places=10)

    def test_too_good_departs_as_far_as_too_bad(self):
        known = spread.continuous([2.0, 2.2], prior_scatter=0.1, prior_pairs=4)
        self.assertAlmostEqual(known.tail_probability(known.centre - 1), known.tail_probability(known.centre + 1))

    def test_one_pair_widens_by_root_two_and_unsure_readings_widen_further(self):
        sure = spread.continuous([5.0], prior_scatter=0.3, prior_pairs=6)
        unsure = spread.continuous([5.0], prior_scatter=0.3, prior_pairs=6, uncertainty=0.4)
        self.assertAlmostEqual(sure.scale, 0.3 * 2**0.5)
        self.assertAlmostEqual(unsure.scale, (2 * 0.09 + 0.16) ** 0.5)

    def test_nothing_known_is_said_not_guessed(self):
        for values, reason in (([], "no_retail_pairs"), ([1.0], "no_scatter_known")):
            with self.assertRaises(CannotJudge) as caught:
                spread.continuous(values, prior_scatter=0, prior_pairs=0)
            self.assertEqual(caught.exception.reason, reason)


class CountedSpread(SimpleTestCase):
    def test_posterior_mean_of_the_dirichlet(self):
        """Hand-computed: prior worth 2 pairs with .98 on 11, seen 11, 11, 12: (2 × .98 + 2) / 5 and so on."""
        known = spread.counts([11, 11, 12], prior_pairs=2, off_by_one=0.0099)
        self.assertAlmostEqual(known.probability(12), (2 * 0.0099 + 1) / 5)
        self.assertAlmostEqual(sum(known.probabilities.values()), 1)

    def test_a_count_never_seen_far_off_is_rarer_than_a_neighbour(self):
        known = spread.counts([7, 7, 7], prior_pairs=2, off_by_one=0.01)
        tails = [known.tail_probability(count) for count in (7, 8, 9, 10, 40)]
        self.assertEqual(tails, sorted(tails, reverse=True))
        self.assertEqual(tails[0], 1)

    def test_answers_keep_their_rare_ones_rare(self):
        known = spread.answers(["a", "a", "b"], possible=["a", "b", "c"], prior_pairs=2, rare={"c": 0.02})
        self.assertAlmostEqual(known.probability("c"), 2 * 0.02 / 5)
        self.assertAlmostEqual(known.tail_probability("b"), known.probability("b") + known.probability("c"))

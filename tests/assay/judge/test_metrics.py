"""How good likelihood ratios are: Cllr, its least, calibration; the words for a weight; prior odds."""

import math

import numpy as np
from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.judge.metrics import calibration_error, cllr, cllr_min
from assay.judge.prior import CAP, prior_odds
from assay.judge.verbal import in_words

# Likelihood ratios of the first and of the second hypothesis, Cllr, Cllr_min: by the package lir 1.3.1.
LIR = (
    ([1.0] * 5, [1.0] * 5, 1.0, 1.0),
    ([10.0], [0.1], 0.137504, 0.0),
    ([100.0, 10.0, 2.0, 0.5], [0.01, 0.1, 0.5, 3.0], 0.632326, 0.5),
    ([0.1], [10.0], 3.459432, 1.0),
    ([2.0] * 5, [2.0] * 5, 1.084963, 1.0),
    ([5.0, 5.0, 5.0, 0.2], [5.0, 0.2, 0.2, 0.2], 0.843516, 0.811278),
)


class Metrics(SimpleTestCase):
    def test_cllr_and_its_least_are_lir_s(self):
        for ours, theirs, cost, least in LIR:
            with self.subTest(ours=ours):
                self.assertAlmostEqual(cllr(np.log10(ours), np.log10(theirs)), cost, places=6)
                self.assertAlmostEqual(cllr_min(np.log10(ours), np.log10(theirs)), least, places=6)

    def test_a_perfect_weight_costs_nothing_and_a_huge_one_does_not_overflow(self):
        self.assertLess(cllr([400.0], [-400.0]), 1e-12)
        self.assertGreater(cllr([-400.0], [400.0]), 1000)

    def test_calibration_error_of_a_worked_example(self):
        """Ten forecasts in five bins of equal width: .195 (worked by hand)."""
        said = [0.95, 0.9, 0.85, 0.85, 0.65, 0.55, 0.3, 0.35, 0.1, 0.05]
        self.assertAlmostEqual(calibration_error(said, [1, 1, 1, 0, 1, 0, 0, 1, 0, 0], 5), 0.195)

    def test_words_follow_the_ratio_whichever_way_it_points(self):
        """ENFSI 2015, example scale, from memory; a boundary takes the stronger word."""
        for decibans, words in ((2.9, "no support"), (3.1, "weak"), (10, "moderate"), (-20, "moderately strong"),
                                (30, "strong"), (-40, "very strong"), (60, "extremely strong")):  # fmt: skip
            self.assertTrue(in_words(decibans).startswith(words), (decibans, in_words(decibans)))
        with self.assertRaises(ValueError):
            in_words(math.nan)


class Prior(SimpleTestCase):
    def test_prior_and_evidence_meet_in_bayes_theorem_only(self):
        """Altman & Bland, BMJ 1994: 258 to 86 before, a likelihood ratio of 2.40625, 231 to 32 after."""
        odds = prior_odds(copies=85, retail=254)
        self.assertAlmostEqual(odds.share, 86 / 344)
        self.assertAlmostEqual(odds.after(10 * math.log10(2.40625)), 231 / (231 + 32), places=6)

    def test_circumstances_are_named_capped_and_known(self):
        retail, copies = {"usual": 0.9, "far": 0.001}, {"usual": 0.4, "far": 0.5}
        odds = prior_odds(circumstances=[("price", retail, copies, "far")])
        self.assertEqual(odds.named, (("price", -CAP),))
        with self.assertRaises(CannotJudge):
            prior_odds(circumstances=[("price", retail, copies, "never heard")])

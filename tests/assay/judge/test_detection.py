"""Telling apart, and how sure one may be of a share: against published formulas and worked by hand."""

from django.test import SimpleTestCase

from assay.judge.detection import brier, detection, jeffreys, of_rates, reliability, wilson


class Detected(SimpleTestCase):
    def test_d_prime_of_eight_hits_and_two_false_alarms_in_ten(self):
        # Normal quantiles of .8 and .2: 2 × 0.841621.
        self.assertAlmostEqual(of_rates(0.8, 0.2)[0], 1.683242, places=5)
        # A line drawn too far to the left: yes to nearly everything.
        self.assertLess(of_rates(0.95, 0.7)[1], 0)

    def test_all_answers_alike_are_not_infinitely_good(self):
        # Hautus 1995, by hand: (10.5/11, 0.5/11) -> 2 × 1.690622.
        found = detection(10, 10, 0, 10)
        self.assertAlmostEqual(found.d_prime, 3.381243, places=4)
        self.assertEqual(detection(10, 10, 10, 10).d_prime, 0)
        self.assertIsNone(detection(3, 3, 0, 0))

    def test_intervals_of_a_share(self):
        # statsmodels 0.15.0 proportion_confint(1, 10, method="wilson" and "jeffreys").
        self.assertEqual([round(one, 6) for one in wilson(1, 10)], [0.017876, 0.404150])
        self.assertEqual([round(share, 6) for share in jeffreys(1, 10)], [0.011012, 0.381315])
        self.assertEqual((wilson(0, 0), jeffreys(0, 5)[0], jeffreys(5, 5)[1]), ((0.0, 1.0), 0.0, 1.0))

    def test_sureness_held_against_what_was_so(self):
        # Brier (0.1² + 0.4² + 0.3²) / 3.
        self.assertAlmostEqual(brier([0.9, 0.6, 0.3], [1, 1, 0]), 0.26 / 3)
        self.assertEqual(reliability([0.9, 0.9, 0.1], [1, 0, 0]), [(0.1, 0.0, 1), (0.9, 0.5, 2)])

"""Patterns of holes laid on each other."""

import doctest
from unittest import TestCase

import numpy as np

from assay import contracts
from assay.register import point_pattern as pattern
from assay.register.point_pattern import match_pattern
from tests.support.pictures import vents


def placed(points, turn=0.05, shift=(3, -2), noise=0.6):
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    return points @ spin.T + shift + np.random.default_rng(3).normal(0, noise, points.shape)


class Patterns(TestCase):
    def test_examples(self):
        for module in (pattern, contracts):
            self.assertEqual(doctest.testmod(module).failed, 0)

    def test_the_missing_and_the_extra_hole_are_named_wherever_they_are(self):
        theirs = vents()
        for n in range(len(theirs)):
            ours = np.vstack([np.delete(theirs, n, axis=0), theirs[n] + [0, 60]])
            found = match_pattern(theirs, placed(ours))
            np.testing.assert_allclose(found.missing, placed(theirs, noise=0)[[n]], atol=1.5)
            self.assertEqual(found.extra, (len(ours) - 1,))

    def test_an_equal_pattern_has_neither_and_its_scatter_is_told(self):
        found = match_pattern(vents(), placed(vents()))
        self.assertEqual((len(found.missing), found.extra), (0, ()))
        self.assertAlmostEqual(found.rms_residual, 0.6 * 2**0.5, delta=0.25)

    def test_too_few_partners_are_no_pattern(self):
        self.assertIsNone(match_pattern(vents()[:2], vents()))
        self.assertIsNone(match_pattern(vents(), vents() + 500))

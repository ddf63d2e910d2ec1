"""Periods and places, on signals whose truth is known."""

from unittest import TestCase

import numpy as np

from assay.stitches.periodic_row import choose_places
from assay.stitches.periods import energy_at, periods_of, repeating


def strip(signal: np.ndarray, rows: int = 15, noise: float = 0.3) -> np.ndarray:
    """A strip (1, rows, T) that shows the signal on its middle rows."""
    values = np.random.default_rng(5).normal(0, noise, (1, rows, len(signal)))
    values[0, rows // 2 - 2 : rows // 2 + 3] += signal - signal.mean()
    return values


class Periods(TestCase):
    def test_two_pits_a_stitch_are_one_stitch(self):
        """Thread of the panel's own colour shows as two needle pits a stitch: the period is the stitch, not the pit."""
        t = np.arange(600)
        pits = -sum(np.exp(-(((t % 24) - place) ** 2) / 4) for place in (8, 15))
        shown = strip(2 * pits)
        period, _ = periods_of(shown, 200)[0]
        self.assertAlmostEqual(period, 24, delta=0.3)
        self.assertGreater(repeating(shown, period), 0.3)

    def test_the_period_is_found_between_pixels_and_not_its_double(self):
        t = np.arange(700)
        period, _ = periods_of(strip(np.cos(2 * np.pi * t / 17.4)), 230)[0]
        self.assertAlmostEqual(period, 17.4, delta=0.15)

    def test_noise_repeats_nowhere(self):
        noise = strip(np.zeros(500))
        self.assertLess(max(repeating(noise, period) for period in range(5, 160)), 0.15)

    def test_the_energy_of_a_wave_lies_at_its_period_and_is_a_quarter_of_its_square(self):
        """A cosine of amplitude a is a/2 at plus and at minus its frequency: a²/4 at either (Parseval)."""
        wave = 3 * np.cos(2 * np.pi * np.arange(8000) / 20)[None, None]
        at, aside = energy_at(wave, [20, 27], 40).ravel()
        self.assertAlmostEqual(at, 9 / 4, delta=0.05)
        self.assertLess(aside, 0.01)


class Places(TestCase):
    def beats(self, at, length=500):
        t = np.arange(length)[:, None]
        return np.exp(-((t - np.asarray(at)) ** 2) / 10).max(1)

    def test_uneven_places_are_all_taken(self):
        at = 40 + 20 * np.arange(20) + np.random.default_rng(1).integers(-2, 3, 20)
        np.testing.assert_allclose(choose_places(self.beats(at), 20.0), at, atol=1)

    def test_a_missing_one_leaves_a_gap_and_is_not_invented(self):
        at = np.delete(40 + 20 * np.arange(20), 11)
        self.assertEqual(choose_places(self.beats(at), 20.0), at.tolist())

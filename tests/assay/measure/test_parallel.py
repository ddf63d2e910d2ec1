"""Two lines along a traced gap: exact distances, drift, a place where they meet, and what is refused."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import linear_to_srgb
from assay.measure import parallel

FINE, WIDTH, HEIGHT = 8, 700, 120


def lines(apart=24.5, drift=0.0, dip=0.0, ink=0.18, *, second=True):
    """An upper panel edge (a step) and a lower thin dark line, ``apart`` px below it; ``drift`` px more at the end."""
    x = np.arange(WIDTH * FINE) / FINE
    edge = 48.3 + 4 * np.sin(x / 190)
    below = edge + apart + drift * x / WIDTH - dip * np.exp(-0.5 * ((x - 400) / 25) ** 2)
    y = np.arange(HEIGHT * FINE)[:, None] / FINE
    light = np.where(y < edge, 0.55, 0.4)
    if second:
        light = np.where(np.abs(y - below - 2) < 2, ink, light)
    small = cv2.GaussianBlur(cv2.resize(light, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA), (0, 0), 1.0)
    small = small + np.random.default_rng(3).normal(0, 0.006, small.shape)
    return np.repeat(np.round(linear_to_srgb(small)).astype(np.uint8)[..., None], 3, axis=2)


def read(rgb, mm_per_px=0.12, middle=60.0):
    trace = tuple((x, middle + 4 * np.sin(x / 190) + 1.5 * np.cos(x / 40)) for x in np.arange(40.0, 660, 31))
    return parallel.measure(Picture(rgb, mm_per_px), Marks(MarkKind.PATH, trace))


class Parallel(SimpleTestCase):
    def test_the_distance_is_the_one_that_was_drawn_though_the_trace_wobbles(self):
        """Analytic: 24.5 px between step and line, 2.94 mm at 0.12 mm a pixel. Asked: 0.3 mm."""
        found = read(lines())
        self.assertAlmostEqual(found.value, 2.94, delta=0.06)
        self.assertAlmostEqual(found.parts["drift_mm"], 0, delta=0.05)
        self.assertLess(found.parts["scatter_mm"], 0.06)

    def test_a_row_that_drifts_is_told_by_how_much(self):
        """6 px over 700, of which 620 are traced."""
        found = read(lines(drift=6.0))
        self.assertAlmostEqual(found.parts["drift_mm"], 6 * 620 / 700 * 0.12, delta=0.08)

    def test_the_place_where_it_comes_nearest_counts(self):
        found = read(lines(dip=9.0))
        self.assertAlmostEqual(found.parts["least_mm"], (24.5 - 9) * 0.12, delta=0.25)
        self.assertAlmostEqual(found.parts["most_mm"], 2.94, delta=0.08)

    def test_a_gap_with_a_line_on_one_side_only_is_refused(self):
        with self.assertRaises(CannotMeasure) as caught:
            read(lines(second=False))
        self.assertEqual(caught.exception.reason, "no_line_beside")

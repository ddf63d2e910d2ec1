"""Hole counts on a real photograph, on drawn discs, on simulated leather."""

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data

from assay.contracts import CORRECTED_BY_HAND, MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import linear_to_srgb
from assay.measure import holes
from assay.simulator.swatch import hole_swatch
from tests.assay.measure.pictures import discs
from tests.bench import drawn_rows


def whole(picture, margin=2):
    width, height = picture.size
    low, right, bottom = margin, width - margin - 1, height - margin - 1
    return Marks(MarkKind.REGION, ((low, low), (right, low), (right, bottom), (low, bottom)))


class CountingHoles(SimpleTestCase):
    def test_real_photograph_of_coins(self):
        """scikit-image's ``coins`` (303 × 384) shows 24 coins, bright on dark, under uneven light, counted by eye."""
        coins = Picture(np.repeat(data.coins()[..., None], 3, 2))
        self.assertEqual(holes.measure(coins, whole(coins), bright=True).value, 24)

    def test_drawn_lattice_is_counted_and_its_diameter_found(self):
        centres = [(60 + 45 * c, 60 + 50 * r) for r in range(4) for c in range(7)]
        reading = holes.measure(discs(centres, 8.0), whole(discs([], 1)))
        self.assertEqual(reading.value, 28)
        self.assertAlmostEqual(reading.parts["diameter_mm"], 1.6, delta=0.06)
        found = np.array([stroke.points[0] for stroke in reading.overlay])
        self.assertLess(max(np.hypot(*(found - c).T).min() for c in centres), 0.6)

    def test_a_hole_is_as_wide_as_it_is_drawn_however_soft_its_rim(self):
        """A root of light is steepest inside the rim: two pixels of a diameter were lost, claimed to a tenth of it."""
        fine, radius = 8, 11.3
        y, x = np.mgrid[0 : 120 * fine, 0 : 300 * fine] / fine
        light = np.full(x.shape, 0.4, np.float32)
        for middle in (50, 120, 190, 250):
            light[np.hypot(x - middle, y - 60) < radius] = 0.01
        for soft in (0.6, 1.2):
            small = cv2.GaussianBlur(cv2.resize(light, (300, 120), interpolation=cv2.INTER_AREA), (0, 0), soft)
            rgb = np.repeat(linear_to_srgb(small).round().astype(np.uint8)[..., None], 3, axis=2)
            parts = holes.measure(Picture(rgb), whole(Picture(rgb))).parts
            self.assertAlmostEqual(parts["diameter_px"], 2 * radius, delta=0.4)
            self.assertLess(abs(parts["diameter_px"] - 2 * radius), 2 * parts["diameter_px_uncertainty"])

    def test_only_holes_inside_the_region_count(self):
        centres = [(60, 60), (160, 60), (260, 60), (160, 220)]
        region = Marks(MarkKind.REGION, ((20, 20), (310, 20), (310, 110), (20, 110)))
        self.assertEqual(holes.measure(discs(centres, 9.0), region).value, 3)

    def test_simulated_leather_with_a_missing_hole(self):
        for seed in range(5):
            swatch = hole_swatch("realistic", seed)
            marks = Marks(MarkKind.REGION, tuple(map(tuple, swatch.marks)))
            reading = holes.measure(Picture(swatch.rgb, swatch.mm_per_px), marks)
            self.assertEqual(reading.value, len(swatch.centres))

    def test_dents_and_laced_holes_are_counted_by_how_alike_they_look_and_the_reading_says_so(self):
        for kind in ("shallow", "laced"):
            for level in ("easy", "realistic"):
                picture = drawn_rows.holes(level, 1, kind)
                marks = Marks(MarkKind.REGION, tuple(map(tuple, picture.marks)))
                reading = holes.measure(Picture(picture.rgb, drawn_rows.MM_PER_PX), marks)
                self.assertEqual(reading.value, len(picture.centres))
                self.assertIn("by_likeness", reading.doubts)
                self.assertNotIn("roundness_ratio", reading.parts)

    def test_roundness_is_short_over_long_diameter_and_darkness_the_light_that_is_lost(self):
        for squeeze in (1.0, 0.85, 0.7):
            picture = discs([(70 * c, 60 * r / squeeze) for r in (1, 2) for c in (1, 2, 3, 4)], 16.0)
            pressed = np.ascontiguousarray(cv2.resize(picture.rgb, None, fx=1, fy=squeeze)[: int(300 * squeeze)])
            # The discs lie evenly once pressed; their height has shrunk with the picture.
            parts = holes.measure(Picture(pressed), whole(Picture(pressed))).parts
            self.assertAlmostEqual(parts["roundness_ratio"], squeeze, delta=0.03)
            self.assertAlmostEqual(parts["darkness_ratio"], 1 - 45 / 180, delta=0.05)


class Refusing(SimpleTestCase):
    def test_regions_that_hold_nothing_or_lie_wrong_are_refused(self):
        picture = discs([], 5)
        cases = [
            (((10, 10), (200, 10), (200, 200), (10, 200)), "no_holes_found"),
            (((10, 10), (20, 20)), "region_too_small"),
            (((10, 10), (12, 10), (12, 12)), "region_too_small"),
            (((-5, 10), (200, 10), (200, 200)), "marks_off_picture"),
        ]
        for points, reason in cases:
            with self.assertRaises(CannotMeasure) as caught:
                holes.measure(picture, Marks(MarkKind.REGION, points))
            self.assertEqual(caught.exception.reason, reason)

    def test_a_correction_keeps_the_size_of_real_rims(self):
        picture = discs([(60, 60), (160, 60), (260, 60)], 9.0)
        reading = holes.rebuild(picture, whole(picture), [(60, 60), (160, 61)])
        self.assertEqual((reading.value, reading.doubts), (2, (CORRECTED_BY_HAND,)))
        self.assertAlmostEqual(reading.overlay[0].radius_px, 9.0, delta=0.5)

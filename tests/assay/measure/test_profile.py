"""Gauges off a rim: drawn heels of known widths, and what must not change them."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.measure import profile
from tests.bench.drawn import MM_PER_PX, heel, shoe


def read(measure, picture, rgb=None, region=None, mm_per_px=MM_PER_PX):
    region = picture.region if region is None else region
    marks = Marks(MarkKind.REGION, tuple(map(tuple, region)))
    return measure(Picture(picture.rgb if rgb is None else rgb, mm_per_px), marks)


class Profile(SimpleTestCase):
    def test_collar_waist_and_base_are_as_wide_as_they_were_drawn(self):
        for picture in (heel("easy", 0), heel("realistic", 1)):
            parts = read(profile.measure_rear, picture).parts
            for name, true in picture.truth.items():
                self.assertAlmostEqual(parts[name], true, delta=0.3, msg=name)
            widths = picture.truth
            ratio = widths["waist_mm"] / ((widths["collar_mm"] + widths["base_mm"]) / 2)
            self.assertAlmostEqual(parts["hourglass_ratio"], ratio, delta=0.006)

    def test_the_heels_arc_and_the_collars_dip_are_as_they_were_drawn(self):
        for radius, dip in ((90, 25), (200, 12)):
            drawn = _drawn_side(radius, dip)
            for flipped in (False, True):
                rgb = np.ascontiguousarray(drawn[:, ::-1]) if flipped else drawn
                height, width = rgb.shape[:2]
                region = np.array([(5, 5), (width - 6, 5), (width - 6, height - 6), (5, height - 6)])
                parts = read(profile.measure_side, None, rgb, region, 0.25).parts
                self.assertAlmostEqual(parts["heel_radius_mm"], radius, delta=parts["heel_radius_mm_uncertainty"])
                self.assertAlmostEqual(parts["heel_bow_mm"], radius - np.sqrt(radius**2 - 25**2), delta=0.15)
                self.assertAlmostEqual(parts["collar_dip_mm"], dip, delta=0.9)

    def test_a_right_shoe_reads_as_its_mirror_image_does(self):
        picture = shoe("easy", 3)
        width = picture.rgb.shape[1]
        flipped = np.ascontiguousarray(picture.rgb[:, ::-1])
        region = picture.region * [-1, 1] + [width - 1, 0]
        left = read(profile.measure_side, picture).parts
        right = read(profile.measure_side, picture, flipped, region).parts
        for name in profile.MEASURES[0].parts:
            off = max(0.25, left.get(f"{name}_uncertainty", 0))
            self.assertAlmostEqual(left[name], right[name], delta=off, msg=name)

    def test_a_shoe_put_down_crooked_is_set_level(self):
        """The same shoe in other leanings, lights and skins (other seeds)."""
        read_ones = [
            read(profile.measure_side, shoe(level, seed)).parts for level, seed in (("easy", 3), ("realistic", 8))
        ]
        for name in ("length_mm", "height_mm", "toe_10_mm"):
            self.assertAlmostEqual(read_ones[0][name], read_ones[1][name], delta=0.4, msg=name)

    def test_without_a_scale_ratios_and_angles_stay(self):
        found = read(profile.measure_rear, heel("easy", 0), mm_per_px=None)
        self.assertEqual(found.unit, "px")
        self.assertIn("hourglass_ratio", found.parts)
        self.assertFalse([name for name in found.parts if name.endswith("_mm")])


def _drawn_side(radius, dip, mm_per_px=0.25, finer=4):
    """A level shoe of plain curves, toe to the left: the heel's back an arc, the collar a parabola between two tops."""
    high, t = np.linspace(0, 110, 200), np.linspace(0, 1, 60)
    back = np.stack([292 + np.sqrt(radius**2 - (high - 50) ** 2) - radius, high], 1)
    collar = np.stack([back[-1, 0] + (175 - back[-1, 0]) * t, 110 + 15 * t - 4 * dip * t * (1 - t)], 1)
    x = np.linspace(175, 0, 100)
    vamp = np.stack([x, 30 + 95 * (x / 175) ** 1.4], 1)
    points = np.vstack([[(0, 6), (3, 0)], back, collar, vamp]) * [1, -1]
    points = (points - points.min(0) + 25) / mm_per_px
    width, height = (points.max(0) + 100).astype(int)
    large = np.full((height * finer, width * finer), 215, np.uint8)
    cv2.fillPoly(large, [np.round((points + 0.5) * finer - 0.5).astype(np.int32)], 60)
    grey = cv2.GaussianBlur(cv2.resize(large, (width, height), interpolation=cv2.INTER_AREA), (0, 0), 1)
    noise = np.random.default_rng(0).normal(0, 2, (height, width, 3))
    return (grey[..., None] + noise).clip(0, 255).astype(np.uint8)

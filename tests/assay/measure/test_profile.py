"""Gauges off a rim: drawn heels of known widths, and what must not change them."""

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

    def test_a_right_shoe_reads_as_its_mirror_image_does(self):
        picture = shoe("easy", 3)
        width = picture.rgb.shape[1]
        flipped = np.ascontiguousarray(picture.rgb[:, ::-1])
        region = picture.region * [-1, 1] + [width - 1, 0]
        left = read(profile.measure_side, picture).parts
        right = read(profile.measure_side, picture, flipped, region).parts
        for name in profile.SIDE_PARTS:
            self.assertAlmostEqual(left[name], right[name], delta=0.25, msg=name)

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

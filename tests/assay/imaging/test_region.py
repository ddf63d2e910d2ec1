"""Measures on a straightened region: the same row, photographed leaning."""

from unittest import TestCase

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.imaging.plane import Plane, scaled, through
from assay.imaging.region import measure_region
from assay.measure import holes, seam
from assay.simulator.swatch import hole_swatch, seam_swatch

ROW = seam.MEASURE.units
LEANING = np.array([[0.96, 0.05, 20], [-0.04, 0.98, 30], [1.2e-4, 1.6e-4, 1]])


class Regions(TestCase):
    def leaned(self, swatch):
        """The swatch through a leaning camera, its marks and the plane that a card would have given."""
        size = (swatch.rgb.shape[1] + 60, swatch.rgb.shape[0] + 60)
        rgb = cv2.warpPerspective(swatch.rgb, LEANING, size, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        plane = Plane(LEANING @ np.diag([1 / swatch.mm_per_px, 1 / swatch.mm_per_px, 1]), 0.01, "card")
        return Picture(rgb, swatch.mm_per_px), plane, through(LEANING, swatch.marks)

    def test_pitch_and_place_are_true_although_the_camera_leans(self):
        swatch = seam_swatch("easy", 2)
        picture, plane, marks = self.leaned(swatch)
        found = measure_region(seam.measure, picture, plane, Marks(MarkKind.PATH, tuple(map(tuple, marks))), units=ROW)
        self.assertEqual(found.value, len(swatch.centres))
        self.assertAlmostEqual(found.parts["pitch_mm"], swatch.pitch_mm, delta=0.01 * swatch.pitch_mm)
        centres = np.array([np.mean(stroke.points, axis=0) for stroke in found.overlay])
        self.assertLess(np.hypot(*(centres - through(LEANING, swatch.centres)).T).max(), 4)

    def test_the_scale_s_uncertainty_is_in_every_length(self):
        swatch = seam_swatch("easy", 2)
        marks = Marks(MarkKind.PATH, tuple(map(tuple, swatch.marks)))
        picture = Picture(swatch.rgb, swatch.mm_per_px)
        sure = measure_region(seam.measure, picture, scaled(swatch.mm_per_px, 0.0, "stand"), marks, units=ROW)
        unsure = measure_region(seam.measure, picture, scaled(swatch.mm_per_px, 0.02, "stand"), marks, units=ROW)
        own, pitch = sure.parts["pitch_mm_uncertainty"], sure.parts["pitch_mm"]
        self.assertAlmostEqual(unsure.parts["pitch_mm_uncertainty"], np.hypot(own, 0.02 * pitch))

    def test_points_put_right_by_hand_come_back_where_they_were_put(self):
        swatch = hole_swatch("easy", 3)
        picture, plane, marks = self.leaned(swatch)
        region = Marks(MarkKind.REGION, tuple(map(tuple, np.clip(marks, 0, np.array(picture.size) - 1))))
        wanted = through(LEANING, swatch.centres)
        found = measure_region(holes.rebuild, picture, plane, region, wanted.tolist(), units=holes.MEASURE.units)
        centres = np.array([stroke.points[0] for stroke in found.overlay])
        np.testing.assert_allclose(np.sort(centres, axis=0), np.sort(wanted, axis=0), atol=0.01)

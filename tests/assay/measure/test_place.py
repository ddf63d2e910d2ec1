"""Distances, angles and ratios of marked places: plane geometry, checkable by hand."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure.place import measure

SHEET = np.full((200, 300, 3), 128, np.uint8)


def read(*points, mm_per_px=0.5):
    return measure(Picture(SHEET, mm_per_px), Marks(MarkKind.PATH, points))


class Places(SimpleTestCase):
    def test_three_four_five(self):
        """A right triangle of sides 30, 40, 50 px at half a millimetre a pixel."""
        self.assertEqual(read((10, 10), (40, 50)).value, 25)
        corner = read((10, 50), (10, 10), (40, 10))
        self.assertAlmostEqual(corner.parts["angle_deg"], 90)
        self.assertAlmostEqual(corner.parts["ratio"], 40 / 30)
        sharp = read((40, 10), (10, 50), (10, 10))
        self.assertAlmostEqual(sharp.parts["angle_deg"], 36.8699, places=4)

    def test_four_places_are_two_distances(self):
        found = read((10, 10), (60, 10), (10, 100), (110, 100))
        self.assertAlmostEqual(found.parts["ratio"], 0.5)
        self.assertAlmostEqual(found.parts["angle_deg"], 0)

    def test_one_place_or_five_and_places_on_each_other_are_refused(self):
        for reason, places in (
            ("two_to_four_places", ((1, 1), (50, 1), (90, 5), (100, 50), (50, 90))),
            ("points_on_each_other", ((10, 10), (10, 10), (40, 50))),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                read(*places)
            self.assertEqual(caught.exception.reason, reason)

"""A reading where a machine put the marks is as unsure as it changes by what the carrying may be off."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import Marks, Picture
from assay.imaging.plane import scaled
from assay.measure.carried import CARRIED, CARRIED_MM, measured_on, measured_where_carried
from assay.measure.registry import MEASURES

STEP_MM = 0.1


def read(measure: str, *, rgb=None, carried=True):
    """The measure's own sample, on a plane of 0.1 mm a pixel."""
    entry = MEASURES[measure]
    sample = entry.sample()
    picture = Picture(sample.picture.rgb if rgb is None else rgb)
    how = measured_where_carried if carried else measured_on
    return how(entry, picture, scaled(STEP_MM, 0.001, "card"), None, sample.marks(entry.marks))


class Carried(SimpleTestCase):
    def test_no_number_is_surer_where_the_marks_were_carried(self):
        for measure in ("edge_distance", "colour", "seam", "contrast"):
            placed, carried = read(measure, carried=False), read(measure)
            self.assertEqual(placed.value, carried.value)
            self.assertGreaterEqual(carried.uncertainty, placed.uncertainty)
            self.assertIn(CARRIED, carried.doubts)

    def test_a_length_that_grows_along_the_part_is_as_unsure_as_the_place_makes_it(self):
        """Two edges that run apart by 1 in 5: .8 mm along them is .16 mm of distance; ±.10 was claimed once."""
        height, width = 400, 700
        x = np.arange(width)[None, :]
        y = np.arange(height)[:, None]
        band = (y > 100 - 0.1 * x) & (y < 200 + 0.1 * x)
        rgb = np.repeat(np.where(band, 60, 190).astype(np.uint8)[..., None], 3, axis=2)
        entry = MEASURES["edge_distance"]
        marks = Marks(entry.marks, ((250.0, 75.0), (250.0, 225.0)))
        plane = scaled(STEP_MM, 0.001, "card")
        placed = measured_on(entry, Picture(rgb), plane, None, marks)
        carried = measured_where_carried(entry, Picture(rgb), plane, None, marks)
        self.assertLess(placed.uncertainty, 0.08)
        self.assertGreater(carried.uncertainty, 0.15 * CARRIED_MM)

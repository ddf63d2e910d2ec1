"""The stand-in camera: seeded, and with the truth in the right place."""

import numpy as np
from django.test import SimpleTestCase

from assay.imaging.opening import decode
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph

COARSE = Camera(mm_per_px=0.35)


class CourtShoePhotograph(SimpleTestCase):
    def test_one_specification_gives_one_picture(self):
        self.assertEqual(photograph(CourtShoe(seed=5), COARSE).jpeg, photograph(CourtShoe(seed=5), COARSE).jpeg)

    def test_truth_points_at_dark_holes_on_both_feet(self):
        for foot in ("left", "right"):
            shot = photograph(CourtShoe(foot=foot, lace_holes=6), COARSE)
            grey = decode(shot.jpeg).mean(-1)
            centres = np.array(shot.truth["lace_holes"]["centres"]).round().astype(int)
            self.assertEqual(shot.truth["lace_holes"]["count"], 6)
            self.assertLess(max(grey[y, x] for x, y in centres), 0.5 * np.median(grey[grey > 150]))

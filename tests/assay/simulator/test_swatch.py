"""Swatches: the truth that the accuracy tables rest on."""

import numpy as np
from django.test import SimpleTestCase

from assay.simulator.swatch import DIFFICULTIES, hole_swatch, seam_swatch


class Swatches(SimpleTestCase):
    def test_the_same_seed_gives_the_same_swatch_and_another_seed_another(self):
        first, again, other = seam_swatch("realistic", 3), seam_swatch("realistic", 3), seam_swatch("realistic", 4)
        self.assertTrue(np.array_equal(first.rgb, again.rgb))
        self.assertFalse(first.rgb.shape == other.rgb.shape and np.array_equal(first.rgb, other.rgb))

    def test_marks_run_past_the_first_and_last_stitch_by_less_than_half_a_pitch(self):
        for difficulty in DIFFICULTIES:
            swatch = seam_swatch(difficulty, 5)
            pitch_px = swatch.pitch_mm / swatch.mm_per_px
            for mark, centre in ((swatch.marks[0], swatch.centres[0]), (swatch.marks[-1], swatch.centres[-1])):
                self.assertLess(np.hypot(*(mark - centre)), 1.1 * pitch_px + 4)
            gaps = np.hypot(*np.diff(swatch.centres, axis=0).T)
            self.assertAlmostEqual(gaps.mean(), pitch_px, delta=0.01 * pitch_px)

    def test_true_holes_are_dark_and_inside_the_region(self):
        for difficulty in DIFFICULTIES[:2]:
            swatch = hole_swatch(difficulty, 6)
            grey = swatch.rgb.mean(-1)
            low, high = swatch.marks.min(0), swatch.marks.max(0)
            self.assertTrue(((swatch.centres > low) & (swatch.centres < high)).all())
            at = swatch.centres.round().astype(int)
            self.assertLess(np.median(grey[at[:, 1], at[:, 0]]), 0.7 * np.median(grey))

"""A row's path is put to the row's ends where it was clicked on them, and stays where it was meant to end within."""

from unittest import TestCase

import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.measure.registry import MEASURES
from assay.simulator.swatch import seam_swatch
from assay.stitches.refine import GOES_ON, snapped_row


class Snapping(TestCase):
    def snapped(self, seed: int, room: int):
        """What a path reads that goes from a stitch's middle to another's, so many stitches from the row's ends."""
        swatch = seam_swatch("easy", seed)
        inner = np.array(swatch.centres)[room : len(swatch.centres) - room]
        clicked = tuple((float(x), float(y)) for x, y in inner[np.linspace(0, len(inner) - 1, 6).astype(int)])
        picture = Picture(swatch.rgb, swatch.mm_per_px)
        path, reading = snapped_row(
            lambda points: MEASURES["seam"].read(picture, Marks(MarkKind.PATH, tuple(points))), clicked
        )
        return clicked, path, reading, len(swatch.centres)

    def test_a_path_from_the_first_stitch_s_middle_to_the_last_one_s_counts_both(self):
        """Such paths were counted one short, and said so."""
        for seed in (1, 2, 6):
            _, _, reading, count = self.snapped(seed, 0)
            self.assertEqual(reading.value, count)
            self.assertNotIn(GOES_ON, reading.doubts)
            self.assertLess(reading.uncertainty, 0.3)

    def test_a_path_that_ends_within_its_row_stays(self):
        for seed in (2, 4, 6):
            clicked, path, reading, _ = self.snapped(seed, 3)
            self.assertEqual(path, clicked)
            self.assertIn(GOES_ON, reading.doubts)

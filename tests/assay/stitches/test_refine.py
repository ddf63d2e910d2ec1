"""A row's path is put to the row's ends where it was clicked on them, and stays where it was meant to end within."""

from unittest import TestCase

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.measure.registry import MEASURES
from assay.simulator.swatch import seam_swatch
from assay.stitches.refine import ENDS_EARLY, GOES_ON, snapped_row


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

    def test_a_path_that_was_carried_along_its_row_is_put_back(self):
        """By more than half a stitch: one end then lost a stitch, and the path went on past the other."""
        swatch = seam_swatch("easy", 6)
        centres = np.array(swatch.centres)
        step = np.diff(centres, axis=0).mean(0)
        path = np.vstack([centres[0] - step / 2, centres[3:-3:4], centres[-1] + step / 2]) + 0.7 * step
        picture = Picture(swatch.rgb, swatch.mm_per_px)

        def read(points):
            return MEASURES["seam"].read(picture, Marks(MarkKind.PATH, tuple(points)))

        drawn = tuple((float(x), float(y)) for x, y in path)
        self.assertEqual(read(drawn).value, len(centres) - 1)
        self.assertEqual(snapped_row(read, drawn)[1].value, len(centres))

    def test_a_worn_last_stitch_stays_a_doubt_where_the_path_is_put_to_the_other_end(self):
        """Snapped, such a row was counted one short, surely: a path moved along looks the same."""
        for seed in (0, 8):
            swatch = seam_swatch("easy", seed)
            centres = np.array(swatch.centres)
            step = centres[-1] - centres[-2]
            worn = np.zeros(swatch.rgb.shape[:2], np.uint8)
            cv2.circle(worn, tuple(centres[-1].astype(int).tolist()), int(0.62 * np.hypot(*step)), 255, -1)
            grain = np.random.default_rng(seed).normal(0, 5, swatch.rgb.shape)
            plain = np.clip(cv2.inpaint(swatch.rgb, worn, 3, cv2.INPAINT_TELEA) + grain, 0, 255)
            picture = Picture(np.where(worn[..., None] > 0, plain, swatch.rgb).astype(np.uint8), swatch.mm_per_px)
            begins = centres[0] + 0.2 * (centres[1] - centres[0])
            inner = centres[np.linspace(1, len(centres) - 1, 6).astype(int)]
            path = np.vstack([begins, inner, centres[-1] + 0.5 * step])
            _, reading = snapped_row(
                lambda points, picture=picture: MEASURES["seam"].read(picture, Marks(MarkKind.PATH, tuple(points))),
                tuple((float(x), float(y)) for x, y in path),
            )
            self.assertGreaterEqual(reading.uncertainty, 0.3)
            self.assertIn(ENDS_EARLY, reading.doubts)

    def test_a_path_that_ends_within_its_row_stays(self):
        for seed in (2, 4, 6):
            clicked, path, reading, _ = self.snapped(seed, 3)
            self.assertEqual(path, clicked)
            self.assertIn(GOES_ON, reading.doubts)

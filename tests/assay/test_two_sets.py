"""Two photographs of one panel: what differs is said once, what does not is not; sizes in pixels are never compared."""

from unittest import TestCase

import numpy as np

from assay.imaging.opening import Received
from assay.imaging.plane import scaled
from assay.pipeline.measure import PhotoFacts
from assay.pipeline.two_sets import OpenedForSet, compare_photos, match_sets, open_for_set
from tests.support.pictures import PANEL_MM, PANEL_STITCHES, lying, noise


def opened(rgb: np.ndarray) -> OpenedForSet:
    size = rgb.shape[1], rgb.shape[0]
    return open_for_set(Received(b"", "", size, None, None, ()), rgb, bar_mm=100.0)


class TwoSets(TestCase):
    def test_a_stitch_too_few_is_found_where_it_is_and_nothing_differs_between_two_pictures_of_one_panel(self):
        trusted, same, other = lying(), lying(noise=5), lying(stitches=PANEL_STITCHES - 1, noise=6)
        photos = [opened(rgb) for rgb in (trusted, same, other)]
        for rgb, photo, differing in ((same, photos[1], set()), (other, photos[2], {("seam", "")})):
            [(_, _, alignment)] = match_sets(photos[:1], [photo])
            told = compare_photos((trusted, photos[0]), (rgb, photo), alignment)
            found = {(row.measure, row.quantity) for row in told.readings if row.differs}
            self.assertEqual(found, differing)
            self.assertIn(("holes", ""), {(row.measure, row.quantity) for row in told.readings})
            self.assertFalse([row for row in told.readings if row.unit == "mm"], "no scale, no lengths")
            self.assertFalse(told.regions)

    def test_with_a_scale_on_both_lengths_are_compared(self):
        surface = scaled(PANEL_MM, 0.002, "stand")
        rgb = lying()
        photo = opened(rgb)
        photo = OpenedForSet(photo.features, PhotoFacts(PANEL_MM, surface=surface), photo.ultraviolet)
        [(_, _, alignment)] = match_sets([photo], [photo])
        told = compare_photos((rgb, photo), (rgb, photo), alignment)
        pitch = next(row for row in told.readings if row.quantity == "pitch_mm")
        self.assertAlmostEqual(pitch.first, 2.6, delta=0.03)
        self.assertFalse([row for row in told.readings if row.differs])
        self.assertFalse(told.regions, "one picture laid on itself")

    def test_photographs_that_show_nothing_in_common_are_not_matched_and_each_is_matched_once(self):
        photos = [opened(rgb) for rgb in (lying(), lying(noise=5), noise(600, 800))]
        matched = match_sets(photos[:1], photos)
        self.assertEqual(len(matched), 1)
        self.assertEqual(match_sets(photos[2:], photos[:2]), [])

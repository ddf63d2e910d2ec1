"""Marks carried from one photograph to another."""

from functools import cache

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotAlign
from assay.photo.align import align
from assay.photo.opening import decode
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph


@cache
def shot(seed, foot="left", turn=0.0):
    taken = photograph(CourtShoe(seed=seed, foot=foot), Camera(mm_per_px=0.3, turn_deg=turn, shift_mm=(4 * turn, turn)))
    return Picture(decode(taken.jpeg), taken.mm_per_px), taken.truth


class Aligning(SimpleTestCase):
    def test_a_known_warp_is_found_again(self):
        picture, _ = shot(1)
        known = np.array([[0.95, 0.06, 12.0], [-0.05, 0.97, 20.0]])
        moved = cv2.warpAffine(picture.rgb, known, picture.size, borderMode=cv2.BORDER_REPLICATE)
        found = align(picture, Picture(moved)).matrix
        corners = np.array([[200, 150], [900, 150], [900, 550], [200, 550]])
        off = (corners @ (found - known)[:, :2].T) + (found - known)[:, 2]
        self.assertLess(np.abs(off).max(), 1.5)

    def test_marks_land_within_a_millimetre_and_a_half_on_another_pair(self):
        reference, drawn = shot(1)
        other, truth = shot(2, turn=1.5)
        alignment = align(reference, other)
        for name in ("lace_holes", "vents", "heel_bar"):
            ends = [tuple(drawn[name]["centres"][k]) for k in (0, -1)]
            carried = alignment.carry(Marks(MarkKind.PATH, tuple(ends)), other.size)
            for point, wanted in zip(
                carried.points, (truth[name]["centres"][0], truth[name]["centres"][-1]), strict=True
            ):
                self.assertLess(np.hypot(*np.subtract(point, wanted)) * 0.3, 1.5)

    def test_the_other_foot_and_unrelated_pictures_are_refused(self):
        reference, _ = shot(1)
        rng = np.random.default_rng(2)
        noise = Picture(cv2.GaussianBlur(rng.integers(0, 255, (600, 900, 3), dtype=np.uint8), (0, 0), 2))
        coffee = Picture(np.ascontiguousarray(data.coffee()))
        for other, reason in (
            (shot(2, foot="right")[0], "mirrored"),
            (noise, "no_common_features"),
            (coffee, "no_common_features"),
        ):
            with self.assertRaises(CannotAlign) as caught:
                align(reference, other)
            self.assertEqual(caught.exception.reason, reason)

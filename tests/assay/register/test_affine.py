"""Marks carried from one photograph to another."""

from dataclasses import replace
from functools import cache

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotAlign
from assay.imaging.foreground import find_foreground
from assay.imaging.opening import decode
from assay.imaging.pyramid import pyramid_of
from assay.register.affine import align, by_landmarks, by_outline, similarity
from assay.register.features import features_of
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph


@cache
def shot(seed, foot="left", turn=0.0):
    taken = photograph(CourtShoe(seed=seed, foot=foot), Camera(mm_per_px=0.3, turn_deg=turn, shift_mm=(4 * turn, turn)))
    return Picture(decode(taken.jpeg), taken.mm_per_px), taken.truth


def offered(picture):
    pyramid = pyramid_of(picture.rgb)
    return features_of(pyramid, find_foreground(pyramid))


class Aligning(SimpleTestCase):
    def test_a_known_warp_is_found_again(self):
        picture, _ = shot(1)
        known = np.array([[0.95, 0.06, 12.0], [-0.05, 0.97, 20.0]])
        moved = cv2.warpAffine(picture.rgb, known, picture.size, borderMode=cv2.BORDER_REPLICATE)
        found = align(offered(picture), offered(Picture(moved))).matrix
        corners = np.array([[200, 150], [900, 150], [900, 550], [200, 550]])
        off = (corners @ (found - known)[:, :2].T) + (found - known)[:, 2]
        self.assertLess(np.abs(off).max(), 1.5)

    def test_marks_land_within_a_millimetre_and_a_half_on_another_pair(self):
        reference, drawn = shot(1)
        other, truth = shot(2, turn=1.5)
        alignment = align(offered(reference), offered(other))
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
                align(offered(reference), offered(other))
            self.assertEqual(caught.exception.reason, reason)

    def test_a_card_full_of_corners_beside_the_shoe_takes_no_features_from_it(self):
        """Of a shoe beside a card so few were left that honest shoes were not laid on."""
        picture, _ = shot(1)
        rng = np.random.default_rng(4)
        wide = cv2.copyMakeBorder(picture.rgb, 0, 340, 0, 0, cv2.BORDER_REPLICATE)
        noisy = np.kron(rng.integers(0, 2, (20, 40), dtype=np.uint8) * 255, np.ones((14, 14), np.uint8))
        card = np.array([[300, 700], [860, 700], [860, 980], [300, 980]]) * [1, 1]
        wide[700:980, 300:860] = noisy[..., None]
        pyramid = pyramid_of(wide)
        foreground = replace(find_foreground(pyramid, card.astype(float)), box=(0, 0, *pyramid.size))
        plain = pyramid_of(cv2.copyMakeBorder(picture.rgb, 0, 340, 0, 0, cv2.BORDER_REPLICATE))
        without = replace(find_foreground(plain), box=(0, 0, *plain.size))
        self.assertGreater(len(features_of(pyramid, foreground).points), 0.9 * len(features_of(plain, without).points))

    def test_by_outline_alone_a_shoe_is_laid_on_and_its_mirror_image_is_not(self):
        ours, theirs = offered(shot(1)[0]), offered(shot(2, turn=1.5)[0])
        laid = by_outline(ours, theirs)
        turned = by_outline(ours, offered(shot(2, foot="right")[0]))
        self.assertLess(laid.error_px * 0.3, 1.5)
        self.assertTrue(turned is None or turned.error_px > 4 * laid.error_px)

    def test_a_long_thing_that_fits_as_well_back_to_front_is_laid_on_by_no_outline(self):
        bar = pyramid_of(
            cv2.rectangle(np.full((600, 900, 3), 120, np.uint8), (300, 250), (700, 350), (230, 220, 200), -1)
        )
        same = features_of(bar, find_foreground(bar))
        self.assertIsNone(by_outline(same, same))

    def test_three_landmarks_lay_it_on_and_three_in_a_line_do_not(self):
        """Umeyama (1991), the paper's example, is in the doctest of ``similarity``; this is the affine map by hand."""
        ours, theirs = [(0, 0), (100, 0), (0, 100)], [(10, 20), (110, 30), (0, 120)]
        found = by_landmarks(ours, theirs)
        np.testing.assert_allclose(found.matrix, [[1, -0.1, 10], [0.1, 1, 20]], atol=1e-9)
        for places, reason in ((ours[:2], "too_few_landmarks"), ([(0, 0), (50, 0), (100, 0)], "landmarks_in_line")):
            with self.assertRaises(CannotAlign) as caught:
                by_landmarks(places, places)
            self.assertEqual(caught.exception.reason, reason)

    def test_a_similarity_is_found_again_and_never_a_mirror(self):
        """A known copy (scale 2.5, angle 0.7 rad, shift (10, -3)) is recovered to 1e-9."""
        rng = np.random.default_rng(3)
        points = rng.normal(size=(20, 2))
        known = np.c_[2.5 * np.array([[np.cos(0.7), -np.sin(0.7)], [np.sin(0.7), np.cos(0.7)]]), [10, -3]]
        np.testing.assert_allclose(similarity(points, points @ known[:, :2].T + known[:, 2]), known, atol=1e-9)
        mirrored = similarity(points, points * [-1, 1])
        self.assertGreater(np.linalg.det(mirrored[:, :2]), 0)

"""The contour on pictures drawn without the simulator: textures, uneven light, soft shadows."""

import cv2
import numpy as np
from django.test import SimpleTestCase
from scipy.spatial import cKDTree

from assay.compare.contour import even
from assay.contour.trace import contour_of, find_contour
from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import linear_to_srgb
from tests.bench.drawn import MM_PER_PX, heel, shoe


def seen(rgb, **more):
    return Picture(rgb, MM_PER_PX, **more)


def off_mm(contour, picture):
    return cKDTree(even(picture.outline_mm, 0.1)).query(contour.points * MM_PER_PX)[0]


class Rims(SimpleTestCase):
    def test_dark_pale_and_hardly_told_things_are_followed_to_a_fraction_of_a_millimetre(self):
        for picture in (heel("easy", 1), shoe("realistic", 2), heel("hard", 3)):
            contour = find_contour(seen(picture.rgb), picture.region)
            off = off_mm(contour, picture)
            self.assertLess(np.median(off), 0.12)
            self.assertLess(np.percentile(off, 95), 0.4)
            self.assertLess(contour.guessed, 0.05)

    def test_a_shadow_under_the_sole_does_not_draw_the_rim_off_it(self):
        for seed in (1207, 1222):
            picture = shoe("hard", seed)
            contour = find_contour(seen(picture.rgb), picture.region)
            off = off_mm(contour, picture)
            self.assertLess(off.max(), 0.5)

    def test_a_toe_in_the_grounds_own_tone_is_found_again_and_lines_on_the_ground_are_not_taken_for_a_rim(self):
        for level, seed in (("hard", 1257), ("hard", 299), ("easy", 1210), ("easy", 1525)):
            picture = shoe(level, seed)
            contour = find_contour(seen(picture.rgb), picture.region)
            off = off_mm(contour, picture)
            self.assertLess(off.max(), 0.5, seed)

    def test_a_rim_too_much_of_which_is_a_guess_is_refused(self):
        picture = shoe("hard", 1437)
        with self.assertRaises(CannotMeasure) as caught:
            contour_of(seen(picture.rgb), Marks(MarkKind.REGION, tuple(map(tuple, picture.region))))
        self.assertEqual(caught.exception.reason, "rim_unclear")

    def test_a_card_whose_edge_lies_in_the_region_is_neither_ground_nor_shoe(self):
        for level in ("realistic", "hard"):
            picture = heel(level, 4)
            (x, y), right = picture.region.min(0), (picture.outline_mm[:, 0].min() / MM_PER_PX)
            card = np.array([(x - 200, y - 50), (right - 20, y - 50), (right - 20, y + 700), (x - 200, y + 700)])
            rgb = cv2.fillConvexPoly(picture.rgb.copy(), np.round(card).astype(int), (240, 241, 238))
            contour = find_contour(seen(rgb, card=tuple(map(tuple, card))), picture.region)
            off = off_mm(contour, picture)
            self.assertLess(off.max(), 0.3)

    def test_a_cast_shadow_is_the_ground_darker_on_any_colour_and_up_to_a_card_s_edge(self):
        """On lilac every rim was refused, and beside a card on a block the block's shadow was taken for the sole."""
        thing = np.array([[300, 200], [1100, 240], [1150, 520], [280, 540]])
        region = np.array([[200, 100], [1260, 100], [1260, 640], [200, 640]], float)
        card = np.array([[420, 600], [1000, 600], [1000, 980], [420, 980]])
        for ground in ((0.30, 0.14, 0.27), (0.25, 0.24, 0.22)):
            light = np.ones((1000, 1400), np.float32)
            # Soft beside the thing, deep between it and the card.
            light[150:560, 1080:1230] = 0.45
            light[500:620, 420:1000] = 0.06
            light = cv2.GaussianBlur(light, (0, 0), 14)
            linear = light[..., None] * np.array(ground)
            linear = linear * (1 + 0.05 * np.random.default_rng(3).normal(size=(1000, 1400, 1)))
            cv2.fillConvexPoly(linear, card, (0.8, 0.8, 0.78))
            cv2.fillConvexPoly(linear, thing, (0.55, 0.5, 0.42))
            rgb = linear_to_srgb(cv2.GaussianBlur(linear, (0, 0), 0.8)).round().astype(np.uint8)
            contour = find_contour(Picture(rgb, card=tuple(map(tuple, card.astype(float)))), region)
            off = cKDTree(even(thing.astype(float), 1.0)).query(contour.points)[0]
            self.assertLess(off.max(), 4)
            self.assertLess(contour.guessed, 0.05)

    def test_a_dark_panel_in_the_ground_s_own_hue_is_not_lost_unsaid(self):
        """It looks like the ground in shadow: a shoe was read 16 mm short without a doubt."""
        thing = np.array([[300, 200], [1100, 240], [1150, 520], [280, 540]])
        region = np.array([[262, 182], [1168, 182], [1168, 558], [262, 558]], float)
        ground = np.array((0.50, 0.40, 0.62))
        for dark in (0.2, 0.55, 0.8):
            linear = ground * (1 + 0.05 * np.random.default_rng(3).normal(size=(760, 1400, 1)))
            cv2.fillConvexPoly(linear, thing, (0.35, 0.5, 0.42))
            panel = thing[1:3].repeat(2, 0) - [[0, 0], [40, 2], [40, -1], [0, 0]]
            cv2.fillConvexPoly(linear, panel, tuple(dark * ground))
            rgb = linear_to_srgb(cv2.GaussianBlur(linear, (0, 0), 0.8)).round().astype(np.uint8)
            contour = find_contour(Picture(rgb), region)
            off = cKDTree(contour.points).query(even(thing.astype(float), 1.0))[0].max()
            self.assertTrue(off < 4 or contour.more, (dark, off))

    def test_a_lining_hardly_darker_than_the_ground_belongs_to_the_shoe_where_its_edge_is_sharp(self):
        picture = shoe("easy", 5)
        grey = picture.rgb.copy()
        hull = cv2.convexHull(np.round(picture.outline_mm / MM_PER_PX).astype(np.int32))
        body = cv2.fillPoly(
            np.zeros(grey.shape[:2], np.uint8), [np.round(picture.outline_mm / MM_PER_PX).astype(np.int32)], 1
        )
        # The dip between heel and tongue, filled 8 mm deep.
        dip = cv2.fillConvexPoly(np.zeros_like(body), hull, 1) - body
        near = cv2.dilate(body, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (107, 107)))
        y, x = np.mgrid[: grey.shape[0], : grey.shape[1]]
        lining = (dip & near).astype(bool) & (x > np.percentile(np.nonzero(body)[1], 55)) & (y < 800)
        for darker, within in ((0.86, True), (1.0, False)):
            rgb = np.where(lining[..., None], grey * darker, grey).round().astype(np.uint8)
            contour = np.round(find_contour(seen(rgb), picture.region).points).astype(np.int32)
            found = cv2.fillPoly(np.zeros_like(body), [contour], 1)
            self.assertEqual(found[lining].mean() > 0.8, within)

    def test_a_border_little_lighter_than_the_ground_belongs_to_a_pale_thing(self):
        def block(inset: int) -> np.ndarray:
            at = cv2.boxPoints(((650, 450), (700 - 2 * inset, 400 - 2 * inset), 3)).astype(np.int32)
            return cv2.fillConvexPoly(np.zeros((900, 1300), np.uint8), at, 1)

        outer, inner = (cv2.GaussianBlur(block(inset).astype(np.float32), (0, 0), 1)[..., None] for inset in (0, 12))
        noise = np.random.default_rng(3).normal(0, 1.2, (900, 1300, 3))
        rgb = (112 + outer * 14 + inner * 90 + noise).clip(0, 255).astype(np.uint8)
        curves, _ = cv2.findContours(block(0), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        off = cKDTree(curves[0][:, 0]).query(find_contour(Picture(rgb)).points)[0]
        self.assertLess(np.percentile(off, 98), 2)

    def test_bare_ground_and_a_shoe_cut_by_its_region_are_refused(self):
        picture = heel("easy", 1)
        ground = np.full_like(picture.rgb, 150)
        cut = picture.region.copy()
        cut[:, 0] = cut[:, 0].clip(None, 600)
        # A toe that leaves the picture in the ground's own tone.
        pale = shoe("hard", 1642)
        for rgb, region, reason in (
            (ground, picture.region, "nothing_stands_out"),
            (picture.rgb, cut, "cut_by_frame"),
            (pale.rgb, pale.region, "cut_by_frame"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                find_contour(Picture(rgb), region)
            self.assertEqual(caught.exception.reason, reason)

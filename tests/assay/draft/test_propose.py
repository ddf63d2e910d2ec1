"""What a drawn panel proposes: its row, its holes, its mark, nothing on plain grain; the same however it lies."""

from unittest import TestCase

import cv2
import numpy as np

from assay.contracts import Picture
from assay.draft.propose import propose
from assay.measure.registry import MEASURES

MM = 0.12
CREAM, BLUE, DARK, SOLE = (222, 216, 200), (60, 84, 110), (40, 38, 36), (180, 172, 150)
STITCHES, HOLES = 18, 6


def drawn(*, plain: bool = False) -> np.ndarray:
    """(H, W, 3) uint8: a cream panel of 100 by 70 mm over a sole, with or without what can be measured on it."""
    fine = 3
    px = lambda mm: round(mm / MM * fine)  # noqa: E731
    rgb = np.full((px(70), px(100), 3), CREAM, np.float32)
    if not plain:
        rgb[px(58) :] = SOLE
        for n in range(STITCHES):
            x, y = 12 + 2.6 * n, 12 + 0.004 * (2.6 * n - 22) ** 2
            cv2.line(rgb, (px(x - 0.8), px(y)), (px(x + 0.8), px(y)), DARK, px(0.45))
        for n in range(HOLES):
            cv2.circle(rgb, (px(64 + 5.2 * n), px(24 + 2.6 * n)), px(1.4), DARK, -1)
        flag = np.array([[14, 32], [48, 28], [44, 36], [50, 44], [12, 47]]) / MM * fine
        cv2.fillPoly(rgb, [flag.round().astype(np.int32)], BLUE)
    size = (rgb.shape[1] // fine, rgb.shape[0] // fine)
    small = cv2.GaussianBlur(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    grain = cv2.GaussianBlur(np.random.default_rng(3).normal(0, 9, small.shape[:2]), (0, 0), 1.6)
    return np.clip(small + grain[..., None] + np.random.default_rng(4).normal(0, 2, small.shape), 0, 255).astype(
        np.uint8
    )


def proposed(rgb: np.ndarray) -> list:
    picture, (height, width) = Picture(rgb, MM), rgb.shape[:2]
    outline = np.array([[10, 10], [width - 10, 10], [width - 10, height - 10], [10, height - 10]], float)
    measuring = lambda measure, marks: MEASURES[measure].measure(picture, marks)  # noqa: E731
    return propose(picture, outline, measuring, shows="close", ultraviolet=False)


class Proposals(TestCase):
    def counts(self, found: list, measure: str) -> list[int]:
        return [
            int(one.reading.value) for one in found if one.proposal.measure == measure and not one.proposal.quantity
        ]

    def test_row_holes_and_mark_are_found_counted_right_and_put_where_they_lie_either_way_up(self):
        for turns in (0, 1):
            found = proposed(np.ascontiguousarray(np.rot90(drawn(), turns)))
            with self.subTest(turns=turns):
                self.assertEqual(self.counts(found, "seam"), [STITCHES])
                self.assertEqual(self.counts(found, "holes"), [HOLES])
                marks = {one.proposal.points for one in found if one.proposal.measure == "mark"}
                self.assertEqual(len(marks), 1)
        middle = np.mean(marks.pop()[2:], axis=0)
        # Turned once to the left, what was at (x, y) lies at (y, width - x).
        self.assertLess(float(np.hypot(*(middle - np.array([38, 100 - 32]) / MM))), 6 / MM)

    def test_plain_grain_proposes_neither_row_nor_holes_nor_mark(self):
        self.assertFalse({one.proposal.measure for one in proposed(drawn(plain=True))} & {"seam", "holes", "mark"})

    def test_the_lamp_s_picture_proposes_what_glows_and_nothing_that_daylight_shows(self):
        rgb = drawn()
        picture, (height, width) = Picture(rgb, MM), rgb.shape[:2]
        outline = np.array([[5, 5], [width - 5, 5], [width - 5, height - 5], [5, height - 5]], float)
        measuring = lambda measure, marks: MEASURES[measure].measure(picture, marks)  # noqa: E731
        found = propose(picture, outline, measuring, shows="side", ultraviolet=True)
        self.assertLessEqual({one.proposal.measure for one in found}, {"glow"})

"""What a drawn panel proposes: its row, its holes, its mark, nothing on plain grain; the same however it lies."""

from unittest import TestCase

import cv2
import numpy as np

from assay.contracts import Picture
from assay.draft.propose import propose
from assay.measure.registry import MEASURES
from tests.support.pictures import PANEL_HOLES, PANEL_MM, PANEL_STITCHES, panel


def proposed(rgb: np.ndarray) -> list:
    picture, (height, width) = Picture(rgb, PANEL_MM), rgb.shape[:2]
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
            found = proposed(np.ascontiguousarray(np.rot90(panel(), turns)))
            with self.subTest(turns=turns):
                self.assertEqual(self.counts(found, "seam"), [PANEL_STITCHES])
                self.assertEqual(self.counts(found, "holes"), [PANEL_HOLES])
                marks = {one.proposal.points for one in found if one.proposal.measure == "mark"}
                self.assertEqual(len(marks), 1)
        middle = np.mean(marks.pop()[2:], axis=0)
        # Turned once to the left, what was at (x, y) lies at (y, width - x).
        self.assertLess(float(np.hypot(*(middle - np.array([38, 100 - 32]) / PANEL_MM))), 6 / PANEL_MM)

    def test_the_edge_that_runs_along_a_row_is_proposed_with_how_far_it_lies(self):
        rgb = panel(plain=True).astype(float)
        edge, row = round(30 / PANEL_MM), round(27 / PANEL_MM)
        rgb[edge:] -= 90
        for n in range(20):
            left = round((20 + 2.8 * n) / PANEL_MM)
            rgb[row - 2 : row + 2, left : left + round(1.6 / PANEL_MM)] -= 150
        found = proposed(np.clip(cv2.GaussianBlur(rgb, (0, 0), 0.8), 0, 255).astype(np.uint8))
        gaps = [float(one.reading.value) for one in found if one.proposal.measure == "parallel"]
        self.assertEqual(len(gaps), 1)
        # From the side of the thread that is nearer to the edge.
        self.assertAlmostEqual(gaps[0], 2.76, delta=0.1)

    def test_plain_grain_proposes_neither_row_nor_holes_nor_mark(self):
        self.assertFalse({one.proposal.measure for one in proposed(panel(plain=True))} & {"seam", "holes", "mark"})

    def test_the_lamp_s_picture_proposes_what_glows_and_nothing_that_daylight_shows(self):
        rgb = panel()
        picture, (height, width) = Picture(rgb, PANEL_MM), rgb.shape[:2]
        outline = np.array([[5, 5], [width - 5, 5], [width - 5, height - 5], [5, height - 5]], float)
        measuring = lambda measure, marks: MEASURES[measure].measure(picture, marks)  # noqa: E731
        found = propose(picture, outline, measuring, shows="side", ultraviolet=True)
        self.assertLessEqual({one.proposal.measure for one in found}, {"glow"})

"""Where a line of holes lands on an edge: drawn lines and edges of known place and angle."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import line_edge_intersection
from tests.assay.measure.pictures import discs

# The edge leans by 10 px over the picture's height of 300 px.
EDGE_FOOT, EDGE_HEAD = np.array([300.0, 0.0]), np.array([310.0, 300.0])


def row(slope: float, *, astray: bool = False) -> Picture:
    """Six holes 32 px apart on a line of this slope, a darker panel beyond the edge; one more hole stands beside."""
    centres = [(40 + 32 * n, 120 + slope * 32 * n) for n in range(6)]
    picture = discs([*centres, *([(120, 120 + slope * 80 - 16)] if astray else [])], 7.0)
    y, x = np.mgrid[0:300, 0:400]
    beyond = np.clip(x - (EDGE_FOOT[0] + (EDGE_HEAD - EDGE_FOOT)[0] * y / 300) + 0.5, 0, 1)[..., None]
    rgb = picture.rgb * (1 - 0.35 * beyond)
    return Picture(rgb.round().astype(np.uint8), 0.1)


def marks(slope: float, off: float = 0.0) -> Marks:
    """As a person clicks, the edge ``off`` px beside where it is."""
    ends = [(40 + off, 121), (199, 120 + slope * 160 - off), (303.3 + off, 100), (306.7 + off, 200)]
    return Marks(MarkKind.PATH, tuple((float(x), float(y)) for x, y in ends))


def true_mm(slope: float) -> float:
    """From where the edge stands 100 px down, along it."""
    along = (EDGE_HEAD - EDGE_FOOT) / np.hypot(*(EDGE_HEAD - EDGE_FOOT))
    crossing = np.linalg.solve(np.column_stack([[1, slope], -along]), EDGE_FOOT - [40, 120])
    lands = np.array([40, 120]) + crossing[0] * np.array([1, slope])
    return 0.1 * float((lands - [EDGE_FOOT[0] + 100 / 30, 100]) @ along)


class Landing(SimpleTestCase):
    def test_the_line_lands_where_it_was_drawn_to_however_roughly_the_edge_is_clicked(self):
        for slope in (-0.2, 0.0, 0.15):
            for off in (0.0, 4.0, -6.0):
                found = line_edge_intersection.measure(row(slope), marks(slope, off))
                self.assertAlmostEqual(found.value, true_mm(slope), delta=0.1)
                expected = 90 - abs(np.degrees(np.arctan(slope) + np.arctan2(10, 300)))
                self.assertAlmostEqual(found.parts["angle_deg"], expected, delta=0.6)

    def test_a_hole_beside_the_row_does_not_pull_the_line(self):
        found = line_edge_intersection.measure(row(0.15, astray=True), marks(0.15))
        self.assertAlmostEqual(found.value, true_mm(0.15), delta=0.1)

    def test_an_edge_that_cannot_be_seen_is_taken_as_clicked_and_said_so(self):
        plain = discs([(40 + 32 * n, 120) for n in range(6)], 7.0)
        self.assertIn("edge_as_drawn", line_edge_intersection.measure(plain, marks(0.0)).doubts)

    def test_what_is_no_line_onto_an_edge_is_refused_in_words(self):
        one_hole, along = discs([(60, 120)], 7.0), ((40, 120), (200, 120), (380, 140), (240, 141))
        for picture, points, reason in (
            (one_hole, marks(0.0).points, "too_few_on_line"),
            (row(0.0), along, "line_misses_edge"),
            (row(0.0), along[:3], "four_places"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                line_edge_intersection.measure(picture, Marks(MarkKind.PATH, points))
            self.assertEqual(caught.exception.reason, reason)

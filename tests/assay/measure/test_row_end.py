"""Where a row ends against an edge: drawn rows and edges of known place."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import row_end
from tests.bench import drawn_rows
from tests.bench.drawn_rows import MM_PER_PX

PITCH, LENGTH, COUNT, FIRST, BEND = 20.0, 14.0, 12, 60.0, 5e-4
LAST = FIRST + (COUNT - 1) * PITCH


def height(x):
    """Of the row, which bends more and more."""
    return 90 + BEND * (np.asarray(x, float) - FIRST) ** 2


def picture(edge_x: float, beyond: float = 0.55) -> Picture:
    """A row of twelve, and another panel from ``edge_x`` on."""
    rng = np.random.default_rng(4)
    reflect = 0.3 * drawn_rows.panel(rng, (200, 460), 0.2)
    reflect[:, round(edge_x) :] *= beyond
    for x in FIRST + PITCH * np.arange(COUNT):
        place = np.array([x, height(x)])
        drawn_rows.thread(reflect, place, 2 * BEND * (x - FIRST), (LENGTH, 6.0), 0.55, 1.0, 1.0)
    return Picture(drawn_rows.photographed(reflect, (0.1, 0.7, 0.004), rng), MM_PER_PX)


def marks(edge_x: float, off: float = 0.0) -> Marks:
    """As a person clicks: along the row to the last stitch before the edge, then above and below on the edge."""
    x = np.linspace(FIRST - 8, min(LAST + 6, edge_x - 8), 5)
    row = list(zip(x, height(x) + off, strict=True))
    return Marks(MarkKind.PATH, (*row, (edge_x + off, 60.0), (edge_x - off, 150.0)))


class RowEnd(SimpleTestCase):
    def test_it_ends_as_far_from_the_edge_as_drawn_however_roughly_clicked(self):
        for gap in (12.0, 40.0, 80.0):
            edge = LAST + LENGTH / 2 + gap
            for off in (0.0, 2.0, -2.0):
                found = row_end.measure(picture(edge), marks(edge, off))
                self.assertAlmostEqual(found.value, gap * MM_PER_PX, delta=0.3)
                self.assertEqual(found.parts["past"], 0)
                self.assertNotIn("row_passes_edge", found.doubts)

    def test_stitches_past_the_edge_are_counted_where_nobody_has_traced_them(self):
        for past in (1, 2, 4):
            for beyond in (0.55, 1.25):
                edge = LAST - (past - 0.5) * PITCH
                found = row_end.measure(picture(edge, beyond), marks(edge))
                self.assertEqual(found.parts["past"], past)
                # Along the row, which leans where it ends.
                self.assertAlmostEqual(found.value, -((past - 0.5) * PITCH + LENGTH / 2) * MM_PER_PX, delta=0.35)
                self.assertIn("row_passes_edge", found.doubts)

    def test_an_edge_that_cannot_be_seen_is_taken_as_clicked_and_said_so(self):
        self.assertIn("edge_as_drawn", row_end.measure(picture(LAST + 40, 1.0), marks(LAST + 40)).doubts)

    def test_what_is_no_row_and_edge_is_refused_in_words(self):
        edge = LAST + 40
        row = marks(edge).points[:-2]
        for points, reason in (
            (marks(edge).points[-3:], "row_then_edge"),
            ((*row[:2], (edge, 60.0), (edge, 60.3)), "row_then_edge"),
            ((*row, (400.0, 180.0), (100.0, 170.0)), "line_misses_edge"),
            ([(x, 30.0) for x in np.linspace(52, 286, 5)] + [(edge, 20.0), (edge, 60.0)], "no_row_found"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                row_end.measure(picture(edge), Marks(MarkKind.PATH, tuple(points)))
            self.assertEqual(caught.exception.reason, reason)

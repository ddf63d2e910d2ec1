"""Edge to edge: exact steps and lines, and what is refused."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import linear_to_srgb
from assay.measure import edge_distance

FINE = 16


def sheet(left=50.25, right=350.75, line=None, turn=0.0, seed=1):
    """A light sheet on dark board with edges at fractions of a pixel; ``line``: a dark rule of 4 px at that place."""
    light = np.full((200 * FINE, 400 * FINE), 0.12, np.float32)
    light[:, round(left * FINE) : round(right * FINE)] = 0.7
    if line:
        light[:, round((line - 2) * FINE) : round((line + 2) * FINE)] = 0.2
    spin = cv2.getRotationMatrix2D((200 * FINE, 100 * FINE), turn, 1)
    turned = cv2.warpAffine(light, spin, light.shape[::-1], borderMode=cv2.BORDER_REPLICATE)
    small = cv2.GaussianBlur(cv2.resize(turned, (400, 200), interpolation=cv2.INTER_AREA), (0, 0), 1.0)
    rng = np.random.default_rng(seed)
    srgb = linear_to_srgb(small) + rng.normal(0, 1.5, small.shape)
    return np.repeat(np.clip(np.round(srgb), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


def read(rgb, start=(47, 100), stop=(355, 100), mm_per_px=0.2):
    return edge_distance.measure(Picture(rgb, mm_per_px), Marks(MarkKind.PATH, (start, stop)))


class Span(SimpleTestCase):
    def test_edges_are_found_to_a_tenth_of_a_pixel(self):
        """Analytic: 300.5 px between the edges, at 0.2 mm a pixel."""
        found = read(sheet())
        self.assertAlmostEqual(found.value, 60.1, delta=0.02)
        self.assertLess(abs(found.value - 60.1), 3 * found.uncertainty)

    def test_leaning_edges_are_measured_square_to_them(self):
        for turn in (1.0, -3.0):
            self.assertAlmostEqual(read(sheet(turn=turn)).value, 60.1, delta=0.05)

    def test_parallel_edges_seem_to_lean_by_no_more_than_the_reading_allows(self):
        for seed in range(8):
            found = read(sheet(turn=0.4 * seed - 1, seed=seed))
            self.assertLess(found.parts["lean_deg"], 3 * found.parts["lean_deg_uncertainty"])
            self.assertLess(found.parts["lean_deg_uncertainty"], 0.5)

    def test_a_line_counts_by_its_middle(self):
        found = read(sheet(line=300.0), stop=(303, 100))
        self.assertAlmostEqual(found.value, (300 - 50.25) * 0.2, delta=0.03)
        self.assertEqual(found.parts["ends_on_lines"], 1)

    def test_a_groove_beside_the_edge_is_not_taken_for_the_other_side_of_a_line(self):
        for inward_px in (8, 10, 12):
            found = read(sheet(line=350.75 - inward_px))
            self.assertAlmostEqual(found.value, 60.1, delta=0.05)
            self.assertEqual(found.parts["ends_on_lines"], 0)

    def test_of_two_edges_alike_and_as_near_the_reading_is_as_unsure_as_they_lie_apart(self):
        for apart_px in (8, 12):
            shade = np.where(np.abs(np.arange(400) - 351 + apart_px / 2) < apart_px / 2, 0.8, 1.0)[None, :, None]
            rgb = (sheet() * cv2.GaussianBlur(shade, (0, 0), 1.0).reshape(shade.shape)).astype(np.uint8)
            found = read(rgb, stop=(351 - apart_px / 2, 100))
            self.assertGreater(2 * found.uncertainty, 0.4 * apart_px * 0.2)

    def test_no_edge_near_an_end_is_refused_with_its_end(self):
        for start, stop, end in (((100, 100), (355, 100), 1), ((47, 100), (200, 100), 2)):
            with self.assertRaises(CannotMeasure) as caught:
                read(sheet(), start, stop)
            self.assertEqual((caught.exception.reason, caught.exception.numbers["end"]), ("no_edge_here", end))

    def test_a_path_with_no_room_for_an_edge_is_refused(self):
        for start, stop in (((1, 1), (3, 3)), ((200, 100), (206, 100))):
            with self.assertRaises(CannotMeasure) as caught:
                read(sheet(), start, stop)
            self.assertEqual(caught.exception.reason, "path_too_short")

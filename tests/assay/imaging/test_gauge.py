"""Measuring by pointing, on figures that can be checked by hand."""

from unittest import TestCase

import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.gauge import GAUGES
from assay.imaging.plane import scaled

PLANE = scaled(0.1, 0.01, "stand")


def read(tool, points, plane=PLANE):
    return GAUGES[tool](np.array(points, float), plane, 1.0)


class Gauges(TestCase):
    def test_a_distance_in_mm_carries_pointing_and_scale(self):
        found = read("caliper", [(0, 0), (300, 400)])
        self.assertAlmostEqual(found.value, 50.0)
        self.assertAlmostEqual(found.uncertainty, np.hypot(np.sqrt(2) * 0.1, 0.5))
        self.assertEqual((read("caliper", [(0, 0), (300, 400)], None).value, found.unit), (500.0, "mm"))

    def test_angles_leans_and_circles(self):
        self.assertAlmostEqual(read("angle", [(100, 0), (0, 0), (0, 80)]).value, 90.0)
        lean = read("parallel", [(0, 0), (1000, 0), (1000, 70), (0, 50)])
        self.assertAlmostEqual(lean.value, np.degrees(np.arctan(0.02)))
        self.assertAlmostEqual(lean.parts["distance_1_mm"], 7.0)
        self.assertAlmostEqual(lean.parts["distance_2_mm"], 5.0)
        # Circle through (0,5)(5,0)(−5,0)(3,4)(4,−3) about (2, 1): radius 5 exactly.
        ring = read("circle", np.array([(0, 5), (5, 0), (-5, 0), (3, 4), (4, -3)]) * 10 + [20, 10])
        self.assertAlmostEqual(ring.value, 10.0)
        self.assertLess(ring.parts["out_of_round_mm"], 1e-9)

    def test_a_line_gone_on_with_meets_the_other_where_it_should(self):
        found = read("meet", [(0, 0), (100, 0), (200, -50), (200, 50)])
        self.assertAlmostEqual(found.value, 10.0)
        np.testing.assert_allclose(found.drawn[0][1], (200, 0), atol=1e-9)
        nearer = read("meet", [(0, 0), (180, 0), (200, -50), (200, 50)])
        self.assertLess(nearer.uncertainty, found.uncertainty)

    def test_uncertainty_is_what_a_shaking_hand_shows(self):
        """Monte Carlo: each point shaken by 1 px; the stated uncertainty agrees within a tenth."""
        rng = np.random.default_rng(7)
        for tool, points in (
            ("caliper", [(0, 0), (300, 400)]),
            ("angle", [(400, 0), (0, 0), (0, 300)]),
            ("meet", [(0, 0), (100, 0), (200, -50), (200, 50)]),
        ):
            plain = scaled(0.1, 0.0, "stand")
            shaken = [
                read(tool, np.array(points) + rng.normal(0, 1, (len(points), 2)), plain).value for _ in range(4000)
            ]
            stated = read(tool, points, plain).uncertainty
            self.assertLess(abs(np.std(shaken) / stated - 1), 0.1, tool)

    def test_what_cannot_be_read_is_named(self):
        for tool, points, reason in (
            ("caliper", [(1, 1)], "gauge_needs_points"),
            ("caliper", [(1, 1), (1, 1)], "points_on_each_other"),
            ("caliper", [(1, 1), (np.nan, 1)], "gauge_needs_points"),
            ("meet", [(0, 0), (100, 0), (0, 50), (100, 51)], "lines_never_meet"),
            ("circle", [(0, 0), (10, 10), (20, 20)], "points_in_line"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                read(tool, points)
            self.assertEqual(caught.exception.reason, reason)

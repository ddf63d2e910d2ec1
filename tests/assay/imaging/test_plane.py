"""Homographies on analytic cases, and on a real photograph of a chessboard."""

from unittest import TestCase

import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.plane import Plane, camera_model_of, fitted, scaled, through


class Planes(TestCase):
    def test_homographies_checkable_by_hand(self):
        """Unit square to (0,0)(2,0)(3,3)(0,2); square of 100 to (0,0)(100,0)(75,50)(25,50), centre to (50, 33.333)."""
        unit = np.array([[0, 0], [1, 0], [1, 1], [0, 1]])
        found = fitted(unit, [[0, 0], [2, 0], [3, 3], [0, 2]])
        np.testing.assert_allclose(found, [[1.5, 0, 0], [0, 1.5, 0], [-0.25, -0.25, 1]], atol=1e-9)
        found = fitted(100 * unit, [[0, 0], [100, 0], [75, 50], [25, 50]])
        np.testing.assert_allclose(through(found, [[50, 50]]), [[50, 100 / 3]], atol=1e-9)

    def test_there_and_back_is_where_one_was(self):
        plane = Plane(np.array([[8.0, 0.5, 100], [-0.3, 7.8, 60], [2e-4, -1e-4, 1]]), 0.0, "card")
        places = np.array([[0.0, 0], [210, 0], [210, 148], [90, 70]])
        np.testing.assert_allclose(plane.to_mm(plane.to_px(places)), places, atol=1e-9)

    def test_a_pixel_s_size_is_the_root_of_the_area_it_covers(self):
        self.assertAlmostEqual(scaled(0.13, 0.01, "stand").mm_per_px((500, 400)), 0.13, places=9)
        stretched = Plane(np.diag([1 / 0.1, 1 / 0.4, 1.0]), 0.0, "card")
        self.assertAlmostEqual(stretched.mm_per_px((10, 10)), 0.2, places=9)

    def test_a_raised_surface_looks_larger_by_what_geometry_says(self):
        """Square to the camera at 400 mm: 20 mm nearer makes a millimetre 400/380 as large."""
        camera = camera_model_of((4000, 3000), 26.0)
        step = 400 / camera.focal_px
        matrix = np.array([[1 / step, 0, camera.centre[0]], [0, 1 / step, camera.centre[1]], [0, 0, 1.0]])
        plane = Plane(matrix, 0.002, "card")
        self.assertAlmostEqual(plane.distance_mm(camera), 400, delta=1e-6)
        self.assertAlmostEqual(plane.tilt_deg(camera), 0, delta=1e-4)
        raised = plane.raised(20, camera, unknown_mm=4)
        self.assertAlmostEqual(raised.mm_per_px(camera.centre), step * 380 / 400, places=9)
        expected = np.sqrt(0.002**2 + (4 / 400) ** 2 + (20 / 400 * 0.04) ** 2)
        self.assertAlmostEqual(raised.relative_uncertainty, expected, places=9)

    def test_what_lies_beyond_the_horizon_is_refused(self):
        leaning = Plane(np.array([[1.0, 0, 0], [0, 1.0, 0], [0, 0.01, 1]]), 0.0, "card")
        with self.assertRaises(CannotMeasure):
            leaning.to_mm(np.array([[0, 50.0], [0, 150.0]]))

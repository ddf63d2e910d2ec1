"""One contour on another: analytic shapes, no mirror, and a local change that is not leant away."""

import numpy as np
from django.test import SimpleTestCase
from scipy.spatial.distance import directed_hausdorff

from assay.compare.contour import KIND, compare, register_contour
from assay.contracts import Descriptor
from assay.errors import CannotAlign

T = np.linspace(0, 2 * np.pi, 1500, endpoint=False)


def circle(radius):
    return radius * np.stack([np.cos(T), np.sin(T)], 1)


def boot(bump=0.0):
    """A shape like nothing mirrored or turned; ``bump``: mm pushed out at one place."""
    radius = 60 + 22 * np.cos(T) + 9 * np.cos(2 * T + 0.7) + 5 * np.sin(3 * T)
    radius = radius + bump * np.exp(-0.5 * ((T - 2.0) / 0.09) ** 2)
    return radius[:, None] * np.stack([1.6 * np.cos(T), np.sin(T)], 1)


def moved(curve, turn, shift):
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    return curve @ spin.T + shift


class Laying(SimpleTestCase):
    def test_a_larger_circle_lies_outside_by_the_difference_of_radii_everywhere(self):
        """Circle of r + 3 on r: 3.0 everywhere (analytic)."""
        found = register_contour(circle(103), circle(100))
        self.assertAlmostEqual(float(found.distance.min()), 3, delta=0.01)
        self.assertAlmostEqual(float(found.distance.max()), 3, delta=0.01)

    def test_a_known_turn_and_shift_are_taken_back(self):
        for turn, shift in ((0.02, (3, -2)), (-0.6, (40, 10)), (3.0, (0, 0))):
            found = register_contour(moved(boot(), turn, shift), boot())
            self.assertLess(abs(found.largest), 0.05, turn)
            spin = found.turn @ moved(np.eye(2), turn, (0, 0)).T
            self.assertAlmostEqual(float(np.trace(spin)), 2, delta=1e-3)

    def test_a_mirror_image_is_not_made_to_fit(self):
        found = register_contour(boot() * [-1, 1], boot())
        self.assertGreater(abs(found.largest), 5)
        self.assertAlmostEqual(float(np.linalg.det(found.turn)), 1, delta=1e-9)

    def test_a_local_change_is_shown_whole_where_plain_least_squares_leans_towards_it(self):
        for bump in (2.0, -1.5):
            found = register_contour(moved(boot(bump), 0.03, (2, 1)), boot())
            # SciPy's Hausdorff distance of the two shapes as they were drawn, before one was moved.
            true = directed_hausdorff(boot(bump), boot())[0]
            self.assertAlmostEqual(abs(found.largest), true, delta=0.06 * true)
            self.assertEqual(np.sign(found.largest), np.sign(bump))
            self.assertLess(np.median(np.abs(found.distance)), 0.05)

    def test_what_the_scale_explains_is_no_departure_and_hides_none(self):
        """A contour 1 % too large stands out by 1 % of half its length at each end, whatever else departs; it once
        claimed 1 % of the departure."""

        def parts(curve, off):
            ours, theirs = (
                Descriptor(KIND, points, np.zeros((0, 2)), "mm", relative_uncertainty=unsure)
                for points, unsure in ((curve, off), (boot(), 0.0))
            )
            return compare(theirs, ours).parts

        self.assertGreater(parts(1.01 * boot(), 0.0)["departure_mm"], 0.5)
        for off in (0.005, 0.01, 0.02):
            self.assertLess(parts(1.01 * boot(), off)["departure_mm"], 0.2)
        for grown in (0.985, 1.0, 1.01):
            for bump in (2.0, -1.5):
                found = parts(grown * moved(boot(bump), 0.03, (2, 1)), 0.01)
                self.assertAlmostEqual(found["outward_mm"], bump, delta=0.3)
                self.assertGreater(found["departure_mm"], 5 * found["departure_mm_uncertainty"])
        # What the scale does not explain stays: 5 % at ±1 %.
        self.assertGreater(parts(1.05 * boot(), 0.01)["departure_mm"], 1)

    def test_things_of_another_kind_are_refused(self):
        with self.assertRaises(CannotAlign):
            register_contour(circle(20), circle(100))

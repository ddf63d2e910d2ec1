"""The bend of drawn edges: analytic arcs, flats cut into them, a straight edge."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind
from assay.errors import CannotMeasure
from assay.measure import curvature
from assay.measure.sample import bar, canvas, exposed, outlined


def read(radius, flat=0.0):
    """A disc of so many px, 0.1 mm each, its top cut off along a chord of ``flat``; traced by hand, a px off."""
    width, height = int(1.7 * radius + 160), int(0.6 * radius + 140)
    drawing, middle = canvas(width, height, (206, 200, 190)), np.array([width / 2, 60 + radius])
    angle = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    curve = radius * np.stack([np.cos(angle), np.sin(angle)], 1)
    if flat:
        curve[:, 1] = np.maximum(curve[:, 1], -np.sqrt(radius**2 - (flat / 2) ** 2))
    outlined(drawing, curve + middle, (60, 66, 70))
    traced = np.radians(np.linspace(215, 325, 7))
    path = middle + radius * np.stack([np.cos(traced), np.sin(traced)], 1)
    sample = exposed(drawing, 0.1, path + np.random.default_rng(1).normal(0, 1, path.shape))
    return curvature.measure(sample.picture, sample.marks(MarkKind.PATH))


class Bends(SimpleTestCase):
    def test_an_arc_bends_by_its_radius_everywhere(self):
        for radius in (80, 150, 300, 600):
            found = read(radius)
            self.assertAlmostEqual(found.value, 0.1 * radius, delta=0.02 * 0.1 * radius)
            self.assertAlmostEqual(found.parts["tightest_mm"], 0.1 * radius, delta=0.1 * 0.1 * radius)
            self.assertAlmostEqual(found.parts["turn_deg"], 110, delta=1.5)
            self.assertEqual(found.parts["flat_mm"], 0)

    def test_a_flat_spot_is_as_long_as_it_was_cut(self):
        for radius, flat in ((150, 80), (300, 120), (300, 80)):
            found = read(radius, flat)
            off = found.parts["flat_mm"] - 0.1 * flat
            self.assertLess(abs(off), 2 * found.parts["flat_mm_uncertainty"])
            self.assertGreater(found.parts["flat_mm"], 3)

    def test_a_straight_edge_has_no_radius_and_bare_leather_no_edge(self):
        drawing = canvas(400, 160, (206, 200, 190))
        path = [[40, 80], [200, 80.5], [360, 80]]
        with self.assertRaisesMessage(CannotMeasure, "no_edge_followed"):
            curvature.measure(exposed(drawing, 0.1, path).picture, exposed(drawing, 0.1, path).marks(MarkKind.PATH))
        bar(drawing, (0, 80, 400, 160), (60, 66, 70))
        sample = exposed(drawing, 0.1, path)
        with self.assertRaisesMessage(CannotMeasure, "edge_is_straight"):
            curvature.measure(sample.picture, sample.marks(MarkKind.PATH))

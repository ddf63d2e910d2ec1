"""A reading held beside another photograph's: outlines and lengths that contradict each other."""

from types import SimpleNamespace

import numpy as np
from django.test import SimpleTestCase

from assay.measure.registry import MEASURES
from casework.actions.second_photo import DOUBT, in_the_light_of
from pairs.models import Reading


def outline(bump_mm: float) -> Reading:
    """A shoe-like outline, 280 by 100 mm, with a bulge 40 mm wide on top."""
    turn = np.linspace(0, 2 * np.pi, 900, endpoint=False)
    points = np.stack([140 * np.cos(turn), 50 * np.sin(turn) * (1 + 0.3 * np.cos(turn))], 1)
    points[:, 1] -= bump_mm * np.exp(-0.5 * ((points[:, 0] - 40) / 15) ** 2) * (points[:, 1] < 0)
    kept = {"kind": "contour", "unit": "mm", "points": points.tolist(), "marks": [], "values": [], "light": "none",
            "facing": 0, "relative_uncertainty": 0.002}  # fmt: skip
    return Reading(value=1.0, unit="mm", descriptor=kept, doubts=["rim_partly_guessed"])


def length(mm: float) -> Reading:
    return Reading(value=mm, unit="mm", uncertainty=0.2)


class HeldBeside(SimpleTestCase):
    OUTLINE = SimpleNamespace(measure="outline", quantity="departure_mm", kind="continuous")
    LENGTH = SimpleNamespace(measure="edge_distance", quantity="", kind="continuous")

    def test_outlines_that_lie_apart_are_doubted_and_half_of_a_departure_is_unsure(self):
        same = in_the_light_of(self.OUTLINE, outline(0), outline(0.1))
        other = in_the_light_of(self.OUTLINE, outline(0), outline(4))
        self.assertEqual(same.doubts, ["rim_partly_guessed"])
        self.assertEqual(other.doubts, ["rim_partly_guessed", DOUBT])
        self.assertAlmostEqual(other.descriptor["departure_share"], 0.5, places=3)

    def test_lengths_within_three_standard_uncertainties_of_their_difference_agree(self):
        for mm, doubted in ((10.8, False), (10.9, True)):
            found = in_the_light_of(self.LENGTH, length(10.0), length(mm))
            self.assertEqual(found.doubts, [DOUBT] * doubted)
        self.assertAlmostEqual(found.uncertainty, float(np.hypot(0.2, 0.45)))

    def test_every_gauge_of_a_shape_is_held_beside_a_second_photograph(self):
        """A list once named measures that no longer existed: heels and toes were never held beside another."""
        gauges = {name for name in MEASURES if name.startswith("profile_")}
        self.assertTrue(gauges)
        self.assertEqual({name for name in gauges if not MEASURES[name].same_on_each_photo}, set())

    def test_what_the_other_photograph_cannot_tell_contradicts_nothing(self):
        none = Reading(value=None, refusal={"reason": "no_edge"})
        self.assertEqual(in_the_light_of(self.LENGTH, length(10.0), none).doubts, [])

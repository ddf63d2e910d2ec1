"""What no check names is pointed at: a part moved, gone, of another hue; what pairs differ by themselves is not."""

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data

from assay.compare.anywhere import differences
from assay.register.affine import Alignment

OUTLINE = np.array([[60, 60], [940, 60], [940, 640], [60, 640]], float)
PART = (slice(280, 340), slice(420, 520))


def pair(seed: int, change=None, light: float = 1.0) -> tuple[np.ndarray, Alignment]:
    """A photograph of one and the same thing: its own grain, light and place."""
    rng = np.random.default_rng(seed)
    thing = cv2.resize(data.astronaut(), (1000, 700), interpolation=cv2.INTER_AREA).astype(np.float32)
    thing = 0.5 * thing + 60
    thing[PART] = (200, 190, 180)
    cv2.circle(thing, (470, 300), 8, (40, 40, 45), -1)
    if change:
        change(thing)
    x = np.linspace(0.9, 1.1, 1000, dtype=np.float32)[None, :, None]
    seen = np.clip(light * x * thing + rng.normal(0, 3, thing.shape), 0, 255)
    matrix = np.array([[1, 0.004 * rng.normal(), 6 * rng.normal()], [0.004 * rng.normal(), 1, 6 * rng.normal()]])
    return cv2.warpAffine(seen.round().astype(np.uint8), matrix, (1000, 700)), Alignment(matrix, 99, 0.5)


def moved(thing):
    thing[PART] = (200, 190, 180)
    cv2.circle(thing, (470, 314), 8, (40, 40, 45), -1)


def gone(thing):
    thing[PART] = thing[220:280, 420:520]


def greener(thing):
    thing[PART] = (150, 205, 150)


def grid(thing, *, missing=False):
    """Holes in even rows, one of them missing."""
    thing[PART] = (200, 190, 180)
    for n in range(12):
        at = (430 + 14 * (n % 6), 295 + 14 * (n // 6))
        if not (missing and n == 8):
            cv2.circle(thing, at, 4, (40, 40, 45), -1)


class Anywhere(SimpleTestCase):
    def found(self, change=None, others=2, light=1.0):
        reference, alignment = pair(1)
        shown = cv2.warpAffine(reference, alignment.matrix, (1000, 700), flags=cv2.WARP_INVERSE_MAP)
        more = [pair(seed) for seed in range(2, 2 + others)]
        return differences(shown, OUTLINE, pair(9, change, light), more)

    def test_an_unchanged_thing_in_other_light_shows_nothing(self):
        for others in (0, 2):
            self.assertEqual(self.found(others=others, light=0.8), [])

    def test_what_was_changed_comes_first_and_is_said(self):
        expected = ((moved, {"moved"}), (gone, {"missing", "darker", "hue", "other"}), (greener, {"hue", "missing"}))
        for change, kinds in expected:
            first = self.found(change)[0]
            self.assertIn(first.kind, kinds, change.__name__)
            x, y, width, height = first.reference
            middle = (x + width / 2, y + height / 2)
            self.assertTrue(400 < middle[0] < 540 and 260 < middle[1] < 370, (change.__name__, middle))
        self.assertEqual(self.found(moved)[0].towards, "down")
        self.assertAlmostEqual(self.found(moved)[0].amount, 14, delta=2)

    def test_a_hole_missing_from_a_grid_is_not_said_to_have_moved(self):
        """A grid looks like itself a hole further: it was called 6.7 mm further up."""
        (reference, alignment), more = pair(1, grid), [pair(seed, grid) for seed in (2, 3)]
        shown = cv2.warpAffine(reference, alignment.matrix, (1000, 700), flags=cv2.WARP_INVERSE_MAP)
        found = differences(shown, OUTLINE, pair(9, lambda thing: grid(thing, missing=True)), more)
        self.assertTrue(found)
        self.assertNotIn("moved", [one.kind for one in found])

    def test_what_the_verified_pairs_differ_by_themselves_is_no_difference(self):
        reference, alignment = pair(1)
        shown = cv2.warpAffine(reference, alignment.matrix, (1000, 700), flags=cv2.WARP_INVERSE_MAP)
        varied = [pair(2), pair(3, greener)]
        self.assertEqual(differences(shown, OUTLINE, pair(9, greener), varied), [])

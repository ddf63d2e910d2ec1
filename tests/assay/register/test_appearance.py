"""Close-ups laid on each other by where panels meet."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.register.appearance import lay, small_of

SIZE = (800, 600)


def close_up(seed, *, panels=((40, 60, 300, 200), (380, 90, 700, 330), (90, 300, 330, 560)), moved=None):
    """Panels on ground with grain of their own, moved as a camera would."""
    rng = np.random.default_rng(seed)
    tones = rng.integers(60, 220, (len(panels), 3))
    picture = np.full((*SIZE[::-1], 3), 235, np.uint8)
    for (left, top, right, low), tone in zip(panels, tones, strict=True):
        cv2.rectangle(picture, (left, top), (right, low), tone.tolist(), -1)
    grain = cv2.GaussianBlur(rng.normal(0, 20, picture.shape[:2]), (0, 0), 1.5)[..., None]
    seen = cv2.warpAffine(picture, np.eye(2, 3) if moved is None else moved, SIZE, borderValue=(235,) * 3)
    return np.clip(seen + grain, 0, 255).astype(np.uint8)


def laid(one, other, **how):
    return lay(small_of(one), small_of(other), (SIZE, SIZE), **how)


class CloseUps(SimpleTestCase):
    def test_a_turned_larger_and_differently_coloured_one_is_laid_to_a_few_pixels(self):
        for turn, size in ((0, 1), (7, 1.1), (-12, 0.9)):
            moved = cv2.getRotationMatrix2D((400, 300), turn, size)
            found = laid(close_up(1), close_up(2, moved=moved))
            corners = np.array([[100, 100], [700, 100], [400, 500]], float)
            wanted = corners @ moved[:, :2].T + moved[:, 2]
            np.testing.assert_allclose(corners @ found.matrix[:, :2].T + found.matrix[:, 2], wanted, atol=6)

    def test_the_mirror_image_and_another_thing_are_not_laid_on(self):
        flipped = np.ascontiguousarray(close_up(2)[:, ::-1])
        self.assertIsNone(laid(close_up(1), flipped))
        self.assertIsNotNone(laid(close_up(1), flipped, mirror=True))
        other = close_up(3, panels=((500, 20, 760, 120), (60, 420, 620, 470), (420, 200, 480, 400)))
        self.assertIsNone(laid(close_up(1), other))
        self.assertIsNone(laid(close_up(1), close_up(4, panels=())))

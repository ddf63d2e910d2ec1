"""Whether two files hold one photograph: sent again, stored anew, made smaller.

Two photographs of one thing never lie on each other to the pixel, and each has noise of its own; one that was only
stored anew does both. Compared is what is finer than two pixels of a small copy: so one light or ground alike does not
make two the same. Cut or turned copies are not told.
"""

import cv2
import numpy as np

SIDE_PX = 256
SMOOTH_PX = 2.0
LIKE_SHAPE = 0.01
"""Two shapes, width over height, are one within this share."""
SAME_FROM = 0.9992
"""Correlation from which it is one: stored at quality 40 and half its size .9995 is left; two pictures that the
simulator took of two pairs from one place reach .9988, and it moves no camera."""


def fine(grey: np.ndarray) -> np.ndarray:
    """(SIDE_PX, SIDE_PX) float32: what is finer than two pixels of a small copy of a picture (H, W) uint8."""
    small = cv2.resize(grey.astype(np.float32), (SIDE_PX, SIDE_PX), interpolation=cv2.INTER_AREA)
    return small - cv2.GaussianBlur(small, (0, 0), SMOOTH_PX)


def alike(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether two ``fine`` pictures are of one photograph.

    >>> rng = np.random.default_rng(1)
    >>> picture = rng.integers(0, 255, (300, 400), dtype=np.uint8)
    >>> larger = picture.repeat(2, axis=0).repeat(2, axis=1)
    >>> alike(fine(picture), fine(larger)), alike(fine(picture), fine(picture[::-1]))
    (True, False)
    """
    if min(float(one.std()), float(other.std())) < 1e-6:
        return False
    return float(np.corrcoef(one.ravel(), other.ravel())[0, 1]) >= SAME_FROM

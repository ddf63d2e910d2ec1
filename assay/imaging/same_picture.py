"""Whether two files hold one photograph: sent again, stored anew, made smaller.

Two photographs of one thing never lie on each other to the pixel, and each has noise of its own; one that was only
stored anew does both. Compared is what is finer than two pixels of a small copy: so one light or ground alike does not
make two the same. Cut or turned copies are not told.
"""

import cv2
import numpy as np

SIDE_PX = 256
SMOOTH_PX = 2.0
SAME_FROM = 0.9992
"""Correlation from which it is one: stored at quality 40 and half its size .9995 is left; two pictures that the
simulator took of two pairs from one place reach .9988, and it moves no camera."""


def are_one(one: np.ndarray, other: np.ndarray) -> bool:
    """Of two pictures (H, W, 3) uint8, of whatever size.

    >>> rng = np.random.default_rng(1)
    >>> picture = rng.integers(0, 255, (300, 400, 3), dtype=np.uint8)
    >>> are_one(picture, cv2.resize(picture, (400, 300))), are_one(picture, picture[::-1])
    (True, False)
    """
    ratio = (one.shape[1] / one.shape[0]) / (other.shape[1] / other.shape[0])
    if not 0.99 < ratio < 1.01:
        return False
    fine = [_fine(picture).ravel() for picture in (one, other)]
    if min(float(part.std()) for part in fine) < 1e-6:
        return False
    return float(np.corrcoef(*fine)[0, 1]) >= SAME_FROM


def _fine(rgb: np.ndarray) -> np.ndarray:
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY).astype(np.float32)
    small = cv2.resize(grey, (SIDE_PX, SIDE_PX), interpolation=cv2.INTER_AREA)
    return small - cv2.GaussianBlur(small, (0, 0), SMOOTH_PX)

"""A contour that was lost for a stretch, looked for in a fan between where it was last seen and where it is seen again.

A toe in nearly the ground's tone is cut off by a rough outline, further than a band along that outline reaches. Rays
from the middle between both ends go out over it; across them the outermost sharp step is followed as along a band.
Pictures are square roots of sRGB, (H, W, 3) float32.
"""

from collections.abc import Iterator

import cv2
import numpy as np

from assay.contour.boundary import STIFF, outer_firm, steepness, stretches
from assay.numeric.viterbi import best_path

# A contour is lost from so many points on, lapses of so many left aside; it is trusted again so many points further.
LEAST = 10
LAPSE = 15
AGAIN = 4
# How far out the rays go, as a share of the picture; and rays for every px that both ends lie apart.
REACH_SHARE = 0.2
RAYS = 3.0


def refound(roots: np.ndarray, curve: np.ndarray, lost: np.ndarray) -> Iterator[np.ndarray]:
    """For each stretch of a clockwise curve (N, 2) that is ``lost`` (N,), the curve led round by what the fan shows."""
    lost = cv2.morphologyEx(lost.astype(np.uint8)[:, None], cv2.MORPH_CLOSE, np.ones((LAPSE, 1), np.uint8))[:, 0] > 0
    if lost.all() or not lost.any():
        return
    # Begun at a place that is seen, so that no stretch runs over the end.
    turn = int(np.flatnonzero(~lost)[0])
    curve, lost = np.roll(curve, -turn, axis=0), np.roll(lost, -turn)
    for first, last in stretches(lost):
        if last - first >= LEAST:
            before, after = max(first - AGAIN, 0), min(last + AGAIN, len(curve) - 1)
            round_it = _fanned(roots, curve[before], curve[after])
            yield np.concatenate([curve[: before + 1], round_it, curve[after:]])


def _fanned(roots: np.ndarray, one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """The way (K, 2) along the outermost sharp step from one place to another, outside of a clockwise curve."""
    middle, apart = (one + other) / 2, float(np.hypot(*(other - one)))
    along = (other - one) / (apart + 1e-9)
    turns = np.linspace(0, np.pi, int(np.clip(RAYS * apart, 60, 1200)))[:, None]
    ways = -np.cos(turns) * along + np.sin(turns) * np.array([along[1], -along[0]])
    out = np.arange(max(apart, REACH_SHARE * max(roots.shape[:2])))
    x, y = (middle[k] + ways[:, k : k + 1] * out for k in (0, 1))
    band = cv2.remap(
        roots, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    score, _ = outer_firm(steepness(band, closed=False))
    score[[0, -1]] = -np.abs(out - apart / 2)
    return middle + ways * best_path(score, STIFF, closed=False)[:, None]

"""Thin bright or dark lines on a plainer ground: loose threads, jumps between letters.

A ridge is where the light bends sharply across and hardly along: the larger eigenvalue of the Hessian at the thread's
own width (Frangi et al., MICCAI 1998, without its tubeness in three dimensions).
"""

from dataclasses import dataclass

import cv2
import numpy as np
from skimage.feature import hessian_matrix, hessian_matrix_eigvals
from skimage.morphology import skeletonize

STANDS_OFF = 5.0
"""A strand's ridge against the ground's own scatter of ridges."""
HOLDS = 2.5
"""And as weak as this where it goes on from a stronger piece."""
ONE_WAY = 0.7
"""The bend along a strand is at most this share of the bend across it."""
SLIM = 2.0
"""A strand is at least so many times as long as it is wide."""


@dataclass(frozen=True, slots=True)
class Strand:
    """One thin line."""

    points: np.ndarray
    """(N, 2) places along its middle, x, y."""
    length: float
    """px."""


def strands_in(light: np.ndarray, where: np.ndarray, width_px: float, least_px: float) -> list[Strand]:
    """Strands of about that width in a luminance (h, w), where ``where`` says, at least ``least_px`` long."""
    sigma = max(0.8, width_px / 2.2)
    bent = hessian_matrix_eigvals(hessian_matrix(light.astype(np.float64), sigma=sigma, use_gaussian_derivatives=False))
    strong = np.where(np.abs(bent[0]) > np.abs(bent[1]), bent[0], bent[1])
    weak = np.where(np.abs(bent[0]) > np.abs(bent[1]), bent[1], bent[0])
    ridge = np.abs(strong) * (np.abs(weak) < ONE_WAY * np.abs(strong))
    # At the border of what is looked at the light seems to bend.
    size = 2 * round(2 * sigma) + 1
    bordered = cv2.copyMakeBorder(where.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    inside = cv2.erode(bordered, np.ones((size, size), np.uint8))[1:-1, 1:-1] > 0
    if inside.sum() < 50:
        return []
    level = 1.4826 * float(np.median(np.abs(strong[inside]))) + 1e-9
    firm, faint = inside & (ridge > STANDS_OFF * level), inside & (ridge > HOLDS * level)
    count, labels = cv2.connectedComponents(faint.astype(np.uint8), connectivity=8)
    seeded = np.unique(labels[firm])
    found = []
    for n in range(1, count):
        if n not in seeded:
            continue
        part = labels == n
        middle = skeletonize(part)
        length = float(middle.sum())
        if length >= least_px and length >= SLIM * part.sum() / max(length, 1.0):
            y, x = np.nonzero(middle)
            found.append(Strand(_in_order(np.stack([x, y], 1).astype(float)), length))
    return found


def _in_order(points: np.ndarray) -> np.ndarray:
    """Places of a middle line from one end to the other, the nearest next."""
    far = points[np.argmax(np.hypot(*(points - points.mean(0)).T))]
    left, ordered, here = list(range(len(points))), [], far
    while left:
        nearest = min(left, key=lambda n: float(np.hypot(*(points[n] - here))))
        here = points[nearest]
        ordered.append(here)
        left.remove(nearest)
    return np.array(ordered[:: max(1, len(ordered) // 40)])

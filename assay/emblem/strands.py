"""Thin bright or dark lines on a plainer ground: loose threads, jumps between letters.

A ridge is where the light bends sharply across and hardly along: the larger eigenvalue of the Hessian at the thread's
own width (Frangi et al., MICCAI 1998, without its tubeness in three dimensions).
"""

from dataclasses import dataclass

import cv2
import numpy as np
from skimage.morphology import skeletonize

STANDS_OFF = 5.0
"""A strand's ridge against the ground's own scatter of ridges."""
HOLDS = 2.5
"""And as weak as this where it goes on from a stronger piece."""
ONE_WAY = 0.7
"""The bend along a strand is at most this share of the bend across it."""
SLIM = 2.0
"""A strand is at least so many times as long as it is wide."""
FURTHEST_NEXT_PX = 3.0
"""What lies further from the rest of a strand is a spur of it, and is not drawn."""


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
    bent = _bends(cv2.GaussianBlur(light.astype(np.float64), (0, 0), sigma))
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
    _, labels, stats, _ = cv2.connectedComponentsWithStats(faint.astype(np.uint8), connectivity=8)
    found = []
    for n in np.unique(labels[firm]):
        x0, y0, width, height, area = stats[n]
        if width + height < least_px:
            continue
        # A pixel of room: what touches the piece's border is thinned otherwise.
        middle = skeletonize(np.pad(labels[y0 : y0 + height, x0 : x0 + width] == n, 1))
        length = float(middle.sum())
        if length >= least_px and length >= SLIM * area / max(length, 1.0):
            y, x = np.nonzero(middle)
            found.append(Strand(_in_order(np.stack([x + x0 - 1, y + y0 - 1], 1).astype(float)), length))
    return found


def _bends(smooth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Eigenvalues of the Hessian everywhere, the larger first."""
    down, right = np.gradient(smooth)
    (dd, dr), (_, rr) = np.gradient(down), np.gradient(right)
    middle, half = (dd + rr) / 2, np.sqrt(((dd - rr) / 2) ** 2 + dr**2)
    return middle + half, middle - half


def _in_order(points: np.ndarray) -> np.ndarray:
    """Places of a middle line from one end to the other, the nearest next."""
    here = int(np.hypot(*(points - points.mean(0)).T).argmax())
    left, ordered = np.ones(len(points), bool), [here]
    for _ in range(len(points) - 1):
        left[here] = False
        away = np.where(left, np.hypot(*(points - points[here]).T), np.inf)
        here = int(away.argmin())
        if away[here] > FURTHEST_NEXT_PX:
            break
        ordered.append(here)
    return points[ordered][:: max(1, len(ordered) // 40)]

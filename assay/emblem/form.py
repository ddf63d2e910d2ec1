"""The form of a mark: where its middle lies, how it is turned, how large it is, how thick its strokes are."""

from dataclasses import dataclass

import cv2
import numpy as np
from skimage.measure import find_contours

LEAST_AXES = 1.25
"""A mark whose long axis is less than this times its short one has no way of its own."""


@dataclass(frozen=True, slots=True)
class Form:
    """A mark as its cover shows it, in pixels of the cover."""

    middle: np.ndarray
    """(2,) centroid, x, y."""
    axis_deg: float | None
    """Of the longest way, −90 to 90; None where it has none."""
    width: float
    """Along the cover's x, from outline to outline."""
    height: float
    stroke: float
    """Twice the area over the outline: the width of a long stroke."""
    outlines: tuple[np.ndarray, ...]
    """(N, 2) each, half way between ink and ground, to a fraction of a pixel."""


def form_of(cover: np.ndarray, kept: np.ndarray) -> Form:
    """Form of the parts ``kept`` (h, w bool) of a cover (h, w), 0 to 1."""
    near = cv2.dilate(kept.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    own = np.where(near, cover, 0)
    padded = np.pad(own, 1)
    outlines = tuple(np.fliplr(curve) - 1 for curve in find_contours(padded, 0.5) if len(curve) > 6)
    area = float(own.sum())
    y, x = np.mgrid[: own.shape[0], : own.shape[1]]
    middle = np.array([(own * x).sum(), (own * y).sum()]) / max(area, 1e-9)
    dx, dy = x - middle[0], y - middle[1]
    spread = np.array([[(own * dx * dx).sum(), (own * dx * dy).sum()], [0, (own * dy * dy).sum()]]) / max(area, 1e-9)
    spread[1, 0] = spread[0, 1]
    values, ways = np.linalg.eigh(spread)
    long = ways[:, 1] * (np.sign(ways[0, 1]) or 1.0)
    slim = np.sqrt(max(values[1], 1e-9) / max(values[0], 1e-9)) >= LEAST_AXES
    every = np.vstack(outlines) if outlines else np.zeros((1, 2))
    length = sum(float(np.hypot(*np.diff(curve, axis=0).T).sum()) for curve in outlines)
    size = np.ptp(every, axis=0)
    return Form(
        middle,
        float(np.degrees(np.arctan2(long[1], long[0]))) if slim else None,
        float(size[0]),
        float(size[1]),
        2 * area / max(length, 1e-9),
        outlines,
    )

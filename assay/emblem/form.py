"""The form of a mark: where its middle lies, how it is turned, how large it is, how thick its strokes are."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d
from skimage.measure import find_contours

CORNER_SOFT_PX = 1.5
CORNER_ARM_PX = 7
CORNER_FROM_DEG = 40.0
"""An outline that turns by as much within so many px to both sides has a corner there."""
LEAST_AXES = 1.25
"""A mark whose long axis is less than this times its short one has no way of its own."""


@dataclass(frozen=True, slots=True)
class EmblemForm:
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


def corner_radius(outlines: tuple[np.ndarray, ...]) -> float | None:
    """Radius of the typical corner of some outlines (N, 2), px; None where nothing turns sharply. A drawn point reads
    two px or so: no camera resolves less."""
    radii = []
    for outline in outlines:
        length = float(np.hypot(*np.diff(outline, axis=0).T).sum())
        if length < 6 * CORNER_ARM_PX or np.hypot(*(outline[0] - outline[-1])) > 1.5:
            continue
        run = np.r_[0, np.cumsum(np.hypot(*np.diff(outline, axis=0).T))]
        at = np.linspace(0, length, round(length), endpoint=False)
        even = np.stack([np.interp(at, run, outline[:, axis]) for axis in (0, 1)], 1)
        soft = gaussian_filter1d(even, CORNER_SOFT_PX, axis=0, mode="wrap")
        way = np.unwrap(np.arctan2(*(np.roll(soft, -1, 0) - np.roll(soft, 1, 0)).T[::-1]))
        turn = np.abs((np.roll(way, -1) - np.roll(way, 1) + np.pi) % (2 * np.pi) - np.pi) / 2
        arms = np.roll(way, -CORNER_ARM_PX) - np.roll(way, CORNER_ARM_PX)
        arms = np.abs((arms + np.pi) % (2 * np.pi) - np.pi)
        top = (turn >= maximum_filter1d(turn, 2 * CORNER_ARM_PX + 1, mode="wrap")) & (turn > 0)
        radii.extend(1 / turn[top & (np.degrees(arms) > CORNER_FROM_DEG)])
    return float(np.median(radii)) if radii else None


def form_of(cover: np.ndarray, kept: np.ndarray) -> EmblemForm:
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
    return EmblemForm(
        middle,
        float(np.degrees(np.arctan2(long[1], long[0]))) if slim else None,
        float(size[0]),
        float(size[1]),
        2 * area / max(length, 1e-9),
        outlines,
    )

"""A straight edge near a place, to a fraction of a pixel.

The light is looked at in narrow bands across; in every band the steepest step is found, and the line through them is
the edge. A dark or light line (a perforation, a printed rule) counts by its middle.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d

from assay.contracts import Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import grey_light

# How far from where it was drawn an edge is looked for, mm; pixels without a scale.
REACH_MM = 3.0
REACH_PX = 24
BANDS = 9
# Two opposite steps nearer than this are the two sides of one line, mm; pixels without a scale.
LINE_MM = 1.6
LINE_PX = 12
SOFTEN_PX = 1.2
# A step must rise this far over the scatter of the piece.
CLEAR = 5.0
# Bands of a real edge are never straighter than this, px: by drawn edges without noise.
LEAST_SCATTER_PX = 0.15
# Standard uncertainty of a place put by a careful hand, px.
HAND_PX = 1.0


@dataclass(frozen=True, slots=True)
class Edge:
    """An edge across a path: where it crosses (px along the path, from where it was looked for), and how it leans."""

    at: float
    lean: float
    """Pixels along the path a pixel across."""
    u_at: float
    """Standard uncertainty of ``at``, px."""
    u_lean: float
    """Standard uncertainty of ``lean``, by how the bands scatter round the line."""
    is_line: bool


def reach_of(picture: Picture) -> float:
    """How far from a place its edge is looked for, px."""
    return REACH_PX if picture.mm_per_px is None else REACH_MM / picture.mm_per_px


def edge_along(picture: Picture, ends: np.ndarray) -> tuple[np.ndarray, np.ndarray, float, tuple[str, ...]]:
    """The edge that two places (2, 2) lie on: a place on it, its direction (from the first to the second), how unsure
    it is, px; and a doubt where no edge can be seen and it is only as it was drawn."""
    length = float(np.hypot(*(ends[1] - ends[0])))
    along = (ends[1] - ends[0]) / length
    across = np.array([-along[1], along[0]])
    try:
        found = find_edge(picture, ends.mean(0), across, half=length / 2, reach=reach_of(picture))
    except CannotMeasure:
        return ends[0], along, HAND_PX, ("edge_as_drawn",)
    # ``lean`` counts along ``across`` for every pixel along its own normal, which is minus our direction.
    way = along - found.lean * across
    return ends.mean(0) + found.at * across, way / np.hypot(*way), found.u_at, ()


def crossing(
    start: np.ndarray, way: np.ndarray, edge: tuple[np.ndarray, np.ndarray], flattest_deg: float
) -> tuple[float, float]:
    """How far along ``way`` (2,) from a place an edge (a place on it, its direction) lies, px, and the angle between
    the two, 0 to 90 degrees. Raises CannotMeasure ``line_misses_edge`` where that is less than ``flattest_deg``."""
    at, along = edge
    both = np.column_stack([way / np.hypot(*way), -along])
    angle = float(np.degrees(np.arcsin(min(1.0, abs(np.linalg.det(both))))))
    if angle < flattest_deg:
        raise CannotMeasure("line_misses_edge", angle_deg=round(angle, 1))
    return float(np.linalg.solve(both, at - start)[0]), angle


def find_edge(
    picture: Picture, near: np.ndarray, along: np.ndarray, *, half: float, reach: float, end: int = 1
) -> Edge:
    """The edge near a place that crosses the unit vector ``along``, up to ``reach`` px away; ``half`` px of it is used.

    Raises CannotMeasure ``no_edge_here`` with the number of the path's ``end``.
    """
    line_px = LINE_PX if picture.mm_per_px is None else LINE_MM / picture.mm_per_px
    across, half = np.array([-along[1], along[0]]), max(half, float(BANDS))
    u, v = np.arange(-reach, reach + 0.25, 0.5), np.arange(-half, half + 0.5, 1.0)
    places = near + u[None, :, None] * along + v[:, None, None] * across
    x, y = np.maximum(0, np.floor(places.min((0, 1))).astype(int) - 2)
    right, bottom = np.ceil(places.max((0, 1))).astype(int) + 3
    map_x, map_y = (places[..., 0] - x).astype(np.float32), (places[..., 1] - y).astype(np.float32)
    light = grey_light(picture.rgb[y:bottom, x:right])
    piece = cv2.remap(light, map_x, map_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    bands = np.array_split(np.arange(len(v)), BANDS)
    profiles = np.array([piece[rows].mean(0) for rows in bands])
    slopes = np.gradient(gaussian_filter1d(profiles, SOFTEN_PX * 2, axis=1), axis=1)
    whole = np.median(slopes, axis=0)
    noise = float(np.median(np.abs(slopes - whole))) + 1e-6
    trim = 3
    strength = np.abs(whole[trim:-trim])
    if strength.max() < CLEAR * noise or strength.max() < 1e-3:
        raise CannotMeasure("no_edge_here", end=end)
    top = int(np.argmax(strength)) + trim
    spots, is_line = _places(slopes, whole, top, line_px * 2)
    middles = np.array([v[rows].mean() for rows in bands])
    return _line_through(middles, u[0] + 0.5 * spots, is_line=is_line)


def _places(slopes: np.ndarray, whole: np.ndarray, top: int, line: float) -> tuple[np.ndarray, bool]:
    """Where the step lies in every band, in samples; the middle between two opposite steps that lie close."""
    sign = np.sign(whole[top])
    window = np.arange(len(whole))
    other = -sign * whole
    other[np.abs(window - top) > line] = 0
    partner = int(np.argmax(other))
    is_line = other[partner] > 0.55 * abs(whole[top])
    spots = _centroids(sign * slopes, top)
    if is_line:
        spots = (spots + _centroids(-sign * slopes, partner)) / 2
    return spots, bool(is_line)


def _centroids(rising: np.ndarray, near: int, half: int = 7) -> np.ndarray:
    """Centre of the step of each band near a sample."""
    low, high = max(0, near - half), min(rising.shape[1], near + half + 1)
    part = np.clip(rising[:, low:high], 0, None)
    part = np.where(part > 0.3 * part.max(1, keepdims=True), part, 0)
    return (part * np.arange(low, high)).sum(1) / np.maximum(part.sum(1), 1e-9)


def _line_through(v: np.ndarray, at: np.ndarray, *, is_line: bool) -> Edge:
    """A straight edge through the bands' places; bands far off the rest are left out once."""
    keep = np.abs(at - np.median(at)) < max(1.5, 3 * 1.4826 * float(np.median(np.abs(at - np.median(at)))) + 0.5)
    lean, where = np.polyfit(v[keep], at[keep], 1)
    rest = at[keep] - (lean * v[keep] + where)
    scatter = max(float(np.sqrt((rest**2).sum() / max(1, keep.sum() - 2))), LEAST_SCATTER_PX)
    u_at = scatter / np.sqrt(keep.sum())
    # Of a slope by least squares: the scatter over the root of the sum of squares (NIST e-Handbook, 4.4.3.1).
    u_lean = scatter / float(np.sqrt(((v[keep] - v[keep].mean()) ** 2).sum()))
    return Edge(float(where), float(lean), float(u_at), float(u_lean), is_line)

"""A shoe's contour set level: on its sole from the side and from behind, along its longest way from above."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from assay.contour.trace import contour_of
from assay.contracts import Marks, Picture


@dataclass(frozen=True, slots=True)
class OrientedContour:
    """A contour set level: x to the right, y up from the ground, in mm (px without a scale)."""

    points: np.ndarray
    back: Callable[[np.ndarray], np.ndarray]
    """OrientedContour points to picture pixels."""
    unit: float
    doubts: tuple[str, ...]

    def span(self, heights: np.ndarray | float) -> np.ndarray:
        """(…, 2) leftmost and rightmost place of the contour at each height."""
        return _crossings(self.points, heights, 1)

    def rise(self, places: np.ndarray | float) -> np.ndarray:
        """(…, 2) lowest and highest point of the contour at each place along."""
        return _crossings(self.points, places, 0)


def orient(picture: Picture, marks: Marks, *, sole_down: bool) -> OrientedContour:
    """Find the contour and set it level. Raises what the contour raises."""
    contour, doubts = contour_of(picture, marks)
    points = contour.points * [1, -1]
    turn = _sole_angle(points) if sole_down else _long_angle(points)
    turned = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    flat = points @ turned.T
    ground = _ground(flat) if sole_down else float(flat[:, 1].mean())
    unit = picture.mm_per_px or 1.0

    def back(oriented: np.ndarray) -> np.ndarray:
        return ((np.asarray(oriented, float) / unit + [0, ground]) @ turned) * [1, -1]

    return OrientedContour((flat - [0, ground]) * unit, back, unit, doubts)


def _sole_angle(points: np.ndarray) -> float:
    """Angle of the sole's lower edge, radians: a robust line through the lowest points of every place along."""
    low = _lower_edge(points)
    middle = low[(low[:, 0] > np.quantile(low[:, 0], 0.2)) & (low[:, 0] < np.quantile(low[:, 0], 0.8))]
    weight = np.ones(len(middle))
    slope = 0.0
    for _ in range(5):
        slope, start = np.polyfit(middle[:, 0], middle[:, 1], 1, w=weight)
        residual = np.abs(middle[:, 1] - slope * middle[:, 0] - start)
        weight = 1 / (1 + (residual / (1.5 * np.median(residual) + 0.3)) ** 2)
    return float(np.arctan(slope))


def _lower_edge(points: np.ndarray) -> np.ndarray:
    places = np.linspace(points[:, 0].min(), points[:, 0].max(), 90)[3:-3]
    return np.stack([places, _crossings(points, places, 0)[:, 0]], 1)


def _ground(flat: np.ndarray) -> float:
    """Height of the ground: where the level sole stands, its worn or raised ends left out."""
    low = _lower_edge(flat)[:, 1]
    return float(np.quantile(low, 0.15))


def _long_angle(points: np.ndarray) -> float:
    """Angle of the longest way through, radians (principal axis)."""
    residual = points - points.mean(0)
    _, _, axes = np.linalg.svd(residual, full_matrices=False)
    return float(np.arctan2(axes[0, 1], axes[0, 0]) if axes[0, 0] >= 0 else np.arctan2(-axes[0, 1], -axes[0, 0]))


def _crossings(points: np.ndarray, at: np.ndarray | float, axis: int) -> np.ndarray:
    """(…, 2) least and greatest value of the other coordinate where the closed contour has each ``at`` on this one; its
    nearest point's where it has none."""
    wanted = np.atleast_1d(np.asarray(at, float))
    own, other = points[:, axis], points[:, 1 - axis]
    under = own <= wanted[:, None]
    which, first = np.nonzero(under != np.roll(under, -1, axis=1))
    last = (first + 1) % len(points)
    share = (wanted[which] - own[first]) / (own[last] - own[first])
    values = other[first] + share * (other[last] - other[first])
    found, missed = np.empty((len(wanted), 2)), np.ones(len(wanted), bool)
    crossed, starts = np.unique(which, return_index=True)
    missed[crossed] = False
    if len(crossed):
        found[crossed] = np.stack([ufunc.reduceat(values, starts) for ufunc in (np.minimum, np.maximum)], 1)
    found[missed] = other[np.abs(own - wanted[missed, None]).argmin(1)][:, None]
    return found.reshape(*np.shape(at), 2)

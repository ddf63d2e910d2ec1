"""What a checker measures by pointing: distance, angle, parallelism, a line gone on with, a circle.

Uncertainty: each point is known to ``point_px`` (standard, each axis); lengths in mm get the scale's share added
(JCGM 100:2008, 5.1.2). Circle: algebraic least squares (Kåsa, IEEE Trans. Instrum. Meas. 25, 1976).
Refuses: ``gauge_needs_points``, ``points_on_each_other``, ``lines_never_meet``, ``points_in_line``.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from assay.contracts import Point
from assay.errors import CannotMeasure
from assay.imaging.plane import Plane

# Lines that lean less against each other than this are not gone on with: they meet nowhere on a shoe.
LEAST_CROSSING_DEG = 2.0


@dataclass(frozen=True, slots=True)
class Gauged:
    """A value taken by pointing."""

    value: float
    unit: str
    """``mm``, ``px`` or ``deg``."""
    uncertainty: float
    parts: Mapping[str, float] = field(default_factory=lambda: MappingProxyType({}))
    drawn: tuple[tuple[Point, ...], ...] = ()
    """Lines to draw, picture pixels."""


def caliper(points: np.ndarray, plane: Plane | None, point_px: float) -> Gauged:
    """Distance of two points."""
    flat, unit, step = _flat(points, 2, plane)
    length = _apart(flat[0], flat[1])
    relative = plane.relative_uncertainty if plane else 0.0
    return Gauged(length, unit, float(np.hypot(np.sqrt(2) * point_px * step, length * relative)), drawn=_line(points))


def angle(points: np.ndarray, plane: Plane | None, point_px: float) -> Gauged:
    """Angle at the second of three points, degrees."""
    flat, _, step = _flat(points, 3, plane)
    one, other = flat[0] - flat[1], flat[2] - flat[1]
    lengths = _apart(flat[0], flat[1]), _apart(flat[2], flat[1])
    turned = np.degrees(np.arctan2(abs(one[0] * other[1] - one[1] * other[0]), one @ other))
    u = np.degrees(point_px * step * np.sqrt(sum(2 / length**2 for length in lengths)))
    return Gauged(float(turned), "deg", float(u), drawn=_line(points))


def parallelism(points: np.ndarray, plane: Plane | None, point_px: float) -> Gauged:
    """Lean of the line through points 3 and 4 against the line through 1 and 2, degrees; distance at both ends."""
    flat, unit, step = _flat(points, 4, plane)
    one, other = flat[1] - flat[0], flat[3] - flat[2]
    lengths = _apart(flat[0], flat[1]), _apart(flat[2], flat[3])
    other = other if one @ other >= 0 else -other
    lean = np.degrees(np.arctan2(one[0] * other[1] - one[1] * other[0], one @ other))
    u = np.degrees(point_px * step * np.sqrt(sum(2 / length**2 for length in lengths)))
    normal = np.array([-one[1], one[0]]) / lengths[0]
    ends = {f"distance_{n}_{unit}": float(abs((flat[2 + n - 1] - flat[0]) @ normal)) for n in (1, 2)}
    return Gauged(float(lean), "deg", float(u), MappingProxyType(ends), (*_line(points[:2]), *_line(points[2:])))


def line_goes_on(points: np.ndarray, plane: Plane | None, point_px: float) -> Gauged:
    """Where the line through points 1 and 2, gone on with, meets the line through 3 and 4: distance from point 2."""
    flat, unit, step = _flat(points, 4, plane)
    one, other = flat[1] - flat[0], flat[3] - flat[2]
    lengths = _apart(flat[0], flat[1]), _apart(flat[2], flat[3])
    cross = one[0] * other[1] - one[1] * other[0]
    sine = abs(cross) / lengths[0] / lengths[1]
    if sine < np.sin(np.radians(LEAST_CROSSING_DEG)):
        raise CannotMeasure("lines_never_meet")
    between = flat[2] - flat[0]
    along = (between[0] * other[1] - between[1] * other[0]) / cross
    meets = flat[0] + along * one
    # Along line 1 the meeting place moves with the sideways error of each line there, and point 2 with its own.
    there = float((meets - flat[2]) @ other / lengths[1] ** 2)
    sideways = [share**2 + (1 - share) ** 2 for share in (along, there)]
    u = point_px * step * np.sqrt(sideways[0] * (1 / sine**2 - 1) + sideways[1] / sine**2 + 1)
    distance = _apart(flat[1], meets) if abs(along - 1) > 1e-9 else 0.0
    spot = plane.to_px(meets[None])[0] if plane else meets
    relative = plane.relative_uncertainty if plane else 0.0
    drawn = (((float(points[0][0]), float(points[0][1])), (float(spot[0]), float(spot[1]))), *_line(points[2:]))
    return Gauged(distance, unit, float(np.hypot(u, distance * relative)), drawn=drawn)


def circle(points: np.ndarray, plane: Plane | None, point_px: float) -> Gauged:
    """Diameter of the circle through three or more points; how far from round, as the largest miss of its radius."""
    flat, unit, step = _flat(points, 3, plane, more=True)
    middle = flat.mean(0)
    rows = np.c_[2 * (flat - middle), np.ones(len(flat))]
    if np.linalg.svd(flat - middle, compute_uv=False)[1] < 1e-3 * np.ptp(flat, axis=0).max() + 1e-12:
        raise CannotMeasure("points_in_line")
    x, y, rest = np.linalg.lstsq(rows, ((flat - middle) ** 2).sum(1), rcond=None)[0]
    radius = float(np.sqrt(rest + x * x + y * y))
    centre = middle + np.array([x, y])
    misses = np.hypot(*(flat - centre).T) - radius
    u = 2 * point_px * step * float(np.sqrt(np.linalg.inv(rows.T @ rows)[2, 2]) / 2 / radius + 1 / np.sqrt(len(flat)))
    relative = plane.relative_uncertainty if plane else 0.0
    ring = centre + radius * np.stack([np.cos(t := np.linspace(0, 2 * np.pi, 73)), np.sin(t)], 1)
    ring = plane.to_px(ring) if plane else ring
    parts = {f"out_of_round_{unit}": float(np.abs(misses).max())}
    drawn = (tuple((float(a), float(b)) for a, b in ring),)
    return Gauged(2 * radius, unit, float(np.hypot(u, 2 * radius * relative)), MappingProxyType(parts), drawn)


GAUGES: Mapping[str, Callable[[np.ndarray, Plane | None, float], Gauged]] = MappingProxyType(
    {"caliper": caliper, "angle": angle, "parallel": parallelism, "meet": line_goes_on, "circle": circle}
)


def _flat(points: np.ndarray, wanted: int, plane: Plane | None, *, more: bool = False) -> tuple[np.ndarray, str, float]:
    """Points on the surface in mm, or in pixels where no scale is known; and the size of a pixel there."""
    points = np.asarray(points, float).reshape(-1, 2)
    if not np.isfinite(points).all() or len(points) < wanted or (len(points) > wanted and not more):
        raise CannotMeasure("gauge_needs_points", wanted=wanted, got=len(points))
    if plane is None:
        return points, "px", 1.0
    middle = points.mean(0)
    return plane.to_mm(points), "mm", plane.mm_per_px((float(middle[0]), float(middle[1])))


def _apart(one: np.ndarray, other: np.ndarray) -> float:
    length = float(np.hypot(*(other - one)))
    if length < 1e-9:
        raise CannotMeasure("points_on_each_other")
    return length


def _line(points: np.ndarray) -> tuple[tuple[Point, ...], ...]:
    return (tuple((float(x), float(y)) for x, y in points),)

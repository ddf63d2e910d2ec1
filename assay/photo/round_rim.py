"""The round rim of a small dark thing: rays are cast from a rough centre and a circle is fitted robustly to what they
find."""

from dataclasses import dataclass

import cv2
import numpy as np

SMALLEST_RADIUS_PX = 2.5
RAYS, AROUND = 40, 7
# A rim that moved by less than this share of its radius is not looked for again.
SETTLED = 0.08
# Share of rays that must find the rim.
RIM_FROM = 0.62
# A hole is at least this much darker than its surroundings, in square-root units of 0 to 1; grain stays below.
LEAST_CONTRAST = 0.06


@dataclass(frozen=True, slots=True)
class Spot:
    """A round dark thing, in pixels of the picture looked at."""

    x: float
    y: float
    radius: float
    contrast: float
    rim: float
    """Share of rays that agree on the rim."""
    roundness: float = 1.0
    """Short over long diameter."""
    darkness: float = 0.0
    """How much darker it is than around it, as a share of the light there."""


def with_rim(work: np.ndarray, spot: Spot) -> Spot | None:
    """Fit the rim around a spot; None where there is none."""
    for _ in range(2):
        fitted = _fit_rim(work, spot)
        if fitted is None:
            return None
        moved = max(np.hypot(fitted.x - spot.x, fitted.y - spot.y), abs(fitted.radius - spot.radius))
        spot = fitted
        if moved < SETTLED * fitted.radius:
            break
    return spot if spot.rim >= RIM_FROM and spot.radius >= SMALLEST_RADIUS_PX * 0.8 else None


def _fit_rim(work: np.ndarray, spot: Spot) -> Spot | None:
    angle = np.arange(RAYS) * (2 * np.pi / RAYS)
    reach = np.arange(0.0, 1.9 * spot.radius + 3, max(0.33, spot.radius / 24))
    ways = np.stack([np.cos(angle), np.sin(angle)], 1)
    xs, ys = ((at + way[:, None] * reach).astype(np.float32) for at, way in zip((spot.x, spot.y), ways.T, strict=True))
    rays = _softened(cv2.remap(work, xs, ys, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
    slope = np.gradient(rays, axis=1)
    usable = reach >= 0.35 * spot.radius
    mean_slope = np.where(usable, np.median(slope, axis=0), -np.inf)
    at = int(mean_slope.argmax())
    if mean_slope[at] <= 0:
        return None
    near = (reach >= 0.68 * reach[at]) & (reach <= 1.38 * reach[at])
    local = np.where(near, slope, -np.inf)
    found = local.argmax(1)
    radii, steep = reach[found], local.max(1)
    centre, radius = _circle(ways * radii[:, None])
    off = np.abs(np.hypot(*(ways * radii[:, None] - centre).T) - radius)
    typical = np.median(steep)
    agree = (off < max(0.9, 0.17 * radius)) & (steep > 0.3 * typical) & (typical > 0)
    if agree.sum() >= 6:
        centre, radius = _circle((ways * radii[:, None])[agree])
    within = reach < 0.7 * radius
    around = (reach > 1.2 * radius) & (reach < 1.2 * radius + max(2.0, 0.5 * radius))
    if not within.any() or not around.any():
        return None
    inner, outer = np.median(rays[:, within]), np.median(rays[:, around], axis=1)
    level = float(np.percentile(outer, 45))
    contrast = level - float(inner)
    if contrast < LEAST_CONTRAST or np.hypot(*centre) > spot.radius:
        return None
    return Spot(
        x=spot.x + centre[0],
        y=spot.y + centre[1],
        radius=float(radius),
        contrast=contrast,
        rim=float(agree.mean()),
        roundness=_roundness((ways * radii[:, None] - centre)[agree]),
        darkness=float(1 - (inner / max(level, 1e-6)) ** 2),
    )


def _softened(rays: np.ndarray) -> np.ndarray:
    """Rim against noise: neighbouring rays see nearly the same rim."""
    closed = np.concatenate([rays[-AROUND:], rays, rays[:AROUND]])
    return cv2.GaussianBlur(closed, (0, 0), sigmaX=1.2, sigmaY=1.6, borderType=cv2.BORDER_REPLICATE)[AROUND:-AROUND]


def _roundness(rim: np.ndarray) -> float:
    """Short over long diameter of a rim (N, 2) round its centre: the second harmonic of its radius."""
    if len(rim) < RAYS // 3:
        return 1.0
    away, turn = np.hypot(*rim.T), np.arctan2(rim[:, 1], rim[:, 0])
    waves = [np.ones(len(rim)), *(wave(k * turn) for k in (1, 2) for wave in (np.cos, np.sin))]
    fitted = np.linalg.lstsq(np.column_stack(waves), away, rcond=None)[0]
    swing = float(np.hypot(*fitted[3:]))
    return max(0.0, (fitted[0] - swing) / (fitted[0] + swing))


def _circle(points: np.ndarray) -> tuple[np.ndarray, float]:
    """Robust algebraic circle (Kåsa 1976), reweighted three times. (N, 2) to centre, radius."""
    x, y = points.T
    square = x * x + y * y
    terms = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y, square * x, square * y])
    weight = np.ones(len(points))
    for _ in range(3):
        all_, mx, my, xx, xy, yy, zx, zy = (terms @ weight**2).tolist()
        # About the weighted middle the normal equations are two: (centre − middle) by its scatter.
        mx, my = mx / all_, my / all_
        z = (xx + yy) / all_
        xx, xy, yy = xx / all_ - mx * mx + 1e-9, xy / all_ - mx * my, yy / all_ - my * my + 1e-9
        by_x, by_y = (zx / all_ - z * mx) / 2, (zy / all_ - z * my) / 2
        spread = xx * yy - xy * xy
        centre = (by_x * yy - by_y * xy) / spread, (by_y * xx - by_x * xy) / spread
        radius = max(z - 2 * (centre[0] * mx + centre[1] * my) + centre[0] ** 2 + centre[1] ** 2, 1e-6) ** 0.5
        off = np.abs(np.hypot(x - centre[0], y - centre[1]) - radius)
        weight = 1 / (1 + (off / (0.06 * radius + 0.2)) ** 2)
    return np.array(centre), radius

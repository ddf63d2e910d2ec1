"""The round rim of a small dark thing: rays are cast from a rough centre and a circle is fitted robustly to what they
find."""

from dataclasses import dataclass, replace

import cv2
import numpy as np

SMALLEST_RADIUS_PX = 2.5
RAYS = 40
AROUND = 7
# A rim that moved by less than this share of its radius is not looked for again.
SETTLED = 0.08
# Share of rays that must find the rim.
RIM_FROM = 0.62
# From so many on, only those tell where it is.
FEWEST_AGREE = 6
# Light along rays: how far out, against the rim as fitted, in how many steps; what is the hole, what is around it.
LIGHT_TO = 1.7
LIGHT_STEPS = 100
WITHIN = (0.0, 0.6)
AROUND_RIM = (1.3, 1.7)
# So many are fitted at once: OpenCV takes no more than 32767 rows of rays.
AT_ONCE = 400
# A hole is at least this much darker than its surroundings, in square-root units of 0 to 1; grain stays below.
LEAST_CONTRAST = 0.06


@dataclass(frozen=True, slots=True)
class CircleCandidate:
    """A round dark thing, in pixels of the picture looked at."""

    x: float
    y: float
    radius: float
    contrast: float
    inlier_share: float
    """Share of rays that agree on the rim."""
    roundness: float = 1.0
    """Short over long diameter."""
    darkness: float = 0.0
    """How much darker it is than around it, as a share of the light there."""


def with_rims(work: np.ndarray, spots: list[CircleCandidate]) -> list[CircleCandidate | None]:
    """Each spot with the rim around it; None where there is none."""
    parts = [spots[first : first + AT_ONCE] for first in range(0, len(spots), AT_ONCE)]
    fitted = [one for part in parts for one in _fitted_twice(work, part)]
    whole = 0.8 * SMALLEST_RADIUS_PX
    return [spot if spot and spot.inlier_share >= RIM_FROM and spot.radius >= whole else None for spot in fitted]


def in_light(light: np.ndarray, spots: list[CircleCandidate]) -> list[CircleCandidate]:
    """The same, each with a rim as wide as where light, (H, W) and linear, is half way from the hole's to its
    surroundings'. Rims are fitted in a root of light that shows them in shadow, and the steepest place of a root lies
    inside the hole: 1.8 px of a diameter on practice pictures."""
    if not spots:
        return []
    x, y, radius = np.array([(spot.x, spot.y, spot.radius) for spot in spots]).T
    turn, share = np.arange(RAYS) * (2 * np.pi / RAYS), np.linspace(0, LIGHT_TO, LIGHT_STEPS)
    away = radius[:, None, None] * share
    where = [
        (middle[:, None, None] + way(turn)[:, None] * away).astype(np.float32).reshape(-1, LIGHT_STEPS)
        for middle, way in ((x, np.cos), (y, np.sin))
    ]
    parts = [slice(n, n + AT_ONCE * RAYS) for n in range(0, len(where[0]), AT_ONCE * RAYS)]
    rays = [
        cv2.remap(light, *(one[part] for one in where), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        for part in parts
    ]
    profiles = np.median(np.concatenate(rays).reshape(len(spots), RAYS, LIGHT_STEPS), axis=1)
    return [_as_wide(spot, share, profile) for spot, profile in zip(spots, profiles, strict=True)]


def _as_wide(spot: CircleCandidate, share: np.ndarray, profile: np.ndarray) -> CircleCandidate:
    if not spot.inlier_share:
        return spot
    inner, outer = (float(np.median(profile[(share > low) & (share < high)])) for low, high in (WITHIN, AROUND_RIM))
    half, near = (inner + outer) / 2, share > WITHIN[1]
    beyond = np.flatnonzero(near & (profile > half))
    if outer <= inner or not len(beyond):
        return spot
    at = int(beyond[0])
    step = (half - profile[at - 1]) / max(profile[at] - profile[at - 1], 1e-9)
    return replace(spot, radius=spot.radius * float(share[at - 1] + np.clip(step, 0, 1) * (share[at] - share[at - 1])))


def _fitted_twice(work: np.ndarray, spots: list[CircleCandidate]) -> list[CircleCandidate | None]:
    """The rims as fitted, again from there where they moved much."""
    fitted = _fit_rims(work, spots)
    again = [n for n, (was, now) in enumerate(zip(spots, fitted, strict=True)) if now and _moved(was, now)]
    for n, spot in zip(again, _fit_rims(work, [spot for n in again if (spot := fitted[n])]), strict=True):
        fitted[n] = spot
    return fitted


def _moved(was: CircleCandidate, now: CircleCandidate) -> bool:
    return max(np.hypot(now.x - was.x, now.y - was.y), abs(now.radius - was.radius)) >= SETTLED * now.radius


def _fit_rims(work: np.ndarray, spots: list[CircleCandidate]) -> list[CircleCandidate | None]:
    """All at once: of arrays the first axis is the spot, the second the ray, the last the place on it."""
    if not spots:
        return []
    x, y, first = np.array([(spot.x, spot.y, spot.radius) for spot in spots]).T
    reach, cast = _reach(first)
    angle = np.arange(RAYS) * (2 * np.pi / RAYS)
    ways = np.stack([np.cos(angle), np.sin(angle)], 1)
    rays = _rays(work, x[:, None, None] + ways[:, :1] * reach[:, None], y[:, None, None] + ways[:, 1:] * reach[:, None])
    slope = np.gradient(rays, axis=2)
    usual = np.where(cast & (reach >= 0.35 * first[:, None]), np.quantile(slope, 0.5, axis=1), -np.inf)
    rows, at = np.arange(len(spots)), usual.argmax(1)
    rough = reach[rows, at][:, None]
    local = np.where((cast & (reach >= 0.68 * rough) & (reach <= 1.38 * rough))[:, None], slope, -np.inf)
    steep = local.max(2)
    rim = ways * reach[rows[:, None], local.argmax(2)][..., None]
    agree = _agreeing(rim, steep)
    centre, radius = _circles(rim, agree | (agree.sum(1, keepdims=True) < FEWEST_AGREE))
    size = radius[:, None]
    within = cast & (reach < 0.7 * size)
    around = cast & (reach > 1.2 * size) & (reach < 1.2 * size + np.maximum(2.0, 0.5 * size))
    inner = _median(rays.reshape(len(spots), -1), np.tile(within, RAYS))
    level = np.quantile(_median(rays, np.broadcast_to(around[:, None], rays.shape)), 0.45, axis=1)
    stands_out = (usual[rows, at] > 0) & within.any(1) & around.any(1) & (level - inner >= LEAST_CONTRAST)
    stands_out &= np.hypot(*centre.T) <= first
    roundness = _roundness(rim - centre[:, None], agree)
    return [
        CircleCandidate(
            x=float(x[n] + centre[n, 0]),
            y=float(y[n] + centre[n, 1]),
            radius=float(radius[n]),
            contrast=float(level[n] - inner[n]),
            inlier_share=float(agree[n].mean()),
            roundness=float(roundness[n]),
            darkness=float(1 - (inner[n] / max(level[n], 1e-6)) ** 2),
        )
        if stands_out[n]
        else None
        for n in rows
    ]


def _reach(radius: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How far out rays are looked at for each rough radius, (S, R), and which of these places are: the finer, the
    smaller."""
    step = np.maximum(0.33, radius / 24)
    count = np.ceil((1.9 * radius + 3) / step)
    index = np.arange(int(count.max()))
    return index * step[:, None], index < count[:, None]


def _rays(work: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """The picture along rays, softened: rim against noise, and neighbouring rays see nearly the same rim."""
    where = (one.astype(np.float32).reshape(-1, x.shape[2]) for one in (x, y))
    rays = cv2.remap(work, *where, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).reshape(x.shape)
    closed = np.concatenate([rays[:, -AROUND:], rays, rays[:, :AROUND]], axis=1)
    flat = closed.reshape(-1, x.shape[2])
    soft = cv2.GaussianBlur(flat, (0, 0), sigmaX=1.2, sigmaY=1.6, borderType=cv2.BORDER_REPLICATE)
    return soft.reshape(closed.shape)[:, AROUND:-AROUND]


def _agreeing(rim: np.ndarray, steep: np.ndarray) -> np.ndarray:
    """(S, N) which places of each rim lie on its circle and are a rim's."""
    centre, radius = _circles(rim, np.ones(steep.shape))
    residual = np.abs(np.linalg.norm(rim - centre[:, None], axis=2) - radius[:, None])
    typical = np.quantile(steep, 0.5, axis=1)[:, None]
    return (residual < np.maximum(0.9, 0.17 * radius)[:, None]) & (steep > 0.3 * typical) & (typical > 0)


def _median(values: np.ndarray, where: np.ndarray) -> np.ndarray:
    """Along the last axis over those places; 0 where there are none."""
    order, count = np.sort(np.where(where, values, np.inf), axis=-1), where.sum(-1, keepdims=True)
    middle = [np.take_along_axis(order, np.maximum(half, 0), -1) for half in ((count - 1) // 2, count // 2)]
    return np.where(count > 0, sum(middle) / 2, 0)[..., 0]


def _roundness(rim: np.ndarray, agree: np.ndarray) -> np.ndarray:
    """Short over long diameter of each rim (S, N, 2) round its centre: the second harmonic of its radius."""
    away, turn = np.linalg.norm(rim, axis=2), np.arctan2(rim[..., 1], rim[..., 0])
    waves = np.stack([np.ones_like(turn), *(wave(k * turn) for k in (1, 2) for wave in (np.cos, np.sin))], 1)
    waves *= agree[:, None]
    normal = waves @ waves.transpose(0, 2, 1) + 1e-9 * np.eye(5)
    fitted = np.linalg.solve(normal, waves @ away[..., None])[..., 0]
    swing = np.hypot(fitted[:, 3], fitted[:, 4])
    round_ = np.maximum(0.0, (fitted[:, 0] - swing) / (fitted[:, 0] + swing + 1e-9))
    return np.where(agree.sum(1) < RAYS // 3, 1.0, round_)


def _circles(points: np.ndarray, counts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Robust algebraic circles (Kåsa 1976), reweighted three times, through the places (S, N, 2) that count: centres
    (S, 2), radii (S,)."""
    x, y = points[..., 0], points[..., 1]
    square = x * x + y * y
    terms = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y, square * x, square * y], 1)
    weight = counts.astype(float)
    for _ in range(3):
        all_, mx, my, xx, xy, yy, zx, zy = (terms @ (weight**2)[..., None])[..., 0].T
        # About the weighted middle the normal equations are two: (centre − middle) by its scatter.
        mx, my, z = mx / all_, my / all_, (xx + yy) / all_
        xx, xy, yy = xx / all_ - mx * mx + 1e-9, xy / all_ - mx * my, yy / all_ - my * my + 1e-9
        by_x, by_y = (zx / all_ - z * mx) / 2, (zy / all_ - z * my) / 2
        spread = xx * yy - xy * xy
        cx, cy = (by_x * yy - by_y * xy) / spread, (by_y * xx - by_x * xy) / spread
        radius = np.sqrt(np.maximum(z - 2 * (cx * mx + cy * my) + cx**2 + cy**2, 1e-6))
        residual = np.abs(np.hypot(x - cx[:, None], y - cy[:, None]) - radius[:, None])
        weight = counts / (1 + (residual / (0.06 * radius + 0.2)[:, None]) ** 2)
    return np.stack([cx, cy], 1), radius

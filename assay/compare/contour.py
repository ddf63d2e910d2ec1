"""One contour laid on another, and how far it departs along the way.

A proper rotation and a shift, never a mirror, never a scale: both contours are in mm and of one size. Fitted point to
line (Chen & Medioni 1992) with weights that give up on what departs (Geman & McClure 1987): plain least squares would
hide up to a quarter of a local change by leaning the whole towards it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any, NamedTuple

import numpy as np
from scipy.ndimage import gaussian_filter1d, median_filter
from scipy.spatial import cKDTree

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Stroke, StrokeKind
from assay.errors import CannotAlign, CannotJudge

STEP_MM = 0.4
# Which way round a contour lies is found on every so many of its places; a contour that scatters by less lies right at
# once. How it lies is then found on every so many.
THIN = 8
SURELY_MM = 0.5
FEW = 4
# Rounds of laying on at most; and when it has settled, mm, where a turn counts by what it moves at an arm's length.
ROUNDS = 40
SETTLED_MM = 4e-3
ARM_MM = 100.0
# A contour that a turn by one radian moves by less than this, mm, is round: its turn cannot be told, and is left.
ROUND_MM = 0.3
# What agreeing contours scatter by at best, mm.
LEAST_SCATTER_MM = 0.08
# A departure counts where it lasts: the middle one of so much of the contour, mm. What is shorter is the contour's
# reading, not the shape; a bulge 20 mm wide loses less than 0.1. Then smoothed, mm.
LASTING_MM = 5.0
SMOOTH_MM = 0.8
# Rims that lie this far apart on the whole are not of one thing, mm.
FURTHEST_MM = 12.0

KIND = "contour"
DRAWN_FROM_MM = 0.4
"""Departures from here on are drawn."""
BAR_EVERY = 6
"""Each as a bar of a ribbon, every so many places of the contour."""
RING_MM = 6.0
"""Radius of the ring at the worst place."""
ZONES = ("sole", "toe", "vamp", "collar", "heel")
"""Zones of a shoe's side, from the toe's tip to the heel."""
SOLE = 0.2
"""How high the sole's zone reaches, as a share of the height."""
TOE = 0.22
VAMP = 0.5
COLLAR = 0.8
"""Where the zones before the heel's end, as shares of the length from the toe's tip."""
U_CONTOURS_MM = 0.12
"""Standard uncertainty of a departure: two contours, each to a third of a pixel or so."""
MOST_SCALES = 3.0
"""So many standard uncertainties of the scale are put down to it at most."""


@dataclass(frozen=True, slots=True)
class ContourDeviation:
    """How a contour lies on the reference's."""

    turn: np.ndarray
    """2 × 2 rotation from ours to theirs."""
    shift: np.ndarray
    """(2,) mm, after the rotation."""
    along: np.ndarray
    """(N, 2) places along the reference's contour, mm."""
    distance: np.ndarray
    """(N,) how far ours lies outside (+) or inside (−) there, mm."""
    scatter: float
    """Of what agrees, mm."""

    @property
    def largest(self) -> float:
        """The largest departure, signed, mm."""
        return float(self.distance[np.abs(self.distance).argmax()])

    @property
    def p95(self) -> float:
        """95th percentile of the departures' sizes, mm."""
        return float(np.percentile(np.abs(self.distance), 95))


def register_contour(ours: np.ndarray, theirs: np.ndarray) -> ContourDeviation:
    """Lay our closed contour (N, 2) on theirs (M, 2), both in mm. Raises CannotAlign ``rims_too_unlike``."""
    return _registered(_sought(ours), theirs)


class _Sought(NamedTuple):
    """Our contour: the nearest of its places is asked for again and again."""

    contour: np.ndarray
    tree: cKDTree
    thin: cKDTree


def _sought(ours: np.ndarray) -> _Sought:
    contour = even(ours, STEP_MM / 2)
    return _Sought(contour, cKDTree(contour), cKDTree(even(ours, THIN * STEP_MM / 2)))


def _registered(ours: _Sought, theirs: np.ndarray) -> ContourDeviation:
    reference, best = even(theirs, STEP_MM), None
    normal = outward(reference)
    # Which way round: by a thin contour; then by a few of the places, which tell as well as all how it lies.
    for turn in _starts(ours.contour, reference):
        shift = reference.mean(0) - turn @ ours.contour.mean(0)
        fitted = _fit(ours.thin, reference[::THIN], normal[::THIN], (turn, shift, None))
        best = fitted if best is None or fitted.scatter < best.scatter else best
        if best.scatter < SURELY_MM:
            break
    if best is None:
        raise CannotAlign("rims_too_unlike")
    turn, shift, scatter = _fit(ours.tree, reference[::FEW], normal[::FEW], (best.turn, best.shift, 3 * best.scatter))
    distance, _ = _distances(ours.tree, reference, normal, turn, shift)
    if float(np.median(np.abs(distance))) > FURTHEST_MM:
        raise CannotAlign("rims_too_unlike")
    lasting = median_filter(distance, int(LASTING_MM / STEP_MM) | 1, mode="wrap")
    smooth = gaussian_filter1d(lasting, SMOOTH_MM / STEP_MM, mode="wrap")
    return ContourDeviation(turn, shift, reference, smooth, scatter)


def even(curve: np.ndarray, step: float) -> np.ndarray:
    """A closed curve at even steps, clockwise as seen (y down)."""
    curve = np.asarray(curve, float)
    x, y = curve.T
    if np.dot(x, np.roll(y, -1)) < np.dot(y, np.roll(x, -1)):
        curve = curve[::-1]
    closed = np.vstack([curve, curve[:1]])
    length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    places = np.linspace(0, length[-1], max(64, round(length[-1] / step)), endpoint=False)
    return np.stack([np.interp(places, length, closed[:, k]) for k in (0, 1)], 1)


def outward(curve: np.ndarray) -> np.ndarray:
    """Unit normals of an even, clockwise curve, away from its inside."""
    smooth = gaussian_filter1d(curve, 2, axis=0, mode="wrap")
    along = np.roll(smooth, -1, axis=0) - np.roll(smooth, 1, axis=0)
    return np.stack([along[:, 1], -along[:, 0]], 1) / (np.hypot(*along.T)[:, None] + 1e-12)


def _starts(contour: np.ndarray, reference: np.ndarray) -> Iterator[np.ndarray]:
    """As it lies; then the longest ways through both made one, either way round."""
    yield np.eye(2)
    angles = []
    for curve in (contour, reference):
        _, _, axes = np.linalg.svd(curve - curve.mean(0), full_matrices=False)
        angles.append(np.arctan2(axes[0, 1], axes[0, 0]))
    yield from (_rotation(angles[1] - angles[0] + extra) for extra in (0.0, np.pi))


class _Fitted(NamedTuple):
    turn: np.ndarray
    shift: np.ndarray
    scatter: float
    """Before the last step, which moved next to nothing."""


def _fit(tree: cKDTree, reference: np.ndarray, normal: np.ndarray, start: tuple[Any, ...]) -> _Fitted:
    """``tree``: our contour's; ``start``: turn, shift, and from which scale on departures are given up, None: forgiving
    at first."""
    turn, shift, scale = start
    for _ in range(ROUNDS):
        distance, spots = _distances(tree, reference, normal, turn, shift)
        scatter = max(LEAST_SCATTER_MM, 1.4826 * float(np.quantile(np.abs(distance), 0.5)))
        # From forgiving to strict: what departs is given up step by step.
        scale = scatter * 3 if scale is None else max(2 * scatter, 0.75 * scale)
        weight = 1 / (1 + (distance / scale) ** 2) ** 2
        middle = spots.mean(0)
        design = _moves(spots - middle, normal)
        heavy = design * weight[:, None]
        hold = np.diag([1e-9, 1e-9, weight.sum() * ROUND_MM**2])
        step = np.linalg.solve(heavy.T @ design + hold, heavy.T @ -distance)
        spin = _rotation(float(np.clip(step[2], -0.1, 0.1)))
        turn, shift = spin @ turn, spin @ (shift - middle) + middle + step[:2]
        if np.abs(step[:2]).max() < SETTLED_MM and abs(step[2]) < SETTLED_MM / ARM_MM:
            break
    return _Fitted(turn, shift, 1.4826 * float(np.quantile(np.abs(distance), 0.5)))


def _moves(arm: np.ndarray, normal: np.ndarray) -> np.ndarray:
    """(N, 3) how far places at ``arm`` from the middle move outwards by a shift in x, one in y, and a turn."""
    return np.column_stack([normal, normal[:, 1] * arm[:, 0] - normal[:, 0] * arm[:, 1]])


def _distances(
    tree: cKDTree, reference: np.ndarray, normal: np.ndarray, turn: np.ndarray, shift: np.ndarray
) -> tuple[Any, ...]:
    """How far the nearest of our points lies outside every place of the reference, (N,), and those points, (N, 2)."""
    # The reference is brought to our side, where the tree stays as it is and places are complex, and the answer back.
    here = (reference - shift) @ turn
    nearest = tree.query(here)[1]
    here, contour = here.view(complex)[:, 0], tree.data.view(complex)[:, 0]
    at = contour[nearest]
    ways = [_on_segment(here, at, contour[nearest - 1]), _on_segment(here, at, contour[(nearest + 1) % len(contour)])]
    gaps = [distance.real**2 + distance.imag**2 for distance in (spot - here for spot in ways)]
    spots = np.where(gaps[0] < gaps[1], *ways)[:, None].view(float) @ turn.T + shift
    across = ((spots - reference) * normal).sum(1)
    return np.sign(across) * np.sqrt(np.minimum(*gaps)), spots


def _on_segment(points: np.ndarray, one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """The nearest place to each point on the segment between two others, complex."""
    way = other - one
    share = (way.conj() * (points - one)).real / np.maximum(way.real**2 + way.imag**2, 1e-12)
    return one + share.clip(0, 1) * way


def _rotation(angle: float) -> np.ndarray:
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """How far our contour departs from theirs, and where.

    Parts: ``p95_mm`` and ``departure_mm`` (95th percentile and largest of the departures' sizes), ``outward_mm`` (the
    largest, signed: outside positive); of a shoe's side, zone by zone, ``toe_most_mm``, ``toe_p95_mm``,
    ``toe_mean_mm`` …. Raises CannotJudge ``no_scale``, CannotAlign ``rims_too_unlike``.
    """
    if theirs.unit != "mm" or ours.unit != "mm":
        raise CannotJudge("no_scale")
    off = float(np.hypot(ours.relative_uncertainty, theirs.relative_uncertainty))
    found = beyond_scale(register_contour(ours.points, theirs.points), off)
    size, untold = abs(found.largest), float(np.hypot(ours.departure_share, theirs.departure_share))
    u = float(np.hypot(U_CONTOURS_MM, size * untold))
    parts = {
        "p95_mm": found.p95,
        "p95_mm_uncertainty": u,
        "departure_mm": size,
        "departure_mm_uncertainty": u,
        "outward_mm": found.largest,
    }
    if ours.facing:
        parts |= zones(found, ours.facing)
    return Comparison(MappingProxyType(parts), tuple(_ribbon(found)))


def beyond_scale(deviation: ContourDeviation, off: float) -> ContourDeviation:
    """The departures, less what a scale of relative standard uncertainty ``off`` explains of them.

    A contour that is a share too large stands out at both ends by that share of half its length. The share that fits
    best, as far as it is likely, is taken off, with the turn and the shift that go with it; what departs on its own is
    given up in that fit (Geman & McClure 1987) and stays.
    """
    if not off:
        return deviation
    normal, arm = outward(deviation.along), deviation.along - deviation.along.mean(0)
    grows = (arm * normal).sum(1)
    design = np.column_stack([_moves(arm, normal), grows])
    rest, scale = deviation.distance, None
    for _ in range(ROUNDS):
        scatter = max(LEAST_SCATTER_MM, 1.4826 * float(np.median(np.abs(rest))))
        scale = 4 * float(np.abs(rest).max()) if scale is None else max(2 * scatter, 0.75 * scale)
        weight = 1 / (1 + (rest / scale) ** 2) ** 2
        heavy = design * weight[:, None]
        hold = np.diag([1e-9, 1e-9, weight.sum() * ROUND_MM**2, (scatter / off) ** 2])
        fitted = np.linalg.solve(heavy.T @ design + hold, heavy.T @ deviation.distance)
        if abs(fitted[3]) > MOST_SCALES * off:
            fitted[3] = np.sign(fitted[3]) * MOST_SCALES * off
            left = heavy[:, :3].T @ (deviation.distance - fitted[3] * grows)
            fitted[:3] = np.linalg.solve(heavy[:, :3].T @ design[:, :3] + hold[:3, :3], left)
        rest = deviation.distance - design @ fitted
        if scale <= 2 * scatter:
            break
    return replace(deviation, distance=rest)


def mirrored(descriptor: Descriptor) -> Descriptor:
    """As a mirror shows it."""
    turned = {name: getattr(descriptor, name) * [-1, 1] for name in ("points", "marks")}
    return replace(descriptor, **turned, facing=-descriptor.facing)


def zones(deviation: ContourDeviation, facing: int) -> dict[str, float]:
    """Largest and mean departure, signed, and 95th percentile of every zone; ``facing``: 1 where the toe is left."""
    low, high = deviation.along.min(0), deviation.along.max(0)
    across, down = ((deviation.along - low) / (high - low)).T
    ahead = across if facing > 0 else 1 - across
    where = np.select([down > 1 - SOLE, ahead < TOE, ahead < VAMP, ahead < COLLAR], ZONES[:4], ZONES[4])
    parts = {}
    for zone in ZONES:
        distance = deviation.distance[where == zone]
        if len(distance):
            parts[f"{zone}_most_mm"] = float(distance[np.abs(distance).argmax()])
            parts[f"{zone}_p95_mm"] = float(np.percentile(np.abs(distance), 95))
            parts[f"{zone}_mean_mm"] = float(distance.mean())
    return parts


def _ribbon(deviation: ContourDeviation) -> list[Stroke]:
    """From their contour to ours, wherever they part, and a ring at the worst place; on ours' plane, mm."""
    worst = int(np.abs(deviation.distance).argmax())
    parted = [n for n in range(0, len(deviation.distance), BAR_EVERY) if abs(deviation.distance[n]) >= DRAWN_FROM_MM]
    bars = [Stroke(StrokeKind.LINE, _beside(deviation, n)) for n in parted]
    return [*bars, Stroke(StrokeKind.RING, _beside(deviation, worst)[:1], f"{deviation.largest:+.1f}", RING_MM)]


def _beside(deviation: ContourDeviation, n: int) -> tuple[Any, ...]:
    """Their contour's place n, where our shoe stands, and ours beside it."""
    way = deviation.along[(n + 2) % len(deviation.along)] - deviation.along[n - 2]
    normal = np.array([way[1], -way[0]]) / (np.hypot(*way) + 1e-9)
    both = np.array([deviation.along[n], deviation.along[n] + normal * deviation.distance[n]])
    return tuple((float(x), float(y)) for x, y in (both - deviation.shift) @ deviation.turn)


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {"p95_mm": "mm", "departure_mm": "mm"},
    magnitudes=frozenset({"p95_mm", "departure_mm"}),
    # Drawn pairs of one shoe and the simulator's retail pairs lie within 0.8 mm of each other: make bench, README.
    floors={"p95_mm": 0.2, "departure_mm": 0.4},
    typical={"p95_mm": 0.25, "departure_mm": 0.5},
)

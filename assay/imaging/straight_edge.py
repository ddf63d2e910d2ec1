"""A straight edge near a place, to a fraction of a pixel.

The light is looked at in narrow bands across; in every band the step is found, and the line through them is the edge.
Of several the steep and near one is taken; one that could be meant as well makes it unsure. A dark or light line (a
perforation, a printed rule) counts by its middle.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

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
# Steps of less than this share of the steepest are not looked at.
FAINTEST = 0.3
# Light on the two sides of a line differs by less than this share of its depth.
UNEVEN = 0.5
# So far from the drawn place, as a share of the reach, an edge counts half.
REACH_SHARE = 3.0
# Another edge of more than this share of the best one's score may be the one that is meant.
RIVAL = 0.5
# How far a step reaches to either side, samples of half a pixel.
STEP_SAMPLES = 7
# So often the bands are looked through, each time along the line found last.
TURNS = 3
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


@dataclass(frozen=True, slots=True)
class _Candidate:
    """A step, or the two sides of a line; in samples of the profile."""

    steps: tuple[int, ...]
    score: float
    """Its strength, less the further from where it was looked for."""

    @property
    def at(self) -> float:
        return float(np.mean(self.steps))


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
    # A line at the border of what is looked at shows both its sides.
    far = reach + line_px
    u, v = np.arange(-far, far + 0.25, 0.5), np.arange(-half, half + 0.5, 1.0)
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
    strength = np.abs(whole[np.abs(u) < reach - 1])
    if strength.max() < CLEAR * noise or strength.max() < 1e-3:
        raise CannotMeasure("no_edge_here", end=end)
    candidates = _candidates(whole, profiles.mean(0), u, line_px, reach)
    if not candidates:
        raise CannotMeasure("no_edge_here", end=end)
    best, *rivals = candidates
    middles = np.array([v[rows].mean() for rows in bands])
    near, is_line = np.full(BANDS, best.at), len(best.steps) > 1
    for _ in range(TURNS):
        steps = [(np.sign(whole[at]), near + at - best.at) for at in best.steps]
        spots = np.mean([_centroids(sign * slopes, there) for sign, there in steps], axis=0)
        edge = _line_through(middles, u[0] + 0.5 * spots, is_line=is_line)
        # A band whose step lies beyond what was looked at finds it once the lean is known.
        near = 2 * (edge.at + edge.lean * middles - u[0])
    # It may as well be another: what is read then lies off by as much.
    seen = [rival for rival in rivals if rival.score > RIVAL * best.score and _beside(slopes, whole, near, best, rival)]
    off = max((abs(one.at - best.at) / 2 for one in seen), default=0.0)
    return replace(edge, u_at=float(np.hypot(edge.u_at, off / 2)))


def _beside(slopes: np.ndarray, whole: np.ndarray, spots: np.ndarray, best: _Candidate, other: _Candidate) -> bool:
    """Whether the other edge shows in the bands beside the best one; a single one that leans shows once in each."""

    def strength(candidate: _Candidate) -> float:
        there = np.round(spots + candidate.steps[0] - best.at).astype(int)
        columns = np.clip(there[:, None] + np.arange(-3, 4), 0, slopes.shape[1] - 1)
        return float(np.median((np.sign(whole[candidate.steps[0]]) * np.take_along_axis(slopes, columns, 1)).max(1)))

    apart = abs(other.at - best.at) > STEP_SAMPLES
    return apart and strength(other) > FAINTEST * strength(best)


def _candidates(whole: np.ndarray, profile: np.ndarray, u: np.ndarray, line: float, reach: float) -> list[_Candidate]:
    """Every edge that could be meant, the likeliest first. Two opposite steps side by side are one line where the light
    beyond them is the same again; a step beside a groove or a shadow is not."""
    size = np.abs(whole)
    faintest = FAINTEST * size[np.abs(u) < reach - 1].max()
    tops = [n for n in range(1, len(u) - 1) if size[n] > faintest and size[n] == size[max(0, n - 2) : n + 3].max()]
    levels = [float(np.median(part)) if len(part) else 0.0 for part in np.split(profile, tops)]
    pairs = []
    for n, (first, last) in enumerate(pairwise(tops)):
        if whole[first] * whole[last] < 0 and u[last] - u[first] <= line:
            before, within, after = levels[n : n + 3]
            depth = min(abs(before - within), abs(after - within))
            pairs.append((abs(after - before) / max(depth, 1e-9), first, last))
    lines: list[tuple[int, ...]] = []
    for uneven, first, last in sorted(pairs):
        if uneven < UNEVEN and not {first, last} & {at for one in lines for at in one}:
            lines.append((first, last))
    paired = {at for one in lines for at in one}
    found = []
    for steps in lines + [(at,) for at in tops if at not in paired]:
        off = float(np.mean(u[list(steps)]))
        if abs(off) < reach - 1:
            near = 1 / (1 + (REACH_SHARE * off / reach) ** 2)
            found.append(_Candidate(steps, float(np.mean(size[list(steps)])) * near))
    return sorted(found, key=lambda one: -one.score)


def _centroids(rising: np.ndarray, near: np.ndarray, half: int = STEP_SAMPLES) -> np.ndarray:
    """Centre of the step of each band near its sample."""
    columns = np.round(near).astype(int)[:, None] + np.arange(-half, half + 1)
    inside = (columns >= 0) & (columns < rising.shape[1])
    part = np.take_along_axis(rising, np.clip(columns, 0, rising.shape[1] - 1), 1)
    part = np.where(inside, np.clip(part, 0, None), 0)
    part = np.where(part > 0.3 * part.max(1, keepdims=True), part, 0)
    total = part.sum(1)
    return np.where(total > 0, (part * columns).sum(1) / np.maximum(total, 1e-9), near)


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

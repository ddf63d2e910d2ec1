"""From one edge to another: the width of a label, its place on the box, a tab, a border.

A path of two ends is drawn roughly across. Around each end the light is looked at in narrow bands along the path; in
every band the steepest step is found to a fraction of a pixel, and the line through them is the edge. A dark or light
line (a perforation, a printed rule) counts by its middle.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d

from assay.contracts import Marks, Picture, Point, Reading, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.photo.light import grey_light

METHOD = "span/1"
# How far from where it was drawn an edge is looked for, and how much of it, mm; pixels without a scale.
REACH_MM, HALF_BAND_MM = 3.0, 6.0
REACH_PX, HALF_BAND_PX = 24, 48
BANDS = 9
# Two opposite steps nearer than this are the two sides of one line, mm.
LINE_MM = 1.6
SOFTEN_PX = 1.2
# With less to look at on either side of an end there is no edge to tell from noise, px.
LEAST_REACH_PX = 4
# A step must rise this far over the scatter of the piece.
CLEAR = 5.0


@dataclass(frozen=True, slots=True)
class Edge:
    """An edge across a path: where it crosses (px along the path, from where it was looked for), and how it leans."""

    at: float
    lean: float
    """Pixels along the path a pixel across."""
    off: float
    """Standard uncertainty of ``at``, px."""
    is_line: bool


def measure(picture: Picture, marks: Marks) -> Reading:
    """Distance between the edges at the two ends of a path, mm (px without a scale), along the path's direction.

    Parts: ``lean_deg``, the angle between the two edges. Raises CannotMeasure ``no_edge_here`` (end) or what the marks
    raise.
    """
    drawn = marks.checked(picture.size)
    ends = np.array([drawn[0], drawn[-1]])
    along = ends[1] - ends[0]
    length = float(np.hypot(*along))
    along /= length
    across = np.array([-along[1], along[0]])
    step = picture.mm_per_px
    reach = REACH_PX if step is None else REACH_MM / step
    reach = float(min(reach, 0.45 * length))
    if reach < LEAST_REACH_PX:
        raise CannotMeasure("path_too_short", length_px=round(length))
    half = HALF_BAND_PX if step is None else max(HALF_BAND_MM / step, 2 * BANDS)
    line_px = 0.5 * REACH_PX if step is None else LINE_MM / step
    first, last = (_edge(picture, ends[n], along, across, (reach, half, line_px), n) for n in (0, 1))
    return _reading(picture, (ends[0], along, across, half), first, replace(last, at=length + last.at))


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Reading:
    """Edges are put right by moving the path's ends, never by ticks: always raises CannotMeasure."""
    raise CannotMeasure("move_the_region", points=len(points))


def find_edge(picture: Picture, near: np.ndarray, across: np.ndarray, half_px: float) -> Edge:
    """The edge near a place, ``half_px`` of it on either side, looked for along the unit vector ``across``.

    Raises CannotMeasure ``no_edge_here``.
    """
    step = picture.mm_per_px
    reach, line = (REACH_PX, 0.5 * REACH_PX) if step is None else (REACH_MM / step, LINE_MM / step)
    normal = np.array([-across[1], across[0]])
    return _edge(picture, near, across, normal, (reach, max(half_px, BANDS), line), 0)


def _edge(picture: Picture, end: np.ndarray, along: np.ndarray, across: np.ndarray, sizes: tuple, number: int) -> Edge:
    reach, half, line_px = sizes
    u, v = np.arange(-reach, reach + 0.25, 0.5), np.arange(-half, half + 0.5, 1.0)
    places = end + u[None, :, None] * along + v[:, None, None] * across
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
        raise CannotMeasure("no_edge_here", end=number + 1)
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
    off = float(np.sqrt((rest**2).sum() / max(1, keep.sum() - 2) / keep.sum()))
    return Edge(float(where), float(lean), max(off, 0.05), is_line)


def _reading(picture: Picture, frame: tuple, first: Edge, last: Edge) -> Reading:
    start, along, across, half = frame
    # Across slightly leaning edges the shortest way is the cosine of their common lean.
    lean = np.arctan((first.lean + last.lean) / 2)
    length = (last.at - first.at) * float(np.cos(lean))
    unit = picture.mm_per_px or 1.0

    def drawn(edge: Edge) -> Stroke:
        ends = [start + (edge.at + edge.lean * v) * along + v * across for v in (-half, half)]
        return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in ends))

    path = [start + edge.at * along for edge in (first, last)]
    doubts = [*picture.doubts]
    off = float(np.hypot(first.off, last.off))
    sized = {"span_mm": length * unit, "span_mm_uncertainty": off * unit} if picture.mm_per_px else {}
    angle = float(np.degrees(abs(np.arctan(first.lean) - np.arctan(last.lean))))
    if angle > 2:
        doubts.append("edges_lean")
    return Reading(
        value=length * unit,
        unit="mm" if picture.mm_per_px else "px",
        uncertainty=off * unit,
        method=METHOD,
        parts=MappingProxyType({**sized, "lean_deg": angle, "ends_on_lines": float(first.is_line + last.is_line)}),
        overlay=(drawn(first), drawn(last), Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in path))),
        doubts=tuple(dict.fromkeys(doubts)),
    )

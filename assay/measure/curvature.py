"""How an edge bends along a named stretch: its radius, its tightest place, flat spots.

A path is traced along the edge. Its surroundings are straightened; the nearest strong step in light is followed along
it (``numeric.viterbi``); where it runs on the picture a polynomial of the third degree is laid through a window that
moves along it, and its second derivative is the curvature (Savitzky & Golay, Anal. Chem. 36(8), 1964). Valid: edges of
80 px or more, bends of at least a window's length. Refuses ``no_edge_followed`` and ``edge_is_straight``.
"""

from types import MappingProxyType

import numpy as np
from scipy.ndimage import gaussian_filter, gaussian_filter1d

from assay.contour.boundary import on_top, stretches
from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, exposed, outlined
from assay.numeric.viterbi import best_path, refined
from assay.stitches.strip import Straight, straighten

ACROSS_PX = 1.0
ALONG_PX = 4.0
STIFF = 0.25
CLEAR = 4.0
"""The edge's step against the strip's own scatter of steps."""
FIRM = 0.6
AWAY_COSTS = 0.5
"""What a firm step loses at the strip's side: of two edges the traced one is the nearer."""
WINDOW_SHARE = 0.12
LEAST_WINDOW_PX = 12
"""Half of the moving window, as a share of the stretch and at least."""
LEAST_PX = 80
FLAT = 0.35
"""Where it bends by less than this share of what is typical it is flat …"""
FLAT_SEEN = 0.3
FLAT_HIDDEN = 1.5
"""… from so many half windows on; the window hides so many half windows of it at its ends: drawn flats."""
TIGHTEST = 0.98
U_PLACE_PX = 0.2
ALIKE_PX = 3.0
"""Standard uncertainty of where the edge lies, and over how far along it is one and the same: drawn arcs."""
BENT = 2.0
"""A curvature of fewer standard uncertainties is a straight edge's."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: the typical radius, mm (px without a scale). Parts: ``tightest_mm`` (radius at the tightest place),
    ``flat_mm`` (longest stretch that hardly bends), ``turn_deg`` (from end to end). Raises CannotMeasure."""
    strip = straighten(picture, marks.checked(picture.size))
    if strip.stop - strip.start < LEAST_PX:
        raise CannotMeasure("path_too_short", points=len(marks.points))
    edge = _edge(strip)
    half = max(LEAST_WINDOW_PX, round(WINDOW_SHARE * len(edge) / 2))
    step = float(np.hypot(*np.diff(edge, axis=0).T).mean())
    bends = _curvature(edge, half) / step
    typical = float(np.median(bends))
    u_bend = _uncertainty(2 * half * step, len(edge) * step)
    if abs(typical) < BENT * u_bend:
        raise CannotMeasure("edge_is_straight")
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    strong = float(np.quantile(np.abs(bends), TIGHTEST))
    flat = np.abs(bends) < FLAT * abs(typical)
    first, last = max(stretches(flat), key=lambda ends: ends[1] - ends[0], default=(0, 0))
    flat_px = (last - first) * step
    flat_px = flat_px + FLAT_HIDDEN * half * step if flat_px > FLAT_SEEN * half * step else 0.0
    radius, u = unit / abs(typical), unit * u_bend / typical**2
    one_window = u_bend * np.sqrt(len(edge) / (2 * half))
    parts = {
        f"radius_{name}": radius,
        f"radius_{name}_uncertainty": u,
        f"tightest_{name}": unit / strong,
        f"tightest_{name}_uncertainty": float(unit * one_window / strong**2),
        f"flat_{name}": float(flat_px) * unit,
        f"flat_{name}_uncertainty": 0.5 * half * step * unit,
        "turn_deg": float(np.degrees(abs(bends.mean() * len(edge) * step))),
        "turn_deg_uncertainty": float(np.degrees(2 * U_PLACE_PX / (half * step))),
    }
    drawn = [edge[::3]] + ([edge[first:last]] * 2 if last > first + 1 else [])
    overlay = tuple(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in line)) for line in drawn)
    return Measurement(radius, name, u, MappingProxyType(parts), overlay, picture.doubts)


def _edge(strip: Straight) -> np.ndarray:
    """(N, 2) places of the nearest strong step, a pixel of the path apart. Raises ``no_edge_followed``."""
    light = np.sqrt(np.clip(strip.grey, 0, 255))
    steps = np.abs(gaussian_filter1d(gaussian_filter1d(light, ALONG_PX, axis=1), ACROSS_PX, axis=0, order=1))
    steps = steps[2:-2, strip.start : strip.stop]
    middle = (steps.shape[0] - 1) / 2
    typical = float(np.median(steps.max(0))) + 1e-6
    away = np.abs(np.arange(steps.shape[0]) - middle)[:, None] / middle
    firm = np.minimum(steps / (FIRM * typical), 1.0) + 0.1 * steps / typical - AWAY_COSTS * away
    rough = best_path(firm.T, STIFF, closed=False)
    rows = refined(steps.T, on_top(steps.T, rough, 2))
    seen = steps[np.clip(np.round(rows).astype(int), 0, steps.shape[0] - 1), np.arange(steps.shape[1])]
    if float(np.quantile(seen, 0.25)) < CLEAR * float(np.median(gaussian_filter(steps, 1.0))) + 0.02:
        raise CannotMeasure("no_edge_followed")
    path, normal = strip.path[strip.start : strip.stop], strip.normal[strip.start : strip.stop]
    return path + normal * (gaussian_filter1d(rows, ALONG_PX / 2) - middle)[:, None]


def _curvature(edge: np.ndarray, half: int) -> np.ndarray:
    """1 over px of the path, at every place a window's half away from both ends, signed."""
    at = np.arange(-half, half + 1)
    fit = np.linalg.pinv(np.vander(at, 4, increasing=True))
    first, second = (
        np.stack([np.convolve(edge[:, axis], order[::-1], "valid") for axis in (0, 1)], 1)
        for order in (fit[1], 2 * fit[2])
    )
    speed = np.hypot(*first.T) + 1e-9
    # Against the mean step: what calls this divides by it once.
    return (first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]) / speed**3 * speed.mean()


def _uncertainty(window: float, length: float) -> float:
    """Of the typical curvature, 1/px: a parabola through so many independent places, of so many windows."""
    places = max(window / ALIKE_PX, 4.0)
    one = np.sqrt(720 / places) * U_PLACE_PX / window**2
    return float(one / np.sqrt(max(length / window, 1.0)))


def _sample() -> Sample:
    """A dark toe cap on light leather, its edge an arc of 150 px, 0.1 mm a pixel."""
    drawing = canvas(360, 220, (206, 200, 190))
    angle = np.radians(np.linspace(0, 360, 240, endpoint=False))
    outlined(drawing, np.stack([180 + 150 * np.cos(angle), 200 + 150 * np.sin(angle)], 1), (60, 66, 70))
    traced = np.radians(np.linspace(215, 325, 6))
    return exposed(drawing, 0.1, np.stack([180 + 150 * np.cos(traced), 200 + 150 * np.sin(traced)], 1))


MEASURE = Measure(
    name="curvature",
    version=1,
    marks=MarkKind.PATH,
    measure=measure,
    unit="mm",
    parts={"radius_mm": "mm", "tightest_mm": "mm", "flat_mm": "mm", "turn_deg": "deg"},
    follows_marks=True,
    coarsest_mm_per_px=0.3,
    refuses=frozenset({"no_edge_followed", "edge_is_straight"}),
    sample=_sample,
)

"""A small circled letter: whether it touches its ring, the gap between them, the ring's thickness, the letter's
centring.

What: ink is told from its ground in either polarity (``emblem.ink``), looked at four times as fine; the largest part
round the others is the ring. The gap is the shortest way between the two covers' halves. Valid: a ring of at least 12
px with strokes of 1.5 px. Refuses: ``no_mark_found``, ``no_ring_found``. Doubts ``gap_unclear`` where the gap is about
as wide as what the camera resolves.
"""

from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.emblem.ink import Ink, ink_in, parts_of
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import FINE, Sample, canvas, exposed

FINER = 4
U_GAP_PX = 0.35
"""Standard uncertainty of a gap, px: practice pictures of circled letters."""
UNCLEAR_PX = 0.9
"""A gap narrower than this, px, may be closed by blur, and one that is closed may be open."""
LEAST_RING_PX = 10.0


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: the gap, mm (px without a scale), 0 where they touch. Parts: ``touches`` (0 or 1), ``gap_ratio`` (gap over
    the ring's stroke), ``stroke_mm``, ``centring_mm`` (how far the letter's middle lies off the ring's)."""
    polygon = marks.checked(picture.size)
    ink = ink_in(picture, polygon)
    size = (ink.cover.shape[1] * FINER, ink.cover.shape[0] * FINER)
    fine = cv2.resize(ink.cover, size, interpolation=cv2.INTER_CUBIC)
    labels, stats = parts_of(_finer(ink, fine))
    if not len(stats):
        raise CannotMeasure("no_ring_found", parts=0)
    ring = int(np.argmax(stats[:, 2] * stats[:, 3])) + 1
    hollow = _hole(labels == ring)
    if max(stats[ring - 1, 2:4]) < LEAST_RING_PX * FINER or not hollow.any():
        raise CannotMeasure("no_ring_found", parts=len(stats))
    within = [
        n for n in range(1, len(stats) + 1) if n != ring and (hollow & (labels == n)).sum() > 0.8 * stats[n - 1, 4]
    ]
    gap, ends = _gap(labels, ring, within)
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    stroke = _stroke(labels == ring) / FINER
    centring = _centring(labels, ring, within) / FINER
    doubts = [*picture.doubts, *ink.doubts]
    unclear = gap < UNCLEAR_PX
    u_gap = UNCLEAR_PX if unclear else U_GAP_PX
    if unclear:
        doubts.append("gap_unclear")
    parts = {
        "touches": float(not within),
        "touches_uncertainty": 0.5 if unclear else 0.05,
        f"gap_{name}": gap * unit,
        f"gap_{name}_uncertainty": u_gap * unit,
        "gap_ratio": gap / max(stroke, 0.5),
        "gap_ratio_uncertainty": u_gap / max(stroke, 0.5),
        f"stroke_{name}": stroke * unit,
        f"stroke_{name}_uncertainty": U_GAP_PX * unit,
        f"centring_{name}": centring * unit,
        f"centring_{name}_uncertainty": U_GAP_PX * unit,
    }
    drawn = _drawn(labels, ring, ends, ink.corner)
    return Measurement(gap * unit, name, u_gap * unit, MappingProxyType(parts), drawn, tuple(dict.fromkeys(doubts)))


def _finer(ink: Ink, fine: np.ndarray) -> Ink:
    inside = cv2.resize(ink.inside.astype(np.uint8), fine.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0
    return Ink(fine, inside, ink.corner, ink.contrast_de, ink.lighter, ink.noise, ink.doubts)


def _hole(ring: np.ndarray) -> np.ndarray:
    """What a part encloses."""
    outer, _ = cv2.findContours(ring.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    filled = np.zeros(ring.shape, np.uint8)
    cv2.drawContours(filled, outer, -1, 1, -1)
    return (filled > 0) & ~ring


def _gap(labels: np.ndarray, ring: int, within: list[int]) -> tuple[float, np.ndarray | None]:
    """The shortest way from the ring to a part inside it, px of the picture, and its two ends (fine px)."""
    if not within:
        return 0.0, None
    away, nearest = cv2.distanceTransformWithLabels(
        (labels != ring).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE, labelType=cv2.DIST_LABEL_PIXEL
    )
    letter = np.isin(labels, within)
    at = np.argmin(np.where(letter, away, np.inf))
    y, x = np.unravel_index(at, away.shape)
    ys, xs = np.nonzero((labels == ring) & (nearest == nearest[y, x]))
    other = (xs[0], ys[0]) if len(xs) else (x, y)
    # From the middle of one pixel to the middle of the other: the border lies half a fine pixel from each.
    return max(0.0, float(away[y, x]) - 1.0) / FINER, np.array([[x, y], other], float)


def _stroke(part: np.ndarray) -> float:
    """Twice the typical depth along the part's middle line, fine px."""
    depth = cv2.distanceTransform(part.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_5)
    return 4 * (float(depth[part].mean()) - 0.5)


def _centring(labels: np.ndarray, ring: int, within: list[int]) -> float:
    if not within:
        return 0.0
    middles = []
    for part in (labels == ring, np.isin(labels, within)):
        y, x = np.nonzero(part)
        middles.append([(x.min() + x.max()) / 2, (y.min() + y.max()) / 2])
    return float(np.hypot(*(np.array(middles[0]) - middles[1])))


def _drawn(labels: np.ndarray, ring: int, ends: np.ndarray | None, corner: np.ndarray) -> tuple[Stroke, ...]:
    def placed(points: np.ndarray) -> tuple[Any, ...]:
        spots = (np.asarray(points, float) + 0.5) / FINER - 0.5 + corner
        return tuple((float(x), float(y)) for x, y in spots)

    outer, _ = cv2.findContours((labels == ring).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    longest = max(outer, key=len)[:, 0]
    strokes = [Stroke(StrokeKind.LINE, placed(np.vstack([longest, longest[:1]])))]
    if ends is not None:
        strokes.append(Stroke(StrokeKind.LINE, placed(ends), "gap"))
    return tuple(strokes)


def _sample() -> Sample:
    """A light ring round a light bar on dark leather, 0.05 mm a pixel."""
    drawing = canvas(120, 120, (62, 58, 56))
    centre = (round(60.5 * FINE), round(60.5 * FINE))
    cv2.circle(drawing, centre, 36 * FINE, (222, 218, 210), 6 * FINE)
    cv2.rectangle(drawing, (56 * FINE, 42 * FINE), (64 * FINE, 78 * FINE), (222, 218, 210), -1)
    return exposed(drawing, 0.05, [[8, 8], [112, 8], [112, 112], [8, 112]])


MEASURE = Measure(
    name="ring",
    version=2,
    marks=MarkKind.REGION,
    measure=measure,
    unit="mm",
    parts={"touches": "count", "gap_mm": "mm", "gap_ratio": "ratio", "stroke_mm": "mm", "centring_mm": "mm"},
    drill="mark",
    coarsest_mm_per_px=0.1,
    refuses=frozenset({"no_mark_found", "no_ring_found", "glare_on_region"}),
    sample=_sample,
)

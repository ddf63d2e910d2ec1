"""An embroidered field: threads per mm and their direction, cover, how crisp its outline is, loose and jumping threads.

What: ink is told from its ground (``emblem.ink``); inside it the threads are the strongest wave of ``surface.lattice``;
cover is the share of the field's inside that is thread; the outline's width is the way from a fifth to four fifths of
cover, across it; loose threads are strands outside the field (``emblem.strands``). Valid: threads of 2.5 px or more for
their count, the region a few mm larger than the field. Refuses: ``no_mark_found``, what a region refuses. Where threads
cannot be told apart their count is left out, and said.
"""

from contextlib import suppress
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.emblem.form import form_of
from assay.emblem.ink import Ink, ink_in, parts_of
from assay.emblem.strands import Strand, strands_in
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.surface.lattice import lattice_of
from assay.surface.region import evened, region_within

STRAND_MM = 0.3
STRAND_PX = 3.0
"""Width of a thread; pixels without a scale."""
LEAST_LOOSE_MM = 1.2
LEAST_LOOSE_PX = 14.0
U_LOOSE = 0.5
"""Standard uncertainty of none found, threads: half of drawn ones hide; such a count accuses nobody unseen."""
BORDER_WIDTHS = 2.0
"""A strand that keeps within so many widths of the region's border is that border's."""
CLOSED_MM = 0.8
CLOSED_PX = 8.0
"""Gaps between threads up to this are the field's inside."""
EDGE_FROM = 0.2
EDGE_TO = 0.8


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``loose``, loose or jumping threads seen. Parts: ``threads_per_mm``, ``direction_deg`` (to the region's
    first side, −90 to 90), ``cover_ratio``, ``edge_mm`` (width of the outline), ``parts`` (pieces the field falls
    into)."""
    polygon = marks.checked(picture.size)
    ink = ink_in(picture, polygon)
    region = region_within(picture, polygon)
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    labels, stats = parts_of(ink)
    field = _field(labels > 0, CLOSED_PX if picture.mm_per_px is None else CLOSED_MM / unit)
    loose = _loose(region.luminance, ink, field, picture.mm_per_px)
    within = cv2.erode(field.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    parts = {
        "cover_ratio": float(ink.cover[within].mean()) if within.any() else 0.0,
        "cover_ratio_uncertainty": float(np.hypot(0.02, ink.noise)),
        "parts": float(len(stats)),
        "parts_uncertainty": 0.2,
    }
    if (edge := _edge(ink, form_of(ink.cover, labels > 0).outlines)) is not None:
        parts |= {f"edge_{name}": edge * unit, f"edge_{name}_uncertainty": 0.3 * unit}
    doubts = [*picture.doubts, *ink.doubts]
    with suppress(CannotMeasure):
        threads, unclear = _threads(region.luminance, within, unit, name, polygon)
        parts |= threads
        doubts += ["every_second_thread"] * unclear
    if f"threads_per_{name}" not in parts:
        doubts.append("threads_not_told")
    if loose:
        doubts.append("loose_threads")
    drawn = [np.vstack([c[:, 0], c[:1, 0]]) for c in _curves(field)] + [strand.points for strand in loose]
    overlay = tuple(
        Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in line + ink.corner)) for line in drawn
    )
    u = U_LOOSE * (1 + len(loose)) ** 0.5
    return Measurement(len(loose), "count", u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)))


def _field(ink: np.ndarray, gap_px: float) -> np.ndarray:
    """The field with the gaps between its threads closed."""
    size = 2 * max(1, round(gap_px / 2)) + 1
    return cv2.morphologyEx(ink.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((size, size), np.uint8)) > 0


def _loose(light: np.ndarray, ink: Ink, field: np.ndarray, mm_per_px: float | None) -> list[Strand]:
    """Strands that lie outside the field; what only touches it is its own ragged edge."""
    width = STRAND_PX if mm_per_px is None else STRAND_MM / mm_per_px
    least = LEAST_LOOSE_PX if mm_per_px is None else LEAST_LOOSE_MM / mm_per_px
    # A thread that comes loose belongs to the ink: what of it is thin is taken off the field before looking.
    thick = cv2.morphologyEx(field.astype(np.uint8), cv2.MORPH_OPEN, np.ones((round(2 * width) | 1,) * 2, np.uint8))
    near = cv2.dilate(thick, np.ones((round(1.6 * width) | 1,) * 2, np.uint8)) > 0
    ground = ink.inside & ~near
    # The field is left out before the light is made even: beside it the ground would seem to bend.
    flat = cv2.GaussianBlur(evened(light + 1e-4, ground, 6 * width), (0, 0), 0.6)
    # Along the region's own border the light seems to bend as well.
    depth = cv2.distanceTransform(np.pad(ink.inside, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    found = strands_in(flat, ground, width, least)
    return [one for one in found if np.median(depth[tuple(one.points.astype(int).T[::-1])]) > BORDER_WIDTHS * width]


def _edge(ink: Ink, outlines: tuple[Any, ...]) -> float | None:
    """Width of the outline from a fifth to four fifths of cover, px: the typical one along the way."""
    widths = []
    for outline in outlines:
        if len(outline) < 30:
            continue
        along = np.roll(outline, -3, axis=0) - np.roll(outline, 3, axis=0)
        normal = np.stack([along[:, 1], -along[:, 0]], 1) / (np.hypot(*along.T)[:, None] + 1e-9)
        steps = np.arange(-7, 7.25, 0.25)
        spots = outline[::4, None] + steps[None, :, None] * normal[::4, None]
        x, y = spots[..., 0].astype(np.float32), spots[..., 1].astype(np.float32)
        across = cv2.remap(ink.cover, x, y, cv2.INTER_LINEAR)
        across = np.where(across[:, :1] > across[:, -1:], across[:, ::-1], across)
        reach = [((across > level).argmax(1), (across > level).any(1)) for level in (EDGE_FROM, EDGE_TO)]
        both = reach[0][1] & reach[1][1]
        widths.extend(0.25 * (reach[1][0] - reach[0][0])[both])
    return float(np.median(widths)) if len(widths) > 8 else None


def _threads(
    light: np.ndarray, within: np.ndarray, unit: float, name: str, polygon: np.ndarray
) -> tuple[dict[str, float], bool]:
    """The threads' count and direction; whether each was counted is unclear. Raises CannotMeasure where they cannot be
    told apart."""
    side = float(np.sqrt(within.sum()))
    found = lattice_of(np.log(evened(light + 1e-4, within, max(4.0, 0.25 * side))), within)
    period = 1 / float(np.hypot(*found.first)) * unit
    first = polygon[1] - polygon[0]
    ridge = np.degrees(np.arctan2(found.first[0], -found.first[1]) - np.arctan2(first[1], first[0]))
    return {
        f"threads_per_{name}": 1 / period,
        f"threads_per_{name}_uncertainty": max(found.u_share, 0.01) / period,
        "direction_deg": float((ridge + 90) % 180 - 90),
        "direction_deg_uncertainty": 1.0,
    }, found.multiple_unclear


def _curves(field: np.ndarray) -> list[np.ndarray]:
    curves, _ = cv2.findContours(field.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    return [curve for curve in curves if len(curve) > 3]


def _sample() -> Sample:
    """A field of slanting satin stitch, light on dark, 0.06 mm a pixel."""
    drawing = canvas(260, 200, (58, 66, 74))
    bar(drawing, (60, 50, 200, 150), (206, 200, 188))
    y, x = np.mgrid[: drawing.shape[0], : drawing.shape[1]]
    wave = 0.5 + 0.5 * np.cos(2 * np.pi * (x + 0.3 * y) / 26)
    drawing[drawing[..., 0] > 150] *= (0.72 + 0.28 * wave[drawing[..., 0] > 150])[:, None]
    return exposed(drawing, 0.06, [[20, 20], [240, 20], [240, 180], [20, 180]])


MEASURE = Measure(
    name="embroidery",
    version=3,
    marks=MarkKind.REGION,
    measure=measure,
    unit="count",
    parts={
        "threads_per_mm": "per mm",
        "direction_deg": "deg",
        "cover_ratio": "ratio",
        "edge_mm": "mm",
        "parts": "count",
    },
    sometimes=frozenset({"threads_per_mm", "direction_deg", "edge_mm"}),
    drill="mark",
    coarsest_mm_per_px=0.12,
    refuses=frozenset({"no_mark_found", "glare_on_region"}),
    sample=_sample,
)

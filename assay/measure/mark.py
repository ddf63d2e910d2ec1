"""An emblem, a word, a printed or embroidered figure: its place and tilt against an edge, its size, strokes, parts.

The first two places lie on the edge that it is held against (a panel's, a sole's, a seam); the others go round the
mark. What: the edge is found (``imaging.straight_edge``); ink is told from its ground in either polarity
(``emblem.ink``). What is kept for comparing is the mark's cover in the edge's own frame: against verified pairs' it
gives tilt, place, size, stroke and what is missing or too much (``compare.mark``). Valid: ink of one tone, strokes of
1.5 px, an edge of at least 40 px. Refuses: ``edge_then_region``, ``no_mark_found``, what a region refuses. Doubts
``edge_as_drawn``, ``faint_mark``, ``mark_cut``.
"""

from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.compare import mark as compared
from assay.contracts import Descriptor, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.emblem.form import EmblemForm, corner_radius, form_of
from assay.emblem.ink import Ink, ink_in, parts_of
from assay.errors import CannotMeasure
from assay.imaging.straight_edge import HAND_PX, edge_along
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed, outlined

FEWEST_PLACES = 5
U_MIDDLE_PX = 0.25
"""Standard uncertainty of a mark's middle, and of half its size, px: practice marks."""
U_STROKE_SHARE = 0.04
"""The same of its stroke, as a share."""
U_CORNER_PX = 1.0
U_AXIS_DEG = 0.12
ALONG_MM = 0.6
"""The same of the place along the edge, mm: its first place is carried there, not found."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``from_edge_mm``, the mark's middle from the edge. Parts: ``along_mm`` (from the first place),
    ``tilt_deg`` of its longest way to the edge, ``width_mm``, ``height_mm`` (along and across the edge), ``stroke_mm``,
    ``parts``, ``spacing_mm`` (between neighbouring parts' middles), ``corner_mm`` (radius of its typical corner),
    ``contrast_dE``. Raises CannotMeasure."""
    points = marks.checked(picture.size)
    if len(points) < FEWEST_PLACES:
        raise CannotMeasure("edge_then_region", points=len(points))
    at, along, u_edge, doubts = edge_along(picture, points[:2])
    ink = ink_in(picture, points[2:])
    frame = _frame(at, along, points[0], points[2:].mean(0))
    cover, corner = _in_frame(ink, frame)
    labels, stats = parts_of(Ink(cover, cover >= 0, corner, ink.contrast_de, ink.lighter, ink.noise, ()))
    form = form_of(cover, labels > 0)
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    length = float(np.hypot(*(points[1] - points[0])))
    u_lean = float(np.degrees(2 * max(u_edge, HAND_PX if doubts else 0.0) / max(length, 1.0)))
    middle = form.middle + corner
    u = float(np.hypot(U_MIDDLE_PX, u_edge)) * unit
    parts = {
        f"from_edge_{name}": float(middle[1]) * unit,
        f"from_edge_{name}_uncertainty": u,
        f"along_{name}": float(middle[0]) * unit,
        f"along_{name}_uncertainty": float(np.hypot(HAND_PX * unit, ALONG_MM if name == "mm" else ALONG_MM / 0.1)),
        f"width_{name}": form.width * unit,
        f"width_{name}_uncertainty": 2 * U_MIDDLE_PX * unit,
        f"height_{name}": form.height * unit,
        f"height_{name}_uncertainty": 2 * U_MIDDLE_PX * unit,
        f"stroke_{name}": form.stroke * unit,
        f"stroke_{name}_uncertainty": U_STROKE_SHARE * form.stroke * unit,
        "parts": float(len(stats)),
        "parts_uncertainty": 0.2,
        "contrast_dE": ink.contrast_de,
        "contrast_dE_uncertainty": 1.0,
    }
    if form.axis_deg is not None:
        u_axis = U_AXIS_DEG * compared.faintness(ink.contrast_de)
        parts |= {"tilt_deg": form.axis_deg, "tilt_deg_uncertainty": float(np.hypot(u_axis, u_lean))}
    if (spacing := _spacing(stats, labels)) is not None:
        parts |= {f"spacing_{name}": spacing * unit, f"spacing_{name}_uncertainty": U_MIDDLE_PX * unit}
    if (bend := corner_radius(form.outlines)) is not None:
        parts |= {f"corner_{name}": bend * unit, f"corner_{name}_uncertainty": U_CORNER_PX * unit}
    kept = Descriptor(
        compared.KIND,
        np.array([frame[0], frame[0] + frame[1], frame[0] + frame[2]]),
        np.asarray(marks.points),
        values=np.array([[form.stroke, spacing or 0.0, u_lean, u_edge, len(stats), ink.contrast_de]]),
        image=np.round(255 * np.where(labels > 0, cover, np.minimum(cover, 0.2))).astype(np.uint8),
        image_at=(float(corner[0]), float(corner[1])),
    )
    every = tuple(dict.fromkeys((*picture.doubts, *ink.doubts, *doubts)))
    drawn = _drawn(form, corner, frame, points[:2])
    return Measurement(float(middle[1]) * unit, name, u, MappingProxyType(parts), drawn, every, kept)


def _frame(at: np.ndarray, along: np.ndarray, first: np.ndarray, mark: np.ndarray) -> tuple[Any, ...]:
    """Origin on the edge at its first place, the way along it, and the way across it, towards the mark."""
    origin = at + ((first - at) @ along) * along
    across = np.array([-along[1], along[0]])
    return origin, along, across * (np.sign((mark - origin) @ across) or 1.0)


def _in_frame(ink: Ink, frame: tuple[Any, ...]) -> tuple[np.ndarray, np.ndarray]:
    """The cover turned into the edge's frame, one pixel a pixel, and where its first pixel lies there."""
    origin, along, across = frame
    ys, xs = np.nonzero(ink.inside)
    spots = (np.stack([xs, ys], 1) + ink.corner - origin) @ np.stack([along, across], 1)
    low = np.floor(spots.min(0))
    size = tuple(int(n) for n in np.ceil(spots.max(0)) - low + 1)
    # Pixel (u, v) of the frame comes from origin + (low + (u, v)) in the picture.
    onto = np.c_[np.stack([along, across], 1), origin + low[0] * along + low[1] * across - ink.corner]
    flags = cv2.WARP_INVERSE_MAP | cv2.INTER_CUBIC
    turned = cv2.warpAffine(ink.cover, onto, size, flags=flags, borderMode=cv2.BORDER_CONSTANT, borderValue=0)
    return np.clip(turned, 0, 1), low


def _spacing(stats: np.ndarray, labels: np.ndarray) -> float | None:
    """Mean step between neighbouring parts' middles along the longer side; None of fewer than three."""
    if len(stats) < 3:
        return None
    axis = 0 if labels.shape[1] >= labels.shape[0] else 1
    middles = np.sort(stats[:, axis] + stats[:, axis + 2] / 2)
    return float((middles[-1] - middles[0]) / (len(middles) - 1))


def _drawn(form: EmblemForm, corner: np.ndarray, frame: tuple[Any, ...], edge: np.ndarray) -> tuple[Stroke, ...]:
    """The mark's outline, the edge, and the way from one to the other."""
    origin, along, across = frame

    def placed(points: np.ndarray) -> tuple[Any, ...]:
        spots = origin + (np.asarray(points) + corner) @ np.stack([along, across])
        return tuple((float(x), float(y)) for x, y in spots)

    middle = form.middle
    foot = np.array([middle[0], -corner[1]])
    length = float(np.hypot(*(edge[1] - edge[0])))
    on_edge = np.array([[0, 0], [length, 0]]) - corner
    outlines = (Stroke(StrokeKind.LINE, placed(curve)) for curve in form.outlines)
    return (
        *outlines,
        Stroke(StrokeKind.LINE, placed(on_edge)),
        Stroke(StrokeKind.LINE, placed(np.array([foot, middle]))),
    )


def _sample() -> Sample:
    """A leaning light pennant over a panel's lower edge, 0.1 mm a pixel."""
    drawing = canvas(300, 200, (62, 88, 92))
    bar(drawing, (0, 150, 300, 200), (190, 184, 172))
    outlined(drawing, np.array([[90, 60], [200, 50], [170, 80], [205, 105], [95, 100]]), (226, 222, 214))
    return exposed(drawing, 0.1, [[30, 150], [270, 150], [70, 35], [225, 35], [225, 122], [70, 122]])


MEASURE = Measure(
    name="mark",
    version=3,
    marks=MarkKind.PLACES,
    measure=measure,
    unit="mm",
    parts={
        "from_edge_mm": "mm",
        "along_mm": "mm",
        "tilt_deg": "deg",
        "width_mm": "mm",
        "height_mm": "mm",
        "stroke_mm": "mm",
        "parts": "count",
        "spacing_mm": "mm",
        "corner_mm": "mm",
        "contrast_dE": "dE00",
    },
    sometimes=frozenset({"tilt_deg", "spacing_mm", "corner_mm"}),
    comparing=compared.COMPARING,
    drill="mark",
    coarsest_mm_per_px=0.16,
    refuses=frozenset({"edge_then_region", "no_mark_found", "region_too_small", "glare_on_region"}),
    sample=_sample,
)

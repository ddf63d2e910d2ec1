"""From one edge to another: the width of a label, its place on the box, a tab, a border.

A path of two ends is drawn roughly across; the edge is found near each end as ``imaging.straight_edge`` finds it.
"""

from dataclasses import replace
from types import MappingProxyType
from typing import Any

import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.straight_edge import BANDS, Edge, find_edge, reach_of
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed

# How much of an edge is looked at, mm; pixels without a scale.
HALF_BAND_MM = 6.0
HALF_BAND_PX = 48
# With less to look at on either side of an end there is no edge to tell from noise, px.
LEAST_REACH_PX = 4


def measure(picture: Picture, marks: Marks) -> Measurement:
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
    reach = min(reach_of(picture), 0.45 * length)
    if reach < LEAST_REACH_PX:
        raise CannotMeasure("path_too_short", length_px=round(length))
    half = HALF_BAND_PX if step is None else max(HALF_BAND_MM / step, 2 * BANDS)
    first, last = (find_edge(picture, ends[n], along, half=half, reach=reach, end=n + 1) for n in (0, 1))
    return _reading(picture, (ends[0], along, across, half), first, replace(last, at=length + last.at))


def _reading(picture: Picture, frame: tuple[Any, ...], first: Edge, last: Edge) -> Measurement:
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
    u = float(np.hypot(first.u_at, last.u_at))
    sized = {"span_mm": length * unit, "span_mm_uncertainty": u * unit} if picture.mm_per_px else {}
    angle = float(np.degrees(abs(np.arctan(first.lean) - np.arctan(last.lean))))
    if angle > 2:
        doubts.append("edges_lean")
    return Measurement(
        value=length * unit,
        unit="mm" if picture.mm_per_px else "px",
        uncertainty=u * unit,
        parts=MappingProxyType(
            {
                **sized,
                "lean_deg": angle,
                "lean_deg_uncertainty": float(np.degrees(np.hypot(first.u_lean, last.u_lean))),
                "ends_on_lines": float(first.is_line + last.is_line),
            }
        ),
        overlay=(drawn(first), drawn(last), Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in path))),
        doubts=tuple(dict.fromkeys(doubts)),
    )


def _sample() -> Sample:
    """A light sheet on dark board, 0.2 mm a pixel."""
    drawing = canvas(400, 200, (92, 92, 92))
    bar(drawing, (50.25, 0, 350.75, 200), (218, 218, 216))
    return exposed(drawing, 0.2, [[47, 100], [355, 100]])


MEASURE = Measure(
    name="edge_distance",
    version=4,
    marks=MarkKind.PATH,
    measure=measure,
    same_on_each_photo=True,
    unit="mm",
    parts={"span_mm": "mm", "lean_deg": "deg"},
    unjudged={"ends_on_lines": "count"},
    follows_marks=True,
    coarsest_mm_per_px=0.25,
    misread=(1, 832),
    refuses=frozenset({"no_edge_here"}),
    sample=_sample,
)

"""Where a row of stitches ends, against a named edge: how far short of it, or past it and by how many stitches.

Marked are two or more places along the row up to its end, or up to the edge where it passes it, and then two places on
the edge. The row is found by ``stitches.find`` and followed past the last of its places for as long as it goes on; the
edge is found by ``imaging.straight_edge``. A running stitch ends half its length behind its middle, a bar at its
middle. Refuses what row and marks refuse, ``row_then_edge`` and ``line_misses_edge``.
"""

from collections.abc import Sequence
from types import MappingProxyType
from typing import Any

import numpy as np

from assay.contracts import SAME_PX, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.straight_edge import crossing, edge_along
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, disc, exposed
from assay.stitches.find import Stitched, find_stitches
from assay.stitches.shape import form_of

FEWEST_PLACES = 4
# How far past the edge the row is looked for, mm; pixels without a scale.
PAST_MM = 16.0
PAST_PX = 120
# A row that meets the edge flatter than this has no place where it would cross it.
FLATTEST_DEG = 15.0
# Standard uncertainty of where the last stitch ends, px: by drawn rows.
END_PX = 1.2
# Of a row that plain leather may pass for, or whose last stitch hardly shows, that one may be none.
UNSURE_PITCHES = 0.5


def measure(picture: Picture, marks: Marks) -> Measurement:
    """From the row's end to the edge along the row, mm (px without a scale); negative where the row passes it.

    Parts: ``end_mm``, the same; ``past``, how many stitches have their middle beyond the edge; ``angle_deg`` between
    row and edge, 0 to 90.
    """
    points = marks.checked(picture.size)
    # A double click puts two places on each other.
    points = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > SAME_PX)]
    if len(points) < FEWEST_PLACES:
        raise CannotMeasure("row_then_edge", points=len(points))
    path, unit = points[:-2], picture.mm_per_px or 1.0
    at, edge, edge_off, doubts = edge_along(picture, points[-2:])
    ahead, _ = crossing(path[-1], path[-1] - path[-2], (at, edge), FLATTEST_DEG)
    room = PAST_PX if picture.mm_per_px is None else PAST_MM / picture.mm_per_px
    found = find_stitches(picture, path, max(0.0, ahead) + room)
    further, in_doubt = found.past_end()
    centres = np.vstack([found.at(found.along(found.row.places)), further])
    last, before = centres[-1], centres[-2]
    way = (last - before) / np.hypot(*(last - before))
    end = last + _half_length(found) * way
    away, angle = crossing(end, way, (at, edge), FLATTEST_DEG)
    past = _past(centres, path[0], at, edge)
    u = float(np.hypot(END_PX, edge_off / np.sin(np.radians(angle))))
    if found.weak or in_doubt:
        doubts = (*doubts, "weak_row" if found.weak else "last_unclear")
        u = max(u, UNSURE_PITCHES * found.row.period)
    if past:
        doubts = (*doubts, "row_passes_edge")
    name = "mm" if picture.mm_per_px else "px"
    parts = {
        f"end_{name}": away * unit,
        f"end_{name}_uncertainty": u * unit,
        "past": float(past),
        "past_uncertainty": UNSURE_PITCHES if found.weak or in_doubt else 0.0,
        "angle_deg": angle,
        "angle_deg_uncertainty": float(np.degrees(END_PX / max(found.row.period, 1.0))),
    }
    doubts = tuple(dict.fromkeys((*picture.doubts, *doubts)))
    drawn = _drawn(centres, (end, end + away * way), edge, past)
    return Measurement(away * unit, name, u * unit, MappingProxyType(parts), drawn, doubts)


def _half_length(stitched: Stitched) -> float:
    """How far past its middle the last stitch reaches along the row, px."""
    form = form_of(stitched.row)
    return 0.0 if form.length is None or form.slant is not None else form.length / 2


def _past(centres: np.ndarray, start: np.ndarray, at: np.ndarray, edge: np.ndarray) -> int:
    """How many stitches lie on the other side of the edge than the row's start."""
    normal = np.array([-edge[1], edge[0]])
    return int(((centres - at) @ normal * np.sign((start - at) @ normal) < 0).sum())


def _drawn(centres: np.ndarray, gap: tuple[Any, ...], edge: np.ndarray, past: int) -> tuple[Stroke, ...]:
    """The row, the gap to the edge, the edge where they meet (``edge``: its way), a ring on every stitch past it."""

    def line(points: Sequence[Any] | np.ndarray) -> Stroke:
        return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in points))

    pitch = float(np.median(np.hypot(*np.diff(centres, axis=0).T)))
    beyond = centres[len(centres) - past :]
    rings = (Stroke(StrokeKind.RING, ((float(x), float(y)),), radius_px=0.5 * pitch) for x, y in beyond)
    return line(centres), line(gap), line([gap[1] - 2 * pitch * edge, gap[1] + 2 * pitch * edge]), *rings


def _sample() -> Sample:
    """A row of light stitches that stops short of a darker panel, 0.1 mm a pixel."""
    drawing = canvas(460, 140, (128, 122, 116))
    bar(drawing, (372, 0, 460, 140), (70, 64, 60))
    for n in range(12):
        bar(drawing, (40 + 25 * n, 66, 57 + 25 * n, 73), (228, 224, 216))
        for x in (39, 58):
            disc(drawing, (x + 25 * n, 69.5), 2.2, (52, 48, 46))
    return exposed(drawing, 0.1, [[44.0, 69.5], [324.0, 69.5], [372.0, 20.0], [372.0, 120.0]])


MEASURE = Measure(
    name="row_end",
    version=6,
    marks=MarkKind.PATH,
    measure=measure,
    same_on_each_photo=True,
    unit="mm",
    parts={"end_mm": "mm", "past": "count", "angle_deg": "deg"},
    follows_marks=True,
    coarsest_mm_per_px=0.22,
    misread=(1, 832),
    refuses=frozenset({"row_then_edge", "line_misses_edge", "no_row_found", "too_few_pixels", "path_too_short"}),
    sample=_sample,
)

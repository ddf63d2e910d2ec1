"""The line through a row of holes, carried on to the next panel: where it lands on that panel's edge.

Four places are marked: the row's first and last hole, the place on the edge that the landing is held against (a corner,
a stitch), and another place along the same edge. The holes are found by ``holes.blobs``, a straight line is
fitted through their centres (total least squares, what stands beside the row given up on), the edge is found by
``imaging.straight_edge``, and the two are brought to meet.
"""

from types import MappingProxyType

import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.holes.blobs import find_holes
from assay.imaging.straight_edge import HAND_PX, crossing, edge_along
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, disc, exposed, outlined

# Room beside the row and past its ends in which its holes are looked for, mm; pixels without a scale.
ROOM_MM = 2.6
ROOM_PX = 22
FEWEST = 3
# A hole further from the line than this share of its radius is not of the row.
BESIDE = 0.8
# Lines that meet flatter than this have no landing place.
FLATTEST_DEG = 8.0


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Where the line lands: distance from the third place along the edge, towards the fourth positive, mm (px).

    Parts: ``angle_deg`` between line and edge, 0 to 90; ``scatter_mm`` of the holes about their line. Raises
    CannotMeasure ``four_places``, ``too_few_on_line``, ``line_misses_edge`` or what holes and marks raise.
    """
    points = marks.parted(picture.size)
    if len(points) != 4:
        raise CannotMeasure("four_places", points=len(points))
    centres, rings, odd = _row(picture, points[:2])
    middle, along, scatter = _line(centres, points[1] - points[0])
    at, edge, edge_off, doubts = edge_along(picture, points[2:])
    away, angle = crossing(middle, along, (at, edge), FLATTEST_DEG)
    lands = middle + away * along
    value = float((lands - points[2]) @ edge)
    # Of a fitted line, where it is carried on to; of the edge, where they meet at a slant; of the place put by hand.
    places = (centres - middle) @ along
    spread = float(places.std())
    line_off = max(scatter, 0.2) * np.sqrt((1 + (away / spread) ** 2) / len(centres)) / np.sin(np.radians(angle))
    u = float(np.sqrt(line_off**2 + (edge_off / np.tan(np.radians(angle))) ** 2 + HAND_PX**2))
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    parts = {
        f"landing_{name}": value * unit,
        f"landing_{name}_uncertainty": u * unit,
        "angle_deg": angle,
        "angle_deg_uncertainty": float(np.degrees(max(scatter, 0.2) / (spread * np.sqrt(len(centres))))),
        f"scatter_{name}": scatter * unit,
        f"scatter_{name}_uncertainty": scatter * unit / float(np.sqrt(2 * max(1, len(centres) - 2))),
    }
    drawn = (_stroke(middle + places.min() * along, lands), _stroke(points[2], lands), *rings)
    doubts = tuple(dict.fromkeys((*picture.doubts, *odd, *doubts)))
    return Measurement(value * unit, name, u * unit, MappingProxyType(parts), drawn, doubts)


def _row(picture: Picture, ends: np.ndarray) -> tuple[np.ndarray, tuple[Stroke, ...], tuple[str, ...]]:
    """Centres (N, 2) of the holes about the line between two places, their rings, and what is doubtful about them."""
    room = ROOM_PX if picture.mm_per_px is None else ROOM_MM / picture.mm_per_px
    along = (ends[1] - ends[0]) / np.hypot(*(ends[1] - ends[0]))
    across = np.array([-along[1], along[0]])
    box = np.array([ends[n] + room * (way * along + side * across) for n, way, side in _CORNERS])
    box = box.clip(0, np.array(picture.size) - 1)
    found = find_holes(picture, box)
    centres = np.array([[hole.x, hole.y] for hole in found.holes])
    radius = float(np.median([hole.radius for hole in found.holes]))
    kept = np.ones(len(centres), bool)
    for _ in range(3):
        if kept.sum() < FEWEST:
            raise CannotMeasure("too_few_on_line", holes=int(kept.sum()), needed=FEWEST)
        middle, way, _ = _line(centres[kept], along)
        residual = np.abs((centres - middle) @ np.array([-way[1], way[0]]))
        kept = residual < max(BESIDE * radius, 1.5 * float(np.median(residual[kept])))
    in_row = [hole for hole, keep in zip(found.holes, kept, strict=True) if keep]
    rings = (Stroke(StrokeKind.RING, ((hole.x, hole.y),), radius_px=hole.radius) for hole in in_row)
    return centres[kept], tuple(rings), found.doubts


_CORNERS = ((0, -1, -1), (1, 1, -1), (1, 1, 1), (0, -1, 1))


def _line(centres: np.ndarray, towards: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    """Middle, direction and scatter (standard deviation across) of the line through some places."""
    middle = centres.mean(0)
    _, _, axes = np.linalg.svd(centres - middle)
    along = axes[0] * (1 if axes[0] @ towards > 0 else -1)
    across = (centres - middle) @ axes[1]
    return middle, along, float(np.sqrt((across**2).sum() / max(1, len(centres) - 2)))


def _stroke(one: np.ndarray, other: np.ndarray) -> Stroke:
    return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in (one, other)))


def _sample() -> Sample:
    """Six holes in a line, and the edge of a darker panel that it meets at a slant."""
    drawing = canvas(520, 260, (196, 188, 176))
    outlined(drawing, np.array([[430, -5], [525, -5], [525, 265], [370, 265]]), (92, 84, 76))
    for n in range(6):
        disc(drawing, (50 + 46 * n, 120 + 4 * n), 7, (30, 28, 28))
    return exposed(drawing, 0.1, [[50, 120], [280, 140], [420, 38], [390, 178]])


MEASURE = Measure(
    name="line_edge_intersection",
    version=4,
    marks=MarkKind.PATH,
    measure=measure,
    same_on_each_photo=True,
    unit="mm",
    parts={"landing_mm": "mm", "angle_deg": "deg", "scatter_mm": "mm"},
    coarsest_mm_per_px=0.22,
    misread=(1, 832),
    follows_marks=True,
    refuses=frozenset({"four_places", "too_few_on_line", "line_misses_edge", "points_on_each_other", "no_holes_found"}),
    sample=_sample,
)

"""The whole rim of a shoe, to be laid on other pairs' rims.

The rim is ``contour.trace``'s; what it departs by is found by ``compare.contour`` once there is a rim to lay it on. Alone it
gives its length and area. Refuses what the rim refuses.
"""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np

from assay.contour.trace import rim_of
from assay.contracts import Marks, Picture, Point, Reading, Stroke, StrokeKind, polygon_area
from assay.errors import CannotMeasure

METHOD = "outline/10"
PARTS = ("departure_mm", "p95_mm")
RIM_PX = 0.4


def measure(picture: Picture, marks: Marks) -> Reading:
    """Find the rim inside a loose region. Value: how long it is, mm (px without a scale).

    The first stroke of the overlay is the rim, closed. Raises what the rim raises.
    """
    rim, doubts = rim_of(picture, marks)
    loop = np.vstack([rim.points, rim.points[:1]])
    unit = picture.mm_per_px or 1.0
    name = "mm" if picture.mm_per_px else "px"
    length = float(np.hypot(*np.diff(loop, axis=0).T).sum()) * unit
    return Reading(
        value=length,
        unit=name,
        uncertainty=RIM_PX * unit * 2,
        method=METHOD,
        parts=MappingProxyType({f"area_{name}2": polygon_area(rim.points) * unit**2, "guessed_ratio": rim.guessed}),
        overlay=(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in loop)),),
        doubts=doubts,
    )


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Reading:
    """A rim is put right by moving its region: always raises CannotMeasure."""
    raise CannotMeasure("move_the_region", points=len(points))

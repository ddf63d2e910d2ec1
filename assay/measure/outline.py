"""The whole contour of a shoe, to be laid on other pairs' contours.

The contour is ``contour.trace``'s; what it departs by is found by ``compare.contour`` once there is a contour to lay it
on. Alone it gives its length and area. Refuses what the contour refuses.
"""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np

from assay.contour.trace import contour_of
from assay.contracts import Marks, Measurement, Picture, Point, Stroke, StrokeKind, polygon_area
from assay.errors import CannotMeasure

METHOD = "outline/10"
PARTS = ("departure_mm", "p95_mm")
RIM_PX = 0.4


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Find the contour inside a loose region. Value: how long it is, mm (px without a scale).

    The first stroke of the overlay is the contour, closed. Raises what the contour raises.
    """
    contour, doubts = contour_of(picture, marks)
    loop = np.vstack([contour.points, contour.points[:1]])
    unit = picture.mm_per_px or 1.0
    name = "mm" if picture.mm_per_px else "px"
    length = float(np.hypot(*np.diff(loop, axis=0).T).sum()) * unit
    return Measurement(
        value=length,
        unit=name,
        uncertainty=RIM_PX * unit * 2,
        method=METHOD,
        parts=MappingProxyType(
            {f"area_{name}2": polygon_area(contour.points) * unit**2, "guessed_ratio": contour.guessed}
        ),
        overlay=(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in loop)),),
        doubts=doubts,
    )


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Measurement:
    """A contour is put right by moving its region: always raises CannotMeasure."""
    raise CannotMeasure("move_the_region", points=len(points))

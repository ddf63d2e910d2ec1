"""The whole contour of a shoe, to be laid on other pairs' contours.

The contour is ``contour.trace``'s; what it departs by is found by ``compare.contour`` once there is a contour to lay it
on. Alone it gives its length and area. Refuses what the contour refuses.
"""

from types import MappingProxyType

import numpy as np

from assay.compare import contour as compared
from assay.contour.trace import BAND_SIDE, OF_THE_CONTOUR, contour_of
from assay.contracts import Descriptor, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind, polygon_area
from assay.measure.entry import Measure
from assay.measure.sample import shoe_from_the_side

RIM_PX = 0.4
UNTOLD = 0.5
"""Standard uncertainty of a departure, as a share of it, where a part of the shoe may not be in the contour."""


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
        parts=MappingProxyType(
            {f"area_{name}2": polygon_area(contour.points) * unit**2, "guessed_ratio": contour.guessed}
        ),
        overlay=(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in loop)),),
        doubts=doubts,
        descriptor=Descriptor(
            compared.KIND,
            contour.points,
            np.asarray(marks.points),
            departure_share=UNTOLD if set(doubts) & set(OF_THE_CONTOUR) else 0.0,
        ),
    )


MEASURE = Measure(
    name="outline",
    version=16,
    of_tooling=True,
    marks=MarkKind.REGION,
    measure=measure,
    unit="mm",
    unjudged={"area_mm2": "mm²", "guessed_ratio": "ratio"},
    same_on_each_photo=True,
    comparing=compared.COMPARING,
    coarsest_mm_per_px=0.4,
    misread=(1, 608),
    most_px=BAND_SIDE,
    refuses=frozenset({"nothing_stands_out", "cut_by_frame", "rim_unclear"}),
    sample=shoe_from_the_side,
)

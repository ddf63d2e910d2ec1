"""Where marked features lie to each other: distance of two, angle and ratio of three, ratio of two distances of four.

The marks themselves are the features, put by a person or carried over: nothing is looked for in the picture. Where an
edge is to be found, ``span`` finds it.
"""

from types import MappingProxyType

import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.straight_edge import HAND_PX
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, exposed


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Measure between two to four marked places. Value: distance of the first two, mm (px without a scale).

    Parts: ``distance_mm``; of three, ``angle_deg`` at the second, 0 to 180, and ``ratio`` of the first distance to the
    second; of four, ``ratio`` of the first two's distance to the last two's, and ``angle_deg`` between those lines.
    Raises CannotMeasure ``two_to_four_places`` or what the marks raise.
    """
    points = marks.parted(picture.size)
    if not 2 <= len(points) <= 4:
        raise CannotMeasure("two_to_four_places", points=len(points))
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    first = points[1] - points[0]
    second = {2: None, 3: points[-1] - points[1], 4: points[-1] - points[-2]}[len(points)]
    length, u = float(np.hypot(*first)), float(np.sqrt(2)) * HAND_PX
    parts = {f"distance_{name}": length * unit, f"distance_{name}_uncertainty": u * unit}
    if second is not None and np.hypot(*second) > 0:
        parts |= _between(-first if len(points) == 3 else first, second, u)
    pairs = [points[:2], points[-2:]] if len(points) > 2 else [points]
    overlay = tuple(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in pair)) for pair in pairs)
    return Measurement(length * unit, name, u * unit, MappingProxyType(parts), overlay, picture.doubts)


def _between(one: np.ndarray, other: np.ndarray, u: float) -> dict[str, float]:
    lengths = float(np.hypot(*one)), float(np.hypot(*other))
    cosine = float(one @ other) / (lengths[0] * lengths[1])
    leaning = u * float(np.hypot(1 / lengths[0], 1 / lengths[1]))
    ratio = lengths[0] / lengths[1]
    return {
        "angle_deg": float(np.degrees(np.arccos(np.clip(cosine, -1, 1)))),
        "angle_deg_uncertainty": float(np.degrees(leaning)),
        "ratio": ratio,
        "ratio_uncertainty": ratio * leaning,
    }


def _sample() -> Sample:
    """Three marked places on even leather, 0.1 mm a pixel."""
    return exposed(canvas(160, 120), 0.1, [[22, 20], [118, 45], [60, 80]])


MEASURE = Measure(
    name="place",
    version=1,
    marks=MarkKind.PATH,
    measure=measure,
    unit="mm",
    parts={"distance_mm": "mm", "angle_deg": "deg", "ratio": "ratio"},
    sometimes=frozenset({"angle_deg", "ratio"}),
    drill="mark",
    coarsest_mm_per_px=0.25,
    marks_are_measured=True,
    refuses=frozenset({"two_to_four_places", "points_on_each_other"}),
    sample=_sample,
)

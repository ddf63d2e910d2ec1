"""Measure on the straightened surface; at marks that were carried over, as unsure as carrying is."""

import math
from collections.abc import Sequence
from dataclasses import replace
from types import MappingProxyType

from assay.contracts import Marks, Measurement, Picture, Point
from assay.errors import CannotMeasure
from assay.imaging.plane import Plane
from assay.imaging.region import in_true_light, measure_region
from assay.imaging.white_balance import Correction
from assay.measure.entry import Measure

CARRIED_MM = 0.8
"""Standard uncertainty of a carried mark along x and along y, mm: half of them are carried to 0.55 mm, 95 % to 2.3
(``make bench``)."""
CARRIED_PX = 8.0
"""The same without a scale, px."""
CARRIED = "marks_carried"
"""The doubt that such a reading carries."""


def measured_on(
    measure: Measure,
    picture: Picture,
    surface: Plane | None,
    light: Correction | None,
    marks: Marks,
    points: Sequence[Point] | None = None,
) -> Measurement:
    """What a measure reads on a photograph: on its straightened ``surface`` where its scale is known, otherwise on the
    picture as it is, in pixels. ``points``: put right by a person. Raises CannotMeasure."""
    if surface is None:
        lit = in_true_light(picture, light)
        return measure.read(lit, marks) if points is None else measure.read_again(lit, marks, points)
    read = measure.read if points is None else measure.read_again
    units, most_px = measure.units, measure.most_px
    return measure_region(read, picture, surface, marks, points, units=units, most_px=most_px, light=light)


def measured_where_carried(
    measure: Measure, picture: Picture, surface: Plane | None, light: Correction | None, marks: Marks
) -> Measurement:
    """The same where nobody has put the marks in place: each number is as unsure as it changes where all marks lie by
    what carrying may be off further along x or along y (JCGM 100:2008, 5.1.3, by finite differences).

    Raises CannotMeasure, ``marks_to_place`` where nothing can be read a little further on.
    """
    found, moved = measured_on(measure, picture, surface, light, marks), []
    off_px = CARRIED_PX if surface is None else CARRIED_MM / surface.mm_per_px(marks.points[0])
    for dx, dy in ((off_px, 0.0), (0.0, off_px)):
        for sign in (1, -1):
            points = tuple((x + sign * dx, y + sign * dy) for x, y in marks.points)
            try:
                moved.append(measured_on(measure, picture, surface, light, Marks(marks.kind, points)))
                break
            except CannotMeasure:
                continue
    if len(moved) < 2:
        raise CannotMeasure("marks_to_place")
    parts = dict(found.parts)
    for name in [name for name in parts if not name.endswith("_uncertainty")]:
        changes = [other.parts[name] - parts[name] for other in moved if name in other.parts]
        parts[f"{name}_uncertainty"] = math.hypot(parts.get(f"{name}_uncertainty", 0.0), *changes)
    changes = [float(other.value) - float(found.value) for other in moved]
    return replace(
        found,
        uncertainty=math.hypot(found.uncertainty, *changes),
        parts=MappingProxyType(parts),
        doubts=(*found.doubts, CARRIED),
    )

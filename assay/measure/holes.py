"""Count the holes in a region.

What: number of round holes whose centre lies in the region; centres, diameters in px and mm, roundness and darkness.
Method: see ``holes.blobs``; one region holds one kind of hole.
Valid: holes of at least 5 px across, all of one kind; other size kinds belong in a region of their own.
Refuses: ``region_too_small``, ``marks_off_picture``, ``no_holes_found``.
"""

from collections.abc import Sequence
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assay.compare import point_pattern
from assay.contracts import (
    CORRECTED_BY_HAND,
    Descriptor,
    MarkKind,
    Marks,
    Measurement,
    Picture,
    Point,
    Stroke,
    StrokeKind,
)
from assay.errors import CannotMeasure
from assay.holes.blobs import find_holes, holes_at
from assay.holes.circle_fit import CircleCandidate
from assay.measure.entry import Measure
from assay.measure.sample import punched

# Standard uncertainty of a radius, px: of each by its rim, of all together, where rims are hidden; of a darkness. By
# practice pictures.
RIM_PX = 0.25
RIMS_PX = 0.17
# From this uncertainty of dark holes on bright things are tried; by what share they must be surer.
LOOKED_AT_FROM = 0.3
SURER = 0.5
# So many times as many dark ones are no glints between few bright things.
MANY = 3
EITHER_MAY_BE_MEANT = 0.5
HIDDEN_PX = 1.5
# Where holes look odd it may be another rim, a ring's: as a share of the radius.
ANOTHER_RIM = 0.25
DARKNESS_OFF = 0.04


def measure(picture: Picture, marks: Marks, *, bright: bool = False) -> Measurement:
    """Count round holes in a region.

    ``marks``: a closed region in picture pixels. ``bright``: look for bright round things on darker ground instead.
    Returns a count; ``parts`` diameter_px, diameter_cv, diameter_mm with a scale, roundness_ratio (short over long
    diameter) and darkness_ratio (how much darker than around: a dent is less so than a hole), both typical ones.
    Where rims leave doubt, what looks alike is counted (``holes.repeated_pattern``), and the reading says so.
    """
    return _reading(picture, marks, *find_holes(picture, marks.checked(picture.size), bright=bright))


def _is_surer(bright: Measurement, dark: Measurement) -> bool:
    return bright.uncertainty < SURER * dark.uncertainty and MANY * float(bright.value) >= float(dark.value)


def measure_either(picture: Picture, marks: Marks) -> Measurement:
    """The same, dark holes first; where they are refused or in doubt, bright things (studs, light rivets, holes with
    light behind them) count if they are the surer ones, with the doubt ``light_things``."""
    dark: Measurement | None = None
    refusal: CannotMeasure | None = None
    try:
        dark = measure(picture, marks)
    except CannotMeasure as error:
        refusal = error
    if dark is not None and dark.uncertainty < LOOKED_AT_FROM:
        return dark
    try:
        bright = measure(picture, marks, bright=True)
    except CannotMeasure:
        bright = None
    # Gloss is light as well, but there is less of it than of what is counted.
    if bright is not None and (
        dark is None
        or (bright.uncertainty < SURER * dark.uncertainty and MANY * float(bright.value) >= float(dark.value))
    ):
        # Where dark ones were seen as well, which of the two are meant is for a person to say.
        least = EITHER_MAY_BE_MEANT if dark is not None else 0.0
        doubts = (*bright.doubts, "light_things")
        return replace(bright, doubts=doubts, uncertainty=max(bright.uncertainty, least))
    if dark is None:
        raise refusal or CannotMeasure("no_holes_found")
    return dark


def rebuild(picture: Picture, marks: Marks, centres: Sequence[Point]) -> Measurement:
    """The reading that follows from hole centres put right by a person; radii are looked up again."""
    polygon = marks.checked(picture.size)
    if not len(centres):
        raise CannotMeasure("no_points_left")
    places = np.asarray(centres, dtype=float).reshape(-1, 2)
    return _reading(picture, marks, holes_at(picture, polygon, places), 0.0, (CORRECTED_BY_HAND,))


def _reading(
    picture: Picture, marks: Marks, holes: list[CircleCandidate], uncertainty: float, doubts: tuple[str, ...]
) -> Measurement:
    width = float(np.median([hole.radius for hole in holes]))
    holes = sorted(holes, key=lambda hole: (round(hole.y / (3 * width)), hole.x))
    whole = [hole for hole in holes if hole.inlier_share > 0]
    odd = bool({"by_likeness", "odd_holes"} & set(doubts))
    parts, u = {"diameter_px": 2 * width}, max(HIDDEN_PX, ANOTHER_RIM * width * odd)
    if whole:
        radii = np.array([hole.radius for hole in whole])
        u = float(np.hypot(RIM_PX / np.sqrt(len(whole)), ANOTHER_RIM * width if odd else RIMS_PX))
        parts |= {
            "diameter_cv": float(radii.std() / radii.mean()),
            "diameter_cv_uncertainty": float(RIM_PX / radii.mean()),
            "roundness_ratio": float(np.median([hole.roundness for hole in whole])),
            "roundness_ratio_uncertainty": 2 * u / width,
            "darkness_ratio": float(np.median([hole.darkness for hole in whole])),
            "darkness_ratio_uncertainty": DARKNESS_OFF,
        }
    parts["diameter_px_uncertainty"] = 2 * u
    if picture.mm_per_px:
        parts |= {"diameter_mm": 2 * width * picture.mm_per_px, "diameter_mm_uncertainty": 2 * u * picture.mm_per_px}
    rings = [Stroke(StrokeKind.RING, ((hole.x, hole.y),), str(n), hole.radius) for n, hole in enumerate(holes, start=1)]
    return Measurement(
        value=len(holes),
        unit="count",
        uncertainty=uncertainty,
        parts=MappingProxyType(parts),
        overlay=tuple(rings),
        doubts=(*picture.doubts, *doubts),
        descriptor=Descriptor(
            point_pattern.KIND,
            np.array([(hole.x, hole.y) for hole in holes]),
            np.asarray(marks.points),
            values=np.array([[hole.radius] for hole in holes]),
            values_unit="px",
            count_uncertainty=uncertainty,
        ),
    )


MEASURE = Measure(
    name="holes",
    version=10,
    marks=MarkKind.REGION,
    measure=measure_either,
    rebuild=rebuild,
    unit="count",
    parts={"diameter_mm": "mm", "roundness_ratio": "ratio", "darkness_ratio": "ratio"},
    unjudged={"diameter_px": "px", "diameter_cv": "ratio"},
    comparing=point_pattern.COMPARING,
    same_on_each_photo=True,
    drill="count",
    coarsest_mm_per_px=0.25,
    misread=(2, 76),
    refuses=frozenset({"no_holes_found", "no_points_left"}),
    sample=punched,
)

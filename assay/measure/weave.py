"""What repeats over a region: yarns of a weave, cells of a mesh, the repeat of a printed pattern.

What: the two waves of ``surface.lattice``. Value: the spacing of the strongest wave's crests, mm (px without a scale).
Valid: at least four periods across the region, 2.5 px each; seen square or straightened by its plane.
Refuses: ``no_period_found``, ``region_too_small``, ``glare_on_region`` and what the marks refuse.
"""

from types import MappingProxyType

import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.surface.lattice import Lattice, lattice_of
from assay.surface.region import evened, region_of

EVENED_OVER = 0.3
"""Light that varies more slowly than this share of the region's side is not the pattern's."""
IRREGULAR = 0.04
"""Below this share of the variance in the peaks, what repeats hardly shows."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``pitch_mm``. Parts: ``cross_mm`` (the other wave's), ``angle_deg`` between the two, ``cell_mm2``,
    ``direction_deg`` of the first wave's ridges (to the region's first side, −90 to 90), ``regular_ratio``."""
    region = region_of(picture, marks)
    side = float(np.sqrt(region.inside.sum()))
    found = lattice_of(np.log(evened(region.luminance + 1e-4, region.usable, EVENED_OVER * side)), region.usable)
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    pitch = 1 / float(np.hypot(*found.first)) * unit
    points = np.asarray(marks.points)
    parts = {
        f"pitch_{name}": pitch,
        f"pitch_{name}_uncertainty": found.u_share * pitch,
        "regular_ratio": found.regularity,
        "regular_ratio_uncertainty": 0.05,
        "direction_deg": _direction(found.first, points[1] - points[0]),
        "direction_deg_uncertainty": float(np.degrees(found.u_share)),
    }
    if found.second is not None:
        cross = 1 / float(np.hypot(*found.second)) * unit
        area = unit**2 / abs(float(found.first[0] * found.second[1] - found.first[1] * found.second[0]))
        between = float(np.degrees(np.arcsin(min(1.0, pitch * cross / area)))) if area else 0.0
        parts |= {
            f"cross_{name}": cross,
            f"cross_{name}_uncertainty": 1.5 * found.u_share * cross,
            f"cell_{name}2": area,
            f"cell_{name}2_uncertainty": 2 * found.u_share * area,
            "angle_deg": between,
            "angle_deg_uncertainty": float(np.degrees(2 * found.u_share)),
        }
    doubts = [*picture.doubts, *region.doubts]
    if found.regularity < IRREGULAR:
        doubts.append("pattern_hardly_shows")
    if found.multiple_unclear:
        doubts.append("every_second_thread")
    overlay = _drawn(found, np.asarray(marks.checked(picture.size)))
    u = found.u_share * pitch
    return Measurement(pitch, name, u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)))


def _direction(frequency: np.ndarray, first_side: np.ndarray) -> float:
    """Of the crests, which run across the wave."""
    angle = np.degrees(np.arctan2(frequency[0], -frequency[1]) - np.arctan2(first_side[1], first_side[0]))
    return float((angle + 90) % 180 - 90)


def _drawn(lattice: Lattice, polygon: np.ndarray) -> tuple[Stroke, ...]:
    """Ten crests of each wave in the middle of the region."""
    middle, strokes = polygon.mean(0), []
    for wave in (lattice.first, lattice.second):
        if wave is None:
            continue
        step = wave / float(wave @ wave)
        along = np.array([-step[1], step[0]]) / np.hypot(*step)
        half = 5 * float(np.hypot(*step))
        for k in range(-5, 6):
            ends = middle + k * step + np.array([[-half], [half]]) * along
            strokes.append(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in ends)))
    return tuple(strokes)


def _sample() -> Sample:
    """A mesh of 12 by 18 px, 0.1 mm a pixel."""
    drawing = canvas(288, 288, (120, 118, 116))
    for n in range(24):
        bar(drawing, (12 * n, 0, 12 * n + 4, 288), (196, 194, 190))
    for n in range(16):
        bar(drawing, (0, 18 * n, 288, 18 * n + 5), (176, 174, 170))
    return exposed(drawing, 0.1, [[6, 6], [282, 6], [282, 282], [6, 282]])


MEASURE = Measure(
    name="weave",
    version=3,
    marks=MarkKind.REGION,
    measure=measure,
    unit="mm",
    parts={
        "pitch_mm": "mm",
        "cross_mm": "mm",
        "angle_deg": "deg",
        "cell_mm2": "mm²",
        "direction_deg": "deg",
        "regular_ratio": "ratio",
    },
    sometimes=frozenset({"cross_mm", "angle_deg", "cell_mm2"}),
    drill="texture",
    coarsest_mm_per_px=0.3,
    refuses=frozenset({"no_period_found", "glare_on_region"}),
    sample=_sample,
)

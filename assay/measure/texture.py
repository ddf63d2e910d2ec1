"""The texture of a region, whatever its tone and light: size of its grain, how deep, how even, which way.

What: see ``surface.bands``. Value: size of the grain, mm: the centre of the bands by their strength.
Valid: one material, lit the same way as what it is compared with, at least 10 mm a side, pixels under 0.2 mm.
Refuses: ``too_few_pixels_for_texture``, ``texture_needs_scale``, ``nothing_usable`` and what the marks refuse.
"""

from types import MappingProxyType

import cv2
import numpy as np

from assay.compare import texture as compared
from assay.contracts import Descriptor, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, exposed
from assay.surface.bands import SIZES_MM, bands_of
from assay.surface.region import region_of

U_GRAIN_SHARE = 0.08
"""Standard uncertainty of the grain's size, as a share: two pieces of one material, bench."""
U_DEPTH_SHARE = 0.10
U_DIRECTION = 0.08


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``grain_mm``. Parts: ``depth_ratio`` (contrast of all bands), ``unevenness_ratio`` (scatter between parts
    of the region, log), ``one_sided_ratio`` (0: no direction, 1: all ridges parallel), ``direction_deg`` (to the
    region's first side, −90 to 90)."""
    if picture.mm_per_px is None:
        return _without_scale(marks, picture)
    region = region_of(picture, marks)
    points = np.asarray(marks.points)
    bands = bands_of(region, picture.mm_per_px, points[1] - points[0])
    read = np.isfinite(bands.strength)
    power = np.exp(2 * bands.strength[read])
    grain = float(np.exp((power * np.log(np.array(SIZES_MM)[read])).sum() / power.sum()))
    depth = float(np.sqrt(power.sum()))
    both = (bands.direction[read] * power[:, None]).sum(0) / power.sum()
    parts = {
        "grain_mm": grain,
        "grain_mm_uncertainty": U_GRAIN_SHARE * grain,
        "depth_ratio": depth,
        "depth_ratio_uncertainty": U_DEPTH_SHARE * depth,
        "unevenness_ratio": bands.unevenness,
        "unevenness_ratio_uncertainty": 0.05,
        "one_sided_ratio": float(np.hypot(*both)),
        "one_sided_ratio_uncertainty": U_DIRECTION,
        "direction_deg": float(np.degrees(np.arctan2(both[1], both[0])) / 2),
        "direction_deg_uncertainty": float(np.degrees(U_DIRECTION / max(np.hypot(*both), U_DIRECTION)) / 2),
    }
    doubts = [*picture.doubts, *region.doubts]
    if bands.strength[read][0] < bands.noise - 0.7:
        doubts.append("texture_under_noise")
    values = np.column_stack([bands.strength, bands.skewness, bands.kurtosis, bands.direction])
    kept = Descriptor(compared.KIND, points[:1], points, values=values)
    closed = tuple((float(x), float(y)) for x, y in (*marks.points, marks.points[0]))
    overlay = (Stroke(StrokeKind.LINE, closed),)
    u = U_GRAIN_SHARE * grain
    return Measurement(grain, "mm", u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)), kept)


def _without_scale(marks: Marks, picture: Picture) -> Measurement:
    marks.checked(picture.size)
    raise CannotMeasure("texture_needs_scale")


def _sample() -> Sample:
    """Grainy leather, 0.1 mm a pixel."""
    drawing = canvas(260, 220, (150, 140, 128))
    grain = cv2.GaussianBlur(np.random.default_rng(5).normal(0, 1, drawing.shape[:2]), (0, 0), 16)
    return exposed(
        drawing * (1 + 0.12 * grain / grain.std())[..., None], 0.1, [[10, 10], [250, 10], [250, 210], [10, 210]]
    )


MEASURE = Measure(
    name="texture",
    version=1,
    marks=MarkKind.REGION,
    measure=measure,
    unit="mm",
    parts={
        "grain_mm": "mm",
        "depth_ratio": "ratio",
        "unevenness_ratio": "ratio",
        "one_sided_ratio": "ratio",
        "direction_deg": "deg",
    },
    comparing=compared.COMPARING,
    drill="texture",
    coarsest_mm_per_px=0.2,
    refuses=frozenset({"too_few_pixels_for_texture", "texture_needs_scale", "glare_on_region"}),
    sample=_sample,
)

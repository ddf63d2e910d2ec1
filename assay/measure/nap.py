"""Brushed hair: how light a napped panel is, and which way its hair lies. Two photographs, brushed both ways, make a
check of their difference: imitation does not change its tone.

What: median lightness under the picture's light, and the direction of the fine ridges by the structure tensor (Bigün &
Granlund, ICCV 1987). Valid: one panel, the same light on both photographs, the same place. A finger's wrinkles are told
in the same way: pressed against not pressed. Refuses what a region refuses, ``nothing_usable``.
"""

from types import MappingProxyType

import cv2
import numpy as np

from assay.compare import tone as compared
from assay.contracts import Descriptor, Light, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import FINE, Sample, canvas, exposed
from assay.surface.region import evened, region_of
from assay.surface.tone import tone_of

FINE_PX = 1.2
"""Softening before the slopes are looked at."""
EVENED_PX = 12.0
U_ONE_SIDED = 0.05


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: lightness L*. Parts: ``direction_deg`` of the hair (to the region's first side, −90 to 90),
    ``one_sided_ratio`` (0: none, 1: all parallel), ``depth_ratio`` (contrast of the hair or the wrinkles)."""
    region = region_of(picture, marks)
    tone = tone_of(region)
    even = cv2.GaussianBlur(evened(region.luminance + 1e-4, region.inside, EVENED_PX), (0, 0), FINE_PX)
    core = cv2.erode(region.usable.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    if not core.any():
        raise CannotMeasure("nothing_usable")
    dy, dx = np.gradient(even)
    xx, yy, xy = (float((one * other)[core].mean()) for one, other in ((dx, dx), (dy, dy), (dx, dy)))
    ridge = np.arctan2(-2 * xy, -(xx - yy)) / 2
    points = np.asarray(marks.points)
    first = points[1] - points[0]
    direction = (np.degrees(ridge - np.arctan2(first[1], first[0])) + 90) % 180 - 90
    one_sided = float(np.hypot(xx - yy, 2 * xy) / (xx + yy + 1e-12))
    depth = float(even[core].std())
    u = float(np.hypot(tone.u_de, picture.u_light_de00))
    parts = {
        "direction_deg": float(direction),
        "direction_deg_uncertainty": float(np.degrees(U_ONE_SIDED / max(one_sided, U_ONE_SIDED)) / 2),
        "one_sided_ratio": one_sided,
        "one_sided_ratio_uncertainty": U_ONE_SIDED,
        "depth_ratio": depth,
        "depth_ratio_uncertainty": 0.1 * depth,
    }
    doubts = [*picture.doubts, *region.doubts, *tone.doubts]
    doubts += ["light_not_known"] if picture.light is Light.NONE else []
    seen = compared.values_of(tone.lab, tone.u_de, picture)
    kept = Descriptor(compared.KIND, points[:1], points, values=seen, light=picture.light)
    overlay = (_hair(points, first, direction),)
    return Measurement(
        float(tone.lab[0]), "L*", u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)), kept
    )


def _hair(points: np.ndarray, first: np.ndarray, direction_deg: float) -> Stroke:
    """The way the hair lies, through the region's middle."""
    angle = np.radians(direction_deg) + np.arctan2(first[1], first[0])
    half = 0.25 * float(np.ptp(points, axis=0).min())
    ends = points.mean(0) + np.array([[-half], [half]]) * np.array([np.cos(angle), np.sin(angle)])
    return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in ends), "hair")


def _sample() -> Sample:
    """Hair that lies to one side, in card light, 0.1 mm a pixel."""
    drawing = canvas(200, 160, (96, 120, 118))
    hair = np.random.default_rng(7).normal(0, 1, drawing.shape[:2]).astype(np.float32)
    hair = cv2.GaussianBlur(hair, (0, 0), sigmaX=9 * FINE, sigmaY=0.6 * FINE)
    drawing *= (1 + 0.1 * hair / hair.std())[..., None]
    return exposed(drawing, 0.1, [[12, 12], [188, 12], [188, 148], [12, 148]], light=Light.CARD)


MEASURE = Measure(
    name="nap",
    version=2,
    marks=MarkKind.REGION,
    measure=measure,
    unit="L*",
    parts={"direction_deg": "deg", "one_sided_ratio": "ratio", "depth_ratio": "ratio"},
    comparing=compared.COMPARING,
    drill="texture",
    coarsest_mm_per_px=0.25,
    true_light=True,
    refuses=frozenset({"nothing_usable", "glare_on_region"}),
    sample=_sample,
)

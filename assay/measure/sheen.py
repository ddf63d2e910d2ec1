"""How much a surface shines, as highlight contrast: how far its brightest part stands over its own tone.

What: in linear light, softened over a millimetre, the 99th percentile over the median; and how wide the highlight is.
It is no gloss: gloss units want a geometry that a phone has not (ISO 2813). Compare only photographs with the lamp at
one place; two photographs with the lamp moved make a check of their difference. Valid: one material, curved or lit so
that a highlight could fall on it; its scale must be known. Refuses: ``sheen_needs_scale``, ``nothing_usable``,
``glare_on_region`` where clipping hides how bright the highlight is, and what a region refuses.
"""

from types import MappingProxyType

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import FINE, Sample, canvas, exposed
from assay.surface.region import region_of
from assay.surface.tone import tone_of

SOFTEN_MM = 0.5
BRIGHTEST = 99.0
HALF_UP = 0.5
U_SHARE = 0.05
"""Standard uncertainty of the contrast, as a share: softening, light's fall, bench."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``highlight_ratio``, 1 on a matt surface in even light. Parts: ``width_ratio`` (share of the region
    brighter than half way up), ``clipped_ratio``."""
    marks.checked(picture.size)
    if picture.mm_per_px is None:
        raise CannotMeasure("sheen_needs_scale")
    region = region_of(picture, marks)
    tone = tone_of(region)
    sigma = max(1.0, SOFTEN_MM / picture.mm_per_px)
    weight = cv2.GaussianBlur(region.inside.astype(np.float32), (0, 0), sigma)
    soft = cv2.GaussianBlur(np.where(region.inside, region.luminance, 0), (0, 0), sigma) / np.maximum(weight, 1e-3)
    values = soft[region.inside & (weight > 0.6)]
    if not len(values):
        raise CannotMeasure("nothing_usable")
    body, top = float(np.median(values)), float(np.percentile(values, BRIGHTEST))
    contrast = top / max(body, 1e-4)
    bright = region.inside & (soft > body + HALF_UP * (top - body))
    clipped = float((region.inside & ~region.usable).sum() / region.inside.sum())
    parts = {
        "highlight_ratio": contrast,
        "highlight_ratio_uncertainty": U_SHARE * contrast,
        "width_ratio": float(bright.sum() / region.inside.sum()),
        "width_ratio_uncertainty": 0.02,
        "clipped_ratio": clipped,
    }
    doubts = [*picture.doubts, *region.doubts, *(["two_tones"] if tone.two_tones and contrast < 1.5 else [])]
    curves, _ = cv2.findContours(bright.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    large = [np.vstack([c[:, 0], c[:1, 0]]) + region.corner for c in curves if cv2.contourArea(c) > 20]
    overlay = tuple(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in curve)) for curve in large)
    u = U_SHARE * contrast
    return Measurement(contrast, "ratio", u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)))


def _sample() -> Sample:
    """A dark toe with a soft highlight, 0.1 mm a pixel."""
    drawing = canvas(200, 160, (70, 68, 66))
    y, x = np.mgrid[: drawing.shape[0], : drawing.shape[1]].astype(np.float32) / FINE
    drawing += (110 * np.exp(-(((x - 110) / 26) ** 2) - ((y - 70) / 14) ** 2))[..., None]
    return exposed(drawing, 0.1, [[12, 12], [188, 12], [188, 148], [12, 148]])


MEASURE = Measure(
    name="sheen",
    version=2,
    marks=MarkKind.REGION,
    measure=measure,
    unit="ratio",
    parts={"highlight_ratio": "ratio", "width_ratio": "ratio"},
    unjudged={"clipped_ratio": "ratio"},
    drill="texture",
    coarsest_mm_per_px=0.5,
    refuses=frozenset({"nothing_usable", "glare_on_region", "sheen_needs_scale"}),
    sample=_sample,
)

"""The colour of a region: typical lightness and hue, and how single pixels scatter about them.

What: median CIELAB (D65, 2°) of what is neither clipped nor lost in the dark, under the picture's corrected light.
Valid: one material that fills the region, in the bench card's light or beside a known neutral. Without such light the
colour is read, and never compared with another picture's.
Refuses: ``nothing_usable``, ``glare_on_region``, ``region_too_small`` and what the marks refuse. Doubts ``two_tones``,
``mixed_light``.
"""

from types import MappingProxyType

import numpy as np

from assay.compare import tone as compared
from assay.contracts import Descriptor, Light, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, exposed
from assay.surface.region import region_of
from assay.surface.tone import tone_of

SCATTER_SHARE = 0.1
"""Standard uncertainty of the scatter, as a share of it: noise and JPEG add to a material's own. Assumed."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: lightness L*, 0 to 100. Parts: ``a``, ``b``, ``chroma``, ``scatter_dE`` (robust, of single pixels)."""
    region = region_of(picture, marks)
    tone = tone_of(region)
    u = float(np.hypot(tone.u_de, picture.u_light_de00))
    lightness, a, b = tone.lab.tolist()
    parts = {"a": a, "b": b, "chroma": float(np.hypot(a, b)), "scatter_dE": tone.scatter_de}
    parts |= {f"{name}_uncertainty": u for name in ("a", "b", "chroma")}
    parts["scatter_dE_uncertainty"] = SCATTER_SHARE * tone.scatter_de + 0.05
    doubts = (*picture.doubts, *region.doubts, *tone.doubts)
    if picture.light is Light.NONE:
        doubts = (*doubts, "light_not_known")
    closed = tuple((float(x), float(y)) for x, y in (*marks.points, marks.points[0]))
    kept = Descriptor(
        compared.KIND,
        np.asarray(marks.points)[:1],
        np.asarray(marks.points),
        values=compared.values_of(tone.lab, tone.u_de, picture),
        light=picture.light,
    )
    return Measurement(
        lightness,
        "L*",
        u,
        MappingProxyType(parts),
        (Stroke(StrokeKind.LINE, closed),),
        tuple(dict.fromkeys(doubts)),
        kept,
    )


def _sample() -> Sample:
    """An even teal panel in card light, 0.1 mm a pixel."""
    points = [[20, 20], [140, 20], [140, 100], [20, 100]]
    return exposed(canvas(160, 120, (64, 110, 118)), 0.1, points, light=Light.CARD)


MEASURE = Measure(
    name="colour",
    version=2,
    marks=MarkKind.REGION,
    measure=measure,
    unit="L*",
    parts={"a": "L*", "b": "L*", "chroma": "L*", "scatter_dE": "dE00"},
    comparing=compared.COMPARING,
    drill="shade",
    coarsest_mm_per_px=0.6,
    true_light=True,
    refuses=frozenset({"nothing_usable", "glare_on_region"}),
    sample=_sample,
)

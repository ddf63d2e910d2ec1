"""What glows under an ultraviolet lamp: drawn guide lines, factory stamps, adhesive, panels that glow as a whole.

What: see ``surface.glow``. Held against a retail pair's photograph under the same lamp, what glows there as well is
expected. Valid: a dark room, one lamp, fixed exposure, lint brushed off. That such lines wash off and that their
absence says next to nothing: common practice, no source. Refuses ``not_ultraviolet`` (daylight, mixed light),
``glow_burnt_out``, ``nothing_usable`` and what a region refuses. Doubts ``purple_veil``, ``lint_storm``,
``glow_unscaled``.
"""

from types import MappingProxyType

import cv2
import numpy as np

from assay.compare import glow as compared
from assay.contracts import Descriptor, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.measure.entry import Measure
from assay.measure.sample import FINE, Sample, canvas, exposed
from assay.surface.glow import glows_of
from assay.surface.glow_forms import FORMS, Glow, GlowForm
from assay.surface.region import region_of

PLACES = 40
"""So many places of a thing are kept, at most."""
MOST_DRAWN = 60
U_COUNT, U_UNSURE = 0.1, 0.5
"""Standard uncertainty of a count, and with a doubt: bench, drawn photographs of other making."""
RATIO_OFF = 0.1
"""Standard uncertainty of a share that glows and of a brightness, as a share: exposure and the lamp's hot spot.
Assumed."""
FAINT = 1.8
"""A thing less bright than this, against the dark ground, is counted unsurely."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: guide lines and stamps. Parts: ``lines``, ``stamps``, ``smears``, ``panels`` (counted), ``glows_ratio``
    (share of the region), ``brightness_ratio`` (the brightest over the dark ground; 1: nothing glows), ``lint``
    (bits left out), with a scale ``lines_mm`` and ``smear_mm`` (lengths)."""
    region = region_of(picture, marks)
    lit = glows_of(region, picture.mm_per_px)
    counts = {form: [glow for glow in lit.glows if glow.form is form] for form in FORMS}
    drawn = [*counts[GlowForm.LINE], *counts[GlowForm.STAMP]]
    doubts = [*picture.doubts, *lit.doubts, *([] if picture.mm_per_px else ["glow_unscaled"])]
    doubted = bool(lit.doubts) or picture.mm_per_px is None
    unsure = doubted or any(_unsure(one) for one in drawn)
    u = U_UNSURE if unsure else U_COUNT
    parts: dict[str, float] = {f"{form.value}s": float(len(found)) for form, found in counts.items()}
    parts |= {f"{form.value}s_uncertainty": max(u, U_UNSURE * (form in lit.open_forms)) for form in FORMS}
    # Told from lines too seldom to be sure of how many: bench.
    parts["smears_uncertainty"] = U_UNSURE
    share, brightest = (
        float(lit.glowing[region.inside].mean()),
        max((glow.brightness for glow in lit.glows), default=1.0),
    )
    parts |= {"glows_ratio": share, "glows_ratio_uncertainty": RATIO_OFF * share + 0.002}
    parts |= {"brightness_ratio": brightest, "brightness_ratio_uncertainty": RATIO_OFF * brightest}
    parts["lint"] = float(lit.lint)
    if picture.mm_per_px:
        for name, form in (("lines_mm", GlowForm.LINE), ("smear_mm", GlowForm.SMEAR)):
            parts[name] = picture.mm_per_px * sum(count.length for count in counts[form])
            parts[f"{name}_uncertainty"] = 1.0 + 0.05 * parts[name]
    overlay = tuple(stroke for glow in lit.glows for stroke in _strokes(glow, region.corner))[:MOST_DRAWN]
    return Measurement(
        len(drawn),
        "count",
        max(u, U_UNSURE * bool(lit.open_forms & {GlowForm.LINE, GlowForm.STAMP})),
        MappingProxyType(parts),
        overlay,
        tuple(dict.fromkeys(doubts)),
        _kept(lit.glows, region.corner, marks, picture, doubted=doubted),
    )


def _unsure(glow: Glow) -> bool:
    return not glow.sure or glow.brightness < FAINT


def _strokes(glow: Glow, corner: np.ndarray) -> list[Stroke]:
    """Its rims; the label says what it is."""
    rims = [np.vstack([rim, rim[:1]]) + corner for rim in glow.outlines]
    return [Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in rim), glow.form.value) for rim in rims]


def _kept(glows: tuple[Glow, ...], corner: np.ndarray, marks: Marks, picture: Picture, *, doubted: bool) -> Descriptor:
    points, values = [], []
    for n, one in enumerate(glows):
        places = one.path[:: max(1, len(one.path) // PLACES)] + corner
        length = one.length * (picture.mm_per_px or 0.0)
        points.append(places)
        values.append(
            np.tile([n, FORMS.index(one.form), one.brightness, length, doubted or _unsure(one)], (len(places), 1))
        )
    return Descriptor(
        compared.KIND,
        np.vstack(points) if points else np.zeros((0, 2)),
        np.asarray(marks.points, float),
        values=np.vstack(values) if values else np.zeros((0, 5)),
    )


def _sample() -> Sample:
    """A guide line and a ring stamp on a dim violet panel, 0.2 mm a pixel."""
    drawing = canvas(400, 300, (40, 30, 92))
    line = np.array([[60, 220], [160, 236], [300, 222]]) * FINE
    cv2.polylines(drawing, [line], isClosed=False, color=(150, 170, 200), thickness=5 * FINE)
    cv2.circle(drawing, (280 * FINE, 90 * FINE), 26 * FINE, (150, 170, 200), 5 * FINE)
    return exposed(drawing, 0.2, [[8, 8], [390, 8], [390, 290], [8, 290]], 2)


MEASURE = Measure(
    name="glow",
    version=4,
    marks=MarkKind.REGION,
    measure=measure,
    unit="count",
    parts={
        "lines": "count",
        "stamps": "count",
        "smears": "count",
        "panels": "count",
        "lines_mm": "mm",
        "smear_mm": "mm",
        "glows_ratio": "ratio",
        "brightness_ratio": "ratio",
    },
    unjudged={"lint": "count"},
    sometimes=frozenset({"lines_mm", "smear_mm"}),
    comparing=compared.COMPARING,
    drill="uv",
    coarsest_mm_per_px=0.35,
    misread=(4, 254),
    most_px=1600,
    one_way=frozenset(
        {"", "lines", "stamps", "smears", "drawn_beyond", "lines_beyond", "stamps_beyond", "smears_beyond"}
    ),
    usual={"": 0, "lines": 0, "stamps": 0},
    refuses=frozenset({"nothing_usable", "glare_on_region", "not_ultraviolet", "glow_burnt_out"}),
    sample=_sample,
)

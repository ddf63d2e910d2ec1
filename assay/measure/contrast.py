"""One tone against another in the same picture: panel against panel, thread against panel, print against its ground.

What: CIEDE2000 and the differences in lightness and chroma between two clicked places, each a small disc. Both lie in
one light, so it needs no card; where the light is known, the colours are true and the difference with them. Valid: each
disc on one material; 12 px across at least. Refuses: ``two_places``, ``points_on_each_other``, ``nothing_usable``,
``glare_on_region``.
"""

from types import MappingProxyType

import numpy as np

from assay.contracts import Light, MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.colour import de00
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.surface.region import region_within
from assay.surface.tone import Tone, tone_of

RADIUS_MM = 1.2
RADIUS_PX = 12.0
"""Radius of the disc that is looked at; pixels without a scale, and at least so many."""
LEAST_RADIUS_PX = 7.0
SAME_LIGHT_DE = 0.4
"""Standard uncertainty of a difference inside one picture, dE00: the light's fall between two places."""
LIGHT_SHARE = {
    Light.NONE: (0.08, 0.035),
    Light.SAME_FRAME: (0.03, 0.012),
    Light.TILE: (0.0, 0.0),
    Light.CARD: (0.0, 0.0),
}
"""The same by which a light that is not known, or known by a neutral part, changes a difference in colour and one in
lightness, as a share of dE00: 400 pairs of colours under 2700 to 7500 K."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: dE00 of the first place against the second. Parts: ``lighter``, ``stronger`` (L*, chroma: first less
    second).

    Raises CannotMeasure.
    """
    points = marks.parted(picture.size)
    if len(points) != 2:
        raise CannotMeasure("two_places", points=len(points))
    radius = RADIUS_PX if picture.mm_per_px is None else max(RADIUS_MM / picture.mm_per_px, LEAST_RADIUS_PX)
    radius = min(radius, 0.48 * float(np.hypot(*(points[1] - points[0]))))
    one, other = (_tone(picture, at, radius) for at in points)
    apart = de00(one.lab, other.lab)
    u, u_lighter = (
        float(np.sqrt(one.u_de**2 + other.u_de**2 + SAME_LIGHT_DE**2 + (share * apart) ** 2))
        for share in LIGHT_SHARE[picture.light]
    )
    lighter = float(one.lab[0] - other.lab[0])
    stronger = float(np.hypot(*one.lab[1:]) - np.hypot(*other.lab[1:]))
    parts = {"lighter": lighter, "lighter_uncertainty": u_lighter, "stronger": stronger, "stronger_uncertainty": u}
    rings = tuple(
        Stroke(StrokeKind.RING, ((float(x), float(y)),), str(n), radius) for n, (x, y) in enumerate(points, start=1)
    )
    doubts = (*picture.doubts, *one.doubts, *other.doubts)
    return Measurement(apart, "dE00", u, MappingProxyType(parts), rings, tuple(dict.fromkeys(doubts)))


def _tone(picture: Picture, at: np.ndarray, radius: float) -> Tone:
    t = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    disc = at + radius * np.stack([np.cos(t), np.sin(t)], 1)
    return tone_of(region_within(picture, np.clip(disc, 0, np.array(picture.size) - 1)))


def _sample() -> Sample:
    """A teal panel beside a white one, 0.1 mm a pixel."""
    drawing = canvas(200, 120, (226, 222, 214))
    bar(drawing, (100, 0, 200, 120), (64, 110, 118))
    return exposed(drawing, 0.1, [[50, 60], [150, 60]])


MEASURE = Measure(
    name="contrast",
    version=1,
    marks=MarkKind.PLACES,
    measure=measure,
    unit="dE00",
    parts={"lighter": "L*", "stronger": "L*"},
    drill="shade",
    coarsest_mm_per_px=0.3,
    true_light=True,
    refuses=frozenset({"two_places", "points_on_each_other", "nothing_usable", "glare_on_region", "region_too_small"}),
    sample=_sample,
)

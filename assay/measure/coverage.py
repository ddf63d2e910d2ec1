"""How much of a region is in one tone: adhesive on an insole's underside, paint in a letter, a panel's overlay.

What: the first place names the tone, the others go round the region. Pixels are split between that tone and the rest by
two means in CIELAB along the way between them; mixed pixels count by what they hold. Valid: two tones that differ by
more than their own scatter. Refuses: ``tone_then_region``, ``one_tone_only``, what a region refuses.
"""

from types import MappingProxyType

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.surface.region import region_within

FEWEST_PLACES = 4
SPOT_PX = 5
CLEAR = 2.0
"""The two tones lie apart by so many of their own scatters, or there are not two."""
LEAST_DE = 6.0
ROUNDS = 20
PATCHES_OFF = 0.5
"""Standard uncertainty of how many patches there are: small ones touch or are left out. Assumed."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: share of the region in the tone of the first place, 0 to 1. Parts: ``share_ratio``, ``patches`` (pieces
    larger than a hundredth of the region), ``apart_dE`` of the two tones."""
    points = marks.checked(picture.size)
    if len(points) < FEWEST_PLACES:
        raise CannotMeasure("tone_then_region", points=len(points))
    region = region_within(picture, points[1:])
    lab = cv2.GaussianBlur(region.lab.astype(np.float32), (0, 0), 1.0)
    named = _named(picture, points[0])
    values = lab[region.inside]
    one, other = _two_means(values, named)
    way = other - one
    apart = float(np.linalg.norm(way))
    along = (values - one) @ way / max(apart**2, 1e-6)
    scatter = [float(along[side].std()) * apart if side.any() else 0.0 for side in (along < 0.5, along >= 0.5)]
    unsure = float(np.linalg.norm(scatter))
    if apart < LEAST_DE or apart < CLEAR * unsure or not (along < 0.5).any() or not (along >= 0.5).any():
        raise CannotMeasure("one_tone_only", apart_dE=round(apart, 1))
    cover = np.clip(1 - along, 0, 1)
    share = float(cover.mean())
    # Pixels near half way may belong to either.
    u = float(np.hypot(0.01, 0.5 * (np.abs(along - 0.5) < 0.2).mean()))
    binary = np.zeros(region.inside.shape, np.uint8)
    binary[region.inside] = along < 0.5
    patches, overlay = _patches(binary, region.corner, 0.01 * region.inside.sum())
    parts = {"share_ratio": share, "share_ratio_uncertainty": u, "patches": float(patches)}
    parts |= {
        "patches_uncertainty": PATCHES_OFF,
        "apart_dE": apart,
        "apart_dE_uncertainty": unsure,
    }
    doubts = tuple(dict.fromkeys((*picture.doubts, *region.doubts)))
    return Measurement(share, "ratio", u, MappingProxyType(parts), overlay, doubts)


def _named(picture: Picture, at: np.ndarray) -> np.ndarray:
    """The tone of a small spot, CIELAB."""
    square = at + SPOT_PX * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * 1.6
    spot = region_within(picture, np.clip(square, 0, np.array(picture.size) - 1))
    return np.median(spot.lab[spot.inside], axis=0)


def _two_means(values: np.ndarray, named: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The named tone and the other one, both settled on what is nearest to them."""
    away = np.linalg.norm(values - named, axis=1)
    one, other = named, values[away >= np.quantile(away, 0.9)].mean(0)
    for _ in range(ROUNDS):
        mine = np.linalg.norm(values - one, axis=1) < np.linalg.norm(values - other, axis=1)
        if not mine.any() or mine.all():
            break
        one, other = np.median(values[mine], axis=0), np.median(values[~mine], axis=0)
    return one, other


def _patches(binary: np.ndarray, corner: np.ndarray, least: float) -> tuple[int, tuple[Stroke, ...]]:
    curves, _ = cv2.findContours(binary, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    large = [curve[:, 0] + corner for curve in curves if cv2.contourArea(curve) > least]
    closed = [np.vstack([curve, curve[:1]]) for curve in large]
    return len(large), tuple(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in curve)) for curve in closed)


def _sample() -> Sample:
    """A foam of which a yellowish glue covers three fifths, 0.2 mm a pixel."""
    drawing = canvas(240, 160, (210, 206, 200))
    bar(drawing, (20, 20, 140, 140), (196, 160, 84))
    return exposed(drawing, 0.2, [[60, 60], [20, 20], [220, 20], [220, 140], [20, 140]])


MEASURE = Measure(
    name="coverage",
    version=2,
    marks=MarkKind.PLACES,
    measure=measure,
    unit="ratio",
    parts={"share_ratio": "ratio", "patches": "count"},
    unjudged={"apart_dE": "dE00"},
    drill="count",
    coarsest_mm_per_px=0.6,
    true_light=True,
    refuses=frozenset({"tone_then_region", "one_tone_only", "region_too_small", "glare_on_region"}),
    sample=_sample,
)

"""Specks on a sole or a panel: how many a square centimetre, how large, how many kinds of colour.

What: pixels that stand off the region's own ground by more than its scatter, in either direction, gathered into specks;
a speck must be at least 3 px across and no larger than a tenth of the region's side. None found is a reading as well:
0. Valid: a ground of one tone, however uneven the light. Refuses: ``speckle_needs_scale``, ``ground_unclear`` where
most of the region would be specks, what a region refuses.
"""

from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, canvas, disc, exposed
from assay.surface.region import region_of

STANDS_OFF = 5.0
"""A speck's pixels stand off the ground by so many of its scatters."""
LEAST_DE = 5.0
SMALLEST_PX = 2.2
"""Smallest radius of a speck, px: smaller ones are noise, or lost in blur."""
LARGEST_SHARE = 0.1
MOST_SHARE = 0.45
"""Where more of the region than this stands off, there is no ground to tell specks from."""
SAME_COLOUR_DE = 12.0
KINDS_OFF = 0.5
"""Standard uncertainty of how many colours are told apart: neighbours run together. Assumed."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: specks per cm². Parts: ``specks`` (count), ``size_mm`` (median diameter), ``kinds`` (colours told apart),
    ``share_ratio`` (of the region that is specks)."""
    marks.checked(picture.size)
    if picture.mm_per_px is None:
        raise CannotMeasure("speckle_needs_scale")
    region = region_of(picture, marks)
    lab = cv2.GaussianBlur(region.lab.astype(np.float32), (0, 0), 0.8)
    side = float(np.sqrt(region.inside.sum()))
    ground = np.stack([_slow_median(lab[..., k], region.inside, side) for k in range(3)], -1)
    away = np.linalg.norm(lab - ground, axis=2)
    scatter = 1.4826 * float(np.median(away[region.inside])) / 1.54 + 0.3
    standing = region.inside & (away > max(STANDS_OFF * scatter, LEAST_DE))
    if standing.sum() > MOST_SHARE * region.inside.sum():
        raise CannotMeasure("ground_unclear", percent=round(100 * float(standing.sum() / region.inside.sum())))
    specks, colours = _specks(standing, lab, side)
    area_cm2 = region.inside.sum() * picture.mm_per_px**2 / 100
    count = len(specks)
    density = count / area_cm2
    # Counts scatter by their root (Poisson); of none, one could have been missed.
    u = max(np.sqrt(count), 1.0) / area_cm2
    diameters = np.array([2 * r for _, _, r in specks]) * picture.mm_per_px
    parts = {
        "specks": float(count),
        "specks_uncertainty": float(max(np.sqrt(count), 1.0)),
        "share_ratio": float(standing.sum() / region.inside.sum()),
        "share_ratio_uncertainty": float(standing.sum() / region.inside.sum() / np.sqrt(max(count, 1)) + 0.002),
        "kinds": float(_kinds(colours)),
        "kinds_uncertainty": KINDS_OFF,
    }
    if count:
        parts |= {"size_mm": float(np.median(diameters)), "size_mm_uncertainty": float(0.5 * picture.mm_per_px)}
    rings = tuple(
        Stroke(StrokeKind.RING, ((float(x + region.corner[0]), float(y + region.corner[1])),), "", float(r) + 1.5)
        for x, y, r in specks
    )
    doubts = tuple(dict.fromkeys((*picture.doubts, *region.doubts)))
    return Measurement(float(density), "per cm²", float(u), MappingProxyType(parts), rings, doubts)


def _slow_median(values: np.ndarray, inside: np.ndarray, side: float) -> np.ndarray:
    """The ground's own slow run: medians of blocks, smoothed."""
    block = max(8, int(0.2 * side))
    height, width = values.shape
    rows, columns = max(1, round(height / block)), max(1, round(width / block))
    whole = float(np.median(values[inside]))
    grid = np.full((rows, columns), whole, np.float32)
    for i in range(rows):
        for k in range(columns):
            part = np.s_[
                i * height // rows : (i + 1) * height // rows, k * width // columns : (k + 1) * width // columns
            ]
            here = values[part][inside[part]]
            if len(here) > 20:
                grid[i, k] = np.median(here)
    return cv2.resize(grid, (width, height), interpolation=cv2.INTER_LINEAR)


def _specks(standing: np.ndarray, lab: np.ndarray, side: float) -> tuple[list[tuple[Any, ...]], list[np.ndarray]]:
    """(x, y, radius) of every speck, and its colour."""
    _, labels, stats, middles = cv2.connectedComponentsWithStats(standing.astype(np.uint8), connectivity=4)
    found, colours = [], []
    for n in range(1, len(stats)):
        radius = float(np.sqrt(stats[n, 4] / np.pi))
        if radius >= SMALLEST_PX and max(stats[n, 2:4]) <= LARGEST_SHARE * side:
            found.append((*middles[n], radius))
            colours.append(np.median(lab[labels == n], axis=0))
    return found, colours


def _kinds(colours: list[np.ndarray]) -> int:
    """How many colours are told apart: each speck joins the first kind it is near to, the commonest first."""
    kinds: list[list[Any]] = []
    for colour in colours:
        near = next((kind for kind in kinds if np.linalg.norm(kind[0] - colour) < SAME_COLOUR_DE), None)
        if near is None:
            kinds.append([colour, 1])
        else:
            near[1] += 1
    # One odd speck among many is dirt, not a kind.
    return sum(kind[1] >= max(1, 0.05 * len(colours)) for kind in kinds)


def _sample() -> Sample:
    """Sixteen dark specks on a pale sole, 0.1 mm a pixel."""
    drawing = canvas(260, 220, (206, 198, 184))
    for n in range(16):
        disc(drawing, (40 + 58 * (n % 4) + 7 * (n // 4 % 2), 36 + 48 * (n // 4)), 5, (60, 58, 60))
    return exposed(drawing, 0.1, [[8, 8], [252, 8], [252, 212], [8, 212]])


MEASURE = Measure(
    name="speckle",
    version=2,
    marks=MarkKind.REGION,
    measure=measure,
    unit="per cm²",
    parts={"specks": "count", "size_mm": "mm", "kinds": "count", "share_ratio": "ratio"},
    sometimes=frozenset({"size_mm"}),
    drill="count",
    coarsest_mm_per_px=0.2,
    refuses=frozenset({"speckle_needs_scale", "ground_unclear", "glare_on_region"}),
    sample=_sample,
)

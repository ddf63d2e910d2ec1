"""Find and count punched holes in a region.

What: number of round holes whose centre lies in the region; centres, diameters in px and mm.
Method: dark round spots are proposed in scale space (Laplacian of Gaussian, by differences); around each, rays are cast
for the rim, and a circle is fitted robustly. A spot counts as a hole when most rays find a rim of one radius, and
when it stands in contrast and size to the others: one region holds one kind of hole.
Source: Lindeberg, "Feature detection with automatic scale selection", Int. J. Computer Vision 30(2), 1998.
Valid: holes of at least 5 px across, all of one kind; other size kinds belong in a region of their own.
Refuses: ``region_too_small``, ``marks_off_picture``, ``no_holes_found``.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from types import MappingProxyType

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates, maximum_filter

from assay.contracts import CORRECTED_BY_HAND, Marks, Picture, Point, Reading, Stroke, StrokeKind
from assay.errors import CannotMeasure

METHOD = "holes/2"

SMALLEST_RADIUS_PX = 2.5
# The working image is shrunk until the largest radius looked for is at most this: cost stays flat, rims stay sharp.
LARGEST_WORKING_RADIUS_PX = 45
SCALE_STEP = 1.18
RAYS = 40
# Share of rays that must find the rim.
RIM_FROM = 0.62
# A hole's contrast and radius against the typical hole's in the region.
CONTRAST_FROM = 0.36
RADIUS_SPAN = (0.55, 1.7)
# A hole is at least this much darker than its surroundings, in square-root units of 0 to 1; grain stays below.
LEAST_CONTRAST = 0.06
BORDER_SOFTNESS = 0.06


@dataclass(frozen=True, slots=True)
class _Spot:
    """A candidate, in working pixels."""

    x: float
    y: float
    radius: float
    contrast: float
    rim: float
    """Share of rays that agree on the rim."""


def measure(picture: Picture, marks: Marks, *, bright: bool = False) -> Reading:
    """Count round holes in a region.

    ``marks``: a closed region in picture pixels. ``bright``: look for bright round things on darker ground instead.
    Returns a count; ``parts`` diameter_px, diameter_cv, and diameter_mm with a scale.
    """
    scene = _scene(picture, marks.checked(picture.size), bright=bright)
    spots = _not_overlapping([spot for spot in _with_rims(scene) if _within(scene.inside, spot)])
    if not spots:
        raise CannotMeasure("no_holes_found")
    kept, levels = _of_one_kind(spots)
    chance = 1 / (1 + np.exp(-(levels - CONTRAST_FROM) / BORDER_SOFTNESS))
    uncertainty = float(np.sqrt((chance * (1 - chance)).sum()))
    circles = np.array([scene.to_picture(spot) for spot in kept])
    doubts = ("few_pixels",) if np.median(circles[:, 2]) < 1.6 * SMALLEST_RADIUS_PX else ()
    return _reading(picture, circles, uncertainty, doubts)


def rebuild(picture: Picture, marks: Marks, centres: Sequence[Point]) -> Reading:
    """The reading that follows from hole centres put right by a person; radii are looked up again."""
    polygon = marks.checked(picture.size)
    if not len(centres):
        raise CannotMeasure("no_points_left")
    scene = _scene(picture, polygon, bright=False)
    found = [scene.to_picture(spot)[2] for spot in _with_rims(scene)]
    typical = float(np.median(found)) if found else 2 * SMALLEST_RADIUS_PX
    circles = []
    for x, y in np.asarray(centres, dtype=float).reshape(-1, 2):
        rim = _with_rim(scene.full, _Spot(x - scene.origin[0], y - scene.origin[1], typical, 0, 0))
        circles.append([x, y, rim.radius if rim else typical])
    return _reading(picture, np.array(circles), 0.0, (CORRECTED_BY_HAND,))


@dataclass(frozen=True, slots=True)
class _Scene:
    """The surroundings of a region, at full size and shrunk."""

    full: np.ndarray
    work: np.ndarray
    origin: tuple[int, int]
    factor: float
    inside: np.ndarray
    """The region's mask at working size."""

    def to_picture(self, spot: _Spot) -> tuple[float, float, float]:
        """Centre and radius in picture pixels, the rim fitted once more at full size."""
        x, y = (spot.x + 0.5) * self.factor - 0.5, (spot.y + 0.5) * self.factor - 0.5
        at = _Spot(x, y, spot.radius * self.factor, spot.contrast, spot.rim)
        if self.factor > 1:
            at = _with_rim(self.full, at) or at
        return at.x + self.origin[0], at.y + self.origin[1], at.radius


def _scene(picture: Picture, polygon: np.ndarray, *, bright: bool) -> _Scene:
    """Grey surroundings of the region, dark things being what is looked for."""
    span = np.ptp(polygon, axis=0).min()
    margin = int(np.clip(0.25 * span, 8, 60))
    x0, y0 = np.maximum(0, np.floor(polygon.min(0)).astype(int) - margin)
    x1, y1 = np.minimum(picture.size, np.ceil(polygon.max(0)).astype(int) + margin + 1)
    crop = picture.rgb[y0:y1, x0:x1].astype(np.float32).mean(-1)
    # Square root: between light as it is, which lets shadows vanish, and its logarithm, which draws rims inwards.
    full = work = np.sqrt((255 - crop if bright else crop) / 255)
    factor = max(1.0, 0.32 * span / LARGEST_WORKING_RADIUS_PX)
    if factor > 1:
        size = (max(8, round(crop.shape[1] / factor)), max(8, round(crop.shape[0] / factor)))
        work = cv2.resize(full, size, interpolation=cv2.INTER_AREA)
    corners = ((polygon - (x0, y0)) / factor).round().astype(np.int32)
    inside = cv2.fillPoly(np.zeros(work.shape, np.uint8), [corners], 1)
    return _Scene(full, work, (int(x0), int(y0)), factor, inside)


def _candidates(work: np.ndarray, inside: np.ndarray) -> list[_Spot]:
    """Dark round spots: maxima over place and size of a scale-normalised difference of Gaussians."""
    span = min(cv2.boundingRect(inside)[2:])
    radii = SMALLEST_RADIUS_PX * SCALE_STEP ** np.arange(24)
    radii = radii[radii <= max(0.36 * span, SMALLEST_RADIUS_PX * SCALE_STEP)]
    blurs = [cv2.GaussianBlur(work, (0, 0), r / np.sqrt(2)) for r in [*radii, radii[-1] * SCALE_STEP]]
    stack = np.stack([wide - tight for tight, wide in pairwise(blurs)])
    peak = (stack == maximum_filter(stack, size=(3, 3, 3))) & (stack > 0) & (inside > 0)
    scale, y, x = np.nonzero(peak)
    strength = stack[scale, y, x]
    order = np.argsort(-strength)[:600]
    order = order[strength[order] > 0.08 * strength.max(initial=0)]
    return [_Spot(float(x[k]), float(y[k]), float(radii[scale[k]]), 0, 0) for k in order]


def _with_rims(scene: _Scene) -> list[_Spot]:
    fitted = (_with_rim(scene.work, spot) for spot in _candidates(scene.work, scene.inside))
    return [spot for spot in fitted if spot]


def _with_rim(work: np.ndarray, spot: _Spot) -> _Spot | None:
    """Fit the rim around a spot; None where there is none."""
    for _ in range(2):
        fitted = _fit_rim(work, spot)
        if fitted is None:
            return None
        spot = fitted
    return spot if spot.rim >= RIM_FROM and spot.radius >= SMALLEST_RADIUS_PX * 0.8 else None


def _fit_rim(work: np.ndarray, spot: _Spot) -> _Spot | None:
    angle = np.arange(RAYS) * (2 * np.pi / RAYS)
    reach = np.arange(0.0, 1.9 * spot.radius + 3, max(0.33, spot.radius / 24))
    ways = np.stack([np.cos(angle), np.sin(angle)], 1)
    xs = spot.x + ways[:, :1] * reach
    ys = spot.y + ways[:, 1:] * reach
    # Rim against noise: neighbouring rays see nearly the same rim.
    rays = gaussian_filter(
        map_coordinates(work, [ys, xs], order=1, mode="nearest"), (1.6, 1.2), mode=("wrap", "nearest")
    )
    slope = np.gradient(rays, axis=1)
    usable = reach >= 0.35 * spot.radius
    mean_slope = np.where(usable, np.median(slope, axis=0), -np.inf)
    at = int(mean_slope.argmax())
    if mean_slope[at] <= 0:
        return None
    near = (reach >= 0.68 * reach[at]) & (reach <= 1.38 * reach[at])
    local = np.where(near, slope, -np.inf)
    found = local.argmax(1)
    radii, steep = reach[found], local.max(1)
    centre, radius = _circle(ways * radii[:, None])
    off = np.abs(np.hypot(*(ways * radii[:, None] - centre).T) - radius)
    typical = np.median(steep)
    agree = (off < max(0.9, 0.17 * radius)) & (steep > 0.3 * typical) & (typical > 0)
    if agree.sum() >= 6:
        centre, radius = _circle((ways * radii[:, None])[agree])
    within = reach < 0.7 * radius
    around = (reach > 1.2 * radius) & (reach < 1.2 * radius + max(2.0, 0.5 * radius))
    if not within.any() or not around.any():
        return None
    inner, outer = np.median(rays[:, within]), np.median(rays[:, around], axis=1)
    contrast = float(np.percentile(outer, 45) - inner)
    if contrast < LEAST_CONTRAST or np.hypot(*centre) > spot.radius:
        return None
    return _Spot(spot.x + centre[0], spot.y + centre[1], float(radius), contrast, float(agree.mean()))


def _circle(points: np.ndarray) -> tuple[np.ndarray, float]:
    """Robust algebraic circle (Kåsa 1976), reweighted three times. (N, 2) to centre, radius."""
    weight = np.ones(len(points))
    design = np.column_stack([2 * points, np.ones(len(points))])
    for _ in range(3):
        solution = np.linalg.lstsq(design * weight[:, None], (points**2).sum(1) * weight, rcond=None)[0]
        centre = solution[:2]
        radius = float(np.sqrt(max(solution[2] + centre @ centre, 1e-6)))
        off = np.abs(np.hypot(*(points - centre).T) - radius)
        weight = 1 / (1 + (off / (0.06 * radius + 0.2)) ** 2)
    return centre, radius


def _within(inside: np.ndarray, spot: _Spot) -> bool:
    x, y = round(spot.x), round(spot.y)
    return 0 <= y < inside.shape[0] and 0 <= x < inside.shape[1] and bool(inside[y, x])


def _not_overlapping(spots: list[_Spot]) -> list[_Spot]:
    """The best of every group that overlaps."""
    kept: list[_Spot] = []
    for spot in sorted(spots, key=lambda s: -s.rim * s.contrast * np.sqrt(s.radius)):
        if all(np.hypot(spot.x - k.x, spot.y - k.y) > 0.85 * max(spot.radius, k.radius) for k in kept):
            kept.append(spot)
    return kept


def _of_one_kind(spots: list[_Spot]) -> tuple[list[_Spot], np.ndarray]:
    """Spots of the typical contrast and size; and how all of them stand to the typical contrast."""
    contrast = np.array([s.contrast * s.rim for s in spots])
    radius = np.array([s.radius for s in spots])
    order = np.argsort(contrast)
    share = np.cumsum((contrast[order] * radius[order]) ** 2)
    typical = contrast[order][np.searchsorted(share, 0.5 * share[-1])]
    strong = contrast > CONTRAST_FROM * typical
    middle = _weighty_middle(radius[strong])
    sized = (radius > RADIUS_SPAN[0] * middle) & (radius < RADIUS_SPAN[1] * middle)
    kept = [spot for spot, good in zip(spots, strong & sized, strict=True) if good]
    return kept, contrast[sized] / typical


def _weighty_middle(radius: np.ndarray) -> float:
    """The radius that half of all radii taken together lies below: glints and shadows on a ring are many but small."""
    order = np.sort(radius)
    return float(order[np.searchsorted(np.cumsum(order), 0.5 * order.sum())])


def _reading(picture: Picture, circles: np.ndarray, uncertainty: float, doubts: tuple[str, ...]) -> Reading:
    circles = circles[np.lexsort((circles[:, 0], np.round(circles[:, 1] / (3 * np.median(circles[:, 2])))))]
    diameter = 2 * float(np.median(circles[:, 2]))
    parts = {"diameter_px": diameter, "diameter_cv": float(circles[:, 2].std() / circles[:, 2].mean())}
    if picture.mm_per_px:
        parts["diameter_mm"] = diameter * picture.mm_per_px
        parts["diameter_mm_uncertainty"] = 0.5 * picture.mm_per_px / np.sqrt(len(circles))
    overlay = tuple(
        Stroke(StrokeKind.RING, ((float(x), float(y)),), label=str(number), radius_px=float(r))
        for number, (x, y, r) in enumerate(circles, start=1)
    )
    return Reading(
        len(circles), "count", uncertainty, METHOD, MappingProxyType(parts), overlay, (*picture.doubts, *doubts)
    )

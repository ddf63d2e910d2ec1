"""Round holes in a region: by their rims, and where those leave doubt, by how alike they look.

Dark round spots are proposed in scale space (Laplacian of Gaussian, by differences); around each, rays are cast for the
rim, and a circle is fitted robustly. A spot counts as a hole when most rays find a rim of one radius, and when it
stands in contrast and size to the others.
Source: Lindeberg, "Feature detection with automatic scale selection", Int. J. Computer Vision 30(2), 1998.
"""

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import NamedTuple

import cv2
import numpy as np

from assay.contracts import Picture
from assay.errors import CannotMeasure
from assay.holes.circle_fit import SMALLEST_RADIUS_PX, CircleCandidate, in_light, with_rims
from assay.holes.repeated_pattern import find_repeated_pattern
from assay.imaging.colour import grey_light

# The working image is shrunk until the largest radius looked for is at most this: cost stays flat, rims stay sharp.
LARGEST_WORKING_RADIUS_PX = 45
SCALE_STEP = 1.18
# What has been softened by so many pixels (standard deviation) is looked at half as large.
HALVED_FROM_PX = 8.0
# A hole's contrast and radius against the typical hole's in the region.
CONTRAST_FROM = 0.36
RADIUS_SPAN = (0.55, 1.7)
BORDER_SOFTNESS = 0.06
# Below these, seen over all holes of a region, they are not seen whole: dents, or laces in them.
LEAST_ROUNDNESS = 0.92
LEAST_DARKNESS = 0.22
# Standard uncertainty of a count by rims alone that are in doubt, and of one by likeness; and how many make a set.
UNSURE = 0.5
ALIKE_UNSURE = 0.4
FEWEST_ALIKE = 3
GLINT_SHARE = 0.6
# A spot without a rim that is so large, against the holes, and stands out so much may be one of them: of 481 sure
# counts on pictures by others this doubts 8 of 14 wrong ones, and one right one.
OF_A_SIZE = (0.6, 1.6)
AS_DARK = 0.6
# One that is larger than they are, and away from them, doubts them where it stands out so many times as much.
STRONGER = 1.0
# Smaller ones that stand out less will do where they fill a gap in a row of even spacing: so far off the even place, as
# a share of the spacing; and from so many holes on a row is one.
PIECE = 0.25
FILLS_A_GAP = 0.9
EVENLY = 0.25
FEWEST_IN_ROW = 4
# Cosine of the sharpest turn within a row.
STRAIGHT = 0.8


class FoundHoles(NamedTuple):
    """Holes in picture pixels, the standard uncertainty of their number, and what is doubtful about them."""

    holes: list[CircleCandidate]
    uncertainty: float
    doubts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Scene:
    """The surroundings of a region, at full size and shrunk."""

    full: np.ndarray
    light: np.ndarray
    """Linear, at full size."""
    work: np.ndarray
    origin: tuple[int, int]
    factor: float
    inside: np.ndarray
    """The region's mask at working size."""

    def to_picture(self, spots: list[CircleCandidate]) -> list[CircleCandidate]:
        """The same in picture pixels, the rims fitted once more at full size."""
        grow, (left, top) = self.factor, self.origin
        if grow > 1:
            large = [
                replace(one, x=(one.x + 0.5) * grow - 0.5, y=(one.y + 0.5) * grow - 0.5, radius=one.radius * grow)
                for one in spots
            ]
            spots = [fitted or spot for spot, fitted in zip(large, with_rims(self.full, large), strict=True)]
        return [replace(spot, x=spot.x + left, y=spot.y + top) for spot in in_light(self.light, spots)]


def find_holes(picture: Picture, polygon: np.ndarray, *, bright: bool = False) -> FoundHoles:
    """The holes whose centre lies in a polygon (N, 2). Raises CannotMeasure ``no_holes_found``."""
    scene = _scene(picture, polygon, bright=bright)
    proposed = [spot for spot in _candidates(scene.work, scene.inside) if _within(scene.inside, spot)]
    spots = _not_overlapping([spot for spot in with_rims(scene.work, proposed) if spot])
    kept, uncertainty = _of_one_kind(spots) if spots else ([], UNSURE)
    doubts: tuple[str, ...] = ()
    lost = bool(kept) and _rimless(proposed, kept)
    if not kept or lost or uncertainty >= UNSURE or _odd(kept):
        kept, uncertainty, doubts = _by_likeness(scene, kept, max(uncertainty, lost * UNSURE))
    holes = scene.to_picture(kept)
    if np.median([hole.radius for hole in holes]) < 1.6 * SMALLEST_RADIUS_PX:
        doubts = (*doubts, "few_pixels")
    return FoundHoles(holes, uncertainty, doubts)


def holes_at(picture: Picture, polygon: np.ndarray, centres: np.ndarray) -> list[CircleCandidate]:
    """Holes at places (N, 2) that a person has put, each with the rim that is there, else as wide as the others."""
    scene = _scene(picture, polygon, bright=False)
    found = [spot.radius for spot in scene.to_picture(_with_rims(scene))]
    typical = float(np.median(found)) if found else 2 * SMALLEST_RADIUS_PX
    put = [CircleCandidate(x, y, typical, 0, 0) for x, y in centres]
    left, top = scene.origin
    rims = with_rims(scene.full, [replace(spot, x=spot.x - left, y=spot.y - top) for spot in put])
    wide = iter(in_light(scene.light, [rim for rim in rims if rim]))
    return [replace(next(wide), x=spot.x, y=spot.y) if rim else spot for spot, rim in zip(put, rims, strict=True)]


def _rimless(proposed: list[CircleCandidate], kept: list[CircleCandidate]) -> bool:
    """Whether a spot as dark and as large as the holes stands where no rim was found: one of them may be lost.

    ``proposed``: with how strongly they stand out as ``contrast``.
    """
    radius = float(np.median([spot.radius for spot in kept]))
    low, high = (share * radius for share in OF_A_SIZE)
    alike = [spot for spot in proposed if low < spot.radius < high]
    away = np.array([min(np.hypot(spot.x - k.x, spot.y - k.y) for k in kept) for spot in alike])
    strength = np.array([spot.contrast for spot in alike])
    own = strength[away < 0.5 * radius]
    if not len(own):
        return False
    if (strength[away > 1.5 * radius] > AS_DARK * np.median(own)).any():
        return True
    # Specks have sharp rims as well, and the holes they lie between may have none.
    for spot in proposed:
        if spot.radius > OF_A_SIZE[1] * radius and spot.contrast > STRONGER * np.median(own):
            apart = min(np.hypot(spot.x - k.x, spot.y - k.y) for k in kept)
            if apart > spot.radius + radius:
                return True
    # A lace across a hole leaves darkness in pieces.
    faintest = FILLS_A_GAP * float(np.median(own))
    pieces = [spot for spot in proposed if spot.radius > PIECE * radius and spot.contrast > faintest]
    return any(
        np.hypot(spot.x - gap[0], spot.y - gap[1]) < EVENLY * spacing for gap, spacing in _gaps(kept) for spot in pieces
    )


def _gaps(kept: list[CircleCandidate]) -> list[tuple[np.ndarray, float]]:
    """Places left out in a row of evenly spaced holes, and the row's spacing."""
    if len(kept) < FEWEST_IN_ROW:
        return []
    places = np.array([(spot.x, spot.y) for spot in kept])
    along = np.linalg.svd(places - places.mean(0), full_matrices=False)[2][0]
    places = places[np.argsort(places @ along)]
    steps = np.diff(places, axis=0)
    lengths = np.hypot(*steps.T)
    spacing = float(np.median(lengths))
    many = np.round(lengths / spacing)
    # A field of several rows has no even steps along its long way, or goes to and fro.
    ways = steps / np.maximum(lengths, 1e-9)[:, None]
    turns = (ways[:-1] * ways[1:]).sum(1)
    if (np.abs(lengths - spacing * many) > EVENLY * spacing).any() or turns.min() < STRAIGHT:
        return []
    return [
        (start + step * k / n, spacing)
        for start, step, n in zip(places, steps, many, strict=False)
        for k in range(1, int(n))
    ]


def _odd(kept: list[CircleCandidate]) -> bool:
    """Whether these look unlike holes seen whole: out of round, or hardly darker than what is around them."""
    return (
        np.median([spot.roundness for spot in kept]) < LEAST_ROUNDNESS
        or np.median([spot.darkness for spot in kept]) < LEAST_DARKNESS
    )


def _by_likeness(
    scene: _Scene, kept: list[CircleCandidate], uncertainty: float
) -> tuple[list[CircleCandidate], float, tuple[str, ...]]:
    """What looks alike, where rims alone leave doubt: dents, laces in the holes. Raises CannotMeasure."""
    alike = find_repeated_pattern(scene.work, scene.inside)
    # Glints on rings are alike as well, but smaller.
    least = GLINT_SHARE * float(np.median([spot.radius for spot in kept])) if kept else 0.0
    if alike is None or not alike.believed or len(alike.places) < FEWEST_ALIKE or alike.radius < least:
        if not kept:
            raise CannotMeasure("no_holes_found")
        return kept, max(uncertainty, UNSURE), ("odd_holes",)
    if len(alike.places) != len(kept):
        kept = [CircleCandidate(float(x), float(y), alike.radius, 0, 0) for x, y in alike.places]
    return kept, ALIKE_UNSURE, ("by_likeness",)


def _scene(picture: Picture, polygon: np.ndarray, *, bright: bool) -> _Scene:
    """Grey surroundings of the region, dark things being what is looked for."""
    span = np.ptp(polygon, axis=0).min()
    margin = int(np.clip(0.25 * span, 8, 60))
    x0, y0 = np.maximum(0, np.floor(polygon.min(0)).astype(int) - margin)
    x1, y1 = np.minimum(picture.size, np.ceil(polygon.max(0)).astype(int) + margin + 1)
    crop = cv2.transform(picture.rgb[y0:y1, x0:x1].astype(np.float32), np.full((1, 3), 1 / 3, np.float32))
    # Square root: between light as it is, which lets shadows vanish, and its logarithm, which draws rims inwards.
    full = work = np.sqrt((255 - crop if bright else crop) / 255)
    light = grey_light(picture.rgb[y0:y1, x0:x1])
    factor = max(1.0, 0.32 * span / LARGEST_WORKING_RADIUS_PX)
    if factor > 1:
        size = (max(8, round(crop.shape[1] / factor)), max(8, round(crop.shape[0] / factor)))
        work = cv2.resize(full, size, interpolation=cv2.INTER_AREA)
    corners = ((polygon - (x0, y0)) / factor).round().astype(np.int32)
    inside = cv2.fillPoly(np.zeros(work.shape, np.uint8), [corners], 1)
    return _Scene(full, 1 - light if bright else light, work, (int(x0), int(y0)), factor, inside)


def _candidates(work: np.ndarray, inside: np.ndarray) -> list[CircleCandidate]:
    """Dark round spots: maxima over place and size of a scale-normalised difference of Gaussians, which is their
    contrast here."""
    left, top, *sides = cv2.boundingRect(inside)
    span, low = min(sides), np.maximum([top - 1, left - 1], 0)
    near = tuple(slice(first, last) for first, last in zip(low, (top + sides[1] + 1, left + sides[0] + 1), strict=True))
    radii = SMALLEST_RADIUS_PX * SCALE_STEP ** np.arange(24)
    radii = radii[radii <= max(0.36 * span, SMALLEST_RADIUS_PX * SCALE_STEP)]
    blurs, level, share, done = [], work, 1.0, 0.0
    for wide in np.append(radii, radii[-1] * SCALE_STEP) / np.sqrt(2):
        # Each on from the one before: two blurs make one, their variances added.
        level = cv2.GaussianBlur(level, (0, 0), share * np.sqrt(wide**2 - done**2))
        blurs.append(level if share == 1 else cv2.resize(level, work.shape[::-1], interpolation=cv2.INTER_LINEAR))
        done = wide
        if share * wide >= HALVED_FROM_PX:
            level, share = cv2.resize(level, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), share / 2
    stack = np.empty((len(radii), *inside[near].shape), np.float32)
    around = np.empty_like(stack)
    for (tight, wide), level, highest in zip(pairwise(blurs), stack, around, strict=True):
        np.subtract(wide[near], tight[near], out=level)
        cv2.dilate(level, np.ones((3, 3), np.uint8), dst=highest)
    # The highest round about must not be topped by that of the next smaller or larger size.
    peak = (stack == around) & (stack > 0) & (inside[near] > 0)
    peak[1:] &= stack[1:] >= around[:-1]
    peak[:-1] &= stack[:-1] >= around[1:]
    found = np.flatnonzero(peak)
    scale, y, x = np.unravel_index(found, peak.shape)
    y, x = y + low[0], x + low[1]
    strength = stack.ravel()[found]
    order = np.argsort(-strength)[:600]
    order = order[strength[order] > 0.08 * strength.max(initial=0)]
    return [CircleCandidate(float(x[k]), float(y[k]), float(radii[scale[k]]), float(strength[k]), 0) for k in order]


def _with_rims(scene: _Scene) -> list[CircleCandidate]:
    return [spot for spot in with_rims(scene.work, _candidates(scene.work, scene.inside)) if spot]


def _within(inside: np.ndarray, spot: CircleCandidate) -> bool:
    x, y = round(spot.x), round(spot.y)
    return 0 <= y < inside.shape[0] and 0 <= x < inside.shape[1] and bool(inside[y, x])


def _not_overlapping(spots: list[CircleCandidate]) -> list[CircleCandidate]:
    """The best of every group that overlaps."""
    kept: list[CircleCandidate] = []
    for spot in sorted(spots, key=lambda s: -s.inlier_share * s.contrast * np.sqrt(s.radius)):
        if all(np.hypot(spot.x - k.x, spot.y - k.y) > 0.85 * max(spot.radius, k.radius) for k in kept):
            kept.append(spot)
    return kept


def _of_one_kind(spots: list[CircleCandidate]) -> tuple[list[CircleCandidate], float]:
    """Spots of the typical contrast and size; and the count's standard uncertainty by those near the border."""
    contrast = np.array([s.contrast * s.inlier_share for s in spots])
    radius = np.array([s.radius for s in spots])
    order = np.argsort(contrast)
    share = np.cumsum((contrast[order] * radius[order]) ** 2)
    typical = contrast[order][np.searchsorted(share, 0.5 * share[-1])]
    strong = contrast > CONTRAST_FROM * typical
    middle = _weighty_middle(radius[strong])
    sized = (radius > RADIUS_SPAN[0] * middle) & (radius < RADIUS_SPAN[1] * middle)
    kept = [spot for spot, good in zip(spots, strong & sized, strict=True) if good]
    chance = 1 / (1 + np.exp(-(contrast[sized] / typical - CONTRAST_FROM) / BORDER_SOFTNESS))
    return kept, float(np.sqrt((chance * (1 - chance)).sum()))


def _weighty_middle(radius: np.ndarray) -> float:
    """The radius that half of all radii taken together lies below: glints and shadows on a ring are many but small."""
    order = np.sort(radius)
    return float(order[np.searchsorted(np.cumsum(order), 0.5 * order.sum())])

"""Ink told from its ground inside a region, light on dark as well as dark on light, and how much of each pixel it
covers.

The ground is what touches the region's border: its colour is a gentle surface over the region, its scatter is its own.
What lies further from it than that scatter is ink; the ink's colour is the middle of what lies furthest. Cover is where
a pixel lies on the straight line from ground to ink in linear light (mixing of light is linear; Porter & Duff, SIGGRAPH
1984).
"""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.contracts import Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import de00, linear_to_lab
from assay.surface.region import region_within

BORDER_SHARE = 0.10
"""The ground is looked at within so much of the region's shorter side from its border."""
FAINTEST = 3.2
"""Ink must stand this many scatters of the ground off it, after softening."""
LEAST_DE = 3.0
"""Ink nearer to its ground than this, dE00, is not told from it."""
SOFTEN_PX = 0.7
LARGEST_SHARE = 0.85
"""Where more of the region than this would be ink, the ground is not what touches its border."""
INK_QUANTILE = 0.8
"""Of what is surely ink, the share that lies nearer to the ground than the ink's own colour does."""
ROUNDS = 3


@dataclass(frozen=True, slots=True)
class Ink:
    """Ink in a region, in the region's region of the picture."""

    cover: np.ndarray
    """(h, w) float32, 0 to 1: how much of each pixel is ink; 0 outside the region."""
    inside: np.ndarray
    """(h, w) bool."""
    corner: np.ndarray
    """(2,) where the region's top left pixel lies in the picture."""
    contrast_de: float
    """dE00 of ink against ground."""
    lighter: bool
    """Light ink on a darker ground."""
    noise: float
    """Standard deviation of the cover over plain ground."""
    doubts: tuple[str, ...]


def ink_in(picture: Picture, polygon: np.ndarray) -> Ink:
    """Find the ink inside a checked polygon (N, 2). Raises CannotMeasure ``no_mark_found`` and what a region raises."""
    region = region_within(picture, polygon)
    light = cv2.GaussianBlur(region.linear, (0, 0), SOFTEN_PX)
    # The eye's, and the camera's, noise is even in the cube root of light.
    roots = np.cbrt(light)
    ground_at = region.inside & (_depth(region.inside) <= max(3.0, BORDER_SHARE * _side(region.inside)))
    ground = _surface(roots, ground_at)
    for _ in range(ROUNDS):
        away = np.linalg.norm(roots - ground, axis=2)
        scatter = 1.4826 * float(np.median(away[ground_at])) + 1e-4
        plain = region.inside & (away < 3 * scatter)
        ground = _surface(roots, plain if plain.sum() > 0.1 * region.inside.sum() else ground_at)
    away = np.linalg.norm(roots - ground, axis=2)
    scatter = 1.4826 * float(np.median(away[plain])) + 1e-4
    far = region.inside & (away > FAINTEST * scatter)
    far = cv2.morphologyEx(far.astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)) > 0
    if far.sum() < 12 or far.sum() > LARGEST_SHARE * region.inside.sum():
        raise CannotMeasure("no_mark_found", percent=round(100 * float(far.sum() / region.inside.sum())))
    # The ink's own colour: of what is furthest, in linear light, against the ground just there.
    level = np.quantile(away[far], INK_QUANTILE)
    core = far & (away >= 0.75 * level)
    ink, base = (np.median(values[core], axis=0) for values in (light, ground**3))
    contrast = de00(linear_to_lab(ink), linear_to_lab(base))
    if contrast < LEAST_DE:
        raise CannotMeasure("no_mark_found", percent=round(100 * float(far.sum() / region.inside.sum())))
    gain = (ground**3) / np.maximum(base, 1e-6)
    way = ink - base
    cover = ((light / np.maximum(gain, 1e-6) - base) @ way) / float(way @ way)
    cover = np.where(region.inside, np.clip(cover, 0, 1), 0).astype(np.float32)
    bare = plain & ~(cv2.dilate(far.astype(np.uint8), np.ones((5, 5))) > 0)
    noise = float(cover[bare].std()) if bare.any() else 0.0
    doubts = list(region.doubts)
    if contrast < 3 * LEAST_DE or noise > 0.2:
        doubts.append("faint_mark")
    return Ink(cover, region.inside, region.corner, contrast, bool(ink.sum() > base.sum()), noise, tuple(doubts))


def parts_of(ink: Ink, least_share: float = 0.02) -> tuple[np.ndarray, np.ndarray]:
    """The pieces that the ink falls into: labels (h, w), 0 for none, and their boxes and areas (N, 5): x, y, w, h, px.

    Those cut by the region's border are left out unless all are; specks below ``least_share`` of the largest as well.
    """
    binary = (ink.cover >= 0.5).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(binary, connectivity=8)
    border = ink.inside & (_depth(ink.inside) <= 1.5)
    cut = np.unique(labels[border])
    whole = np.array([n for n in range(1, len(stats)) if n not in cut], int)
    kept = whole if len(whole) else np.arange(1, len(stats))
    if not len(kept):
        raise CannotMeasure("no_mark_found", percent=0)
    kept = kept[stats[kept, 4] >= max(4, least_share * stats[kept, 4].max())]
    renamed = np.zeros(len(stats), int)
    renamed[kept] = np.arange(1, len(kept) + 1)
    return renamed[labels], stats[kept]


def _depth(inside: np.ndarray) -> np.ndarray:
    """(h, w) distance to the region's border, px."""
    padded = cv2.copyMakeBorder(inside.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    return cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_5)[1:-1, 1:-1]


def _side(inside: np.ndarray) -> float:
    return float(min(np.ptp(np.flatnonzero(inside.any(axis))) for axis in (0, 1)))


def _surface(values: np.ndarray, where: np.ndarray) -> np.ndarray:
    """A plane in x and y with a bend (six terms) through values (h, w, 3) where they are ground, robustly."""
    height, width = where.shape
    x, y = np.linspace(-1, 1, width, dtype=np.float32), np.linspace(-1, 1, height, dtype=np.float32)
    at = np.flatnonzero(where)[:: max(1, int(where.sum()) // 4000)]
    here, there = x[at % width], y[at // width]
    terms = np.stack([np.ones_like(here), here, there, here * there, here**2, there**2], 1)
    seen = values.reshape(-1, 3)[at]
    weight = np.ones(len(at), np.float32)
    for _ in range(4):
        heavy = terms * weight[:, None]
        found = np.linalg.solve(heavy.T @ terms + 1e-3 * np.eye(6, dtype=np.float32), heavy.T @ seen)
        residual = np.linalg.norm(seen - terms @ found, axis=1)
        weight = 1 / np.maximum(1, (residual / (2 * np.median(residual) + 1e-5)) ** 2)
    across, down = np.broadcast_arrays(x[None], y[:, None])
    whole = np.stack([np.ones_like(across), across, down, across * down, across**2, down**2], -1)
    return np.clip(whole @ found, 1e-3, None).astype(np.float32)

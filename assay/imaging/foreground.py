"""Where the thing is in a photograph: what stands out from a plain, unevenly lit ground. Coarse, for finding the way.

Method: the ground's colour is a gentle surface over the picture in Lab, fitted robustly to its rim; what lies further
from it than the ground's own scatter is the thing. The bench card, where found, is left out.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from assay.imaging.colour import LIGHT_OF
from assay.imaging.pyramid import Pyramid, level_of

SOUGHT_SIDE = 360
# Distance in Lab from the ground's colour: at least this, and so many times the ground's own scatter.
OFF_GROUND = 7.0
OFF_SCATTER = 4.0
# How much colour, more light and less light count: a shadow is the ground, darker.
COLOUR = 1.5
LIGHTER = 0.8
DARKER = 0.4
# No shadow is so deep that less than this is left of L* + 16.
DEEPEST = 0.5
IN_SHADOW = 0.2
BEYOND_SHADOW = 0.7
# A card is left out with so much room, times its size; so far round it shadow is looked for, and believed where that is
# no more than this share of what stands out.
CARD_ROOM = 1.06
CARD_SHADOW = 1.35
BETWEEN = 0.25
SMALLEST_SHARE = 0.02
# So many places of it, more or less, tell how the ground runs.
GROUND_LOOKED_AT = 4000
# Longer against wide than any shoe, box or tag: an edge or a row, not the thing.
LONGEST = 4.5
# Share of the picture's rim that the thing may touch before it counts as cut off.
RIM_TOUCHED = 0.02


@dataclass(frozen=True, slots=True)
class Foreground:
    """The thing, at a reduced size."""

    mask: np.ndarray
    """(h, w) bool."""
    scale: float
    """Size of the mask's picture against the full one."""
    box: tuple[float, float, float, float]
    """x, y, width, height in full pixels."""
    found: bool
    """False: nothing stands out, and the box is the whole picture."""
    cut_off: bool
    """It runs out of the picture."""

    @property
    def outline(self) -> np.ndarray:
        """(N, 2) outer contour in full pixels."""
        curves, _ = cv2.findContours(self.mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        longest = max(curves, key=cv2.contourArea)
        return (longest[:, 0].astype(float) + 0.5) / self.scale - 0.5


def find_foreground(pyramid: Pyramid, card_px: np.ndarray | None = None) -> Foreground:
    """Find the thing; ``card_px``: (4, 2) corners of a card to leave out."""
    return next(find_foregrounds(pyramid, card_px=card_px, shaded=False))


def find_foregrounds(
    pyramid: Pyramid,
    off_grounds: Sequence[float] = (OFF_GROUND,),
    card_px: np.ndarray | None = None,
    within_px: np.ndarray | None = None,
    *,
    shaded: bool = True,
) -> Iterator[Foreground]:
    """What stands out from the ground by each least distance (Lab) in turn; ``card_px``: (4, 2) corners of a card to
    leave out; ``within_px``: (N, 2) a loose region around the thing, the rest of the picture left out; ``shaded``: what
    may be the ground in shadow is ground, a little and then more of it (under UV a shoe is its ground, darker)."""
    small, scale = level_of(pyramid, SOUGHT_SIDE)
    light = cv2.LUT(cv2.GaussianBlur(small, (0, 0), 1.2), LIGHT_OF)
    lab = cv2.cvtColor(light, cv2.COLOR_LRGB2Lab)
    free = np.ones(lab.shape[:2], bool)
    if within_px is not None:
        inside = np.zeros(lab.shape[:2], np.uint8)
        cv2.fillPoly(inside, [np.round(within_px * scale).astype(np.int32)], 1)
        free = inside > 0
    rim = _rim(free)
    edge = (free if within_px is not None else np.ones_like(free)).astype(np.uint8)
    edge = (edge > 0) & (cv2.erode(edge, np.ones((3, 3), np.uint8), borderValue=0) == 0)
    beside = np.zeros_like(free)
    if card_px is not None:
        free &= ~grown(card_px * scale, CARD_ROOM, free.shape)
        beside = grown(card_px * scale, CARD_SHADOW, free.shape)
    lit, darker, scatter = _off_ground(lab, rim & free, shaded=shaded)
    for least, dark in ((least, dark) for dark in darker for least in off_grounds):
        bar = max(least, OFF_SCATTER * scatter) ** 2
        far = free & (lit + dark > bar)
        # Between a thing and a card that stands beside it lies the deepest shadow.
        between = far & beside & (lit < bar)
        thing = _largest(far & ~between if between.sum() < BETWEEN * far.sum() else far)
        if thing is None:
            whole = (0.0, 0.0, float(pyramid.size[0]), float(pyramid.size[1]))
            yield Foreground(np.ones(free.shape, bool), scale, whole, found=False, cut_off=False)
        else:
            mask, box = thing
            x, y, w, h = (n / scale for n in box)
            yield Foreground(mask, scale, (x, y, w, h), found=True, cut_off=bool(mask[edge].mean() > RIM_TOUCHED))


def grown(corners: np.ndarray, times: float, shape: tuple[int, ...]) -> np.ndarray:
    """(h, w) bool: within four corners (4, 2), grown about their middle."""
    within, middle = np.zeros(shape, np.uint8), corners.mean(0)
    cv2.fillConvexPoly(within, np.round(middle + times * (corners - middle)).astype(np.int32), 1)
    return within > 0


def _largest(far: np.ndarray) -> tuple[np.ndarray, tuple[int, ...]] | None:
    """Mask of the largest thing, its holes filled, and its box; None where that is no thing."""
    far = cv2.morphologyEx(far.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((7, 7), np.uint8))
    far = cv2.morphologyEx(far, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    curves, _ = cv2.findContours(far, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    if not curves:
        return None
    curve = max(curves, key=cv2.contourArea)
    x, y, width, height = cv2.boundingRect(curve)
    mask = np.zeros(far.shape, np.uint8)
    cv2.drawContours(mask, [curve], -1, 1, -1)
    thing = cv2.countNonZero(mask) >= SMALLEST_SHARE * mask.size and max(width, height) <= LONGEST * min(width, height)
    return (mask.view(bool), (x, y, width, height)) if thing else None


def _rim(free: np.ndarray) -> np.ndarray:
    """Where the ground is looked at: along the rim of the picture, or of the region."""
    depth = max(4, min(free.shape) // 30)
    kernel = np.ones((2 * depth + 1, 2 * depth + 1), np.uint8)
    return free & (cv2.erode(free.astype(np.uint8), kernel, borderValue=0) == 0)


def _off_ground(
    lab: np.ndarray, ground: np.ndarray, *, shaded: bool
) -> tuple[np.ndarray, tuple[np.ndarray, ...], float]:
    """How far (squared) each place lies from the ground's surface by its hue and more light, and by less light; and the
    ground's own scatter round it. ``ground``: where nothing but ground is."""
    height, width = ground.shape
    x, y = np.linspace(-1, 1, width, dtype=np.float32), np.linspace(-1, 1, height, dtype=np.float32)
    at = np.flatnonzero(ground)[:: max(1, np.count_nonzero(ground) // GROUND_LOOKED_AT)]
    here, there, seen = x[at % width], y[at // width], np.ascontiguousarray(lab.reshape(-1, 3)[at].T)
    terms = np.stack([np.ones_like(here), here, there, here * there, here * here, there * there])
    counts = np.array([LIGHTER, COLOUR, COLOUR], np.float32)[:, None]
    weight = np.ones(len(here), np.float32)
    for _ in range(4):
        heavy = terms * weight
        found = np.linalg.solve(heavy @ terms.T + 1e-3 * np.eye(6, dtype=np.float32), heavy @ seen.T)
        residual = (((seen - found.T @ terms) * counts) ** 2).sum(0) ** 0.5
        scatter = float(np.partition(residual, len(residual) // 2)[len(residual) // 2]) + 0.3
        weight = 1 / np.maximum(1, (residual / (2 * scatter)) ** 2)
    down = np.stack([np.ones_like(y), y, y * y], 1)
    along = np.stack([np.ones_like(x), x, x * x])
    surfaces = []
    for middle, by_x, by_y, by_xy, by_xx, by_yy in found.T:
        surfaces.append(down @ np.array([[middle, by_x, by_xx], [by_y, by_xy, 0], [by_yy, 0, 0]], np.float32) @ along)
    lightness, *hue = cv2.split(lab)
    # In shadow L* + 16, a* and b* all shrink by the cube root of the light (CIE 15): the ground keeps its hue.
    shade = np.clip((lightness + 16) / np.maximum(surfaces[0] + 16, 1), DEEPEST if shaded else 1, 1)
    lighter = LIGHTER * np.maximum(lightness - surfaces[0], 0)
    darker = np.maximum(surfaces[0] - lightness, 0)
    deeper = np.maximum(darker - IN_SHADOW * (surfaces[0] + 16), 0)
    away = lighter**2
    for values, surface in zip(hue, surfaces[1:], strict=True):
        away += (COLOUR * (values - shade * surface)) ** 2
    return away, ((DARKER * darker) ** 2, (BEYOND_SHADOW * deeper) ** 2), scatter

"""A photograph as the finders see it: one size for all, the shoe alone."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from assay.contracts import MarkKind

MM_PER_PX = 0.32
"""Size of the finders' pixels, mm: three to a millimetre show a stitch of half a millimetre, and cost a second."""
SHOE_MM = 300.0
"""Believed length of what is in an outline where no scale is known: only the finders' sizes hang on it. Assumed."""
CARD_ROOM = 1.25
"""A card is left out by so much of its size: its corners are those of what is printed on it."""
RIM_MM = 1.5
"""So near to the outline nothing is proposed: what shines at the rim is none of the shoe's parts."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """Something that could be measured."""

    measure: str
    quantity: str
    """A part of the measure's reading; empty: its value."""
    kind: MarkKind
    points: tuple[tuple[float, float], ...]
    """(x, y) in picture pixels."""
    noun: str
    """What it is, such as ``row``: worded where it is shown."""


@dataclass(frozen=True)
class Scene:
    """A photograph cut to the shoe and brought to the finders' scale."""

    rgb: np.ndarray
    """(h, w, 3) uint8, in finder pixels."""
    inside: np.ndarray
    """(h, w) bool: on the shoe, away from its rim."""
    origin: tuple[float, float]
    """Picture pixel of the cut's first one."""
    scale: float
    """Picture pixels a finder pixel."""
    outline: np.ndarray
    """(N, 2) in picture pixels."""
    size: tuple[int, int]
    """Width and height of the picture, px."""

    @classmethod
    def of(
        cls, rgb: np.ndarray, outline: np.ndarray, mm_per_px: float | None, card: Sequence[tuple[float, float]] = ()
    ) -> "Scene":
        """Cut ``rgb`` (H, W, 3) uint8 to the box of ``outline`` (N, 2) px and resize it. ``mm_per_px``: of the picture;
        None: believed from the outline's length. ``card``: corners of a card in it, px."""
        points = np.asarray(outline, float)
        low = np.clip(np.floor(points.min(0)).astype(int), 0, None)
        high = np.minimum(np.ceil(points.max(0)).astype(int) + 1, (rgb.shape[1], rgb.shape[0]))
        mm = mm_per_px or SHOE_MM / max(1.0, float(np.ptp(points, axis=0).max()))
        scale = max(1.0, MM_PER_PX / mm)
        cut = rgb[low[1] : high[1], low[0] : high[0]]
        size = (max(1, round(cut.shape[1] / scale)), max(1, round(cut.shape[0] / scale)))
        small = cv2.resize(cut, size, interpolation=cv2.INTER_AREA)
        mask = np.zeros(small.shape[:2], np.uint8)
        cv2.fillPoly(mask, [np.round((points - low) / scale).astype(np.int32)], 1)
        if len(card):
            corners = cv2.convexHull(np.asarray(card, np.float32))[:, 0]
            middle = corners.mean(0)
            cv2.fillPoly(mask, [np.round((middle + CARD_ROOM * (corners - middle) - low) / scale).astype(np.int32)], 0)
        rim = max(1, round(RIM_MM / MM_PER_PX))
        kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * rim + 1, 2 * rim + 1))
        inside = cv2.erode(cv2.copyMakeBorder(mask, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0), kernel)[1:-1, 1:-1] > 0
        return cls(small, inside, (float(low[0]), float(low[1])), scale, points, (rgb.shape[1], rgb.shape[0]))

    @cached_property
    def lab(self) -> np.ndarray:
        """(h, w, 3) float32 CIELAB."""
        return cv2.cvtColor(self.rgb.astype(np.float32) / 255.0, cv2.COLOR_RGB2LAB)

    def to_picture(self, points: np.ndarray) -> tuple[tuple[float, float], ...]:
        """(N, 2) finder pixels as picture pixels."""
        placed = (np.asarray(points, float) + 0.5) * self.scale - 0.5 + np.array(self.origin)
        return tuple((float(x), float(y)) for x, y in np.round(placed, 1))

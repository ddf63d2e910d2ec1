"""One decoded photograph and its smaller levels, made once and used by everything that looks at the whole picture."""

from dataclasses import dataclass

import cv2
import numpy as np

# A level that is shrunk to less than this, of one, is softened first.
SOFTENED_TO = 0.7


@dataclass(frozen=True, slots=True)
class Pyramid:
    """A picture at four sizes."""

    rgb: np.ndarray
    """(H, W, 3) uint8, upright sRGB."""
    half: np.ndarray
    """(H/2, W/2, 3)."""
    quarter: np.ndarray
    """(H/4, W/4, 3)."""
    eighth: np.ndarray
    """(H/8, W/8, 3)."""

    def grey(self, left: float, top: float, right: float, bottom: float) -> tuple[np.ndarray, tuple[int, int]]:
        """A piece in grey, (h, w) uint8, kept inside the picture; and where its top left pixel lies."""
        return grey_piece(self.rgb, left, top, right, bottom)

    def at_least(self, longest: int) -> tuple[np.ndarray, float]:
        """The smallest level that has ``longest`` pixels a side, the whole where none has; and its size against it."""
        levels = ((self.eighth, 0.125), (self.quarter, 0.25), (self.half, 0.5))
        return next(((level, share) for level, share in levels if max(level.shape) >= longest), (self.rgb, 1.0))

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.rgb.shape[1], self.rgb.shape[0]


def grey_piece(
    rgb: np.ndarray, left: float, top: float, right: float, bottom: float
) -> tuple[np.ndarray, tuple[int, int]]:
    """A piece of a picture in grey, (h, w) uint8, kept inside it; and where its top left pixel lies."""
    height, width = rgb.shape[:2]
    x, y = int(min(max(left, 0), width - 1)), int(min(max(top, 0), height - 1))
    piece = rgb[y : int(min(max(bottom, y), height - 1)) + 1, x : int(min(max(right, x), width - 1)) + 1]
    return cv2.cvtColor(piece, cv2.COLOR_RGB2GRAY), (x, y)


def pyramid_of(rgb: np.ndarray) -> Pyramid:
    """Levels by area averaging, each from the one before."""
    half = half_of(rgb)
    quarter = half_of(half)
    return Pyramid(rgb, half, quarter, half_of(quarter))


def half_of(rgb: np.ndarray) -> np.ndarray:
    """The picture (H, W, 3) at half its size, by area averaging."""
    return cv2.resize(rgb, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)


def level_of(pyramid: Pyramid, longest: int) -> tuple[np.ndarray, float]:
    """The smallest level that still has ``longest`` pixels a side, shrunk to it; and its size against the full one."""
    level, share = pyramid.at_least(longest)
    scale = min(1.0, longest / max(level.shape[:2]))
    if scale < 1:
        # Linear sampling leaves little out unless the size is nearly halved.
        level = cv2.blur(level, (2, 2)) if scale < SOFTENED_TO else level
        level = cv2.resize(level, None, fx=scale, fy=scale, interpolation=cv2.INTER_LINEAR)
    return level, share * scale

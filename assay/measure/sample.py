"""Small drawn pictures that measures can read: what the contract of every measure is tried on."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import ArrayLike

from assay.contracts import Light, MarkKind, Marks, Picture, Point

NOISE = 2.5
"""Standard deviation of the pixels' noise, of 255."""
SOFT_PX = 0.9
"""Standard deviation of the blur, px."""
FINE = 4
"""So many times finer than the picture things are drawn, each way."""


@dataclass(frozen=True, slots=True)
class Sample:
    """A picture with marks on it, and what is to be counted there."""

    picture: Picture
    points: tuple[Point, ...]
    count: int = 0

    def marks(self, kind: MarkKind) -> Marks:
        """Its points as marks."""
        return Marks(kind, self.points)


def exposed(
    rgb: np.ndarray, mm_per_px: float, points: ArrayLike, count: int = 0, *, light: Light = Light.NONE
) -> Sample:
    """A sample from a drawing (H, W, 3) that is ``FINE`` times too large: shrunk, softened, with noise."""
    size = (rgb.shape[1] // FINE, rgb.shape[0] // FINE)
    small = cv2.resize(rgb.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    noise = np.random.default_rng(1).normal(0, NOISE, small.shape)
    picture = np.clip(np.round(cv2.GaussianBlur(small, (0, 0), SOFT_PX) + noise), 0, 255).astype(np.uint8)
    return Sample(Picture(picture, mm_per_px, light), tuple((float(x), float(y)) for x, y in np.asarray(points)), count)


def canvas(width: int, height: int, colour: tuple[float, float, float] = (150, 148, 144)) -> np.ndarray:
    """An even ground for a picture of that size, px."""
    return np.full((height * FINE, width * FINE, 3), colour, np.float32)


def bar(drawing: np.ndarray, box: tuple[float, float, float, float], colour: tuple[Any, ...]) -> None:
    """Fill left, top, right, low (px of the finished picture) of a drawing."""
    left, top, right, low = (round(n * FINE) for n in box)
    drawing[top:low, left:right] = colour


def disc(drawing: np.ndarray, at: Point, radius: float, colour: tuple[Any, ...]) -> None:
    """Fill a disc, px of the finished picture."""
    centre = (round((at[0] + 0.5) * FINE), round((at[1] + 0.5) * FINE))
    cv2.circle(drawing, centre, round(radius * FINE), colour, -1)


def outlined(drawing: np.ndarray, curve: np.ndarray, colour: tuple[Any, ...]) -> None:
    """Fill a closed curve (N, 2), px of the finished picture."""
    cv2.fillPoly(drawing, [np.round(np.asarray(curve) * FINE).astype(np.int32)], colour)


def stitches(count: int = 14, pitch: float = 22.0) -> Sample:
    """A straight row of light running stitches on darker leather, 0.1 mm a pixel."""
    drawing = canvas(round(pitch * (count + 3)), 120, (96, 92, 88))
    middles = pitch * (np.arange(count) + 2)
    for x in middles:
        bar(drawing, (x - 0.36 * pitch, 56, x + 0.36 * pitch, 63), (226, 222, 214))
        for end in (x - 0.42 * pitch, x + 0.42 * pitch):
            disc(drawing, (end, 59.5), 2.2, (48, 44, 42))
    return exposed(drawing, 0.1, [[middles[0] - 6, 59.5], [middles[-1] + 6, 59.5]], count)


def punched(columns: int = 5, rows: int = 3, apart: float = 46.0) -> Sample:
    """A lattice of dark round holes, 0.1 mm a pixel."""
    width, height = round(apart * (columns + 1)), round(apart * (rows + 1))
    drawing = canvas(width, height, (198, 190, 176))
    for row in range(rows):
        for column in range(columns):
            disc(drawing, (apart * (column + 1), apart * (row + 1)), 8.0, (34, 32, 30))
    corners = [[14, 14], [width - 15, 14], [width - 15, height - 15], [14, height - 15]]
    return exposed(drawing, 0.1, corners, columns * rows)


def silhouette(curve: np.ndarray, size: tuple[int, int], mm_per_px: float) -> Sample:
    """A dark thing on a light plain ground, and a loose region around it."""
    drawing = canvas(*size, (176, 176, 174))
    outlined(drawing, curve, (64, 60, 58))
    low, high = np.min(curve, axis=0) - 30, np.max(curve, axis=0) + 30
    region = [low, [high[0], low[1]], high, [low[0], high[1]]]
    return exposed(drawing, mm_per_px, np.clip(region, 3, np.array(size) - 4))


def shoe_from_the_side() -> Sample:
    """A low shoe, toe at the left, 0.25 mm a pixel."""
    places = [0, 40, 120, 260, 400, 520, 640, 800, 940, 1060, 1160, 1200]
    heights = [60, 130, 190, 260, 330, 380, 360, 300, 280, 330, 390, 340]
    x = np.linspace(0, 1200, 400)
    smooth = cv2.GaussianBlur(np.interp(x, places, heights)[:, None].astype(np.float64), (1, 0), 0, sigmaY=6)[:, 0]
    top = np.stack([x + 140, 560 - smooth], 1)
    low = np.stack([x[::-1] + 140, np.full(400, 560.0)], 1)
    return silhouette(np.vstack([top, low]), (1480, 720), 0.25)


def heel_from_behind() -> Sample:
    """A heel: wide at the collar, pinched in the middle, wide at the sole; 0.2 mm a pixel."""
    y = np.linspace(0, 500, 300)
    half = 165 + 45 * np.cos(2 * np.pi * (y / 500)) + 0.02 * y
    side = np.stack([half, y], 1)
    return silhouette(np.vstack([side, (side * [-1, 1])[::-1]]) + np.array([360, 100]), (720, 700), 0.2)


def shoe_from_above() -> Sample:
    """A sole's plan, toe at the left, 0.3 mm a pixel."""
    t = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    half = 130 + 26 * np.cos(2 * t + 0.7) - 16 * np.cos(t)
    return silhouette(np.stack([600 + 480 * np.cos(t), 300 + half * np.sin(t)], 1), (1200, 600), 0.3)

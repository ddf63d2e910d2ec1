"""Pictures that owe nothing to the simulator: outlines drawn on photographed textures, three difficulties.

The textures are those that ship with scikit-image. Outlines are polygons in mm, filled eight times finer; light,
shadow, blur, noise and JPEG are plain formulas. Hard means: still solvable by a careful person at full size.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.interpolate import PchipInterpolator
from skimage import data

from assay.imaging.colour import linear_to_srgb

LEVELS = ("easy", "realistic", "hard")
MM_PER_PX = 0.15
SIZE = (1200, 1400)
FINE = 8
# Skin and its contrast against a ground of 0.42, blur in px, noise, shadow, unevenness of light, by difficulty.
LOOKS = {
    "easy": (0.12, 0.5, 0.7, 0.004, 0.15, 0.1),
    "realistic": (0.62, 0.25, 1.0, 0.008, 0.45, 0.3),
    "hard": (0.53, 0.12, 1.5, 0.012, 0.5, 0.35),
}


@dataclass(frozen=True, slots=True)
class Drawn:
    """A picture and what was drawn."""

    rgb: np.ndarray
    outline_mm: np.ndarray
    """(N, 2) in mm from the picture's top left corner."""
    region: np.ndarray
    """(4, 2) px: a loose region around it."""
    truth: dict[str, float]


def heel(level: str, seed: int) -> Drawn:
    """A heel from behind: collar, waist and base of known widths."""
    rng = np.random.default_rng([LEVELS.index(level), seed, 21])
    collar, waist, base = 33 + rng.normal(0, 1.5), 28 + rng.normal(0, 2), 39 + rng.normal(0, 1.5)
    heights = [0, 2, 12, 26, 31, 72, 100, 118, 128, 131]
    halves = [
        base - 2.5,
        base - 0.5,
        base,
        base - 1,
        (base + waist) / 2 + 1,
        waist,
        (waist + collar) / 2,
        collar,
        collar - 4,
        12,
    ]
    y = np.linspace(0, 131, 900)
    half = PchipInterpolator(heights, halves)(y)
    side = np.stack([half, 131 - y], 1)
    foot = np.linspace(-half[0], half[0], 300)[1:-1]
    loop = np.vstack([side, (side * [-1, 1])[::-1], np.stack([foot, np.full_like(foot, 131)], 1)])
    turn = np.radians(rng.normal(0, 1.5))
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    outline = (loop - [0, 65]) @ spin.T + [90 + rng.normal(0, 3), 105 + rng.normal(0, 4)]
    band = (y > 131 * 0.72) & (y < 131 * 0.97)
    truth = {
        "collar_mm": 2 * float(half[band].max()),
        "waist_mm": 2 * float(half[(y > 131 * 0.35) & (y < 131 * 0.85)].min()),
        "base_mm": 2 * float(half[(y > 131 * 0.03) & (y < 131 * 0.22)].max()),
    }
    return _picture(outline, level, rng, truth)


def shoe(level: str, seed: int, bump: tuple[float, float] = (0.3, 0.0)) -> Drawn:
    """A low shoe from the side; ``bump``: where along the rim (share) and by how much (mm) it is pushed out."""
    rng = np.random.default_rng([LEVELS.index(level), seed, 22])
    top = PchipInterpolator(
        [0, 4, 14, 34, 58, 72, 84, 100, 122, 140, 154, 160],
        [14, 24, 36, 45, 58, 66, 64, 52, 47, 56, 70, 62],
    )
    x = np.linspace(0, 160, 700)
    upper = np.stack([x, top(x)], 1)
    heel_line = np.stack([160 + 2.5 * np.sin(np.linspace(0, np.pi, 120)), np.linspace(62, 2, 120)], 1)
    under = np.linspace(160, 0, 500)
    sole = np.stack([under, 0.00055 * (under - 120).clip(None, 0) ** 2], 1)
    nose = np.stack([-2 * np.sin(np.linspace(0, np.pi, 60)), np.linspace(sole[-1, 1], 14, 60)], 1)
    loop = np.vstack([upper, heel_line, sole, nose])
    steps = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(np.vstack([loop, loop[:1]]), axis=0).T))])
    even = np.linspace(0, steps[-1], 2400, endpoint=False)
    loop = np.stack([np.interp(even, steps, np.append(loop[:, k], loop[0, k])) for k in (0, 1)], 1)
    along = np.roll(loop, -3, axis=0) - np.roll(loop, 3, axis=0)
    out = np.stack([-along[:, 1], along[:, 0]], 1) / np.hypot(*along.T)[:, None]
    share = np.arange(2400) / 2400
    push = bump[1] * np.exp(-0.5 * ((share - bump[0]) / 0.018) ** 2)
    loop = loop + out * push[:, None]
    turn = np.radians(rng.normal(0, 2))
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    outline = ((loop * [1, -1]) - [80, -35]) @ spin.T + [90 + rng.normal(0, 3), 110 + rng.normal(0, 4)]
    return _picture(outline, level, rng, {"bump_mm": bump[1]})


def _picture(outline: np.ndarray, level: str, rng: np.random.Generator, truth: dict) -> Drawn:
    skin, contrast, blur, noise, shadow, uneven = LOOKS[level]
    width, height = SIZE
    px = outline / MM_PER_PX
    cover = _exact(px, (height, width))
    x, y = np.meshgrid(np.linspace(-1, 1, width), np.linspace(-1, 1, height))
    angle = rng.uniform(0, 2 * np.pi)
    light = 1 + uneven * (np.cos(angle) * x + np.sin(angle) * y) / 1.4
    texture = (data.gravel(), data.grass(), data.brick())[int(rng.integers(3))].astype(np.float32)
    tiled = np.tile(texture, (height // 512 + 1, width // 512 + 1))[:height, :width]
    tiled = tiled / tiled.mean() - 1
    ground = 0.42 * (1 + 0.01 * rng.standard_normal((height, width)))
    fall = cv2.GaussianBlur(np.roll(cover, (24, 30), (0, 1)), (0, 0), 28)
    contact = cv2.GaussianBlur(np.roll(cover, 10, 0), (0, 0), 9) * (
        y > np.interp(px[:, 1].max() - 90, [0, height], [-1, 1])
    )
    ground = ground * (1 - shadow * 0.7 * fall) * (1 - shadow * contact)
    whole = light * (cover * skin * (1 + contrast * tiled) + (1 - cover) * ground)
    whole = cv2.GaussianBlur(whole.astype(np.float32), (0, 0), blur)
    whole = np.repeat(whole[..., None], 3, axis=2) * [1.0, 0.99, 0.97]
    whole = whole + noise * np.sqrt(whole.clip(0.02)) * rng.standard_normal(whole.shape)
    rgb = np.round(linear_to_srgb(whole)).astype(np.uint8)
    _, file = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 90])
    rgb = cv2.imdecode(file, cv2.IMREAD_COLOR)[..., ::-1]
    low, high = px.min(0) - 50, px.max(0) + 50
    region = np.array([low, [high[0], low[1]], high, [low[0], high[1]]]).clip(3, np.array(SIZE) - 4)
    return Drawn(np.ascontiguousarray(rgb), outline, region, truth)


def _exact(px: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """Coverage of a polygon, 0 to 1: inside tested on a raster finer by ``FINE`` both ways, pixel by pixel."""
    fine = np.zeros((shape[0] * FINE, shape[1] * FINE), np.uint8)
    # Pixel centres lie at whole numbers; a finer raster's lie at (n + 0.5) / FINE - 0.5 of them.
    corners = np.round(((px + 0.5) * FINE - 0.5) * 16).astype(np.int32)
    cv2.fillPoly(fine, [corners], 255, cv2.LINE_8, 4)
    return cv2.resize(fine, shape[::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255

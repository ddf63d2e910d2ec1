"""Is a photograph fit to be measured? Looks at the shoe, not at the background.

What: sharpness, burnt-out and sunk areas, glare, and how large the shoe is in the frame.
Method: the shoe is what differs from the picture's border in colour; sharpness is the blur effect of Crete et al., "The
blur effect: perception and estimation with a new no-reference perceptual blur metric", Proc. SPIE 6492, 2007.
Refuses nothing: a photograph without a shoe to be found is judged whole, with the doubt ``shoe_not_found``.
"""

from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType

import cv2
import numpy as np
from skimage.measure import blur_effect

WORKING_SIDE = 1400
# Blur effect, 0 sharp to 1 blurred: simulated photographs at 0.8 px blur lie at 0.44 to 0.47, at 1.3 px at 0.53, with
# 2.4 px at 0.58 (noisy) to 0.70, at 4 px at 0.66 (noisy) and above.
BLUR_DOUBT, BLUR_RETAKE = 0.55, 0.66
# Shares of the shoe's area.
BURNT_DOUBT, BURNT_RETAKE = 0.02, 0.12
SUNK_DOUBT, SUNK_RETAKE = 0.25, 0.6
GLARE_DOUBT = 0.006
# Length of the shoe in pixels: 600 px over 300 mm leave 4 px for a stitch of 2 mm.
LENGTH_DOUBT_PX, LENGTH_RETAKE_PX = 1200, 600
# Sharpness is read off a window of at most this side, which keeps the cost flat.
SHARPNESS_PX = 900
# Distance in Lab from the border's colour at which something is no longer background.
OFF_GROUND = 16.0


class Fitness(StrEnum):
    """The verdict on a photograph."""

    USABLE = "usable"
    DOUBTS = "doubts"
    RETAKE = "retake"


@dataclass(frozen=True, slots=True)
class Fit:
    """Verdict, reason codes, and the numbers behind them."""

    fitness: Fitness
    doubts: tuple[str, ...]
    retake: tuple[str, ...]
    numbers: MappingProxyType = field(default_factory=lambda: MappingProxyType({}))
    """blur_effect, burnt_share, sunk_share, glare_share, shoe_length_px."""


def judge_fitness(rgb: np.ndarray) -> Fit:
    """Judge a picture, (H, W, 3) uint8 sRGB."""
    scale = min(1.0, WORKING_SIDE / max(rgb.shape[:2]))
    small = cv2.resize(rgb, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else rgb
    shoe, box = _shoe(small)
    burnt = small.min(-1) >= 252
    numbers = {
        "blur_effect": _blur(rgb, box, scale),
        "burnt_share": max(_share(burnt & shoe, shoe), 0.5 * _share(burnt, np.ones_like(burnt))),
        "sunk_share": _share((small.max(-1) <= 10) & shoe, shoe),
        "glare_share": _glare(burnt & shoe, shoe),
        "shoe_length_px": round(max(box[2], box[3]) / scale),
    }
    found = not shoe.all()
    return _verdict(numbers, found=found)


def _verdict(numbers: dict, *, found: bool) -> Fit:
    checks = (
        ("blurred", numbers["blur_effect"], BLUR_DOUBT, BLUR_RETAKE),
        ("burnt_out", numbers["burnt_share"], BURNT_DOUBT, BURNT_RETAKE),
        ("too_dark", numbers["sunk_share"], SUNK_DOUBT, SUNK_RETAKE),
        ("glare", numbers["glare_share"], GLARE_DOUBT, 1.0),
        ("small_in_frame", -numbers["shoe_length_px"], -LENGTH_DOUBT_PX, -LENGTH_RETAKE_PX),
    )
    retake = tuple(name for name, value, _, worst in checks if value > worst)
    doubts = tuple(name for name, value, doubt, worst in checks if doubt < value <= worst)
    if not found:
        doubts = (*doubts, "shoe_not_found")
    fitness = Fitness.RETAKE if retake else Fitness.DOUBTS if doubts else Fitness.USABLE
    return Fit(fitness, doubts, retake, MappingProxyType(numbers))


def _shoe(small: np.ndarray) -> tuple[np.ndarray, tuple[int, int, int, int]]:
    """Mask of what differs from the border, and its box; the whole picture where nothing does."""
    lab = cv2.cvtColor(cv2.GaussianBlur(small, (0, 0), 2).astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    rim = max(4, min(small.shape[:2]) // 40)
    border = np.concatenate(
        [lab[:rim].reshape(-1, 3), lab[-rim:].reshape(-1, 3), lab[:, :rim].reshape(-1, 3), lab[:, -rim:].reshape(-1, 3)]
    )
    far = np.linalg.norm(lab - np.median(border, axis=0), axis=-1) > OFF_GROUND
    count, labels, stats, _ = cv2.connectedComponentsWithStats(far.astype(np.uint8))
    if count > 1:
        largest = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
        if stats[largest, cv2.CC_STAT_AREA] > 0.03 * far.size:
            return labels == largest, tuple(int(n) for n in stats[largest, :4])
    return np.ones(far.shape, bool), (0, 0, small.shape[1], small.shape[0])


def _blur(rgb: np.ndarray, box: tuple[int, int, int, int], scale: float) -> float:
    """Blur effect of the middle of the shoe, at full size: that is what the measures work on.

    Slightly smoothed first, so that sensor noise does not pass for sharpness.
    """
    x, y, width, height = (n / scale for n in box)
    half_width, half_height = min(0.35 * width, SHARPNESS_PX / 2), min(0.3 * height, SHARPNESS_PX / 2)
    rows = slice(int(max(0, y + 0.55 * height - half_height)), int(y + 0.55 * height + half_height) + 1)
    columns = slice(int(max(0, x + 0.5 * width - half_width)), int(x + 0.5 * width + half_width) + 1)
    grey = cv2.cvtColor(np.ascontiguousarray(rgb[rows, columns]), cv2.COLOR_RGB2GRAY)
    return round(float(blur_effect(cv2.GaussianBlur(grey, (0, 0), 1.0))), 3)


def _share(part: np.ndarray, whole: np.ndarray) -> float:
    return round(float(part.sum() / max(1, whole.sum())), 4)


def _glare(burnt: np.ndarray, shoe: np.ndarray) -> float:
    """Largest connected burnt-out patch: a lamp's reflection hides what lies under it."""
    count, _, stats, _ = cv2.connectedComponentsWithStats(burnt.astype(np.uint8))
    return 0.0 if count < 2 else round(float(stats[1:, cv2.CC_STAT_AREA].max() / max(1, shoe.sum())), 4)

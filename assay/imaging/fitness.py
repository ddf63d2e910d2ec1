"""Is a photograph fit to be measured? Looks at the shoe, not at the background.

What: sharpness, clipped and underexposed areas, glare, resolution, tilt, whether the shoe is whole, whether it is a
picture of a screen. Method: sharpness is the blur effect of Crete et al., "The blur effect: perception and estimation
with a new no-reference perceptual blur metric", Proc. SPIE 6492, 2007. A screen's grid stands as lone peaks in the
spectrum of the ground. Refuses nothing: a photograph without a shoe to be found is judged whole, with the doubt
``shoe_not_found``.
"""

from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np
from scipy.fft import fft2, fftshift

from assay.imaging.foreground import Foreground
from assay.imaging.pyramid import Pyramid

# Light and glare are looked at on the smallest level that has so many pixels a side.
WORKING_SIDE = 400
# Blur effect, 0 sharp to 1 blurred: simulated photographs at 0.8 px blur lie at 0.44 to 0.47, at 1.3 px at 0.53, with
# 2.4 px at 0.58 (noisy) to 0.70, at 4 px at 0.66 (noisy) and above.
BLUR_DOUBT = 0.55
BLUR_RETAKE = 0.66
BLUR_REACH = 11
# Shares of the shoe's area.
CLIPPED_DOUBT = 0.02
CLIPPED_RETAKE = 0.12
UNDEREXPOSED_DOUBT = 0.25
UNDEREXPOSED_RETAKE = 0.6
GLARE_DOUBT = 0.006
# Without a scale: length of the shoe in pixels; 600 px over 300 mm leave 4 px for a stitch of 2 mm.
LENGTH_DOUBT_PX = 1200
LENGTH_RETAKE_PX = 600
# Tilt at which foreshortening and depth begin to tell, and at which nothing can be trusted.
TILT_DOUBT = 20.0
TILT_RETAKE = 45.0
# Sharpness is read off a window of at most this side, which keeps the cost flat.
SHARPNESS_PX = 320
# A lone peak of the spectrum against its ring's median: woven cloth and sewing stay under, screens far above.
SCREEN_PEAK = 24.0
SCREEN_PX = 160
SCREEN_COARSE = 8
_BELL = np.outer(np.hanning(SCREEN_PX), np.hanning(SCREEN_PX)).astype(np.float32)
_COARSE = np.hypot(*np.mgrid[-SCREEN_PX // 2 : SCREEN_PX // 2, -SCREEN_PX // 2 : SCREEN_PX // 2]) < SCREEN_COARSE


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
    numbers: MappingProxyType[str, Any] = field(default_factory=lambda: MappingProxyType({}))
    """blur_effect, burnt_share, sunk_share, glare_share, shoe_length_px; mm_per_px and tilt_deg where known."""


@dataclass(frozen=True, slots=True)
class Needs:
    """What the checks of a view ask of its photograph."""

    mm_per_px: float | None = None
    """Coarsest pixel that will do; None: nothing is measured in it."""
    close_up: bool = False
    """A part fills the picture: that no whole thing stands out is as it should be."""


def judge_fitness(
    pyramid: Pyramid,
    foreground: Foreground,
    needs: Needs = Needs(),
    *,
    mm_per_px: float | None = None,
    tilt_deg: float | None = None,
) -> Fit:
    """Judge a picture; ``mm_per_px`` and ``tilt_deg`` where its scale is known."""
    small, _ = pyramid.at_least(WORKING_SIDE)
    size = (small.shape[1], small.shape[0])
    shoe = cv2.resize(foreground.mask.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST).astype(bool)
    red, green, blue = cv2.split(small)
    clipped = cv2.min(cv2.min(red, green), blue) >= 252
    underexposed = cv2.max(cv2.max(red, green), blue) <= 10
    numbers = {
        "blur_effect": round(_blur(pyramid, foreground.box), 3),
        "burnt_share": max(_share(clipped & shoe, shoe), 0.5 * _share(clipped, np.ones_like(clipped))),
        "sunk_share": _share(underexposed & shoe, shoe),
        "glare_share": _glare(clipped & shoe, shoe),
        "shoe_length_px": round(max(foreground.box[2:])),
        "screen_peak": round(_screen_peak(pyramid, foreground), 1),
    }
    checks = [
        ("blurred", numbers["blur_effect"], BLUR_DOUBT, BLUR_RETAKE),
        ("burnt_out", numbers["burnt_share"], CLIPPED_DOUBT, CLIPPED_RETAKE),
        ("too_dark", numbers["sunk_share"], UNDEREXPOSED_DOUBT, UNDEREXPOSED_RETAKE),
        ("glare", numbers["glare_share"], GLARE_DOUBT, 1.0),
        ("picture_of_a_screen", numbers["screen_peak"], SCREEN_PEAK, np.inf),
    ]
    if tilt_deg is not None:
        numbers["tilt_deg"] = round(tilt_deg, 1)
        checks.append(("tilted", tilt_deg, TILT_DOUBT, TILT_RETAKE))
    if mm_per_px and needs.mm_per_px:
        numbers["mm_per_px"] = round(mm_per_px, 4)
        checks.append(("too_coarse", mm_per_px, needs.mm_per_px, 2 * needs.mm_per_px))
    elif not mm_per_px:
        checks.append(("small_in_frame", -numbers["shoe_length_px"], -LENGTH_DOUBT_PX, -LENGTH_RETAKE_PX))
    return _verdict(checks, numbers, foreground, close_up=needs.close_up)


def _verdict(checks: list[Any], numbers: dict[str, Any], foreground: Foreground, *, close_up: bool) -> Fit:
    retake = tuple(name for name, value, _, worst in checks if value > worst)
    doubts = tuple(name for name, value, doubt, worst in checks if doubt < value <= worst)
    if not close_up:
        doubts += ("shoe_not_found",) * (not foreground.found) + ("shoe_cut_off",) * foreground.cut_off
    fitness = Fitness.RETAKE if retake else Fitness.DOUBTS if doubts else Fitness.USABLE
    return Fit(fitness, doubts, retake, MappingProxyType(numbers))


def _blur(pyramid: Pyramid, box: tuple[float, float, float, float]) -> float:
    """Blur effect of the middle of the shoe, at full size: that is what the measures work on.

    Slightly smoothed first, so that sensor noise does not pass for sharpness.
    """
    x, y, width, height = box
    half_width, half_height = min(0.35 * width, SHARPNESS_PX / 2), min(0.3 * height, SHARPNESS_PX / 2)
    across, down = x + 0.5 * width, y + 0.55 * height
    piece, _ = pyramid.grey(across - half_width, down - half_height, across + half_width, down + half_height)
    return blur_effect(cv2.GaussianBlur(piece, (0, 0), 1.0))


def blur_effect(grey: np.ndarray) -> float:
    """Crete's blur effect of (H, W) uint8: how little a further blur changes the picture, the worse of both ways."""
    # Whole numbers throughout: sums of BLUR_REACH pixels are held against as many times one.
    grey = grey.astype(np.int16)
    effects: list[float] = []
    for axis in (0, 1):
        reach = (1, BLUR_REACH) if axis == 0 else (BLUR_REACH, 1)
        order = (0, 1) if axis == 0 else (1, 0)
        blurred = cv2.boxFilter(grey, cv2.CV_16S, reach, normalize=False, borderType=cv2.BORDER_REFLECT)
        slopes = (cv2.Sobel(part, cv2.CV_16S, *order)[2:-1, 2:-1] for part in (BLUR_REACH * grey, blurred))
        sharp, soft = (np.abs(slope) for slope in slopes)
        kept = float(cv2.norm(np.minimum(sharp, soft), cv2.NORM_L1))
        effects.append(kept / (float(cv2.norm(sharp, cv2.NORM_L1)) + 1e-9))
    return max(effects)


def _share(part: np.ndarray, whole: np.ndarray) -> float:
    return round(int(np.count_nonzero(part)) / max(1, int(np.count_nonzero(whole))), 4)


def _glare(clipped: np.ndarray, shoe: np.ndarray) -> float:
    """Largest connected clipped patch: a lamp's reflection hides what lies under it."""
    if not clipped.any():
        return 0.0
    _, _, stats, _ = cv2.connectedComponentsWithStats(clipped.view(np.uint8))
    return round(float(stats[1:, cv2.CC_STAT_AREA].max() / max(1, np.count_nonzero(shoe))), 4)


def _screen_peak(pyramid: Pyramid, foreground: Foreground) -> float:
    """Strongest lone peak of the spectrum of a patch of ground, against the median around it; 0 where there is none."""
    width, height = pyramid.size
    x, y, w, h = foreground.box

    def clear_of_it(left: float, top: float) -> bool:
        beside = left + SCREEN_PX <= x or left >= x + w or top + SCREEN_PX <= y or top >= y + h
        return min(left, top) >= 0 and beside

    right, low = width - SCREEN_PX, height - SCREEN_PX
    clear = [corner for corner in ((0, 0), (right, 0), (0, low), (right, low)) if clear_of_it(*corner)]
    if not clear:
        return 0.0
    left, top = clear[-1]
    patch = pyramid.grey(left, top, left + SCREEN_PX - 1, top + SCREEN_PX - 1)[0].astype(np.float32)
    patch = (patch - cv2.GaussianBlur(patch, (0, 0), 4)) * _BELL
    power = np.abs(fftshift(fft2(patch)))
    power[_COARSE] = 0
    around = cv2.blur(power.astype(np.float32), (31, 31))
    return float((power / (around + 1e-6)).max())

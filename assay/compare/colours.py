"""Two spots of colour, and how far they lie apart: by the card's light, through a neutral part, or in one picture."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.colour import TO_XYZ, de00, linear_to_lab, srgb_to_linear
from assay.imaging.white_balance import CLIPPED, NEUTRAL_DE, NEUTRAL_FROM, Correction

# Standard uncertainty of two spots of one picture, where only the light differs, dE00.
SAME_FRAME_DE = 1.5


@dataclass(frozen=True, slots=True)
class Compared:
    """Two spots of colour, and how far they lie apart."""

    lab: tuple[np.ndarray, ...]
    """Two, (3,) each."""
    delta_e_2000: float
    uncertainty_de00: float
    how: str
    """``card``, ``neutral`` or ``same_frame``."""


def compare_by_card(
    one: np.ndarray, other: np.ndarray, lights: tuple[Correction, Correction], at_px: tuple[Any, Any] | None = None
) -> Compared:
    """Two spots, medians 0 to 255, each corrected by the card in its own picture; ``at_px``: where they lie."""
    places = at_px or (None, None)
    labs = tuple(light.lab(spot, at) for spot, light, at in zip((one, other), lights, places, strict=True))
    unsure = float(np.hypot(lights[0].uncertainty_de00, lights[1].uncertainty_de00))
    return Compared(labs, de00(*labs), unsure, "card")


def compare_by_neutral(one: np.ndarray, other: np.ndarray, neutral: tuple[np.ndarray, np.ndarray]) -> Compared:
    """Two spots, each relative to a part that is the same neutral in both pictures.

    How light that part is nobody said: it is taken as it is seen, the middle (in logarithms) of both pictures.
    Lightness goes with its cube root (CIE 15, L*), so the difference is unsure by a third of what the two exposures
    differ by.
    """
    if any(np.max(grey) >= CLIPPED or np.max(grey) < NEUTRAL_FROM for grey in neutral):
        raise CannotMeasure("neutral_not_usable")
    greys = [srgb_to_linear(grey) for grey in neutral]
    light = np.log([grey @ TO_XYZ[1] for grey in greys])
    labs = [
        linear_to_lab(np.clip(srgb_to_linear(spot) / grey * np.exp(light.mean()), 0, 1))
        for spot, grey in zip((one, other), greys, strict=True)
    ]
    apart = de00(*labs)
    unsure = float(np.hypot(NEUTRAL_DE, apart * abs(light[1] - light[0]) / 2 / 3))
    return Compared(tuple(labs), apart, unsure, "neutral")


def compare_same_frame(one: np.ndarray, other: np.ndarray) -> Compared:
    """Two spots of one picture: the same light, so the difference holds although neither colour is true."""
    labs = tuple(linear_to_lab(srgb_to_linear(spot)) for spot in (one, other))
    return Compared(labs, de00(*labs), SAME_FRAME_DE, "same_frame")


def spot_median(rgb: np.ndarray, at: tuple[float, float], radius_px: float) -> np.ndarray:
    """Median colour of a round spot of a picture, (3,) 0 to 255. Raises CannotMeasure ``marks_off_picture``."""
    x, y = at
    height, width = rgb.shape[:2]
    if not (0 <= x < width and 0 <= y < height):
        raise CannotMeasure("marks_off_picture", width=width, height=height)
    reach = max(1, round(radius_px))
    top, left = max(0, round(y) - reach), max(0, round(x) - reach)
    part = rgb[top : round(y) + reach + 1, left : round(x) + reach + 1]
    rows, columns = np.mgrid[: part.shape[0], : part.shape[1]]
    return np.median(part[np.hypot(rows + top - y, columns + left - x) <= reach], axis=0)

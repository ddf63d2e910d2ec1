"""Stage 1, open: a decoded photograph, its smaller levels, what stands out in it, its card, what it can be known by."""

from dataclasses import dataclass

import numpy as np

from assay.errors import AssayError, CannotMeasure
from assay.imaging.card import BAR_MM, FoundCard, find_card
from assay.imaging.foreground import Foreground, find_foreground
from assay.imaging.opening import preview
from assay.imaging.pyramid import Pyramid, pyramid_of
from assay.imaging.white_balance import Correction, correction_from_card
from assay.register.features import Features, features_of


@dataclass(frozen=True, slots=True)
class OpenedPhoto:
    """What a photograph shows to whoever does not know yet what it is of."""

    pyramid: Pyramid
    card: FoundCard | CannotMeasure
    """The printed card, or why none was found."""
    light: Correction | AssayError
    """What makes its colours true, or why nothing does."""
    foreground: Foreground
    features: Features
    preview: bytes
    """JPEG."""


def open_photo(rgb: np.ndarray, *, bar_mm: float = BAR_MM) -> OpenedPhoto:
    """Look at a decoded photograph (H, W, 3) uint8; ``bar_mm``: what the check bar of the printed card measures."""
    pyramid = pyramid_of(rgb)
    light: Correction | AssayError
    card: FoundCard | CannotMeasure
    try:
        card = find_card(pyramid, bar_mm=bar_mm)
    except CannotMeasure as refusal:
        card = light = refusal
        foreground = find_foreground(pyramid)
    else:
        foreground = find_foreground(pyramid, card.corners_px)
        try:
            light = correction_from_card(pyramid.rgb, card.plane, bar_mm / BAR_MM)
        except AssayError as refusal:
            light = refusal
    return OpenedPhoto(pyramid, card, light, foreground, features_of(pyramid, foreground), preview(pyramid))

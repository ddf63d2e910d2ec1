"""Local features of the thing in a picture, by which it is recognised and laid on (ORB; Rublee et al., ICCV 2011)."""

from dataclasses import dataclass, field

import cv2
import numpy as np

from assay.imaging.foreground import Foreground
from assay.imaging.pyramid import Pyramid
from assay.register.appearance import SMALL_SIDE, small_of

# Longest side of the thing when features are sought on it: at 575 what repeats along a shoe was taken for a neighbour.
WORKING_SIDE = 640
# The strongest features are found again most often: of 900 a smaller share was, and unrelated views agreed on more.
FEATURES = 500
OUTLINE_POINTS = 240


@dataclass(frozen=True, slots=True)
class Features:
    """What a picture offers for recognition; small enough to be kept."""

    points: np.ndarray
    """(N, 2) float32, picture pixels."""
    descriptors: np.ndarray
    """(N, 32) uint8, ORB's bits."""
    outline: np.ndarray
    """(M, 2) float32 contour of the thing, picture pixels; empty where nothing stands out."""
    size: tuple[int, int]
    small: np.ndarray = field(default_factory=lambda: np.zeros((0, 0), np.uint8))
    """(h, w) uint8: where panels meet, coarsely (``appearance.small_of``); what close-ups are laid on by."""


def features_of(pyramid: Pyramid, foreground: Foreground, *, mirror: bool = False) -> Features:
    """Features of the thing in a picture. ``mirror``: described as a mirror shows them, at their true places.

    Mirrored features fit the other foot's photographs: ``by_features`` then wants ``mirror`` as well.
    """
    grey, mask, scale, corner = _looked_at(pyramid, foreground)
    finder = cv2.ORB_create(nfeatures=FEATURES, fastThreshold=8, edgeThreshold=16)
    if mirror:
        grey, mask = np.ascontiguousarray(grey[:, ::-1]), np.ascontiguousarray(mask[:, ::-1])
    # The strongest are picked on the thing alone: a card or a shadow's edge beside it would take most of them.
    found, described = finder.detectAndCompute(grey, mask)
    points = np.array([p.pt for p in found], np.float32).reshape(-1, 2)
    if mirror:
        points = points * [-1, 1] + [grey.shape[1] - 1, 0]
    points = ((points + 0.5) / scale + corner - 0.5).astype(np.float32)
    described = np.zeros((0, 32), np.uint8) if described is None else described
    outline = foreground.outline if foreground.found else np.zeros((0, 2))
    if len(outline) > OUTLINE_POINTS:
        outline = outline[np.linspace(0, len(outline) - 1, OUTLINE_POINTS).astype(int)]
    return Features(
        points, described, outline.astype(np.float32), pyramid.size, small_of(pyramid.at_least(SMALL_SIDE)[0])
    )


def _looked_at(pyramid: Pyramid, foreground: Foreground) -> tuple[np.ndarray, np.ndarray, float, np.ndarray]:
    """The thing at its working size, grey, its contrast evened; where it or its edge is, 255; its size against the
    picture's, and its corner there, px."""
    x, y, width, height = foreground.box
    scale = min(1.0, WORKING_SIDE / max(width, height))
    level, at = next(
        (level, at) for level, at in ((pyramid.quarter, 0.25), (pyramid.half, 0.5), (pyramid.rgb, 1.0)) if at >= scale
    )
    grow = 0.04 * max(width, height)
    left, top = int(max(0, x - grow) * at), int(max(0, y - grow) * at)
    part = level[top : int((y + height + grow) * at) + 1, left : int((x + width + grow) * at) + 1]
    grey = cv2.cvtColor(part, cv2.COLOR_RGB2GRAY)
    if scale < at:
        # By area: with cheaper ways marks are carried worse.
        grey = cv2.resize(grey, None, fx=scale / at, fy=scale / at, interpolation=cv2.INTER_AREA)
    corner = np.array([left, top]) / at
    return (
        cv2.createCLAHE(2.0, (8, 8)).apply(grey),
        _on_foreground(grey.shape, scale, corner, foreground),
        scale,
        corner,
    )


def _on_foreground(shape: tuple[int, int], scale: float, corner: np.ndarray, foreground: Foreground) -> np.ndarray:
    """Mask (h, w) uint8 of a piece of the picture, as it was looked at: 255 on the thing and just beside it."""
    wide = cv2.dilate(foreground.mask.astype(np.uint8), np.ones((7, 7), np.uint8)) * np.uint8(255)
    step = foreground.scale / scale
    x, y = (0.5 * step + corner * foreground.scale - 0.5).tolist()
    onto = np.array([[step, 0, x], [0, step, y]])
    flags = cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP
    return cv2.warpAffine(wide, onto, shape[::-1], flags=flags, borderMode=cv2.BORDER_REPLICATE)


def mirrored(features: Features) -> Features:
    """What the mirror image would offer, but for the descriptors, which would have to be found anew: outline only."""
    flipped = features.outline * [-1, 1] + [features.size[0] - 1, 0] if len(features.outline) else features.outline
    return Features(np.zeros((0, 2), np.float32), np.zeros((0, 32), np.uint8), flipped, features.size)


def extent(features: Features) -> float:
    """The longer side of the thing, px; of the picture where nothing stands out."""
    if len(features.outline):
        return float(np.ptp(features.outline, axis=0).max())
    return float(max(features.size))

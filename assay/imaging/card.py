"""The bench card: what is on it, and how it lies in a photograph.

What: an A5 sheet with four square markers (ArUco, Garrido-Jurado et al., Pattern Recognition 47(6), 2014), grey steps,
colour patches, mm rules and a check bar of 100 mm, all in one place, so that drawing and finding cannot part.
Method: markers are sought on a reduced picture, their corners refined at full size; a homography of all corners.
Valid for a flat card whose check bar was measured after printing. Lens distortion is not corrected: ``LENS``.
Refuses: ``no_card``, ``two_cards``, ``card_cut_off``, ``mirrored_photo``.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.plane import Plane, fitted, through
from assay.imaging.pyramid import Pyramid, grey_piece

# Millimetres from the card's top left corner, as laid out; the true size follows from the check bar.
WIDTH_MM = 210.0
HEIGHT_MM = 148.0
BAR_MM = 100.0
BAR_FROM = (55.0, 104.0)
BAR_TO = (155.0, 104.0)
MARKER_MM = 22.0
MARKERS = {21: (8.0, 8.0), 22: (180.0, 8.0), 23: (180.0, 118.0), 24: (8.0, 118.0)}
DICTIONARY = cv2.aruco.DICT_4X4_50
PATCH_MM = 20.0
# Neutral steps, sRGB; the paper itself is the lightest.
PAPER = 243
GREYS = (222, 190, 158, 119, 83, 48)
# Chosen to print well and to surround what shoes are made of.
COLOURS = (
    (164, 78, 62),
    (196, 148, 58),
    (102, 122, 62),
    (48, 122, 118),
    (64, 92, 148),
    (112, 66, 110),
    (208, 164, 130),
    (204, 122, 132),
    (128, 164, 196),
    (150, 176, 140),
    (88, 62, 48),
    (46, 52, 88),
)
_COLUMNS = tuple(37.5 + 23.0 * n for n in range(6))
GREY_PATCHES = tuple(((x, 8.0), (level,) * 3) for x, level in zip(_COLUMNS, GREYS, strict=True))
COLOUR_PATCHES = tuple(
    ((x, y), colour) for (y, x), colour in zip(((y, x) for y in (38.0, 61.0) for x in _COLUMNS), COLOURS, strict=True)
)
# Bare paper, where the evenness of the light is read.
_ROWS = (34.0, 88.5, 112.5)
_ACROSS = (34.0, 60.0, 82.0, 105.0, 128.0, 152.0, 176.0)
PAPER_SPOTS = (*((x, y) for y in _ROWS for x in _ACROSS), *((x, y) for y in (18.0, 60.0) for x in (35.2, 174.8)))

# Markers that must be seen: with two the far end of the card would be guessed.
FEWEST_MARKERS = 3
# Room for corners to move in, on a smaller picture, px.
STEP_ROOM = 12
# A marker is six cells wide: below this, px, they cannot be told apart on the picture it is sought on.
LEAST_SIDE_PX = 8
# Largest corner error of a flat card, mm; beyond it the sheet is bent or the lens is strong.
BENT_MM = 0.35
# Relative standard uncertainty left by lenses that phones correct well but not wholly; from the simulator's lenses.
LENS = 0.0015


@dataclass(frozen=True, slots=True)
class FoundCard:
    """A card in a photograph."""

    plane: Plane
    """The card's surface, mm from its top left corner."""
    corners_px: np.ndarray
    """(4, 2) corners of the sheet, clockwise from the top left one."""
    markers: int
    off_mm: float
    """Root mean square distance of marker corners from where they should be, mm."""
    doubts: tuple[str, ...]
    """``card_corner_missing``, ``card_bent``."""


def find_card(pyramid: Pyramid, *, bar_mm: float = BAR_MM) -> FoundCard:
    """Find the card in a picture. ``bar_mm``: what the check bar measures on the print, mm."""
    seen = _markers(pyramid)
    if len(set(seen.ids)) < len(seen.ids):
        raise CannotMeasure("two_cards")
    if len(seen.ids) < FEWEST_MARKERS:
        if len(_detect(np.ascontiguousarray(pyramid.eighth[:, ::-1]), thorough=False).ids) >= FEWEST_MARKERS:
            raise CannotMeasure("mirrored_photo")
        raise CannotMeasure("card_cut_off" if seen.ids else "no_card", markers=len(seen.ids))
    printed = bar_mm / BAR_MM
    mm = np.concatenate([marker_corners(n) for n in seen.ids]) * printed
    matrix = fitted(mm, seen.corners)
    plane = Plane(matrix, 0.0, "card")
    residual = float(np.sqrt(((plane.to_mm(seen.corners) - mm) ** 2).sum(1).mean()))
    doubts = ("card_corner_missing",) * (len(seen.ids) < len(MARKERS)) + ("card_bent",) * (residual > BENT_MM)
    # Corner scatter over the card's width, the lens, and the bar read to a third of a millimetre.
    relative = float(np.sqrt((residual / WIDTH_MM) ** 2 + LENS**2 + (0.3 / bar_mm / 3) ** 2))
    sheet = np.array([[0, 0], [WIDTH_MM, 0], [WIDTH_MM, HEIGHT_MM], [0, HEIGHT_MM]]) * printed
    return FoundCard(Plane(matrix, relative, "card"), through(matrix, sheet), len(seen.ids), residual, doubts)


def marker_corners(number: int) -> np.ndarray:
    """(4, 2) corners of a marker on the layout, mm, clockwise from the top left one."""
    x, y = MARKERS[number]
    return np.array([[x, y], [x + MARKER_MM, y], [x + MARKER_MM, y + MARKER_MM], [x, y + MARKER_MM]])


def marker_cells(number: int) -> np.ndarray:
    """(6, 6) bool, True where the marker is black."""
    drawn = cv2.aruco.generateImageMarker(cv2.aruco.getPredefinedDictionary(DICTIONARY), number, 6)
    return drawn == 0


@dataclass(frozen=True, slots=True)
class _Seen:
    ids: list[int]
    corners: np.ndarray


def _markers(pyramid: Pyramid) -> _Seen:
    """The card's markers, corners refined on the full picture.

    A larger look where the first misses one, then more thorough ones, the larger of them where there is one at all.
    """
    found, small = _Seen([], np.zeros((0, 2))), (pyramid.eighth, pyramid.quarter)
    for thorough, level in (*((False, one) for one in small), *((True, one) for one in (*small, pyramid.half))):
        seen = _detect(level, thorough=thorough)
        if len(seen.ids) > len(found.ids):
            scale = level.shape[1] / pyramid.size[0]
            found = _Seen(seen.ids, _refined(pyramid, (seen.corners + 0.5) / scale - 0.5, scale))
        if len(found.ids) >= len(MARKERS) or (thorough and not found.ids):
            break
    return found


def _detect(level: np.ndarray, *, thorough: bool) -> _Seen:
    small = cv2.cvtColor(level, cv2.COLOR_RGB2GRAY)
    settings = cv2.aruco.DetectorParameters()
    window = max(11, int(min(small.shape) / 22) | 1)
    settings.adaptiveThreshWinSizeMin = 11 if thorough else window
    settings.adaptiveThreshWinSizeMax = window
    settings.adaptiveThreshWinSizeStep = max(2, (window - 11) // 3)
    settings.minMarkerPerimeterRate = 4 * LEAST_SIDE_PX / max(small.shape)
    finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(DICTIONARY), settings)
    corners, ids, _ = finder.detectMarkers(small)
    ours = [
        (int(n), c[0]) for n, c in zip(ids.ravel() if ids is not None else (), corners, strict=True) if n in MARKERS
    ]
    if not ours:
        return _Seen([], np.zeros((0, 2)))
    return _Seen([n for n, _ in ours], np.concatenate([c for _, c in ours]).astype(float))


def _refined(pyramid: Pyramid, corners: np.ndarray, scale: float) -> np.ndarray:
    """Corners to a fraction of a pixel, each by its gradients (Förstner's principle, as OpenCV has it)."""
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.01)
    quarter = pyramid.quarter.shape[1] / pyramid.size[0]
    if scale < quarter:
        # Found on a smaller picture still: step by step to where a look at the quarter would have begun.
        for level in (pyramid.eighth, pyramid.quarter):
            own = level.shape[1] / pyramid.size[0]
            near = (corners + 0.5) * own - 0.5
            grey, at = grey_piece(level, *(near.min(0) - STEP_ROOM), *(near.max(0) + STEP_ROOM))
            near = cv2.cornerSubPix(grey, (near - at).astype(np.float32), (3, 3), (-1, -1), stop)
            corners, scale = (near.astype(float) + at + 0.5) / own - 0.5, own
    squares = corners.reshape(-1, 4, 2)
    sides = np.hypot(*(squares - np.roll(squares, 1, axis=1)).transpose(2, 0, 1))
    reach = int(np.clip(min(1.5 / scale + 2, sides.min() / 8), 2, 14))
    refined = []
    for square in squares:
        room = 3 * reach
        grey, at = pyramid.grey(*(square.min(0) - room), *(square.max(0) + room))
        near = np.ascontiguousarray(square - at, np.float32)
        refined.append(cv2.cornerSubPix(grey, near, (reach, reach), (-1, -1), stop).astype(float) + at)
    return np.concatenate(refined)

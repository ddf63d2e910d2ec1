"""Two pictures that a part of a shoe fills, laid on each other by what they look like as a whole.

A close-up has no outline, and its leather's grain is each shoe's own: features do not agree between pairs. What agrees
is coarse: where the panels, the emblem, the seam's line lie. Softened small pictures are laid on each other by their
correlation, from several turns and sizes, the best one kept and refined (enhanced correlation coefficient; Evangelidis
& Psarakis, IEEE PAMI 30(10), 2008).
"""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

SMALL_SIDE = 256
"""Longest side of the small picture, px."""
LOST_PX = 7
"""What is narrower than half of this is each pair's own: specks, grain, single stitches."""
STRONG_STEP = 2.0
"""Steps of the root of the light, to a pixel, from which one is as good as another."""
COARSE = 0.375
"""Size at which every start is tried, against the small picture."""
STARTS_DEG = (0.0, -8.0, 8.0, -16.0, 16.0)
SIZES = (1.0, 0.85, 1.18)
SOFTENED_PX = (2.0, 1.2)
LEAST_LIKE = 0.80
"""Pictures that correlate by less are not laid on each other."""
MOST_UNEVEN = 1.3
LEAST_SHARED = 0.4
"""Share of the reference that must lie on the picture."""
STEPS = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60, 1e-5)
NOT_TRIED = 0.3
"""Starts that correlate by less, as they are, are not worth a climb."""


@dataclass(frozen=True, slots=True)
class Laid:
    """How one small picture lies on the other."""

    matrix: np.ndarray
    """2 × 3, pixels of the first one's whole picture to the second's."""
    like: float
    """Their correlation there."""


def small_of(rgb: np.ndarray) -> np.ndarray:
    """(h, w) uint8: how strongly light or colour steps, the picture ``SMALL_SIDE`` at its longer side; kept for laying
    on. Edges are where panels meet whatever their colours are."""
    scale = SMALL_SIDE / max(rgb.shape[:2])
    size = tuple(max(8, round(n * scale)) for n in rgb.shape[1::-1])
    plain = cv2.medianBlur(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), LOST_PX).astype(np.float32)
    plain = cv2.GaussianBlur(np.sqrt(plain), (0, 0), 1.0)
    steps = np.hypot(cv2.Sobel(plain, cv2.CV_32F, 1, 0), cv2.Sobel(plain, cv2.CV_32F, 0, 1)).max(-1)
    return np.round(255 * np.minimum(steps / STRONG_STEP, 1)).astype(np.uint8)


def lay(
    ours: np.ndarray, theirs: np.ndarray, sizes: tuple[tuple[int, int], tuple[int, int]], *, mirror: bool = False
) -> Laid | None:
    """Lay small pictures (h, w) on each other; None where they are too unlike. ``sizes``: width and height of the whole
    pictures, ours and theirs. ``mirror``: ours as a mirror shows it."""
    one, other = (np.ascontiguousarray(ours[:, ::-1]) if mirror else ours), theirs
    if min(one.size, other.size) == 0:
        return None
    best = _coarse(one, other)
    if best is None:
        return None
    soft = [cv2.GaussianBlur(picture, (0, 0), SOFTENED_PX[1]) for picture in (one, other)]
    try:
        like, onto = cv2.findTransformECC(*soft, best.astype(np.float32), cv2.MOTION_AFFINE, STEPS, None, 1)
    except cv2.error:
        return None
    stretch = np.linalg.svd(onto[:, :2], compute_uv=False)
    if like < LEAST_LIKE or stretch[0] > MOST_UNEVEN * stretch[1] or _shared(onto, one, other) < LEAST_SHARED:
        return None
    onto = _similar(onto, np.array(one.shape[::-1]) / 2)
    if mirror:
        onto = _after(onto, np.array([[-1.0, 0, one.shape[1] - 1], [0, 1, 0]]))
    return Laid(_between_wholes(onto, (ours, theirs), sizes), float(like))


def _coarse(one: np.ndarray, other: np.ndarray) -> np.ndarray | None:
    """The best of several starts, 2 × 3, pixels of the small pictures."""
    little = [
        cv2.GaussianBlur(cv2.resize(picture, None, fx=COARSE, fy=COARSE, interpolation=cv2.INTER_AREA), (0, 0), soft)
        for picture, soft in ((one, SOFTENED_PX[0]), (other, SOFTENED_PX[0]))
    ]
    best, likest = None, NOT_TRIED
    middle = np.array(little[0].shape[::-1], float) / 2
    for size in SIZES:
        for turn in STARTS_DEG:
            angle = np.radians(turn)
            spin = size * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
            start = np.c_[spin, np.array(little[1].shape[::-1], float) / 2 - spin @ middle].astype(np.float32)
            way = cv2.MOTION_EUCLIDEAN if size == 1 else cv2.MOTION_AFFINE
            try:
                like, onto = cv2.findTransformECC(*little, start, way, STEPS, None, 1)
            except cv2.error:
                continue
            if like > likest and _shared(onto, *little) >= LEAST_SHARED:
                best, likest = onto.astype(float), like
        if likest > LEAST_LIKE:
            break
    if best is not None:
        best[:, 2] = (best[:, 2] + 0.5 - best[:, :2] @ [0.5, 0.5]) / COARSE - 0.5 + best[:, :2] @ [0.5, 0.5]
    return best


def _similar(onto: np.ndarray, middle: np.ndarray) -> np.ndarray:
    """The turn, size and shift nearest to a map: what moved on the thing would stretch all of it."""
    ways, stretch, others = np.linalg.svd(np.asarray(onto, float)[:, :2])
    turn = float(np.sqrt(stretch[0] * stretch[1])) * ways @ others
    return np.c_[turn, onto[:, :2] @ middle + onto[:, 2] - turn @ middle]


def _shared(onto: np.ndarray, one: np.ndarray, other: np.ndarray) -> float:
    """Share of the first picture that lies on the second."""
    whole = np.ones(other.shape, np.uint8)
    flags = cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP
    return float(cv2.warpAffine(whole, onto, one.shape[::-1], flags=flags).mean())


def _after(last: np.ndarray, first: np.ndarray) -> np.ndarray:
    """One 2 × 3 map after another."""
    return np.asarray(last, float)[:, :2] @ first + np.c_[np.zeros((2, 2)), np.asarray(last, float)[:, 2]]


def _between_wholes(onto: np.ndarray, smalls: tuple[Any, ...], sizes: tuple[Any, ...]) -> np.ndarray:
    """A map between small pictures as one between the whole ones."""
    (one, other), (own, its) = smalls, sizes
    down = _resized((one.shape[1] / own[0], one.shape[0] / own[1]))
    up = _resized((its[0] / other.shape[1], its[1] / other.shape[0]))
    return _after(up, _after(onto, down))


def _resized(by: tuple[float, float]) -> np.ndarray:
    """Pixel middles of a picture to those of it resized."""
    return np.array([[by[0], 0, 0.5 * by[0] - 0.5], [0, by[1], 0.5 * by[1] - 0.5]])

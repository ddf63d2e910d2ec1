"""Whether more may belong to a thing than its contour holds: a faint sharp line beyond it that begins and ends at it.

A pale sole on pale ground, or a strap of the ground's own tone, is cut off along the panel beside it; the thing's own
edge then runs on outside, weak but sharp, from one place of the contour to another. Shadows are soft and do not count.
"""

import cv2
import numpy as np

# The picture is looked at this large, its longer side, px.
SIDE = 900
# Softening, px, at which a line is seen, and at which what is soft shows as much.
FINE, COARSE = 1.6, 6.0
# A line stands out so many times over the ground's typical steepness, and is so much steeper finely seen than coarsely.
WEAK, STRONG = 1.7, 2.2
SHARP = 1.5
# Shares of the size: how far from the contour a line is one of its own, how near it begins and ends there, how far
# apart at least, and how far out it runs at least.
OWN = 0.008
NEAR = 0.03
APART = 0.07
OUT = 0.045
# A line goes on over gaps of so many px.
GAP = 5


def more_may_belong(rgb: np.ndarray, contour: np.ndarray, within: np.ndarray | None, card: np.ndarray | None) -> bool:
    """Look beyond a contour (N, 2); ``within``: the marked region; ``card``: corners of a card. Picture pixels all."""
    return bool(len(lines_beyond(rgb, contour, within, card)))


def lines_beyond(
    rgb: np.ndarray, contour: np.ndarray, within: np.ndarray | None, card: np.ndarray | None
) -> list[np.ndarray]:
    """Masks' places (N, 2), picture px, of lines that leave the contour and come back to it."""
    scale = min(1.0, SIDE / max(rgb.shape[:2]))
    small = cv2.resize(rgb, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else rgb
    size = max(small.shape[:2])
    roots = np.sqrt(small.astype(np.float32))
    fine, coarse = _steepness(roots, FINE), _steepness(roots, COARSE)
    away = _distance(small.shape[:2], (contour + 0.5) * scale - 0.5)
    free = away > OWN * size
    if within is not None:
        free &= _filled(small.shape[:2], (within + 0.5) * scale - 0.5) > 0
    if card is not None:
        middle = card.mean(0)
        free &= _filled(small.shape[:2], (middle + 1.1 * (card - middle) + 0.5) * scale - 0.5) == 0
    if free.sum() < size:
        return []
    usual = float(np.median(fine[free])) + 1e-6
    sharp = fine > SHARP * coarse
    line = ((fine > WEAK * usual) & sharp & free).astype(np.uint8)
    line = cv2.morphologyEx(line, cv2.MORPH_CLOSE, np.ones((GAP, GAP), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(line, connectivity=8)
    found = []
    for label in range(1, count):
        if max(stats[label, 2:4]) < APART * size:
            continue
        ys, xs = np.nonzero(labels == label)
        far = away[ys, xs]
        if far.max() < OUT * size or np.quantile(fine[ys, xs], 0.7) < STRONG * usual:
            continue
        ends = np.stack([xs, ys], 1)[far < NEAR * size]
        if len(ends) and _far_apart(ends, APART * size):
            found.append((np.stack([xs, ys], 1) + 0.5) / scale - 0.5)
    return found


def is_sharp(roots: np.ndarray, points: np.ndarray) -> bool:
    """Whether a line (N, 2) on a picture, as its square roots, is sharper than a shadow's edge, most of it."""
    x, y = np.clip(np.round(points).astype(int), 0, np.array(roots.shape[1::-1]) - 1).T
    left, top = np.maximum([x.min(), y.min()], 3 * round(COARSE)) - 3 * round(COARSE)
    part = roots[top : y.max() + 3 * round(COARSE), left : x.max() + 3 * round(COARSE)]
    around = np.ones((3, 3), np.uint8)
    fine, coarse = (cv2.dilate(_steepness(part, soft), around)[y - top, x - left] for soft in (FINE, COARSE))
    return bool(np.median(fine / (coarse + 1e-6)) > SHARP)


def _far_apart(ends: np.ndarray, apart: float) -> bool:
    """Whether one of the places lies so far from the leftmost."""
    first = ends[np.argmin(ends @ np.array([1.0, 1e-3]))]
    far = ends[np.argmax(np.hypot(*(ends - first).T))]
    return float(np.hypot(*(far - first))) > apart


def _steepness(roots: np.ndarray, softened: float) -> np.ndarray:
    soft = cv2.GaussianBlur(roots, (0, 0), softened)
    x, y = (cv2.Sobel(soft, cv2.CV_32F, *way, ksize=3) for way in ((1, 0), (0, 1)))
    return np.sqrt((x**2 + y**2).sum(2))


def _distance(shape: tuple[int, int], contour: np.ndarray) -> np.ndarray:
    """How far outside a contour each place lies, px; 0 within."""
    return cv2.distanceTransform(1 - _filled(shape, contour), cv2.DIST_L2, 3)


def _filled(shape: tuple[int, int], polygon: np.ndarray) -> np.ndarray:
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, [np.round(polygon).astype(np.int32)], 1)
    return mask

"""One connected region that glows: its length, width, ends and holes, before it is sorted.

Source: skeleton of Zhang & Suen (Commun. ACM 27(3), 1984).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

LINE_WIDE_MM = 3.0
"""… and at most so wide; from this width on only where it is as wide all along:"""
SURELY_LINE_MM, UNEVEN = 1.9, 0.2
FRAYED_MM, FRAYED, FRAYED_UNEVEN, LETTER_MM = 10.0, 1.4, 0.25, 2.2
"""A long region whose thinned form branches and whose width varies, or is wider than a letter's stroke, is a smear's: a
pen's line has no branches, and a figure's strokes are even."""
BESIDE_MM, ONE_SIDED = 1.2, 0.35
"""A line stands over its weaker side by at least this share of what it stands over the other, so far beside it."""
BRANCHED = 1.35
"""A figure's thinned form over its longest way: strokes that branch, as no line's or fibre's do."""


@dataclass(frozen=True, slots=True)
class Bit:
    """One connected region, before it is sorted."""

    label: int
    box: tuple[int, int, int, int]
    area: float
    length: float
    width: float
    ends: np.ndarray
    """(2, 2) its far ends."""
    ways: np.ndarray
    """(2, 2) unit, outwards at either end."""
    path: np.ndarray
    hole: float
    """Share of its filled area that is hole."""
    roundness: float
    across: float
    """Diameter of the circle that has its filled area."""
    straight: float
    branched: float
    """Length of all its thinned strokes over the longest way through them."""
    uneven: float
    """How its width varies, standard deviation over mean."""


def disc(radius: float) -> np.ndarray:
    """A round kernel of this radius, px, (h, w) uint8."""
    reach = max(1, round(radius))
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))


def bit_of(labels: np.ndarray, stats: np.ndarray, n: int, scale: float) -> Bit:
    """Piece ``n`` of a labelled picture, measured; ``scale``: mm a pixel."""
    from skimage.morphology import skeletonize  # noqa: PLC0415  slow to import, wanted on few photographs

    x, y, width, height = (int(stats[k]) for k in range(4))
    mask = np.pad(labels[y : y + height, x : x + width] == n, 1)
    area = float(mask.sum())
    # Thick pieces are thinned on a smaller copy.
    shrink = max(1.0, min(width, height) / 220)
    thin = mask
    if shrink > 1:
        size = tuple(max(3, round(side / shrink)) for side in mask.shape[::-1])
        thin = cv2.resize(mask.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0
    places = np.argwhere(skeletonize(thin))[:, ::-1] * (np.array(mask.shape[::-1]) / np.array(thin.shape[::-1]))
    path = _along(places) if len(places) > 1 else places
    if len(path) < 2:
        path = np.array([[0.0, 0.0], [width - 1, height - 1]]) + 1
    length = max(float(np.hypot(*np.diff(path, axis=0).T).sum()), 1.0)
    whole = max(float(len(places)) * 1.12 * shrink, length)
    at = path + np.array([x - 1, y - 1])
    ways = _ways(at, mask, length, scale)
    thick = 2 * cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    inner = np.round(path[len(path) // 8 : max(len(path) - len(path) // 8, len(path) // 8 + 1)]).astype(int)
    widths = thick[inner[:, 1].clip(0, mask.shape[0] - 1), inner[:, 0].clip(0, mask.shape[1] - 1)]
    # Spurs of a frayed smear lengthen its thinned form: then its own thickness along the way tells.
    wide = max(area / whole, float(np.median(widths)))
    filled, outer = _filled(mask)
    (_, radius) = cv2.minEnclosingCircle(outer)
    return Bit(
        n,
        (x, y, width, height),
        area,
        (length if whole < BRANCHED * length else whole) + wide,
        wide,
        at[[0, -1]],
        ways,
        at,
        1 - area / filled,
        filled / (np.pi * max(radius, 0.5) ** 2),
        2 * float(np.sqrt(filled / np.pi)),
        float(np.hypot(*(at[-1] - at[0]))) / max(whole, 1.0),
        whole / length,
        float(widths.std() / max(widths.mean(), 1e-9)),
    )


def _ways(at: np.ndarray, mask: np.ndarray, length: float, scale: float) -> np.ndarray:
    """(2, 2) unit vectors outwards at either end: of a dash its own axis, else the way's last millimetres."""
    if length * scale < 10.0:
        places = np.argwhere(mask)[:, ::-1].astype(float)
        _, axes = np.linalg.eigh(np.cov((places - places.mean(0)).T) if len(places) > 2 else np.eye(2))
        axis = axes[:, 1] * np.sign(axes[:, 1] @ (at[0] - at[-1]) or 1.0)
        return np.array([axis, -axis])
    back = max(1, min(len(at) - 1, round(4.0 / scale)))
    ways = np.array([at[0] - at[back], at[-1] - at[-1 - back]])
    return ways / np.maximum(np.hypot(*ways.T), 1e-9)[:, None]


def is_thin(bit: Bit, scale: float) -> bool:
    """Whether it may be a pen's stroke: one way without branches, as wide all along."""
    width = bit.width * scale
    frayed = bit.uneven > FRAYED_UNEVEN or width > LETTER_MM
    if frayed and bit.length * scale > FRAYED_MM and bit.branched > FRAYED:
        return False
    return width <= SURELY_LINE_MM or (width <= LINE_WIDE_MM and bit.uneven < UNEVEN)


def _along(places: np.ndarray) -> np.ndarray:
    """The longest way through thinned places, end to end, by steps between neighbours (breadth first, twice)."""
    index: dict[tuple[int, ...], int] = {tuple(np.round(p).astype(int)): n for n, p in enumerate(places)}
    cells = list(index)
    near = [(dx, dy) for dx in (-2, -1, 0, 1, 2) for dy in (-2, -1, 0, 1, 2) if (dx, dy) != (0, 0)]

    def walk(start: tuple[int, ...]) -> tuple[tuple[int, ...], dict[tuple[int, ...], Any]]:
        came: dict[tuple[int, ...], Any] = {start: None}
        front = [start]
        last = start
        while front:
            following: list[tuple[int, ...]] = []
            for cell in front:
                last = cell
                for dx, dy in near:
                    step = (cell[0] + dx, cell[1] + dy)
                    if step in index and step not in came:
                        came[step] = cell
                        following.append(step)
            front = following
        return last, came

    one, _ = walk(cells[0])
    other, came = walk(one)
    way = [other]
    while came[way[-1]] is not None:
        way.append(came[way[-1]])
    return np.array(way, float)


def _filled(mask: np.ndarray) -> tuple[float, np.ndarray]:
    """Area with its holes filled, and the outer rim."""
    rims, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    outer = max(rims, key=len)
    canvas = cv2.drawContours(np.zeros(mask.shape, np.uint8), [outer], -1, 1, cv2.FILLED)
    return float(max(canvas.sum(), 1)), outer


def has_ground_beside(members: Sequence[Bit], root: np.ndarray, scale: float) -> bool:
    """Whether light falls off on both sides of a line alike: at the edge of something that glows it falls on one."""
    least, most = [], []
    for bit in members:
        at = bit.path[:: max(1, len(bit.path) // 40)]
        if len(at) < 3:
            continue
        way = np.gradient(at, axis=0)
        normal = np.stack([-way[:, 1], way[:, 0]], 1) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
        reach = 0.5 * bit.width + BESIDE_MM / scale
        crest = _light(root, at)
        sides = np.stack([crest - _light(root, at + sign * reach * normal) for sign in (-1, 1)])
        least.append(sides.min(0))
        most.append(sides.max(0))
    if not least:
        return True
    low, high = float(np.median(np.concatenate(least))), float(np.median(np.concatenate(most)))
    return low > ONE_SIDED * high


def _light(root: np.ndarray, at: np.ndarray) -> np.ndarray:
    """(N,) light at places, px, each the mean of nine pixels."""
    x = np.clip(np.round(at[:, 0]).astype(int), 1, root.shape[1] - 2)
    y = np.clip(np.round(at[:, 1]).astype(int), 1, root.shape[0] - 2)
    return np.mean([root[y + dy, x + dx] for dy in (-1, 0, 1) for dx in (-1, 0, 1)], axis=0)

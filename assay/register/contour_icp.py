"""Closed outlines laid on one another by turn, size and shift: iterated closest points, many curves and starts at once.

Places are complex numbers here, so that turn and size are one factor, the least-squares one a quotient of two products.
Source: Besl & McKay, IEEE PAMI 14(2), 1992; a tenth of the places is given up on. At first the closest place is read
off a chart of the goal (distance transform; Borgefors, CVGIP 34(3), 1986).
"""

from typing import NamedTuple

import cv2
import numpy as np
from scipy.spatial import cKDTree

# Turns that a curve is laid on from, by so many of its places; rounds of laying on, when it has settled, as a share of
# the goal's size, and the share of places that count.
STARTS = 6
THIN = 32
ROUNDS = 14
STAYS = 3e-4
KEPT = 0.9
# Of several curves those are laid on by all of their places that a few leave no further off than so many times the
# best.
REFINED = 1.8
# Cells of a chart along the goal's longer side, and room around the goal, in such sides.
CELLS = 160
ROOM = 0.5


class ContourFit(NamedTuple):
    """How a curve lies on the goal: ``factor`` · place + ``shift``."""

    error: float
    """Mean distance both ways, px of the goal."""
    factor: complex
    shift: complex
    elsewhere: float
    """The smallest such distance at another turn."""


def fit_contours(curves: list[np.ndarray], goal: np.ndarray) -> list[ContourFit]:
    """Each curve (N, 2) laid on ``goal`` (M, 2) from every sixth of a turn, the best kept; roughly where another fits
    far better."""
    if not curves:
        return []
    tree, target = cKDTree(goal), goal @ [1, 1j]
    dense = [curve @ [1, 1j] for curve in curves]
    thin = np.array([one[np.linspace(0, len(one), THIN, endpoint=False).astype(int)] for one in dense])
    spread = np.array([np.sqrt(goal.var(0).sum() / curve.var(0).sum()) for curve in curves])
    factor = np.outer(spread, np.exp(1j * np.arange(STARTS) * 2 * np.pi / STARTS)).ravel()
    shift = target.mean() - factor * np.repeat([one.mean() for one in dense], STARTS)
    factor, shift = _settled(np.repeat(thin, STARTS, axis=0), target, _Chart(goal), factor, shift)
    some = goal[:: max(1, len(goal) // THIN)] @ [1, 1j]
    laid = []
    for n, curve in enumerate(curves):
        own = slice(n * STARTS, (n + 1) * STARTS)
        errors = _error(thin[n], cKDTree(curve), some, tree, factor[own], shift[own])
        best = int(errors.argmin())
        away = errors[np.abs(np.angle(factor[own] / factor[own][best])) > np.pi / 4].min(initial=np.inf)
        laid.append(ContourFit(errors[best], factor[own][best], shift[own][best], away))
    most = REFINED * min(one.error for one in laid)
    return [
        _refined(one, curve, target, tree) if one.error <= most else one for one, curve in zip(laid, dense, strict=True)
    ]


class _Chart:
    """Which of some places is closest, to about a cell, asked as a tree is."""

    def __init__(self, places: np.ndarray) -> None:
        self._places = places
        size = float(np.ptp(places, axis=0).max())
        self._corner, self._cell = places.min(0) - ROOM * size, size / CELLS
        x, y = self._at(places)
        free = np.ones((self._at(places.max(0) + ROOM * size)[::-1] + 1), np.uint8)
        free[y, x] = 0
        _, named = cv2.distanceTransformWithLabels(free, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
        of_name = np.zeros(named.max() + 1, int)
        of_name[named[y, x]] = np.arange(len(places))
        self._closest = of_name[named]

    def _at(self, places: np.ndarray) -> np.ndarray:
        """Columns and rows of places (…, 2)."""
        return np.moveaxis(((places - self._corner) / self._cell).astype(int), -1, 0)

    def query(self, places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Distances and indices of the closest ones to places (…, 2)."""
        x, y = self._at(places)
        rows, columns = self._closest.shape
        index = self._closest[y.clip(0, rows - 1), x.clip(0, columns - 1)]
        return np.hypot(*np.moveaxis(places - self._places[index], -1, 0)), index


def _refined(contour_fit: ContourFit, curve: np.ndarray, goal: np.ndarray, tree: cKDTree) -> ContourFit:
    """By all of its places, where that is any better."""
    own, before = (
        cKDTree(np.stack([curve.real, curve.imag], 1)),
        (np.array([contour_fit.factor]), np.array([contour_fit.shift])),
    )
    after = _settled(curve[None], goal, tree, *before)
    tried = [(_error(curve, own, goal, tree, *one)[0], one[0][0], one[1][0]) for one in (before, after)]
    return ContourFit(*min(tried, key=lambda one: one[0]), contour_fit.elsewhere)


def _settled(
    start: np.ndarray, goal: np.ndarray, near: cKDTree | _Chart, factor: np.ndarray, shift: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Closest places, as ``near`` tells, and the similarity through nine tenths of them, in turn, until it stays.

    ``start`` (S, N), ``factor`` and ``shift`` (S,): what is laid on and where each begins; returns how each ends.
    """
    most, factor, shift = int(KEPT * start.shape[1]), factor.copy(), shift.copy()
    stays = STAYS * max(np.ptp(goal.real), np.ptp(goal.imag))
    moved, moving = factor[:, None] * start + shift[:, None], np.arange(len(start))
    for _ in range(ROUNDS):
        here = moved[moving]
        distance, index = near.query(np.stack([here.real, here.imag], -1))
        keep = np.argpartition(distance, most, axis=1)[:, :most]
        ours, theirs = np.take_along_axis(start[moving], keep, 1), goal[np.take_along_axis(index, keep, 1)]
        middle, centre = ours.mean(1, keepdims=True), theirs.mean(1, keepdims=True)
        from_middle = np.conj(ours - middle)
        factor[moving] = (from_middle * (theirs - centre)).sum(1) / (np.abs(from_middle) ** 2).sum(1)
        shift[moving] = centre[:, 0] - factor[moving] * middle[:, 0]
        moved[moving] = factor[moving, None] * start[moving] + shift[moving, None]
        moving = moving[np.abs(moved[moving] - here).max(1) >= stays]
        if not len(moving):
            break
    return factor, shift


def _error(
    curve: np.ndarray, tree: cKDTree, goal: np.ndarray, goal_tree: cKDTree, factor: np.ndarray, shift: np.ndarray
) -> np.ndarray:
    """Mean distance both ways of a curve's places (N,) and the goal's (M,) for each (S,) factor and shift, goal's
    px."""
    there = factor[:, None] * curve + shift[:, None]
    back = (goal - shift[:, None]) / factor[:, None]
    onto = goal_tree.query(np.stack([there.real, there.imag], -1))[0].mean(1)
    return (onto + np.abs(factor) * tree.query(np.stack([back.real, back.imag], -1))[0].mean(1)) / 2

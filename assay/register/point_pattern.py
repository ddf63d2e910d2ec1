"""One pattern of holes laid on another: which are missing, which are extra.

Source of the fit: Umeyama, IEEE PAMI 13(4), 1991, without its scale; the way of holding and matching alternate as in
Besl & McKay, IEEE PAMI 14(2), 1992.
"""

from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment
from scipy.spatial.distance import cdist

# A hole is the same hole up to this share of the distance to its nearest neighbour.
SAME = 0.45
ROUNDS = 4


@dataclass(frozen=True, slots=True)
class PatternMatch:
    """How two patterns compare."""

    missing: np.ndarray
    """(K, 2) where theirs have no partner, on ours."""
    extra: tuple[int, ...]
    """Which of ours have no partner."""
    rms_residual: float
    """Root mean square distance between partners, same unit as the points."""


def match_pattern(theirs: np.ndarray, ours: np.ndarray) -> PatternMatch | None:
    """Lay a pattern (N, 2) that already lies roughly right on another (M, 2); None with fewer than 3 partners.

    >>> grid = np.array([[0, 0], [10, 0], [20, 0], [0, 10], [10, 10], [20, 10]], float)
    >>> match_pattern(grid, np.delete(grid, 4, axis=0) + 1.5).missing.round(6).tolist()
    [[11.5, 11.5]]
    """
    if min(len(theirs), len(ours)) < 3:
        return None
    apart = cdist(theirs, theirs) + np.diag(np.full(len(theirs), np.inf))
    reach = SAME * float(np.median(apart.min(1)))
    placed = theirs
    for round_ in range(ROUNDS):
        # The first look is a wide one: the pattern may lie up to a hole beside.
        rows, columns = _partners(placed, ours, reach * (2.0 if round_ == 0 else 1.0))
        if len(rows) < 3:
            return None
        turn, shift = _rigid(theirs[rows], ours[columns])
        placed = theirs @ turn.T + shift
    rows, columns = _partners(placed, ours, reach)
    if len(rows) < 3:
        return None
    lost = np.setdiff1d(np.arange(len(theirs)), rows)
    extra = tuple(int(n) for n in np.setdiff1d(np.arange(len(ours)), columns))
    rms_residual = float(np.sqrt(((placed[rows] - ours[columns]) ** 2).sum(1).mean()))
    return PatternMatch(placed[lost], extra, rms_residual)


def _partners(one: np.ndarray, other: np.ndarray, reach: float) -> tuple[np.ndarray, np.ndarray]:
    away = cdist(one, other)
    rows, columns = linear_sum_assignment(np.minimum(away, 3 * reach))
    near = away[rows, columns] < reach
    return rows[near], columns[near]


def _rigid(one: np.ndarray, other: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The turn (never a mirror) and shift of least squares."""
    u, _, vt = np.linalg.svd((other - other.mean(0)).T @ (one - one.mean(0)))
    turn = u @ np.diag([1, np.sign(np.linalg.det(u @ vt))]) @ vt
    return turn, other.mean(0) - turn @ one.mean(0)

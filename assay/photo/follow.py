"""The best way through a field of scores, row by row, by dynamic programming.

Source: Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990.
"""

import numpy as np

# Rows that go together on the way, and the furthest a way moves from one such step to the next.
THIN, MOVES = 3, 2


def best_path(scores: np.ndarray, stiff: float, *, closed: bool) -> np.ndarray:
    """For each of N rows of (N, R) scores the column of the best way through; moving by one column costs ``stiff``.

    ``closed``: the way ends where it began.
    """
    rows = max(1, len(scores) // THIN) * THIN if len(scores) >= THIN else len(scores)
    thin = THIN if len(scores) >= THIN else 1
    score = scores[:rows].reshape(-1, thin, scores.shape[1]).mean(1)
    start = int(np.argmax(score.max(1))) if closed else 0
    path = _walk(np.roll(score, -start, axis=0), stiff, closed=closed)
    path = np.roll(path, start)
    spots = (np.arange(len(score)) + 0.5) * thin - 0.5
    return np.interp(np.arange(len(scores)), spots, path, period=rows if closed else None)


def refined(strength: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The top of a parabola through each row's scores near a column."""
    rows, k = np.arange(len(at)), np.clip(np.round(at).astype(int), 1, strength.shape[1] - 2)
    left, middle, right = strength[rows, k - 1], strength[rows, k], strength[rows, k + 1]
    bend = left - 2 * middle + right
    return k + np.where(bend < -1e-9, np.clip(0.5 * (left - right) / np.minimum(bend, -1e-9), -0.7, 0.7), 0.0)


def _walk(score: np.ndarray, stiff: float, *, closed: bool) -> np.ndarray:
    count, width = score.shape
    total, back = score[0].copy(), np.zeros((count, width), np.int8)
    pinned = int(np.argmax(score[0]))
    if closed:
        total[np.abs(np.arange(width) - pinned) > MOVES] = -1e9
    cost = stiff * np.abs(np.arange(-MOVES, MOVES + 1))[:, None]
    padded = np.full(width + 2 * MOVES, -1e9)
    # Row k of this view is the total before, moved by k - MOVES columns.
    before = np.lib.stride_tricks.sliding_window_view(padded, width)
    columns = np.arange(width)
    for n in range(1, count):
        padded[MOVES:-MOVES] = total
        options = before - cost
        best = options.argmax(0)
        back[n] = best - MOVES
        total = options[best, columns] + score[n]
    ends = np.where(np.abs(np.arange(width) - pinned) <= MOVES + 1, total, -1e12) if closed else total
    path, here = np.empty(count), int(np.argmax(ends))
    for n in range(count - 1, -1, -1):
        path[n] = here
        here = min(max(here + int(back[n, here]), 0), width - 1)
    return path

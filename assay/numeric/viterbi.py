"""The best way through a field of scores, row by row, by dynamic programming.

Source: Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990.
"""

import numpy as np

# Rows that go together on the way, and the furthest a way moves from one such step to the next.
THIN = 3
MOVES = 2


def best_path(scores: np.ndarray, stiff: float, *, closed: bool) -> np.ndarray:
    """For each of N rows of (N, R) scores the column of the best way through; moving by one column costs ``stiff``.

    ``closed``: the way ends where it began.
    """
    thin = THIN if len(scores) >= THIN else 1
    rows = len(scores) // thin * thin
    score = np.sum([scores[k:rows:thin] for k in range(thin)], axis=0) / thin
    start = int(np.argmax(score.max(1))) if closed else 0
    path = np.roll(_walk(np.roll(score, -start, axis=0), stiff, closed=closed), start)
    spots = (np.arange(len(score)) + 0.5) * thin - 0.5
    if closed:
        spots, path = np.r_[spots[-1] - rows, spots, spots[0] + rows], np.r_[path[-1], path, path[0]]
    return np.interp(np.arange(len(scores)), spots, path)


def refined(strength: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The top of a parabola through each row's scores near a column."""
    rows, k = np.arange(len(at)), np.clip(np.round(at).astype(int), 1, strength.shape[1] - 2)
    left, middle, right = strength[rows, k - 1], strength[rows, k], strength[rows, k + 1]
    bend = left - 2 * middle + right
    return k + np.where(bend < -1e-9, np.clip(0.5 * (left - right) / np.minimum(bend, -1e-9), -0.7, 0.7), 0.0)


def _walk(score: np.ndarray, stiff: float, *, closed: bool) -> np.ndarray:
    """From both ends towards the middle at once, which halves the steps; then outwards along what was best."""
    count, width = score.shape
    if count < 2:
        return score.argmax(1).astype(float)
    half = (count + 1) // 2
    # Lane 0 comes from the first row, lane 1 from the last; with an odd number of rows both reach the middle one.
    lanes = np.stack([score[:half], score[::-1][:half]], 1)
    totals = np.full((half, 2, width + 2 * MOVES), -1e9)
    totals[0, :, MOVES:-MOVES] = lanes[0]
    if closed:
        away = np.abs(np.arange(width) - int(np.argmax(score[0])))
        totals[0, 0, MOVES:-MOVES][away > MOVES] = -1e9
        totals[0, 1, MOVES:-MOVES][away > MOVES + 1] = -1e9
    # Row k of these views is the totals moved by k - MOVES columns.
    moved = np.lib.stride_tricks.sliding_window_view(totals, width, axis=-1)
    cost = stiff * np.abs(np.arange(-MOVES, MOVES + 1))[:, None]
    options, best = np.empty((2, 2 * MOVES + 1, width)), np.empty((2, width))
    for before, own, after in zip(moved, lanes[1:], totals[1:, :, MOVES:-MOVES], strict=False):
        np.subtract(before, cost, out=options)
        np.maximum.reduce(options, axis=1, out=best)
        np.add(best, own, out=after)
    back = _moves(moved, cost)
    from_end = count - half - 1
    meeting = totals[half - 1, 0, MOVES:-MOVES] + (moved[from_end, 1] - cost).max(0)
    path = np.empty(count)
    first = int(meeting.argmax())
    path[half - 1], path[half] = first, first + int(back[from_end, 1, first])
    for lane, step, rows in ((0, -1, range(half - 2, -1, -1)), (1, 1, range(half + 1, count))):
        here = int(path[rows.start - step]) if len(rows) else 0
        for n in rows:
            here += int(back[n if step < 0 else count - 1 - n, lane, here])
            path[n] = here
    return path


def _moves(moved: np.ndarray, cost: np.ndarray) -> np.ndarray:
    """Which of the moved totals (…, M, R) is worth most in each column, (…, R), as a move: one after the other, which
    takes a third of ``argmax`` across."""
    best, back = moved[..., 0, :] - cost[0], np.full((*moved.shape[:-2], moved.shape[-1]), -MOVES, np.int8)
    for k in range(1, len(cost)):
        worth = moved[..., k, :] - cost[k]
        np.copyto(back, k - MOVES, where=worth > best)
        np.maximum(best, worth, out=best)
    return back

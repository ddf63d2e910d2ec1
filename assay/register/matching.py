"""Which features of two pictures look alike.

A feature's mutual match is the one nearest to it by Hamming distance, clearly nearer than the next (Lowe, Int. J.
Computer Vision 60(2), 2004), and has it as its own nearest: without the last, many features crowd onto one that looks
like anything, and a map that gathers them all there seems agreed on.
"""

import numpy as np
from scipy.spatial import cKDTree

# Lowe's ratio.
RATIO = 0.85
# Of how many features one is looked at, and by every how manieth bit, to tell which pictures are worth matching.
THIN = 4
FEWER_BITS = 2
# Bits of a feature; one of so few other bits where it is looked for is the same.
BITS = 256
SAME = 64


def agreement(ours: np.ndarray, theirs: np.ndarray) -> np.ndarray:
    """(N, M) bits of ours (N, 32) that are theirs' (M, 32), less those that are not."""
    return _bipolar(ours) @ _bipolar(theirs).T


def ratio_matches(agreeing: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rows (K,) of ours whose nearest of theirs is clear, that one's column, and whether it is a mutual match.

    >>> one = np.random.default_rng(1).integers(0, 256, (9, 32), dtype=np.uint8)
    >>> [rows.tolist() for rows in ratio_matches(agreement(one[[0, 1, 2, 2]], one[::-1]))]
    [[0, 1, 2, 3], [8, 7, 6, 6], [True, True, True, False]]
    """
    if min(agreeing.shape) < 2:
        return np.zeros(0, int), np.zeros(0, int), np.zeros(0, bool)
    nearest, clear = _nearest(agreeing)
    rows = np.flatnonzero(clear)
    return rows, nearest[rows], agreeing[:, nearest[rows]].argmax(0) == rows


def found_again(
    agreeing: np.ndarray, looked_for: np.ndarray, places: np.ndarray, reach: float
) -> tuple[np.ndarray, np.ndarray]:
    """Rows (K,) of ours that are among theirs within ``reach`` px of where they are looked for, and those columns.

    ``looked_for`` (N, 2), ``places`` (M, 2): ours and theirs, px.
    """
    near = cKDTree(looked_for).sparse_distance_matrix(cKDTree(places), reach, p=np.inf, output_type="ndarray")
    one, other = near["i"], near["j"]
    same = agreeing[one, other] > BITS - 2 * SAME
    one, other = one[same], other[same]
    order = np.lexsort((-other, agreeing[one, other], one))
    best = order[np.flatnonzero(np.diff(np.r_[one[order], -1]))]
    return one[best], other[best]


def prefilter_score(known: list[np.ndarray], theirs: np.ndarray) -> list[int]:
    """How many of a few features of each known picture have a clear nearest one in theirs: which to match first."""
    if len(theirs) < 2:
        return [0] * len(known)
    if not known:
        return []
    few = [_bipolar(one)[::THIN, ::FEWER_BITS] for one in known]
    agreeing = np.concatenate(few) @ _bipolar(theirs)[:, ::FEWER_BITS].T
    clear = _nearest(agreeing, BITS // FEWER_BITS)[1]
    ends = np.cumsum([len(one) for one in few])
    return [int(clear[end - len(one) : end].sum()) for one, end in zip(few, ends, strict=True)]


def _bipolar(descriptors: np.ndarray) -> np.ndarray:
    """Bits as +1 and −1: the product of two is 256 less twice their Hamming distance."""
    return np.unpackbits(descriptors, axis=1).astype(np.float32) * 2 - 1


def _nearest(agreeing: np.ndarray, bits: int = BITS) -> tuple[np.ndarray, np.ndarray]:
    """For each row its best column, and whether that is clearly nearer than the second best."""
    rows = np.arange(len(agreeing))
    nearest = agreeing.argmax(1)
    best = agreeing[rows, nearest]
    agreeing[rows, nearest] = -np.inf
    second = agreeing.max(1)
    agreeing[rows, nearest] = best
    return nearest, bits - best < RATIO * (bits - second)

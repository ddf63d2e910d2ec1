"""How good likelihood ratios are, on pairs whose truth is known."""

from collections.abc import Sequence

import numpy as np
from scipy.optimize import isotonic_regression


def cllr(log10_retail: Sequence[float], log10_copy: Sequence[float]) -> float:
    """Cost of log likelihood ratios, bits: 0 is perfect, 1 says nothing.

    ``log10_retail``: log10 LR (retail against copy) of true retail pairs, ``log10_copy`` of true copies. Half of the
    mean of log2(1 + 1/LR) over retail and of log2(1 + LR) over copies: Brümmer & du Preez, Application-independent
    evaluation of speaker detection, Computer Speech and Language 20 (2006).

    >>> round(cllr([1.0], [-1.0]), 6)
    0.137504
    """
    ours, theirs = (np.asarray(one, float) * np.log(10) for one in (log10_retail, log10_copy))
    return float((np.logaddexp(0, -ours).mean() + np.logaddexp(0, theirs).mean()) / (2 * np.log(2)))


def cllr_min(log10_retail: Sequence[float], log10_copy: Sequence[float]) -> float:
    """The least cost that any monotone recalibration reaches: what is lost in telling apart, not in saying how much.

    By pool adjacent violators on the labels in order of LR (same source; Ayer et al. 1955).

    >>> cllr_min([2.0, 1.0, 0.30103, -0.30103], [-2.0, -1.0, -0.30103, 0.477121])
    0.5
    """
    scores = np.concatenate([log10_retail, log10_copy])
    labels = np.concatenate([np.ones(len(log10_retail)), np.zeros(len(log10_copy))])
    found = _pooled(scores, labels)
    prior = np.log(len(log10_retail) / len(log10_copy))
    with np.errstate(divide="ignore"):
        ratio = (np.log(found) - np.log1p(-found) - prior) / np.log(10)
    return cllr(ratio[labels == 1], ratio[labels == 0])


def _pooled(scores: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """Isotonic regression of labels on scores; equal scores share one value."""
    _, back, counts = np.unique(scores, return_inverse=True, return_counts=True)
    means = np.bincount(back, labels) / counts
    return np.clip(isotonic_regression(means, weights=counts).x, 0.0, 1.0)[back]


def calibration_error(probabilities: Sequence[float], truths: Sequence[int], bins: int = 10) -> float:
    """Expected calibration error over bins of equal width: how far, on average, what was said lies from what was so.

    Naeini, Cooper & Hauskrecht, AAAI 2015.

    >>> round(calibration_error([.95, .9, .85, .85, .65, .55, .3, .35, .1, .05], [1, 1, 1, 0, 1, 0, 0, 1, 0, 0], 5), 3)
    0.195
    """
    said, so = np.asarray(probabilities, float), np.asarray(truths, float)
    place = np.minimum((said * bins).astype(int), bins - 1)
    gaps = [abs(said[place == n].mean() - so[place == n].mean()) * (place == n).mean() for n in np.unique(place)]
    return float(sum(gaps))

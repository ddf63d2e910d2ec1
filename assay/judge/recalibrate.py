"""What a weight is worth by cases whose end is known: logistic regression, each group of cases left out in turn."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np

from assay.judge.metrics import cllr

STEPS = 60
RIDGE = 1e-3
"""Keeps the slope finite where the two kinds do not overlap at all."""
FEWEST = 40
FEWEST_A_SIDE = 15
"""Known cases, and of each side, below which nothing is recalibrated."""


FEWEST_BATCHES = 3
"""Copies come from so many batches at least: what one source's copies weigh says nothing of the next one's."""
LEAST_GAIN = 0.01
"""A smaller gain in Cllr is not worth new thresholds."""
RESAMPLED = 400
SEED = 11
MOST_MOVED = 2.0
"""A threshold is moved outwards only, to twice what it was at most: outcomes that become known are a selected sample,
in which the copies that nobody noticed are missing."""


@dataclass(frozen=True, slots=True)
class Recalibration:
    """What weighs ``x`` deciban is worth ``slope · x + shift``."""

    slope: float
    shift: float
    many: int
    before: float
    """Cllr of the weights as they are."""
    after: float
    """Cllr recalibrated, each group judged by what was fitted to the others."""
    gain: tuple[float, float]
    """95 % interval of the gain in Cllr, by resampling groups (Efron & Tibshirani, An Introduction to the Bootstrap,
    1993, ch. 13)."""

    @property
    def is_better(self) -> bool:
        """Whether what was left out is judged better, surely and by enough."""
        return self.gain[0] > 0 and self.before - self.after >= LEAST_GAIN

    def worth(self, decibans: float) -> float:
        """What so many deciban are worth."""
        return self.slope * decibans + self.shift

    def weighs(self, worth: float) -> float:
        """What must be weighed to be worth so much."""
        return (worth - self.shift) / self.slope

    def threshold(self, meant: float) -> float:
        """Where a threshold that is meant to be worth so much is moved to: never inwards, nor far.

        >>> Recalibration(0.1, 40.0, 75, 0.2, 0.1, (0.05, 0.15)).threshold(13.0)
        13.0
        """
        ends = sorted((meant, meant * MOST_MOVED))
        return min(max(self.weighs(meant), ends[0]), ends[1])


def recalibrated(decibans: Sequence[float], retail: Sequence[bool], groups: Sequence[Hashable]) -> Recalibration | None:
    """From weights, how the cases ended, and what they come in together (a batch of copies); None from too few cases,
    or from copies of too few groups.

    Logistic regression with both sides weighing the same (Brümmer & du Preez 2006); a fit is kept only with a rising
    slope.
    """
    x, y = np.asarray(decibans, float) / 10 * np.log(10), np.asarray(retail, bool)
    names = np.array([str(group) for group in groups])
    if len(x) < FEWEST or min(y.sum(), (~y).sum()) < FEWEST_A_SIDE or len(set(names[~y])) < FEWEST_BATCHES:
        return None
    slope, shift = _fit(x, y)
    if slope <= 0:
        return None
    out = np.empty(len(x))
    for name in set(names):
        here = names == name
        rest = ~here
        own = _fit(x[rest], y[rest]) if min(y[rest].sum(), (~y[rest]).sum()) else (slope, shift)
        out[here] = own[0] * x[here] + own[1]
    tens = np.log(10)
    before, after = (cllr(list(of[y] / tens), list(of[~y] / tens)) for of in (x, out))
    gain = _gain(_costs(x, y) - _costs(out, y), y, names)
    return Recalibration(slope, float(shift * 10 / tens), len(x), before, after, gain)


def _costs(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """What each case costs in Cllr, bits: log2(1 + 1/LR) of a retail pair, log2(1 + LR) of a copy."""
    return np.logaddexp(0, np.where(y, -x, x)) / np.log(2)


def _gain(saved: np.ndarray, y: np.ndarray, names: np.ndarray) -> tuple[float, float]:
    rng, told = np.random.default_rng(SEED), np.array(sorted(set(names)))
    members = {name: np.flatnonzero(names == name) for name in told}
    found = []
    for _ in range(RESAMPLED):
        chosen = np.concatenate([members[name] for name in rng.choice(told, len(told))])
        sides = [saved[chosen][y[chosen]], saved[chosen][~y[chosen]]]
        if all(len(side) for side in sides):
            found.append(sum(side.mean() for side in sides) / 2)
    if not found:
        return -np.inf, np.inf
    low, high = np.quantile(found, [0.025, 0.975])
    return float(low), float(high)


def _fit(x: np.ndarray, y: np.ndarray) -> tuple[float, float]:
    """Slope and shift of the log odds at even odds, by Newton's steps."""
    weight = np.where(y, 0.5 / max(1, y.sum()), 0.5 / max(1, (~y).sum()))
    terms, beta = np.stack([x, np.ones_like(x)], 1), np.array([1.0, 0.0])
    for _ in range(STEPS):
        p = 1 / (1 + np.exp(-np.clip(terms @ beta, -60, 60)))
        slope = terms.T @ (weight * (p - y)) + RIDGE * (beta - [1.0, 0.0])
        curve = (terms * (weight * p * (1 - p))[:, None]).T @ terms + RIDGE * np.eye(2)
        step = np.linalg.solve(curve, slope)
        beta = beta - np.clip(step, -1, 1)
        if np.abs(step).max() < 1e-9:
            break
    return float(beta[0]), float(beta[1])

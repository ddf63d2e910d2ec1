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

    def worth(self, decibans: float) -> float:
        """What so many deciban are worth."""
        return self.slope * decibans + self.shift

    def weighs(self, worth: float) -> float:
        """What must be weighed to be worth so much."""
        return (worth - self.shift) / self.slope


def recalibrated(decibans: Sequence[float], retail: Sequence[bool], groups: Sequence[Hashable]) -> Recalibration | None:
    """From weights, how the cases ended, and what they come in together (a batch of copies); None from too few.

    Logistic regression with both sides weighing the same (Brümmer & du Preez 2006); a fit is kept only with a rising
    slope.
    """
    x, y = np.asarray(decibans, float) / 10 * np.log(10), np.asarray(retail, bool)
    if len(x) < FEWEST or min(y.sum(), (~y).sum()) < FEWEST_A_SIDE:
        return None
    slope, shift = _fit(x, y)
    if slope <= 0:
        return None
    names, out = np.array([str(one) for one in groups]), np.empty(len(x))
    for name in set(names):
        here = names == name
        rest = ~here
        own = _fit(x[rest], y[rest]) if min(y[rest].sum(), (~y[rest]).sum()) else (slope, shift)
        out[here] = own[0] * x[here] + own[1]
    tens = np.log(10)
    before, after = (cllr(list(of[y] / tens), list(of[~y] / tens)) for of in (x, out))
    return Recalibration(slope, float(shift * 10 / tens), len(x), before, after)


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

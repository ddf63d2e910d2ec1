"""One looseness a pair: what its other lengths tell of how much this pair scatters goes into each of them.

A pair's looseness is not known; it goes through all of its lengths. So each length is held against what the others
tell: p(x_i | others) = Σ_w λ_w p(x_i | w) with λ_w ∝ π_w Π_{j≠i} p(x_j | w) (Bayes' rule; a mixture over scales as in
Gelman et al., Bayesian Data Analysis, 3rd ed., 17.2). What the product of these lacks of the joint probability
Σ_w π_w Π_i p(x_i | w), such as how seldom a pair is so loose, is shared out evenly. In whatever order they are taken,
it is the same. Retail and every kind of copy have a belief of their own.
"""

from collections.abc import Iterable, Sequence

import numpy as np

from assay.judge import assumptions
from assay.judge.copy_model import log_copy_density, log_copy_of_length
from assay.judge.evidence import EvidenceItem, log_density, log_density_of_loose
from assay.judge.judgement import Kind

SHARES = np.log(list(assumptions.LOOSENESS.values()))


def log_densities(signs: Sequence[EvidenceItem], names: Iterable[str]) -> np.ndarray:
    """(signs, 1 + names, loosenesses): natural logarithms of p(reading) on a retail pair, then on every copy, by how
    loose it is; of counts, answers and print the same for all. Raises CannotJudge."""
    names = list(names)
    return np.array([_of_one(sign, names) for sign in signs]).reshape(len(signs), 1 + len(names), len(SHARES))


def given_others(told: np.ndarray, worth: Sequence[float]) -> np.ndarray:
    """(signs, 1 + names): each reading given the pair's others; weighted they add up to the joint probability.

    ``told``: as ``log_densities`` has it; ``worth``: one a sign: what it counts, 1, less where others share its cause;
    all 0: each by itself.
    """
    shares = np.asarray(worth, float)[:, None]
    weighted = told * shares[..., None]
    every = SHARES + weighted.sum(0)
    others = every - weighted
    given = np.logaddexp.reduce(others + told, axis=2) - np.logaddexp.reduce(others, axis=2)
    lengths = shares * (np.ptp(told[:, :1], axis=2) > 0)
    lacking = np.logaddexp.reduce(every, axis=1) - (shares * given).sum(0)
    return given + (lengths > 0) * lacking / max(float(lengths.sum()), 1e-12)


def _of_one(sign: EvidenceItem, names: list[str]) -> np.ndarray:
    if sign.kind is Kind.CONTINUOUS:
        own = log_density_of_loose(sign)
        copies = log_copy_of_length(sign, names, own)
        return np.array([own, *(copies[name] for name in names)])
    alike = [log_density(sign, sign.value), *(log_copy_density(sign, name, sign.value) for name in names)]
    return np.repeat(np.array(alike, float)[:, None], len(SHARES), axis=1)

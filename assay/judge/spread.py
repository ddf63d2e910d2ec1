"""What retail pairs do for one checkpoint, as a predictive distribution for one more retail pair.

Three kinds, one interface (``tail_probability``): Continuous, Counted (counts and closed answers), Stated.
"""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, TypeAlias

import numpy as np
from scipy.special import stdtr, stdtrit

from assay.errors import CannotJudge

Value: TypeAlias = Any
"""What a check reads: a length, a count, an answer, or (N,) lengths at once; the check's kind says which."""


@dataclass(frozen=True, slots=True)
class Continuous:
    """Student t predictive for one future retail pair."""

    centre: float
    scale: float
    dof: float
    pairs: int
    magnitude: bool = False
    """A distance from retail: less of it than retail pairs have among each other is no fault."""

    def tail_probability(self, value: float) -> float:
        """Two-sided probability that a retail pair lies at least this far from the centre; of a magnitude, 1 up to the
        centre."""
        if self.magnitude and value <= self.centre:
            return 1.0
        return float(2 * stdtr(self.dof, -abs((value - self.centre) / self.scale)))

    def interval(self, coverage: float = 0.95) -> tuple[float, float]:
        """Central interval that the next retail pair falls into with this probability."""
        half = float(stdtrit(self.dof, 0.5 + coverage / 2)) * self.scale
        return self.centre - half, self.centre + half

    def density(self, value: Value) -> Value:
        """Probability density, per unit of the reading."""
        return np.exp(self.log_density(value))

    def log_density(self, value: Value) -> Value:
        """Natural logarithm of the density; of a magnitude below the centre, that at the centre."""
        t = (value - self.centre) / self.scale
        if self.magnitude:
            t = np.maximum(t, 0.0)
        log_norm = math.lgamma((self.dof + 1) / 2) - math.lgamma(self.dof / 2) - 0.5 * math.log(self.dof * math.pi)
        return log_norm - (self.dof + 1) / 2 * np.log1p(t * t / self.dof) - np.log(self.scale)


def continuous(
    values: Sequence[float],
    *,
    prior_scatter: float,
    prior_pairs: float,
    uncertainty: float = 0.0,
    uncertainties: Sequence[float] = (),
) -> Continuous:
    """Predictive for the next retail pair from n readings and a prior scatter worth ``prior_pairs`` pairs.

    Centre = mean, dof = prior_pairs + n - 1, scale^2 = s^2 (1 + 1/n) + v/n + u^2 with
    s^2 = (prior_pairs * prior_scatter^2 + max(0, (n - 1) (sample variance - v))) / dof and v the mean square of the
    retail readings' own uncertainties: what measuring scatters is not what retail pairs scatter.
    With prior_pairs = 0 and v = 0 it is the textbook prediction interval for one future value.

    ``values``: one per retail pair, unit of the reading. ``prior_scatter``: standard deviation, same unit.
    ``uncertainty``: standard uncertainty of the reading to be judged, same unit. ``uncertainties``: those of
    ``values``, none or one each.
    Raises CannotJudge ``no_retail_pairs`` or ``no_scatter_known``.
    Source: Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.6 (scaled inverse chi-square prior on the
    variance) and 3.2 (predictive); Montgomery & Runger, Applied Statistics, prediction interval (prior_pairs = 0).

    >>> spread = continuous([2.0], prior_scatter=0.1, prior_pairs=4)
    >>> spread.dof, round(spread.scale, 4)
    (4, 0.1414)
    """
    n = len(values)
    if n == 0:
        raise CannotJudge("no_retail_pairs")
    dof = prior_pairs + n - 1
    if dof <= 0 or (n == 1 and prior_scatter <= 0):
        raise CannotJudge("no_scatter_known", pairs=n)
    centre = math.fsum(values) / n
    measuring = math.fsum(one**2 for one in uncertainties) / n
    squares = math.fsum((value - centre) ** 2 for value in values) - (n - 1) * measuring
    variance = (prior_pairs * prior_scatter**2 + max(0.0, squares)) / dof
    scale = math.sqrt(variance * (1 + 1 / n) + measuring / n + uncertainty**2)
    if scale <= 0:
        raise CannotJudge("no_scatter_known", pairs=n)
    return Continuous(centre, scale, dof, n)


@dataclass(frozen=True, slots=True)
class Counted:
    """Dirichlet-smoothed frequencies over counts or closed answers."""

    probabilities: Mapping[Value, float]
    """Predictive probability of every outcome that was listed or seen."""
    elsewhere: float
    """Predictive probability of an answer that is not listed, or of the next count beyond those that are."""
    expected: Value
    pairs: int

    def probability(self, value: Value) -> float:
        """Predictive probability of this outcome; counts beyond those listed fall off by ``STEP`` each.

        >>> known = counts([7, 7], prior_pairs=2, off_by_one=0.01)
        >>> known.probability(40) < known.probability(14) < known.probability(11)
        True
        """
        if value in self.probabilities:
            return self.probabilities[value]
        if isinstance(value, str):
            return self.elsewhere
        beyond = max(value - max(self.probabilities), min(self.probabilities) - value, 1)
        return self.elsewhere * STEP ** (beyond - 1)

    def tail_probability(self, value: Value) -> float:
        """Probability of all outcomes that are no likelier than this one: two-sided by construction."""
        if value not in self.probabilities:
            return self.probability(value)
        bar = self.probability(value) * (1 + 1e-9)
        return min(1.0, math.fsum(p for p in self.probabilities.values() if p <= bar))


UNSURE_COUNT = 0.3
"""Standard uncertainty from which a count that nobody has looked at raises no flag: it may be misread, and alike on
every pair of a release."""
STEP = 0.1
"""From a count that retail pairs hardly show to the next one further out, its probability falls by this. Assumed."""


def counts(
    values: Sequence[int], *, prior_pairs: float, off_by_one: float, uncertainties: Sequence[float] = ()
) -> Counted:
    """Predictive for a counted number, expected value first.

    The prior is worth ``prior_pairs`` pairs: it puts ``off_by_one`` on each neighbour of the commonest count, a
    tenth of that on each second neighbour, and so on, and the rest on the commonest count itself. A retail count that
    is unsure (``uncertainties``, one each) counts for its neighbours as well, by its rate of misreading: in full from
    ``UNSURE_COUNT`` on, where all pairs may be misread alike, otherwise as far as the neighbour is believed in.
    Predictive of outcome k = (prior_pairs * prior(k) + times k was seen) / (prior_pairs + n): the posterior mean of a
    Dirichlet-multinomial (Gelman et al., Bayesian Data Analysis, 3rd ed., section 3.4).

    Raises CannotJudge ``no_retail_pairs``.

    >>> spread = counts([11, 11, 11], prior_pairs=2, off_by_one=0.005)
    >>> spread.expected, round(spread.probability(10), 4), round(spread.tail_probability(10), 4)
    (11, 0.002, 0.0044)
    """
    if not values:
        raise CannotJudge("no_retail_pairs")
    expected = _likeliest(_soft_counts(values, uncertainties))
    reach = max(abs(value - expected) for value in values) + 4
    prior = {
        k: off_by_one * STEP ** (abs(k - expected) - 1)
        for k in range(expected - reach, expected + reach + 1)
        if k not in (expected,) and k >= 0
    }
    prior[expected] = 1 - sum(prior.values())
    return _dirichlet(_soft_counts(values, uncertainties, prior), prior, expected, prior_pairs=prior_pairs)


def misreading_rate(uncertainty: float) -> float:
    """Probability that a count is one off: a reading that is one off so often has this variance.

    >>> misreading_rate(0.5), misreading_rate(3.0)
    (0.25, 0.5)
    """
    return min(0.5, uncertainty**2)


def _soft_counts(
    values: Sequence[int], uncertainties: Sequence[float], belief: Mapping[int, float] = MappingProxyType({})
) -> dict[int, float]:
    """How often each count was seen, an unsure one shared with its neighbours; ``belief``: how likely counts are."""
    seen: dict[int, float] = {}
    for value, unsure in zip(values, uncertainties or [0.0] * len(values), strict=True):
        off, own, kept = misreading_rate(unsure) / 2, belief.get(value, 0.0), 1.0
        for count in (value - 1, value + 1):
            likely = 1.0 if unsure >= UNSURE_COUNT or not own else min(1.0, belief.get(count, 0.0) / own)
            if off and likely and count >= 0:
                seen[count] = seen.get(count, 0.0) + off * likely
                kept -= off * likely
        seen[value] = seen.get(value, 0.0) + kept
    return seen


def answers(
    values: Sequence[str], *, possible: Sequence[str], prior_pairs: float, rare: Mapping[str, float]
) -> Counted:
    """Predictive for a closed question, smoothed the same way.

    ``possible``: every answer. ``rare``: the prior probability, among retail pairs, of the answers that retail pairs
    seldom give; the other answers share what is left.
    Raises CannotJudge ``no_retail_pairs``.
    """
    if not values:
        raise CannotJudge("no_retail_pairs")
    common = [answer for answer in possible if answer not in rare]
    left = (1 - math.fsum(rare.values())) / max(len(common), 1)
    prior = {answer: rare.get(answer, left) for answer in possible}
    seen = Counter(values)
    return _dirichlet(seen, prior, _likeliest(seen), prior_pairs=prior_pairs)


@dataclass(frozen=True, slots=True)
class Stated:
    """Print and packing: the check itself says how often a retail pair is like this, and that is what is judged."""

    def tail_probability(self, value: float) -> float:
        """The stated rate.

        >>> Stated().tail_probability(0.002)
        0.002
        """
        return min(1.0, max(0.0, float(value)))


Spread: TypeAlias = Any
"""Continuous, Counted or Stated; the check's kind says which."""


def _dirichlet(
    seen: Mapping[Value, float], prior: Mapping[Value, float], expected: Value, *, prior_pairs: float
) -> Counted:
    """``seen``: how many pairs showed each outcome."""
    pairs = math.fsum(seen.values())
    outcomes = {*prior, *seen}
    probabilities = {k: (prior_pairs * prior.get(k, 0.0) + seen.get(k, 0.0)) / (prior_pairs + pairs) for k in outcomes}
    # What is not listed lies further out than all that is.
    return Counted(probabilities, STEP * min(probabilities.values()), expected, round(pairs))


def _likeliest(seen: Mapping[Value, float]) -> Value:
    most = max(seen.values())
    return min(value for value, times in seen.items() if times == most)

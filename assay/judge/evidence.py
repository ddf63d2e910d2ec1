"""One finding as the weighing takes it, and how likely retail reads what it reads.

Retail's density comes from ``judgement.spread_of``. Every reading is misread now and then: a count by one, by its
standard uncertainty taken for a rate; a length altogether.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from assay.errors import CannotJudge
from assay.judge import assumptions, spread
from assay.judge.judgement import Kind, Prior, must_be_numbers, spread_of

LEAST_PROBABILITY = 1e-300
"""No outcome of a count or an answer is less likely than this: a floor that could be reached would make what lies
further out speak for retail again."""


@dataclass(frozen=True, slots=True)
class SharedScale:
    """The scale of the photograph that a length was read on: one error of it moves all its lengths together."""

    photo: str
    uncertainty: float
    """Relative, standard."""
    moves: float
    """What the reading moves by with an error of the scale, a unit of relative error: a length by itself, an area by
    twice itself, a size in per cent of retail's by 100."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EvidenceItem:
    """One finding, as the weighing takes it. Plain numbers."""

    key: str
    group: str
    kind: Kind
    value: spread.Value
    """What it reads; of print and packing how often retail is like this. None: not compared."""
    uncertainty: float = 0.0
    retail: Sequence[spread.Value] = ()
    retail_uncertainty: Sequence[float] = ()
    """Standard uncertainties of ``retail``, none or one each."""
    prior: Prior = field(default_factory=Prior)
    batches: Mapping[str, Sequence[spread.Value]] = field(default_factory=dict)
    """What known copies read, by batch; a batch without a reading is taken for unknown there."""
    copies: Mapping[str, float] = field(default_factory=dict)
    """ANSWER: how often copies give each, where that is believed."""
    wider: float = assumptions.WIDER
    """κ."""
    right: float | None = None
    """How often copies get it right; None: as is believed of its kind."""
    cap_for: float = assumptions.CAP_FOR
    cap_against: float = assumptions.CAP_AGAINST
    lessened: tuple[str, ...] = ()
    """Why its caps are lower: keys of ``assumptions.LESS``."""
    reading_error: float = assumptions.READING_ERROR
    """How often a reading like this is wrong although it is sure: a length altogether, a count by one; 0 never."""
    scale: SharedScale | None = None
    """Of a length read on a photograph; ``uncertainty`` holds the scale's part too."""
    minutes: float = 0.5
    source: str = ""
    """What was read, where; two checks of one source are one. Empty: its own."""
    made_of: tuple[str, ...] = ()
    """Keys of the two checks that it is the difference or the share of: of the three only two say something new."""

    def checked(self) -> "EvidenceItem":
        """Itself. Raises CannotJudge ``not_finite``, ``negative_uncertainty``, ``no_minutes``, ``bad_caps``,
        ``bad_share``, ``bad_kappa``."""
        must_be_numbers(self.cap_for, self.cap_against, self.minutes, self.wider, *self.copies.values(),
                        self.right or 0.0, uncertainties=(self.uncertainty, *self.retail_uncertainty,
                                       self.scale.uncertainty if self.scale else 0.0))  # fmt: skip
        if self.kind is not Kind.ANSWER:
            values = [self.value] if self.value is not None else []
            must_be_numbers(*values, *self.retail, *(one for given in self.batches.values() for one in given))
        if self.minutes <= 0:
            raise CannotJudge("no_minutes", check=self.key)
        if min(self.cap_for, self.cap_against) < 0:
            raise CannotJudge("bad_caps", check=self.key)
        if self.wider < assumptions.LEAST_WIDER:
            raise CannotJudge("bad_kappa", check=self.key)
        shares = [*self.copies.values(), self.reading_error, *([] if self.right is None else [self.right])]
        if not all(0 <= share <= 1 for share in shares) or math.fsum(self.copies.values()) > 1 + 1e-6:
            raise CannotJudge("bad_share", check=self.key)
        return self


def caps(sign: EvidenceItem) -> tuple[float, float]:
    """What it may speak at most for retail and against, decibans."""
    less = math.prod(assumptions.LESS[why] for why in sign.lessened)
    return less * sign.cap_for, less * sign.cap_against


def density(sign: EvidenceItem, value: spread.Value) -> spread.Value:
    """p(reading | retail): a density for lengths (of one or of many at once), a probability for the rest. Raises
    CannotJudge."""
    return np.exp(log_density(sign, value))


def log_density(sign: EvidenceItem, value: spread.Value) -> spread.Value:
    """Natural logarithm of the same: of a density it has no floor, of a probability ``LEAST_PROBABILITY``."""
    if sign.kind is Kind.PAPER:
        return floored_log(slip(value, assumptions.RETAIL_SLIPS if value >= 1 else float(value)))
    if sign.kind is Kind.CONTINUOUS:
        return _if_misread(sign, retail_spread(sign, sign.uncertainty).log_density(value), value)
    return floored_log(misread(retail_spread(sign).probability, value, sign))


def log_density_of_loose(sign: EvidenceItem, values: np.ndarray) -> np.ndarray:
    """(loosenesses, values): natural logarithm of a length's density at (N,) ``values``, on a pair of each of
    ``assumptions.LOOSENESS``. Raises CannotJudge."""
    own = retail_spread(sign)
    scales = np.hypot(np.array(list(assumptions.LOOSENESS)) * own.scale, sign.uncertainty)
    return _if_misread(sign, replace(own, scale=scales[:, None]).log_density(values), values)


def _if_misread(sign: EvidenceItem, right: spread.Value, value: spread.Value) -> spread.Value:
    """A length's log density where now and then it is misread altogether. A misread one lies where a copy's wrong one
    would, whatever the pair is: so one wild reading never weighs more than misreadings are rare."""
    if not sign.reading_error:
        return right
    wrong = wrong_spread(sign).log_density(value)
    return np.logaddexp(math.log1p(-sign.reading_error) + right, math.log(sign.reading_error) + wrong)


def can_be_weighed(sign: EvidenceItem) -> bool:
    """Whether it can be weighed at all: retail is known there."""
    try:
        log_density(sign, sign.value)
    except CannotJudge:
        return False
    return True


def retail_spread(sign: EvidenceItem, uncertainty: float = 0.0) -> spread.Spread:
    """What the next retail pair reads there."""
    return spread_of(sign.kind, sign.retail, sign.prior, uncertainty, sign.retail_uncertainty)


def slip(value: float, rate: float) -> float:
    """Of print and packing: the rate of a slip where there is one, else of none."""
    return 1 - rate if value >= 1 else rate


def misread(probability: Callable[[spread.Value], float], value: spread.Value, sign: EvidenceItem) -> float:
    """The probability of reading a count that may be one off: as often as its standard uncertainty says, and no less
    often than such counts are misread."""
    rate = max(spread.misreading_rate(sign.uncertainty), sign.reading_error) if sign.kind is Kind.COUNT else 0.0
    if not rate:
        return probability(value)
    return (1 - rate) * probability(value) + rate / 2 * (probability(value - 1) + probability(value + 1))


def floored_log(probability: float) -> float:
    """Natural logarithm, never of less than ``LEAST_PROBABILITY``."""
    return math.log(max(probability, LEAST_PROBABILITY))


def wrong_spread(sign: EvidenceItem) -> spread.Continuous:
    """Where a copy's wrong length lies, whatever the pair's looseness. So that what lies further out never speaks more
    for retail, its tails are at least as heavy as the loosest retail pair's: of a t that is κ times as wide the
    condition is μ ≥ ν / (κ² (1 + ν) − ν), from the derivative of the two densities' ratio."""
    own, loosest = retail_spread(sign), max(assumptions.LOOSENESS)
    unsure = retail_spread(sign, sign.uncertainty)
    scale = math.hypot(max(sign.wider, assumptions.OVER_LOOSE * loosest) * own.scale, sign.uncertainty)
    squared = (scale / math.hypot(loosest * own.scale, sign.uncertainty)) ** 2
    dof = min(unsure.dof, max(assumptions.UNKNOWN_DOF, unsure.dof / (squared * (1 + unsure.dof) - unsure.dof)))
    return spread.Continuous(own.centre, scale, dof, 0, unsure.magnitude)

"""What copies read: known batches by their own readings, an unknown copy by how well it may be made.

An unknown copy is rough, middling, close or nearly perfect, and is that at every check. What it gets right reads as
retail does, with retail's own scatter; what it gets wrong lies about retail's centre by a Student t that is several
times as wide and falls off no faster than retail's, or on another count or answer. Every assumed figure stands here.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.special import bdtrc, stdtrit

from assay.errors import CannotJudge
from assay.judge import spread
from assay.judge.judgement import Kind, Prior, must_be_numbers, spread_of

UNKNOWN = "unknown"
"""The copy that is of no known batch."""
LEVELS = {"rough": (0.25, 0.35), "middling": (1.0, 0.44), "close": (8.0, 0.2), "nearly perfect": (200.0, 0.01)}
"""How well unknown copies are made: by so much the odds of getting a part right are multiplied; share. Assumed. The
last one bounds what agreeing may ever say: a hundred to one, and hardly more."""
MIDDLING = f"{UNKNOWN}, middling"
WIDER = 4.0
"""κ: what an unknown copy gets wrong scatters so many times as wide as retail's, where nothing was learned. Assumed."""
LEAST_WIDER = 1.5
"""κ below this would make a copy's faults pass for retail's scatter. Assumed."""
WIDER_WORTH = 4.0
"""How many batches that belief is worth. Assumed."""
UNKNOWN_DOF = 3.0
"""Degrees of freedom of what a copy gets wrong: heavy tails. Assumed."""
RIGHT = 0.75
"""How often a copy gets a count or an answer right, where nothing was learned. Assumed."""
RIGHT_LENGTH = 0.5
"""The same of a length or another number that scatters. Assumed."""
RIGHT_WORTH = 4.0
"""How many batches those two beliefs are worth. Assumed."""
COPY_SLIPS = 0.3
"""How often a copy's print or packing slips at one place. Assumed."""
RETAIL_SLIPS = 0.01
"""How often retail's does. Assumed."""
STEP_DOWN = 0.5
"""What a copy gets wrong of a count falls off by this from neighbour to neighbour. Assumed."""
CAP_FOR, CAP_AGAINST = 6.0, 15.0
DECISIVE_AGAINST = 30.0
PAPER_FOR, PAPER_AGAINST = 2.0, 12.0
ONE_WAY_AGAINST = 12.0
"""Caps, decibans: agreeing is cheap to copy, so it says less. Assumed, as common practice has it: no source."""
LESS = {"photo_only": 0.8, "worn": 0.7, "unsure": 0.5, "unfit_photo": 0.5}
"""What lowers a cap, and by which factor. Assumed."""
OUTLYING = 2.0
"""A batch whose centre lies so many of retail's scales from retail's got the part wrong."""
SAME_TAIL = 0.005
"""A batch's mean is told from retail's by a two-sided t test at this level times two."""
LEAST_PROBABILITY = 1e-300
"""No outcome of a count or an answer is less likely than this: a floor that could be reached would make what lies
further out speak for retail again."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """One finding, as the weighing takes it. Plain numbers."""

    key: str
    group: str
    kind: Kind
    value: float | int | str | None
    """What it reads; of print and packing how often retail is like this. None: not compared."""
    uncertainty: float = 0.0
    retail: Sequence[float | int | str] = ()
    retail_uncertainty: Sequence[float] = ()
    """Standard uncertainties of ``retail``, none or one each."""
    prior: Prior = field(default_factory=Prior)
    batches: Mapping[str, Sequence[float | int | str]] = field(default_factory=dict)
    """What known copies read, by batch; a batch without a reading is taken for unknown there."""
    copies: Mapping[str, float] = field(default_factory=dict)
    """ANSWER: how often copies give each, where that is believed."""
    wider: float = WIDER
    """κ."""
    right: float | None = None
    """How often copies get it right; None: as is believed of its kind."""
    cap_for: float = CAP_FOR
    cap_against: float = CAP_AGAINST
    lessened: tuple[str, ...] = ()
    """Why its caps are lower: keys of ``LESS``."""
    minutes: float = 0.5
    source: str = ""
    """What was read, where; two checks of one source are one. Empty: its own."""

    def checked(self) -> "Sign":
        """Itself. Raises CannotJudge ``not_finite``, ``negative_uncertainty``, ``no_minutes``, ``bad_caps``,
        ``bad_share``, ``bad_kappa``."""
        must_be_numbers(self.cap_for, self.cap_against, self.minutes, self.wider, *self.copies.values(),
                        self.right or 0.0, uncertainties=(self.uncertainty, *self.retail_uncertainty))  # fmt: skip
        if self.kind is not Kind.ANSWER:
            values = [self.value] if self.value is not None else []
            must_be_numbers(*values, *self.retail, *(one for given in self.batches.values() for one in given))
        if self.minutes <= 0:
            raise CannotJudge("no_minutes", check=self.key)
        if min(self.cap_for, self.cap_against) < 0:
            raise CannotJudge("bad_caps", check=self.key)
        if self.wider < LEAST_WIDER:
            raise CannotJudge("bad_kappa", check=self.key)
        shares = [*self.copies.values(), *([] if self.right is None else [self.right])]
        if not all(0 <= one <= 1 for one in shares) or math.fsum(self.copies.values()) > 1 + 1e-6:
            raise CannotJudge("bad_share", check=self.key)
        return self


def by_level(shares: Mapping[str, float]) -> dict[str, float]:
    """Shares of every copy there may be, the unknown one by how well it is made.

    >>> by_level({"Bowline": 0.5, "unknown": 0.5})  # doctest: +NORMALIZE_WHITESPACE
    {'Bowline': 0.5, 'unknown, rough': 0.175, 'unknown, middling': 0.22, 'unknown, close': 0.1,
     'unknown, nearly perfect': 0.005}
    """
    known = {name: share for name, share in shares.items() if name != UNKNOWN}
    return known | {f"{UNKNOWN}, {level}": shares[UNKNOWN] * part for level, (_, part) in LEVELS.items()}


SHARE_OF_UNKNOWN = 0.5
"""How likely a copy is of no known batch, before anything is seen; the batches share the rest. Assumed."""


def even_shares(batches: Sequence[str]) -> dict[str, float]:
    """Prior shares of known batches and of the unknown copy.

    >>> even_shares(["Bowline", "Sheepshank"])
    {'Bowline': 0.25, 'Sheepshank': 0.25, 'unknown': 0.5}
    """
    if not batches:
        return {UNKNOWN: 1.0}
    return {**dict.fromkeys(batches, (1 - SHARE_OF_UNKNOWN) / len(batches)), UNKNOWN: SHARE_OF_UNKNOWN}


def checked_shares(shares: Mapping[str, float]) -> Mapping[str, float]:
    """Itself. Raises CannotJudge ``bad_share`` unless these are probabilities that add up to one."""
    values = list(shares.values())
    if not all(math.isfinite(one) and 0 <= one <= 1 for one in values) or abs(math.fsum(values) - 1) > 1e-6:
        raise CannotJudge("bad_share")
    return shares


def caps(sign: Sign) -> tuple[float, float]:
    """What it may speak at most for retail and against, decibans."""
    less = math.prod(LESS[why] for why in sign.lessened)
    return less * sign.cap_for, less * sign.cap_against


def density(sign: Sign, value):  # noqa: ANN001, ANN201 - a number, an answer, or many numbers at once
    """p(reading | retail): a density for lengths (of one or of many at once), a probability for the rest. Raises
    CannotJudge."""
    return np.exp(log_density(sign, value))


def log_density(sign: Sign, value):  # noqa: ANN001, ANN201 - as above
    """Natural logarithm of the same: of a density it has no floor, of a probability ``LEAST_PROBABILITY``."""
    if sign.kind is Kind.PAPER:
        return _log(_slip(value, RETAIL_SLIPS if value >= 1 else float(value)))
    if sign.kind is Kind.CONTINUOUS:
        return _retail(sign, sign.uncertainty).log_density(value)
    return _log(_misread(_retail(sign).probability, value, sign))


def copy_density(sign: Sign, name: str, value):  # noqa: ANN001, ANN201 - as above
    """p(reading | a copy of this batch, or one of no known batch that is made so well). Raises CannotJudge."""
    return np.exp(log_copy_density(sign, name, value))


def log_copy_density(sign: Sign, name: str, value):  # noqa: ANN001, ANN201 - as above
    """Natural logarithm of the same. Where a batch's habit cannot be told from retail's the two are one."""
    if name in sign.batches and sign.kind is not Kind.PAPER:
        if not is_told_apart(sign, name):
            return log_density(sign, value)
        belief = replace(sign.prior, compares=False)
        habit = replace(sign, retail=sign.batches[name], retail_uncertainty=(), prior=belief, batches={})
        return log_density(habit, value)
    factor = LEVELS.get(name.removeprefix(f"{UNKNOWN}, "), LEVELS["middling"])[0]
    if sign.kind is Kind.PAPER:
        return _log(_slip(value, 1 - _more_often(1 - COPY_SLIPS, factor)))
    if sign.kind is Kind.CONTINUOUS:
        right = _more_often(RIGHT_LENGTH if sign.right is None else sign.right, factor)
        return np.logaddexp(
            math.log(right) + log_density(sign, value), math.log(1 - right) + _wrong(sign).log_density(value)
        )
    return _log(_misread(_unknown(sign, factor), value, sign))


def _retail(sign: Sign, uncertainty: float = 0.0) -> spread.Continuous | spread.Counted | spread.Stated:
    return spread_of(sign.kind, sign.retail, sign.prior, uncertainty, sign.retail_uncertainty)


def _wrong(sign: Sign) -> spread.Continuous:
    """Where a copy's wrong length lies. So that what lies further out never speaks more for retail, its tails are at
    least as heavy as retail's: of a t that is κ times as wide the condition is
    μ ≥ ν / (κ² (1 + ν) − ν), from the derivative of the two densities' ratio."""
    own, unsure = _retail(sign), _retail(sign, sign.uncertainty)
    scale = math.hypot(sign.wider * own.scale, sign.uncertainty)
    squared = (scale / unsure.scale) ** 2
    dof = min(unsure.dof, max(UNKNOWN_DOF, unsure.dof / (squared * (1 + unsure.dof) - unsure.dof)))
    return spread.Continuous(own.centre, scale, dof, 0, unsure.magnitude)


def _unknown(sign: Sign, factor: float):  # noqa: ANN202 - a function of one outcome
    """Probability of an outcome for a copy of no known batch."""
    known = _retail(sign)
    usual = known.expected
    right = _more_often(RIGHT if sign.right is None else sign.right, factor)
    if sign.kind is Kind.ANSWER:
        possible = sign.prior.possible or tuple(known.probabilities)
        others = {answer: 1 / max(1, len(possible) - 1) for answer in possible if answer != usual}
        # Frequencies that do not know every answer would make the others a wonder.
        if set(possible) <= set(sign.copies):
            right = _more_often(sign.copies[usual], factor) if sign.copies[usual] < 1 else 1.0
            rest = max(math.fsum(sign.copies[answer] for answer in others), LEAST_PROBABILITY)
            others = {answer: sign.copies[answer] / rest for answer in others}
        return lambda outcome: right * known.probability(outcome) + (1 - right) * others.get(outcome, 0.0)
    # 1 + ½ + ¼ … above, and as far as 0 below.
    whole = (2 - STEP_DOWN**usual) / (1 - STEP_DOWN)

    def likely(outcome: int) -> float:
        off = abs(outcome - usual)
        fall = STEP_DOWN ** (off - 1) / whole if off and outcome >= 0 else 0.0
        return right * known.probability(outcome) + (1 - right) * fall

    return likely


def _more_often(right: float, factor: float) -> float:
    """A probability whose odds are multiplied."""
    return right * factor / (right * factor + 1 - right)


def _slip(value: float, rate: float) -> float:
    """Of print and packing: the rate of a slip where there is one, else of none."""
    return 1 - rate if value >= 1 else rate


def _misread(probability, value: float | str, sign: Sign) -> float:  # noqa: ANN001 - a function of one outcome
    """The probability of reading a count that may be one off: its standard uncertainty as a rate of misreading."""
    rate = spread.misreading_rate(sign.uncertainty) if sign.kind is Kind.COUNT else 0.0
    if not rate:
        return probability(value)
    return (1 - rate) * probability(value) + rate / 2 * (probability(value - 1) + probability(value + 1))


def _log(probability: float) -> float:
    return math.log(max(probability, LEAST_PROBABILITY))


def is_told_apart(sign: Sign, batch: str) -> bool:
    """Whether a batch's habit can be told from retail's: by its mean (a t test with retail's and the batch's posterior
    variances; Gelman et al., Bayesian Data Analysis, 3rd ed., 2.6), of counts and answers by one that comes more often
    than retail's frequency lets expect (a binomial tail). Raises CannotJudge."""
    own, values = _retail(sign), sign.batches[batch]
    if sign.kind is not Kind.CONTINUOUS:
        often = ((value, sum(one == value for one in values)) for value in set(values))
        return any(bdtrc(k - 1, len(values), own.probability(value)) < 2 * SAME_TAIL for value, k in often)
    theirs = _of_batch(sign, values)
    squared = sum(one.scale**2 / (one.pairs + 1) for one in (own, theirs))
    far = float(stdtrit(own.dof + theirs.dof, 1 - SAME_TAIL)) * math.sqrt(squared)
    return abs(own.centre - theirs.centre) > far


def _of_batch(sign: Sign, values: Sequence) -> spread.Continuous | spread.Counted:
    """What one more pair of a batch reads."""
    return spread_of(sign.kind, values, replace(sign.prior, compares=False))


def learned_wider(distances: Sequence[float], share: float = 1.0) -> float:
    """κ from how far known batches' centres lie from retail's, in retail's own scales: the root of a weighted mean of
    squares with a belief worth ``WIDER_WORTH`` batches. ``share``: what each of them counts.

    >>> learned_wider([]), round(learned_wider([8.0, 8.0, 8.0, 8.0]), 2)
    (4.0, 6.32)
    """
    squares = WIDER_WORTH * WIDER**2 + share * math.fsum(one**2 for one in distances)
    return max(LEAST_WIDER, math.sqrt(squares / (WIDER_WORTH + share * len(distances))))


def learned_right(right: int, wrong: int, believed: float = RIGHT) -> float:
    """How often copies get such a part right: the mean of a Beta with a belief worth ``RIGHT_WORTH`` batches.

    >>> learned_right(0, 0), learned_right(0, 4)
    (0.75, 0.375)
    """
    return (RIGHT_WORTH * believed + right) / (RIGHT_WORTH + right + wrong)


def learned(signs: Sequence[Sign]) -> list[Sign]:
    """The same findings with what their batches teach of unknown copies, by kind: how often a batch gets such a part
    right (within ``OUTLYING`` of retail's scales, or its commonest count or answer being retail's), and κ from how far
    the others lie. A finding without batches takes what its kind's have taught; without any, what is believed. A batch
    that no check tells from retail teaches nothing.

    >>> one = Sign(key="a", group="g", kind=Kind.COUNT, value=7, retail=[7, 7], batches={"x": [6, 6], "y": [6]})
    >>> learned([one])[0].right
    0.5
    """
    telling = set(telling_batches(signs))
    far: dict[Kind, list[float]] = {kind: [] for kind in Kind}
    right: dict[Kind, int] = dict.fromkeys(Kind, 0)
    for sign in signs:
        for name, values in sign.batches.items() if sign.kind is not Kind.PAPER else ():
            distance = _off(sign, values) if name in telling else None
            if distance is not None:
                right[sign.kind] += distance <= OUTLYING
                far[sign.kind] += [distance] if distance > OUTLYING else []
    taught = []
    for sign in signs:
        wrong, kind = len(far[sign.kind]), sign.kind
        # Batches, not checks, are what the belief is worth: many checks of one batch are one batch's word.
        names = {name for one in signs if one.kind is kind for name in one.batches} & telling
        share = len(names) / max(1, right[kind] + wrong)
        believed = RIGHT_LENGTH if kind is Kind.CONTINUOUS else RIGHT
        taught.append(
            replace(
                sign,
                wider=learned_wider(far[kind], share) if kind is Kind.CONTINUOUS else sign.wider,
                right=learned_right(share * right[kind], share * wrong, believed),
            )
        )
    return taught


def telling_batches(signs: Sequence[Sign]) -> list[str]:
    """Names of the batches that some check tells from retail, sorted: the others are no alternative to it."""
    found = set()
    for sign in signs:
        for name in sign.batches if sign.kind is not Kind.PAPER else ():
            if name not in found and _is_known_apart(sign, name):
                found.add(name)
    return sorted(found)


def _is_known_apart(sign: Sign, name: str) -> bool:
    try:
        return is_told_apart(sign, name)
    except CannotJudge:
        return False


def _off(sign: Sign, values: Sequence) -> float | None:
    """How far a batch lies from retail, in retail's scales; of counts and answers nothing or infinitely far."""
    try:
        own = _retail(sign)
        theirs = _of_batch(sign, values)
    except CannotJudge:
        return None
    if sign.kind is Kind.CONTINUOUS:
        return abs(theirs.centre - own.centre) / own.scale
    return 0.0 if theirs.expected == own.expected else math.inf


def can_be_weighed(sign: Sign) -> bool:
    """Whether it can be weighed at all: retail is known there."""
    try:
        log_density(sign, sign.value)
    except CannotJudge:
        return False
    return True

"""What copies read: known batches by their own readings, an unknown copy by how well it may be made.

An unknown copy is rough, middling, close or nearly perfect, and is that at every check. What it gets right reads as
retail does, with retail's own scatter; what it gets wrong lies about retail's centre by a Student t that is several
times as wide and falls off no faster than retail's, or on another count or answer. Assumed figures: ``assumptions``.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from assay.errors import CannotJudge
from assay.judge import assumptions, spread
from assay.judge.assumptions import CopyLevel
from assay.judge.evidence import (
    LEAST_PROBABILITY,
    EvidenceItem,
    floored_log,
    log_density,
    misread,
    retail_spread,
    slip,
    wrong_spread,
)
from assay.judge.judgement import Kind, spread_of

UNKNOWN = "unknown"
"""The copy that is of no known batch."""
MIDDLING = f"{UNKNOWN}, {CopyLevel.MIDDLING}"


def by_level(shares: Mapping[str, float], levels: Mapping[CopyLevel, float] | None = None) -> dict[str, float]:
    """Shares of every copy there may be, the unknown one by how well it is made; ``levels``: other shares of these than
    are assumed.

    >>> by_level({"Bowline": 0.5, "unknown": 0.5})  # doctest: +NORMALIZE_WHITESPACE
    {'Bowline': 0.5, 'unknown, rough': 0.175, 'unknown, middling': 0.22, 'unknown, close': 0.1,
     'unknown, nearly perfect': 0.005}
    """
    known = {name: share for name, share in shares.items() if name != UNKNOWN}
    levels = levels or assumptions.SHARE_OF_LEVEL
    return known | {f"{UNKNOWN}, {level}": shares[UNKNOWN] * part for level, part in levels.items()}


def even_shares(batches: Sequence[str]) -> dict[str, float]:
    """Prior shares of known batches and of the unknown copy.

    >>> even_shares(["Bowline", "Sheepshank"])
    {'Bowline': 0.25, 'Sheepshank': 0.25, 'unknown': 0.5}
    """
    if not batches:
        return {UNKNOWN: 1.0}
    return {
        **dict.fromkeys(batches, (1 - assumptions.SHARE_OF_UNKNOWN) / len(batches)),
        UNKNOWN: assumptions.SHARE_OF_UNKNOWN,
    }


def checked_shares(shares: Mapping[str, float]) -> Mapping[str, float]:
    """Itself. Raises CannotJudge ``bad_share`` unless these are probabilities that add up to one."""
    values = list(shares.values())
    if not all(math.isfinite(value) and 0 <= value <= 1 for value in values) or abs(math.fsum(values) - 1) > 1e-6:
        raise CannotJudge("bad_share")
    return shares


def _odds_of_right(name: str) -> float:
    level = name.removeprefix(f"{UNKNOWN}, ")
    return assumptions.ODDS_OF_RIGHT[CopyLevel(level) if level in set(CopyLevel) else CopyLevel.MIDDLING]


def copy_density(sign: EvidenceItem, name: str, value: spread.Value) -> spread.Value:
    """p(reading | a copy of this batch, or one of no known batch that is made so well). Raises CannotJudge."""
    return np.exp(log_copy_density(sign, name, value))


def log_copy_density(sign: EvidenceItem, name: str, value: spread.Value) -> spread.Value:
    """Natural logarithm of the same. A batch reads as retail as far as its habit may be retail's, else as its own."""
    if name in sign.batches and sign.kind is not Kind.PAPER:
        return _pooled(same_habit(sign, name), log_density(sign, value), log_density(_habit(sign, name), value))
    factor = _odds_of_right(name)
    if sign.kind is Kind.PAPER:
        return floored_log(slip(value, 1 - _more_often(1 - assumptions.COPY_SLIPS, factor)))
    if sign.kind is Kind.CONTINUOUS:
        return _right_or_wrong(sign, factor, log_density(sign, value), wrong_spread(sign).log_density(value))
    return floored_log(misread(_unknown(sign, factor), value, sign))


def log_copy_of_length(
    sign: EvidenceItem, names: Sequence[str], own: np.ndarray, values: np.ndarray
) -> dict[str, np.ndarray]:
    """The same of a length at (N,) ``values``, by copies' names, where retail's is ``own`` (loosenesses, N)."""
    wrong, found = wrong_spread(sign).log_density(values), {}
    for name in names:
        if name in sign.batches:
            found[name] = _pooled(same_habit(sign, name), own, log_density(_habit(sign, name), values))
        else:
            found[name] = _right_or_wrong(sign, _odds_of_right(name), own, wrong)
    return found


def _habit(sign: EvidenceItem, batch: str) -> EvidenceItem:
    """The check with a batch's readings in retail's place."""
    belief = replace(sign.prior, compares=False)
    return replace(sign, retail=sign.batches[batch], retail_uncertainty=(), prior=belief, batches={})


def _pooled(same: float, own: spread.Value, habit: spread.Value) -> spread.Value:
    """Logarithm of a batch's density: of retail's and its own habit's, by how probable it is that they are one."""
    return np.logaddexp(floored_log(same) + own, floored_log(1 - same) + habit)


def _right_or_wrong(sign: EvidenceItem, factor: float, own: spread.Value, wrong: spread.Value) -> spread.Value:
    right = _more_often(assumptions.RIGHT_LENGTH if sign.right is None else sign.right, factor)
    return np.logaddexp(math.log(right) + own, math.log(1 - right) + wrong)


def _unknown(sign: EvidenceItem, factor: float) -> Callable[[spread.Value], float]:
    """Probability of an outcome for a copy of no known batch."""
    known = retail_spread(sign)
    usual = known.expected
    right = _more_often(assumptions.RIGHT if sign.right is None else sign.right, factor)
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
    whole = (2 - assumptions.STEP_DOWN**usual) / (1 - assumptions.STEP_DOWN)

    def likely(outcome: int) -> float:
        off = abs(outcome - usual)
        fall = assumptions.STEP_DOWN ** (off - 1) / whole if off and outcome >= 0 else 0.0
        return right * known.probability(outcome) + (1 - right) * fall

    return likely


def _more_often(right: float, factor: float) -> float:
    """A probability whose odds are multiplied."""
    return right * factor / (right * factor + 1 - right)


def same_habit(sign: EvidenceItem, batch: str) -> float:
    """How probable it is that a batch's habit at this check is retail's own: what it gets right reads as retail does.

    Bayes' rule for two habits, with how often copies get such a part right as the prior: of lengths the batch's mean
    lies about retail's, as unsure as both are (a t of both posteriors; Gelman et al., Bayesian Data Analysis, 3rd ed.,
    2.6), or where a copy's wrong one does; of counts and answers each is retail's, or some other's that varies as
    retail's does. Raises CannotJudge.
    """
    own, values = retail_spread(sign), sign.batches[batch]
    if sign.kind is Kind.CONTINUOUS:
        theirs = _of_batch(sign, values)
        squared = sum(one.scale**2 / (one.pairs + 1) for one in (own, theirs))
        wrong = wrong_spread(sign)
        right = assumptions.RIGHT_LENGTH if sign.right is None else sign.right
        same = replace(own, scale=math.sqrt(squared), dof=own.dof + theirs.dof).log_density(theirs.centre)
        other = replace(wrong, scale=math.sqrt(wrong.scale**2 + squared)).log_density(theirs.centre)
    else:
        right = assumptions.RIGHT if sign.right is None else sign.right
        same = math.fsum(floored_log(own.probability(value)) for value in values)
        wrong_ones = _unknown(sign, 0.0)
        habits = [
            floored_log(wrong_ones(habit)) + math.fsum(_varies(own, value, habit) for value in values)
            for habit in sorted(set(values) - {own.expected})
        ]
        other = float(np.logaddexp.reduce(habits)) if habits else math.log(LEAST_PROBABILITY)
    return 1 / (1 + math.exp(min(700.0, math.log1p(-right) - math.log(right) + float(other - same))))


def _varies(own: spread.Counted, value: spread.Value, habit: spread.Value) -> float:
    """Logarithm of the probability of a count or answer where that is the habit, varying about it as retail does."""
    if isinstance(habit, str):
        usual = own.probability(own.expected)
        return floored_log(usual if value == habit else (1 - usual) / max(1, len(own.probabilities) - 1))
    return floored_log(own.probability(own.expected + abs(value - habit)))


def is_told_apart(sign: EvidenceItem, batch: str) -> bool:
    """Whether a batch's habit is surely not retail's. Raises CannotJudge."""
    return same_habit(sign, batch) < assumptions.TOLD_APART


def _of_batch(sign: EvidenceItem, values: Sequence[spread.Value]) -> spread.Spread:
    """What one more pair of a batch reads."""
    return spread_of(sign.kind, values, replace(sign.prior, compares=False))


def learned_wider(distances: Sequence[float], share: float = 1.0) -> float:
    """κ from how far known batches' centres lie from retail's, in retail's own scales: the root of a weighted mean of
    squares with a belief worth ``WIDER_WORTH`` batches. ``share``: what each of them counts.

    >>> learned_wider([]), round(learned_wider([8.0, 8.0, 8.0, 8.0]), 2)
    (4.0, 6.32)
    """
    squares = assumptions.WIDER_WORTH * assumptions.WIDER**2 + share * math.fsum(distance**2 for distance in distances)
    return max(assumptions.LEAST_WIDER, math.sqrt(squares / (assumptions.WIDER_WORTH + share * len(distances))))


def learned_near_perfect(times: int, of: int, believed: float) -> float:
    """Share of nearly perfect copies from how many of the copies whose end is known read like retail: the mean of a
    Beta with a belief worth ``NEAR_PERFECT_WORTH`` copies.

    >>> learned_near_perfect(0, 0, 0.01), round(learned_near_perfect(4, 50, 0.01), 3)
    (0.01, 0.045)
    """
    return (assumptions.NEAR_PERFECT_WORTH * believed + times) / (assumptions.NEAR_PERFECT_WORTH + of)


def learned_reading_error(wrong: int, of: int) -> float:
    """How often sure readings of a measure are wrong: the mean of a Beta with a belief worth ``READING_ERROR_WORTH``.

    >>> learned_reading_error(0, 0), round(learned_reading_error(1, 832), 4)
    (0.01, 0.0029)
    """
    worth = assumptions.READING_ERROR_WORTH
    return (worth * assumptions.READING_ERROR + wrong) / (worth + of)


def agreeing_brings(near_perfect: float) -> float:
    """What checks that all agree bring, about, decibans: then only a nearly perfect copy would read the same. Some more
    where there are very many, as such a copy also gets one in a few hundred wrong.

    >>> round(agreeing_brings(0.01), 1), round(agreeing_brings(0.05), 1)
    (20.0, 13.0)
    """
    return -10 * math.log10(near_perfect)


def learned_right(right: float, wrong: float, believed: float = assumptions.RIGHT) -> float:
    """How often copies get such a part right: the mean of a Beta with a belief worth ``RIGHT_WORTH`` batches.

    >>> learned_right(0, 0), learned_right(0, 4)
    (0.75, 0.375)
    """
    return (assumptions.RIGHT_WORTH * believed + right) / (assumptions.RIGHT_WORTH + right + wrong)


def learned(signs: Sequence[EvidenceItem]) -> list[EvidenceItem]:
    """The same findings with what their batches teach of unknown copies, by kind: how often a batch gets such a part
    right (within ``OUTLYING`` of retail's scales, or its commonest count or answer being retail's), and κ from how far
    the others lie. A finding without batches takes what its kind's have taught; without any, what is believed. A batch
    that no check tells from retail teaches nothing.

    >>> one = EvidenceItem(key="a", group="g", kind=Kind.COUNT, value=7, retail=[7, 7], batches={"x": [6, 6], "y": [6]})
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
                right[sign.kind] += distance <= assumptions.OUTLYING
                far[sign.kind] += [distance] if distance > assumptions.OUTLYING else []
    taught = []
    for sign in signs:
        wrong, kind = len(far[sign.kind]), sign.kind
        # Batches, not checks, are what the belief is worth: many checks of one batch are one batch's word.
        names = {name for one in signs if one.kind is kind for name in one.batches} & telling
        share = len(names) / max(1, right[kind] + wrong)
        believed = assumptions.RIGHT_LENGTH if kind is Kind.CONTINUOUS else assumptions.RIGHT
        taught.append(
            replace(
                sign,
                wider=learned_wider(far[kind], share) if kind is Kind.CONTINUOUS else sign.wider,
                right=learned_right(share * right[kind], share * wrong, believed),
            )
        )
    return taught


def batches_missing(sign: EvidenceItem) -> list[str]:
    """Names of the known batches that get this check wrong, sorted."""
    return sorted(name for name in sign.batches if sign.kind is not Kind.PAPER and _is_known_apart(sign, name))


def telling_batches(signs: Sequence[EvidenceItem]) -> list[str]:
    """Names of the batches that some check tells from retail, sorted: the others are no alternative to it."""
    found = set()
    for sign in signs:
        for name in sign.batches if sign.kind is not Kind.PAPER else ():
            if name not in found and _is_known_apart(sign, name):
                found.add(name)
    return sorted(found)


def _is_known_apart(sign: EvidenceItem, name: str) -> bool:
    try:
        return is_told_apart(sign, name)
    except CannotJudge:
        return False


def _off(sign: EvidenceItem, values: Sequence[spread.Value]) -> float | None:
    """How far a batch lies from retail, in retail's scales; of counts and answers nothing or infinitely far."""
    try:
        own = retail_spread(sign)
        theirs = _of_batch(sign, values)
    except CannotJudge:
        return None
    if sign.kind is Kind.CONTINUOUS:
        return abs(theirs.centre - own.centre) / own.scale
    return 0.0 if theirs.expected == own.expected else math.inf

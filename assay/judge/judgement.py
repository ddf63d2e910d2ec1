"""One checkpoint, judged: retail readings and one reading in, spread and grade out.

Everything is plain numbers, so that anybody can repeat a grade from an exported case.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import lru_cache

from assay.errors import CannotJudge
from assay.judge import spread
from assay.judge.grade import Grade, grade

# Standard uncertainty, in counts, of a count off a photograph that should be taken again: it accuses nobody unseen.
UNFIT_COUNT = 0.5
# Standard uncertainty, in counts, from which a count that nobody has looked at raises no flag.
UNSURE_COUNT = 0.3
# Spreads that are kept, the last ones: pure functions of a few numbers.
KEPT = 16_384


class Kind(StrEnum):
    """How a checkpoint's readings vary among retail pairs."""

    CONTINUOUS = "continuous"
    COUNT = "count"
    ANSWER = "answer"
    PAPER = "paper"


@dataclass(frozen=True, slots=True)
class Prior:
    """What is believed of a checkpoint before retail pairs are measured."""

    pairs: float = 4.0
    """How many pairs the belief is worth."""
    scatter: float = 0.0
    """CONTINUOUS: standard deviation among retail pairs, unit of the reading."""
    off_by_one: float = 0.0
    """COUNT: probability that a retail pair has one more, and that it has one less."""
    possible: tuple[str, ...] = ()
    """ANSWER: all answers."""
    usual: int | None = None
    """COUNT: what retail pairs have, where none was read; None: such a check needs one."""
    one_way: bool = False
    """COUNT: only more than retail has speaks; what is not there may have been washed off."""
    rare: Mapping[str, float] = field(default_factory=dict)
    """ANSWER: probability of the answers that retail pairs seldom give."""


@dataclass(frozen=True, slots=True)
class Judged:
    """A grade and what it rests on."""

    grade: Grade
    tail_probability: float
    spread: spread.Continuous | spread.Counted | spread.Stated


def spread_of(
    kind: Kind, retail: Sequence[float | int | str], prior: Prior, uncertainty: float = 0.0
) -> spread.Continuous | spread.Counted | spread.Stated:
    """The predictive distribution of one more retail pair.

    ``retail``: one value a verified pair; print and packing need none, their check states retail's rate itself.
    Raises CannotJudge ``no_retail_pairs``.
    """
    if kind is Kind.PAPER:
        return spread.Stated()
    if not retail and kind is Kind.COUNT and prior.usual is not None:
        retail = [prior.usual]
    if not retail:
        raise CannotJudge("no_retail_pairs")
    if kind is Kind.CONTINUOUS:
        return _continuous(tuple(retail), prior.scatter, prior.pairs, uncertainty)
    if kind is Kind.COUNT:
        return _counts(tuple(int(v) for v in retail), prior.pairs, prior.off_by_one)
    return _answers(tuple(retail), tuple(prior.possible), prior.pairs, tuple(prior.rare.items()))


# A page weighs the same few retail values against every known copy, and the next page does so again.
@lru_cache(maxsize=KEPT)
def _continuous(retail: tuple, scatter: float, pairs: float, uncertainty: float) -> spread.Continuous:
    return spread.continuous(retail, prior_scatter=scatter, prior_pairs=pairs, uncertainty=uncertainty)


@lru_cache(maxsize=KEPT)
def _counts(retail: tuple, pairs: float, off_by_one: float) -> spread.Counted:
    return spread.counts(list(retail), prior_pairs=pairs, off_by_one=off_by_one)


@lru_cache(maxsize=KEPT)
def _answers(retail: tuple, possible: tuple, pairs: float, rare: tuple) -> spread.Counted:
    return spread.answers(retail, possible=possible, prior_pairs=pairs, rare=dict(rare))


def fit_for_judging(kind: Kind, uncertainty: float, *, unfit_photo: bool) -> float:
    """The standard uncertainty that a number off a photograph is judged with.

    ``unfit_photo``: it should be taken again. Off such a one a count is unsure, and a length is not compared: raises
    CannotJudge ``photo_unfit``.

    >>> fit_for_judging(Kind.COUNT, 0.1, unfit_photo=True)
    0.5
    """
    if not unfit_photo or kind in (Kind.ANSWER, Kind.PAPER):
        return uncertainty
    if kind is Kind.CONTINUOUS:
        raise CannotJudge("photo_unfit")
    return max(uncertainty, UNFIT_COUNT)


def judge(
    kind: Kind,
    retail: Sequence[float | int | str],
    value: float | str,
    prior: Prior,
    *,
    uncertainty: float = 0.0,
    decisive: bool = False,
    confirmed: bool = False,
) -> Judged:
    """Grade one reading against retail pairs.

    ``confirmed``: a person has looked at the reading and stands by it. A count that is unsure by its own account and
    that nobody has looked at may drift, not depart: a miscount must not accuse. Raises CannotJudge,
    ``clean_says_nothing`` where only more than any retail pair has would speak.

    >>> judge(Kind.COUNT, [7, 7, 7], 8, Prior(pairs=2, off_by_one=0.002), decisive=True, confirmed=True).grade
    <Grade.RULES_OUT: 'rules_out'>
    """
    known = spread_of(kind, retail, prior, uncertainty)
    if prior.one_way and value <= max(retail, default=prior.usual or 0):
        raise CannotJudge("clean_says_nothing")
    tail = known.tail_probability(value)
    found = grade(tail, decisive=decisive, confirmed=confirmed)
    if kind is Kind.COUNT and found is Grade.DEPARTS and uncertainty >= UNSURE_COUNT and not confirmed:
        found = Grade.DRIFTS
    return Judged(found, tail, known)

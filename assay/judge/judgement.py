"""One checkpoint, judged: retail readings and one reading in, spread and grade out.

Everything is plain numbers, so that anybody can repeat a grade from an exported case.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache
from typing import Any

from assay.errors import CannotJudge
from assay.judge import spread
from assay.judge.grade import Grade, grade
from assay.judge.spread import UNSURE_COUNT

# Standard uncertainty, in counts, of a count off a photograph that should be taken again: it accuses nobody unseen.
UNFIT_COUNT = 0.5
# Standard uncertainty, in counts, beyond which a count that nobody has looked at says nothing.
UNTELLING_COUNT = 1.0
# A number whose standard uncertainty is so many times retail's own scale says nothing: it would hide what copies
# typically get wrong (``copy_model.WIDER``). Assumed.
UNTELLING = 4.0
# With fewer pairs than this the numbers that come of comparing them with each other do not show how pairs scatter.
FEWEST_COMPARED = 3
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
    compares: bool = False
    """CONTINUOUS: the number comes of comparing pairs with each other; of two pairs both have the same."""
    magnitude: bool = False
    """CONTINUOUS: a distance from retail's: less than retail pairs have among each other is no fault."""
    floor: float = 0.0
    """CONTINUOUS: pairs of this kind scatter by at least so much, whatever few of them showed; 0: not known."""
    typical: float = 0.0
    """CONTINUOUS, a magnitude: what two retail pairs of this kind typically lie apart."""
    one_way: bool = False
    """COUNT: only more than retail has speaks; what is not there may have been washed off."""
    rare: Mapping[str, float] = field(default_factory=dict)
    """ANSWER: probability of the answers that retail pairs seldom give."""


def checked_prior(belief: Mapping[str, Any]) -> Mapping[str, Any]:
    """A belief as data, itself. Raises CannotJudge ``bad_prior`` for what is no number, negative, or no probability."""
    numbers = [value for value in belief.values() if isinstance(value, int | float)]
    shares = [belief.get("off_by_one", 0.0)]
    for given in (belief.get("rare"), belief.get("copies")):
        shares += list((given or {}).values())
    if not all(math.isfinite(number) and number >= 0 for number in numbers):
        raise CannotJudge("bad_prior")
    if not all(isinstance(share, int | float) and 0 <= share <= 1 for share in shares):
        raise CannotJudge("bad_prior")
    if math.fsum((belief.get("rare") or {}).values()) > 1:
        raise CannotJudge("bad_prior")
    return belief


@dataclass(frozen=True, slots=True)
class Judged:
    """A grade and what it rests on."""

    grade: Grade
    tail_probability: float
    spread: spread.Spread


def spread_of(
    kind: Kind,
    retail: Sequence[spread.Value],
    prior: Prior,
    uncertainty: float = 0.0,
    retail_uncertainty: Sequence[float] = (),
) -> spread.Spread:
    """The predictive distribution of one more retail pair.

    ``retail``: one value a verified pair; print and packing need none, their check states retail's rate itself.
    ``retail_uncertainty``: their standard uncertainties, none or one each. Raises CannotJudge ``no_retail_pairs``,
    ``retail_unsure`` where every retail count is unsure, ``needs_third_pair``.
    """
    if kind is Kind.PAPER:
        return spread.Stated()
    unsure = tuple(map(float, retail_uncertainty))
    if not retail and kind is Kind.COUNT and prior.usual is not None:
        retail, unsure = [prior.usual], ()
    if not retail:
        raise CannotJudge("no_retail_pairs")
    if kind is Kind.CONTINUOUS:
        return _of_numbers(tuple(retail), unsure, prior, uncertainty)
    if kind is Kind.COUNT:
        if unsure and min(unsure) >= UNSURE_COUNT:
            raise CannotJudge("retail_unsure")
        return _counts(tuple(int(v) for v in retail), prior.pairs, prior.off_by_one, unsure)
    return _answers(tuple(retail), tuple(prior.possible), prior.pairs, tuple(prior.rare.items()))


def _of_numbers(
    values: tuple[Any, ...], unsure: tuple[Any, ...], prior: Prior, uncertainty: float
) -> spread.Continuous:
    """The same of numbers that scatter."""
    scatter = max(prior.scatter, prior.floor)
    if prior.compares and len(values) < FEWEST_COMPARED:
        if not prior.floor:
            raise CannotJudge("needs_third_pair")
        if prior.magnitude:
            # Two pairs compared with each other are one distance, not two that agree.
            values = (max(math.fsum(values) / len(values), prior.typical),)
            unsure = (max(unsure),) if unsure else ()
    return _continuous(values, scatter, prior.pairs, uncertainty, unsure, prior.magnitude)


# A page weighs the same few retail values against every known copy, and the next page does so again.
@lru_cache(maxsize=KEPT)
def _continuous(
    retail: tuple[Any, ...],
    scatter: float,
    pairs: float,
    uncertainty: float,
    unsure: tuple[Any, ...],
    magnitude: bool,  # noqa: FBT001
) -> spread.Continuous:
    known = spread.continuous(
        retail, prior_scatter=scatter, prior_pairs=pairs, uncertainty=uncertainty, uncertainties=unsure
    )
    return replace(known, magnitude=magnitude)


@lru_cache(maxsize=KEPT)
def _counts(retail: tuple[Any, ...], pairs: float, off_by_one: float, unsure: tuple[Any, ...]) -> spread.Counted:
    return spread.counts(list(retail), prior_pairs=pairs, off_by_one=off_by_one, uncertainties=unsure)


@lru_cache(maxsize=KEPT)
def _answers(
    retail: tuple[Any, ...], possible: tuple[Any, ...], pairs: float, rare: tuple[tuple[str, float], ...]
) -> spread.Counted:
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


def must_be_numbers(*numbers: float, uncertainties: Sequence[float] = ()) -> None:
    """Raise CannotJudge ``not_finite`` or ``negative_uncertainty`` for what no reading can be."""
    if not all(math.isfinite(one) for one in (*numbers, *uncertainties)):
        raise CannotJudge("not_finite")
    if any(uncertainty < 0 for uncertainty in uncertainties):
        raise CannotJudge("negative_uncertainty")


def judge(  # noqa: PLR0913 - a reading, what retail reads, and what is known of both
    kind: Kind,
    retail: Sequence[spread.Value],
    value: spread.Value,
    prior: Prior,
    *,
    uncertainty: float = 0.0,
    retail_uncertainty: Sequence[float] = (),
    decisive: bool = False,
    confirmed: bool = False,
) -> Judged:
    """Grade one reading against retail pairs.

    ``retail_uncertainty``: standard uncertainties of ``retail``, none or one each. ``confirmed``: a person has looked
    at the reading and stands by it. A count that is unsure by its own account and that nobody has looked at may drift,
    not depart: a miscount must not accuse. Raises CannotJudge, ``clean_says_nothing`` where only more than any retail
    pair has would speak, ``too_unsure`` where the reading's uncertainty would hide any fault.

    >>> judge(Kind.COUNT, [7, 7, 7], 8, Prior(pairs=2, off_by_one=0.002), decisive=True, confirmed=True).grade
    <Grade.RULES_OUT: 'rules_out'>
    """
    if kind is not Kind.ANSWER:
        must_be_numbers(value, *retail, uncertainties=(uncertainty, *retail_uncertainty))
    known = spread_of(kind, retail, prior, uncertainty, retail_uncertainty)
    if prior.one_way and value <= max(retail, default=prior.usual or 0):
        raise CannotJudge("clean_says_nothing")
    if _is_untelling(kind, retail, prior, uncertainty, retail_uncertainty, confirmed=confirmed):
        raise CannotJudge("too_unsure")
    tail = known.tail_probability(value)
    found = grade(tail, decisive=decisive, confirmed=confirmed)
    if kind is Kind.COUNT and found is Grade.DEPARTS and uncertainty >= UNSURE_COUNT and not confirmed:
        found = Grade.DRIFTS
    return Judged(found, tail, known)


def _is_untelling(
    kind: Kind,
    retail: Sequence[spread.Value],
    prior: Prior,
    uncertainty: float,
    retail_uncertainty: Sequence[spread.Value],
    *,
    confirmed: bool,
) -> bool:
    """Whether the reading is so unsure that no fault would show."""
    if kind is Kind.COUNT:
        return uncertainty > UNTELLING_COUNT and not confirmed
    if kind is not Kind.CONTINUOUS or not uncertainty:
        return False
    return uncertainty > UNTELLING * spread_of(kind, retail, prior, 0.0, retail_uncertainty).scale

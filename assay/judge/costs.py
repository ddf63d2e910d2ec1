"""Thresholds from what errors cost.

A pair is decided where that loses no more, on average, than leaving it undecided (the reject rule: Chow, On optimum
recognition error and reject tradeoff, IEEE Trans. Information Theory 16(1), 1970). Costs count in undecided cases.
The odds before the evidence are taken as even: thresholds apply to the evidence alone.
"""

import math

from assay.errors import CannotJudge
from assay.judge.rules import FURTHEST_DECIBANS

LEAST_COST = 2
"""An error that costs less than two undecided cases would make every pair decided on the spot."""


def thresholds_at(passed_copy: float, false_accusation: float) -> tuple[float, float]:
    """(legit from, fake from), decibans. Both costs as multiples of what an undecided case costs. Raises CannotJudge
    ``bad_cost``.

    >>> [round(threshold, 1) for threshold in thresholds_at(21, 101)]
    [13.0, -20.0]
    """
    if not all(math.isfinite(cost) and cost > LEAST_COST for cost in (passed_copy, false_accusation)):
        raise CannotJudge("bad_cost", least=LEAST_COST)
    legit, fake = (min(FURTHEST_DECIBANS, 10 * math.log10(cost - 1)) for cost in (passed_copy, false_accusation))
    return legit, -fake


def costs_at(legit_from: float, fake_from: float) -> tuple[float, float]:
    """What a passed copy and a false accusation cost, where these thresholds are right: in undecided cases.

    >>> [round(cost) for cost in costs_at(13.0, -20.0)]
    [21, 101]
    """
    return 1 + 10 ** (legit_from / 10), 1 + 10 ** (-fake_from / 10)

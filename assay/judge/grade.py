"""From a tail probability to a grade."""

from enum import StrEnum

# Two-sided tail probabilities under retail's own spread, as set by the shop's design: 1 in 20 and 1 in 200.
AGREES_FROM = 0.05
DRIFTS_FROM = 0.005


class Grade(StrEnum):
    """How a reading stands to retail's spread."""

    AGREES = "agrees"
    DRIFTS = "drifts"
    DEPARTS = "departs"
    RULES_OUT = "rules_out"
    NOT_COMPARED = "not_compared"


RED_FLAGS = frozenset({Grade.DEPARTS, Grade.RULES_OUT})


def grade(tail_probability: float, *, decisive: bool = False, confirmed: bool = False) -> Grade:
    """Grade a two-sided tail probability; "too good" departs as well.

    ``decisive``: retail never does this, by the checkpoint's definition. ``confirmed``: a person has looked again.
    Only both together rule a pair out.

    >>> grade(0.2), grade(0.01), grade(0.001), grade(0.001, decisive=True, confirmed=True)
    (<Grade.AGREES: 'agrees'>, <Grade.DRIFTS: 'drifts'>, <Grade.DEPARTS: 'departs'>, <Grade.RULES_OUT: 'rules_out'>)
    """
    if tail_probability >= AGREES_FROM:
        return Grade.AGREES
    if tail_probability >= DRIFTS_FROM:
        return Grade.DRIFTS
    return Grade.RULES_OUT if decisive and confirmed else Grade.DEPARTS

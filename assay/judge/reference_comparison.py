"""A number that nobody judges, beside what verified pairs read: plainly, their span, and whether it leaves it."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean

OUTSIDE = 2.0
"""A number lies outside where it leaves retail's span by so many of its own standard uncertainties."""


@dataclass(frozen=True, slots=True)
class ReferenceComparison:
    """What verified pairs read, in the number's own unit."""

    mean: float
    low: float
    high: float
    outside: bool


def compare_with_retail(value: float, uncertainty: float, retail: Sequence[float]) -> ReferenceComparison:
    """Set a number beside retail's; with nothing known or without an uncertainty it is never outside.

    >>> compare_with_retail(5.4, 0.1, [5.0, 5.1])
    ReferenceComparison(mean=5.05, low=5.0, high=5.1, outside=True)
    """
    known = retail or [value]
    low, high = min(known), max(known)
    far = OUTSIDE * uncertainty
    return ReferenceComparison(fmean(known), low, high, uncertainty > 0 and not low - far <= value <= high + far)


def stands_still(difference: float, uncertainty: float, retail: Sequence[float]) -> bool:
    """Whether two photographs of one place, brushed or lit two ways, read the same where retail's differ.

    The difference may be put down to its own uncertainty, no verified pair's may. Never with nothing known or without
    an uncertainty.

    >>> stands_still(0.4, 0.6, [11.8, 12.1]), stands_still(0.4, 0.6, [1.0, 12.1])
    (True, False)
    """
    far = OUTSIDE * uncertainty
    return bool(retail) and far > 0 and abs(difference) <= far and min(abs(one) for one in retail) > 2 * far

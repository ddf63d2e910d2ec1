"""How well somebody tells two things apart, how sure they say they are, and how sure one may be of a rate."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.special import betaincinv, ndtri

Z95 = 1.959963984540054


@dataclass(frozen=True, slots=True)
class Detection:
    """Signal detection: the distance of two bells, and where the line is drawn between them."""

    d_prime: float
    criterion: float
    """Negative: says the signal is there too easily."""


def detection(hits: int, signals: int, false_alarms: int, noises: int) -> Detection | None:
    """From counts, log-linear: half an answer is added to each cell, one to each sum, so that d′ is never infinite.

    Hautus, Behavior Research Methods, Instruments & Computers 27 (1995). None where one of the two was never shown.

    >>> found = detection(8, 10, 2, 10)
    >>> round(found.d_prime, 3), round(found.criterion, 3)
    (1.496, 0.0)
    """
    if not signals or not noises:
        return None
    hit, alarm = (hits + 0.5) / (signals + 1), (false_alarms + 0.5) / (noises + 1)
    return Detection(*of_rates(hit, alarm))


def of_rates(hit: float, false_alarm: float) -> tuple[float, float]:
    """d′ and criterion of two rates within (0, 1): normal quantiles (Green & Swets 1966).

    >>> [round(one, 3) for one in of_rates(0.8, 0.2)]
    [1.683, 0.0]
    """
    ours, theirs = ndtri(hit), ndtri(false_alarm)
    return float(ours - theirs), round(float(-(ours + theirs) / 2), 12) + 0.0


def brier(said: Sequence[float], so: Sequence[int]) -> float:
    """Mean squared distance of what was said (a probability) from what was so (Brier 1950): 0 is perfect."""
    return math.fsum((p - y) ** 2 for p, y in zip(said, so, strict=True)) / len(said)


def reliability(said: Sequence[float], so: Sequence[int]) -> list[tuple[float, float, int]]:
    """(what was said, how often it was so, how many) for every probability that was said, rising."""
    return [
        (p, sum(y for q, y in zip(said, so, strict=True) if q == p) / (many := sum(q == p for q in said)), many)
        for p in sorted(set(said))
    ]


def wilson(times: int, of: int, z: float = Z95) -> tuple[float, float]:
    """The score interval of a share (Wilson 1927); (0, 1) of nothing.

    >>> [round(one, 4) for one in wilson(1, 10)]
    [0.0179, 0.4042]
    """
    if not of:
        return 0.0, 1.0
    share, more = times / of, z * z / of
    middle = (share + more / 2) / (1 + more)
    half = z * math.sqrt(share * (1 - share) / of + more / (4 * of)) / (1 + more)
    return max(0.0, middle - half), min(1.0, middle + half)


def jeffreys(times: int, of: int, level: float = 0.95) -> tuple[float, float]:
    """The interval of a share by Jeffreys' prior (Brown, Cai & DasGupta 2001): 0 and 1 at the ends."""
    tail = (1 - level) / 2
    low = 0.0 if times == 0 else float(betaincinv(times + 0.5, of - times + 0.5, tail))
    high = 1.0 if times == of else float(betaincinv(times + 0.5, of - times + 0.5, 1 - tail))
    return low, high

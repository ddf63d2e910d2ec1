"""A weight of evidence in words.

ENFSI Guideline for Evaluative Reporting in Forensic Science, version 3.0 (2015), example scale: from memory, not
checked against the print. A ratio on a boundary takes the stronger word; under 2 it supports neither.
"""

import math

SCALE = (
    (2, "weak support"),
    (10, "moderate support"),
    (100, "moderately strong support"),
    (1_000, "strong support"),
    (10_000, "very strong support"),
    (1_000_000, "extremely strong support"),
)
NEITHER = "no support either way"
MOST_TOLD = 60.0
"""Decibans beyond which a number is not told: a million to one is more than any shop can know of its own shoes."""


def in_words(decibans: float) -> str:
    """The scale's words for a weight, whichever way it points. Raises ValueError on what is no number.

    >>> in_words(0.0), in_words(-13.0), in_words(61.0)
    ('no support either way', 'moderate support', 'extremely strong support')
    """
    if not math.isfinite(decibans):
        raise ValueError("a weight is a finite number")
    ratio = 10 ** (min(abs(decibans), 100.0) / 10) * (1 + 1e-9)
    return next((words for least, words in reversed(SCALE) if ratio >= least), NEITHER)

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
LEAST_TOLD = 1.0
"""Decibans below which neither is said to be likelier."""
TELL_TENTHS_UNDER, TWO_FIGURES_UNDER = 10, 100
MOST_TOLD = 60.0
"""Decibans beyond which a number is not told: a million to one is more than any shop can know of its own shoes."""


def propositions(decibans: float) -> str:
    """Both propositions and how many times likelier one makes the evidence than the other: never how probable either
    is. Raises ValueError on what is no number.

    >>> propositions(13.0)[:65]
    'The evidence is about 20 times likelier if this is a retail pair '
    >>> propositions(0.5)[:30]
    'The evidence is about as likel'
    """
    if not math.isfinite(decibans):
        raise ValueError("a weight is a finite number")
    retail, copy = "if this is a retail pair of this release", "if it is a copy such as this shop knows"
    if abs(decibans) < LEAST_TOLD:
        return f"The evidence is about as likely {retail} as {copy}."
    if decibans < 0:
        retail, copy = "if this is a copy such as this shop knows", "if it is a retail pair of this release"
    if abs(decibans) > MOST_TOLD:
        return f"The evidence is more than a million times likelier {retail} than {copy}."
    return f"The evidence is about {_rounded(10 ** (abs(decibans) / 10))} times likelier {retail} than {copy}."


def _rounded(ratio: float) -> str:
    """One figure, two below 100: the ratio is not known better."""
    figures = 1 if ratio >= TWO_FIGURES_UNDER or ratio < TELL_TENTHS_UNDER else 2
    rounded = (
        round(ratio, figures - 1 - math.floor(math.log10(ratio))) if ratio >= TELL_TENTHS_UNDER else round(ratio, 1)
    )
    return f"{rounded:,.1f}" if rounded < TELL_TENTHS_UNDER else f"{rounded:,.0f}"


def in_words(decibans: float) -> str:
    """The scale's words for a weight, whichever way it points. Raises ValueError on what is no number.

    >>> in_words(0.0), in_words(-13.0), in_words(61.0)
    ('no support either way', 'moderate support', 'extremely strong support')
    """
    if not math.isfinite(decibans):
        raise ValueError("a weight is a finite number")
    ratio = 10 ** (min(abs(decibans), 100.0) / 10) * (1 + 1e-9)
    return next((words for least, words in reversed(SCALE) if ratio >= least), NEITHER)

"""Prior odds of retail against copy: the shop's own share of copies, and what is known of the deal.

They are no evidence of the pair, so they stand beside the weight and are never in it.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from assay.errors import CannotJudge

SHARE = (1.0, 4.0)
"""Beta: copies and retail pairs among what a shop is shown, before it knows better: 1 in 5, worth five cases. Made
up."""
CIRCUMSTANCES = "provenance"
"""The group of checks on the deal, not on the pair: they move the prior odds."""
CAP = 6.0
"""The most that one circumstance moves, decibans. Made up."""


@dataclass(frozen=True, slots=True)
class PriorOdds:
    """Decibans of retail against copy before anything is looked at."""

    share: float
    """Mean share of copies."""
    named: tuple[tuple[str, float], ...]
    """Name and decibans of every adjustment."""
    cases: int = 0
    """Cases of known end that the share is learned from."""

    @property
    def decibans(self) -> float:
        """All of it.

        >>> round(PriorOdds(0.2, (("price", -3.0),)).decibans, 2)
        3.02
        """
        return 10 * math.log10((1 - self.share) / self.share) + math.fsum(moved for _, moved in self.named)

    def after(self, weight: float) -> float:
        """Probability of retail once a weight of evidence, decibans, is added (Bayes' theorem in odds).

        >>> round(PriorOdds(0.5, ()).after(10.0), 4)
        0.9091
        """
        return 1 / (1 + 10 ** (-max(-300.0, min(300.0, self.decibans + weight)) / 10))


def prior_odds(
    copies: int = 0,
    retail: int = 0,
    circumstances: Sequence[tuple[str, Mapping[str, float], Mapping[str, float], str]] = (),
) -> PriorOdds:
    """Prior odds from a shop's closed cases and the circumstances of one.

    ``copies``, ``retail``: outcomes that the shop knows. ``circumstances``: name, how often retail and copies come
    with every answer, the answer. Each moves by 10·log10 of the ratio, at most ``CAP`` either way.
    Raises CannotJudge ``no_such_answer``.

    >>> prior_odds().share
    0.2
    """
    a, b = SHARE
    named = []
    for name, ours, theirs, answer in circumstances:
        if not ours.get(answer) or not theirs.get(answer):
            raise CannotJudge("no_such_answer", answer=answer)
        named.append((name, max(-CAP, min(CAP, 10 * math.log10(ours[answer] / theirs[answer])))))
    return PriorOdds((a + copies) / (a + b + copies + retail), tuple(named), copies + retail)

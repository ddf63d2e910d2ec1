"""What a verdict rests on: the total under other values of what is assumed, and the verdict where one of them turns it.

Nobody has measured how many copies are nearly perfect, how wide their faults scatter or what a check may say at most
(``assumptions``). A total that lies beyond a threshold only with one of these figures settles nothing: the verdict is
then undecided, and says on which figure it hangs. Each is moved by itself, by a factor of two; a retail pair is left
out where three or more taught the check. One-at-a-time sensitivity: Saltelli et al., Global Sensitivity Analysis: The
Primer, 2008, chapter 1; it shows no interactions.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from assay.judge import assumptions
from assay.judge.assumptions import CopyLevel
from assay.judge.evidence import EvidenceItem
from assay.judge.rules import GradedItem, Policy, RuleAnswer, Verdict, organisation_verdict
from assay.judge.weigh import Balance, weigh

FACTOR = 2.0
FEWEST_RETAIL = 3
BY_WEIGHT = ("weighs_for_fake", "weighs_for_retail", "clean_and_covered")
"""Reasons of answers that rest on the total."""


@dataclass(frozen=True, slots=True)
class Alternative:
    """The total under one other assumption."""

    key: str
    """``perfect_more``, ``perfect_fewer``, ``no_batches``, ``faults_wider``, ``faults_narrower``, ``caps_lower`` or
    ``less_retail``."""
    total: float
    """Decibans."""
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Range:
    """A total with its range."""

    total: float
    alternatives: tuple[Alternative, ...]
    hangs_on: str = ""
    """The alternative that turns the verdict, the one that moves the total most; empty: none does."""

    @property
    def low(self) -> float:
        """The least total, decibans."""
        return min((self.total, *(one.total for one in self.alternatives)))

    @property
    def high(self) -> float:
        """The greatest total, decibans."""
        return max((self.total, *(one.total for one in self.alternatives)))


def _levels(factor: float) -> dict[CopyLevel, float]:
    """Shares of copies by how well they are made, the nearly perfect ones so many times as many."""
    near = assumptions.SHARE_OF_LEVEL[CopyLevel.NEARLY_PERFECT] * factor
    rest = 1 - assumptions.SHARE_OF_LEVEL[CopyLevel.NEARLY_PERFECT]
    others = {level: share * (1 - near) / rest for level, share in assumptions.SHARE_OF_LEVEL.items()}
    return others | {CopyLevel.NEARLY_PERFECT: near}


def _wider(factor: float) -> Callable[[EvidenceItem], EvidenceItem]:
    return lambda sign: replace(sign, wider=max(assumptions.LEAST_WIDER, sign.wider * factor))


def _lower_caps(sign: EvidenceItem) -> EvidenceItem:
    return replace(sign, cap_for=sign.cap_for / FACTOR, cap_against=sign.cap_against / FACTOR)


def _less_retail(sign: EvidenceItem) -> EvidenceItem:
    """Without the first pair, where enough others teach the check."""
    if len(sign.retail) < FEWEST_RETAIL:
        return sign
    return replace(sign, retail=list(sign.retail)[1:], retail_uncertainty=tuple(sign.retail_uncertainty)[1:])


OTHERWISE: dict[str, tuple[Callable[[EvidenceItem], EvidenceItem], Mapping[CopyLevel, float] | None]] = {
    "perfect_more": (lambda sign: sign, _levels(FACTOR)),
    "perfect_fewer": (lambda sign: sign, _levels(1 / FACTOR)),
    "no_batches": (lambda sign: replace(sign, batches={}), None),
    "faults_wider": (_wider(FACTOR), None),
    "faults_narrower": (_wider(1 / FACTOR), None),
    "caps_lower": (_lower_caps, None),
    "less_retail": (_less_retail, None),
}


def range_of(signs: Sequence[EvidenceItem], items: Sequence[GradedItem], policy: Policy, balance: Balance) -> Range:
    """The total's range and what the verdict hangs on. ``signs``: as they were weighed; ``items``: the sheet with its
    weights; ``balance``: what the signs came to."""
    now = organisation_verdict(items, policy).verdict
    found = []
    for key, (changed, levels) in OTHERWISE.items():
        again = weigh([changed(sign) for sign in signs], levels=levels)
        pieces = {one.key: one.piece for one in again.pieces}
        sheet = [replace(one, weight=pieces.get(one.key, one.weight)) for one in items]
        found.append(Alternative(key, again.total, organisation_verdict(sheet, policy).verdict))
    turning = [one for one in found if one.verdict is not now]
    worst = max(turning, key=lambda one: abs(one.total - balance.total), default=None)
    return Range(balance.total, tuple(found), worst.key if worst else "")


def robust_verdict(
    signs: Sequence[EvidenceItem], items: Sequence[GradedItem], policy: Policy, balance: Balance
) -> tuple[RuleAnswer, Range | None]:
    """The rule's answer, undecided where it hangs on one assumed figure; and the range, where the answer rests on the
    total."""
    answer = organisation_verdict(items, policy)
    if answer.reason not in BY_WEIGHT or policy.school != "weighs_everything":
        return answer, None
    spread = range_of(signs, items, policy, balance)
    if spread.hangs_on:
        return replace(answer, verdict=Verdict.UNDECIDED, reason="hangs_on_assumption"), spread
    return answer, spread

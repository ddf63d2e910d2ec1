"""What a verdict rests on: the total under other values of what is assumed, and the verdict where one of them turns it.

Nobody has measured how many copies are nearly perfect, how wide their faults scatter or what a check may say at most
(``assumptions``). A total that lies beyond a threshold only with one of these figures settles nothing: the verdict is
then undecided, and says on which figure it hangs. Each is moved by itself, by a factor of two; a retail pair is left
out where three or more taught the check. One-at-a-time sensitivity: Saltelli et al., Global Sensitivity Analysis: The
Primer, 2008, chapter 1; it shows no interactions.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from assay.judge import assumptions
from assay.judge.common_causes import Densities
from assay.judge.evidence import EvidenceItem
from assay.judge.judgement import Kind
from assay.judge.rules import GradedItem, Policy, RuleAnswer, Verdict, organisation_verdict
from assay.judge.weigh import Balance, weigh

FACTOR = 2.0
FEWEST_RETAIL = 3
MOST_SHARE = 0.5
"""No more than half of all copies are taken for nearly perfect, whatever is tried."""
BISECTIONS = 5
BY_WEIGHT = ("weighs_for_fake", "weighs_for_retail", "clean_and_covered")
"""Reasons of answers that rest on the total."""


@dataclass(frozen=True, slots=True)
class Alternative:
    """The total under one other assumption."""

    key: str
    """One of ``OTHERWISE``."""
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
    turns_at: float | None = None
    """Where that is the share of nearly perfect copies: the share at which the verdict turns."""

    @property
    def low(self) -> float:
        """The least total, decibans."""
        return min((self.total, *(alternative.total for alternative in self.alternatives)))

    @property
    def high(self) -> float:
        """The greatest total, decibans."""
        return max((self.total, *(alternative.total for alternative in self.alternatives)))


def _as_it_is(sign: EvidenceItem) -> EvidenceItem:
    return sign


def _wider(factor: float) -> Callable[[EvidenceItem], EvidenceItem]:
    def changed(sign: EvidenceItem) -> EvidenceItem:
        if sign.kind is not Kind.CONTINUOUS:
            return sign
        return replace(sign, wider=max(assumptions.LEAST_WIDER, sign.wider * factor))

    return changed


def _lower_caps(sign: EvidenceItem) -> EvidenceItem:
    return replace(sign, cap_for=sign.cap_for / FACTOR, cap_against=sign.cap_against / FACTOR)


def _less_retail(sign: EvidenceItem) -> EvidenceItem:
    """Without the first pair, where enough others teach the check."""
    if len(sign.retail) < FEWEST_RETAIL:
        return sign
    return replace(sign, retail=list(sign.retail)[1:], retail_uncertainty=tuple(sign.retail_uncertainty)[1:])


def _oddities(factor: float) -> Callable[[EvidenceItem], EvidenceItem]:
    """Odd retail pairs so many times as often; never more often than every second."""

    def changed(sign: EvidenceItem) -> EvidenceItem:
        if sign.kind not in (Kind.COUNT, Kind.ANSWER):
            return sign
        rare, all_rare = sign.prior.rare, math.fsum(sign.prior.rare.values())
        by = min(factor, max(1.0, MOST_SHARE / all_rare)) if all_rare else factor
        oftener = {answer: share * by for answer, share in rare.items()}
        off_by_one = min(MOST_SHARE / 2, sign.prior.off_by_one * factor)
        return replace(sign, prior=replace(sign.prior, off_by_one=off_by_one, rare=oftener))

    return changed


def _scales_worse(sign: EvidenceItem) -> EvidenceItem:
    """The photograph's scale twice as unsure as it claims."""
    if sign.scale is None:
        return sign
    part = sign.scale.moves * sign.scale.uncertainty
    own = math.sqrt(sign.uncertainty**2 + (FACTOR**2 - 1) * part**2)
    return replace(sign, uncertainty=own, scale=replace(sign.scale, uncertainty=FACTOR * sign.scale.uncertainty))


OTHERWISE: dict[str, tuple[Callable[[EvidenceItem], EvidenceItem], float]] = {
    "perfect_more": (_as_it_is, FACTOR),
    "perfect_fewer": (_as_it_is, 1 / FACTOR),
    "no_batches": (lambda sign: replace(sign, batches={}), 1.0),
    "faults_wider": (_wider(FACTOR), 1.0),
    "faults_narrower": (_wider(1 / FACTOR), 1.0),
    "caps_lower": (_lower_caps, 1.0),
    "less_retail": (_less_retail, 1.0),
    "oddities_more": (_oddities(FACTOR), 1.0),
    "oddities_fewer": (_oddities(1 / FACTOR), 1.0),
    "scales_worse": (_scales_worse, 1.0),
}
"""How a finding changes, and by which factor the share of nearly perfect copies."""


def range_of(signs: Sequence[EvidenceItem], items: Sequence[GradedItem], policy: Policy, balance: Balance) -> Range:
    """The total's range and what the verdict hangs on. ``signs``: as they were weighed; ``items``: the sheet with its
    weights; ``balance``: what the signs came to."""
    now = organisation_verdict(items, policy).verdict
    found = []
    for key, (changed, factor) in OTHERWISE.items():
        otherwise, share = [changed(sign) for sign in signs], policy.near_perfect * factor
        total, verdict = _under(otherwise, items, policy, share, balance.densities)
        found.append(Alternative(key, total, verdict))
    turning = [one for one in found if one.verdict is not now]
    worst = max(turning, key=lambda one: abs(one.total - balance.total), default=None)
    return Range(balance.total, tuple(found), worst.key if worst else "")


def turning_share(
    signs: Sequence[EvidenceItem], items: Sequence[GradedItem], policy: Policy, balance: Balance, spread: Range
) -> float | None:
    """The share of nearly perfect copies at which the verdict turns, where it hangs on that; to a few hundredths of
    itself, by bisection. None where it hangs on something else."""
    factor = OTHERWISE[spread.hangs_on][1] if spread.hangs_on else 1.0
    if factor == 1.0:
        return None
    now = organisation_verdict(items, policy).verdict
    same, other = policy.near_perfect, min(MOST_SHARE, policy.near_perfect * factor)
    for _ in range(BISECTIONS):
        between = math.sqrt(same * other)
        _, verdict = _under(signs, items, policy, between, balance.densities)
        same, other = (between, other) if verdict is now else (same, between)
    return math.sqrt(same * other)


def _under(
    signs: Sequence[EvidenceItem],
    items: Sequence[GradedItem],
    policy: Policy,
    near_perfect: float,
    known: Densities | None,
) -> tuple[float, Verdict]:
    """Total and verdict where so many copies are nearly perfect."""
    again = weigh(signs, levels=assumptions.shares_of_levels(min(MOST_SHARE, near_perfect)), known=known)
    pieces = {piece.key: piece.piece for piece in again.pieces}
    sheet = [replace(item, weight=pieces.get(item.key, item.weight)) for item in items]
    return again.total, organisation_verdict(sheet, policy).verdict


def robust_verdict(
    signs: Sequence[EvidenceItem], items: Sequence[GradedItem], policy: Policy, balance: Balance
) -> tuple[RuleAnswer, Range | None]:
    """The rule's answer, undecided where it hangs on one assumed figure; and the range, where the answer rests on the
    total."""
    answer = organisation_verdict(items, policy)
    if answer.reason not in BY_WEIGHT or policy.decision_rule != "weighs_everything":
        return answer, None
    spread = range_of(signs, items, policy, balance)
    if spread.hangs_on:
        spread = replace(spread, turns_at=turning_share(signs, items, policy, balance, spread))
        return replace(answer, verdict=Verdict.UNDECIDED, reason="hangs_on_assumption"), spread
    return answer, spread

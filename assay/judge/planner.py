"""Which check to do next, whether any can still turn the verdict, and the least that would settle it.

A check is worth the expected information of its reading about retail or copy (mutual information: Lindley, On a measure
of the information provided by an experiment, 1956), given all that is known, a minute. What a reading may say is taken
from retail's predictive and from that of every copy there may be, by the weight that each has by now; it counts as far
as its cap and its place in its group let it.
"""

import math
from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

import numpy as np

from assay.errors import CannotJudge
from assay.judge.assumptions import FALLING
from assay.judge.copy_model import copy_density
from assay.judge.evidence import EvidenceItem, caps, density
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, spread_of
from assay.judge.rules import GradedItem, Policy, RuleAnswer, Verdict, coverage
from assay.judge.weigh import Balance

DecisionRule: TypeAlias = Callable[[Sequence[GradedItem], Policy], RuleAnswer]

NODES = np.sinh(np.linspace(-6.5, 6.5, 121))
"""Where a length may lie, in scales from a centre: dense near it, out to 330 scales."""
COUNT_REACH = 6
LEAST_SHARE = 1e-12
"""Outcomes less likely than this bring nothing to an expectation."""
TURN_CHANCE = 0.01
"""A verdict that turns less often than this is called settled."""


@dataclass(frozen=True, slots=True)
class Worth:
    """What a check may bring."""

    key: str
    group: str
    bits: float
    """Expected information about retail or copy."""
    minutes: float
    if_retail: float
    """Decibans that it brings on average where the pair is retail, and, below, where it is a copy; their variances."""
    if_copy: float
    spread_retail: float
    spread_copy: float
    best: float
    """The most that it may bring, decibans, and the least."""
    worst: float

    @property
    def rate(self) -> float:
        """Bits a minute."""
        return self.bits / self.minutes


@dataclass(frozen=True, slots=True)
class Plan:
    """What to do next."""

    worths: tuple[Worth, ...]
    """By bits a minute, the best first."""
    cannot_turn: bool
    """Nothing left can turn the verdict, whatever it reads: proven by what every open check may weigh at most. Never
    said before enough was compared, unless a sure sign rules the pair out."""
    is_covered: bool
    """As much was compared as a verdict asks."""
    chance: float
    """Probability that the checks left turn it, where it can be turned."""
    settling: tuple[str, ...]
    """For undecided: the fewest minutes of checks after which it is expected to be settled; empty where none does."""
    minutes: float

    @property
    def settled(self) -> bool:
        """Whether to stop."""
        return self.cannot_turn or (self.is_covered and self.chance < TURN_CHANCE)


def worth(sign: EvidenceItem, copies: Mapping[str, float], retail: float, *, before: int = 0) -> Worth:
    """What an unread check may bring. ``sign``: without value; ``copies``: probability of every copy given a copy;
    ``retail``: probability of retail; ``before``: findings of its group that count already. Raises CannotJudge.

    >>> from assay.judge.judgement import Prior
    >>> prior = Prior(2, off_by_one=0.002)
    >>> holes = EvidenceItem(key="h", group="h", kind=Kind.COUNT, value=None, retail=[7, 7], prior=prior)
    >>> round(worth(holes, {"unknown, middling": 1.0}, 0.5).bits, 2)
    0.11
    """
    ours, theirs, width = _outcomes(sign, copies)
    up, down = caps(sign)
    factor = FALLING**before
    ours, theirs = (part * width / (part * width).sum() for part in (ours, theirs))
    ratio = 10 * np.log10(np.maximum(ours, LEAST_SHARE) / np.maximum(theirs, LEAST_SHARE))
    weight = factor * np.clip(ratio, -down, up)
    nats = weight * math.log(10) / 10
    bits = (retail * (ours * -np.log2(retail + (1 - retail) * np.exp(-nats))).sum()) + (
        (1 - retail) * (theirs * -np.log2(1 - retail + retail * np.exp(nats))).sum()
    )
    means = [float((part * weight).sum()) for part in (ours, theirs)]
    spreads = [float((part * (weight - mean) ** 2).sum()) for part, mean in zip((ours, theirs), means, strict=True)]
    seen = (ours > 1e-9) | (theirs > 1e-9)
    reach = float(weight[seen].max()), float(weight[seen].min())
    return Worth(
        sign.key,
        sign.group,
        max(0.0, float(bits)),
        sign.minutes,
        if_retail=means[0],
        if_copy=means[1],
        spread_retail=spreads[0],
        spread_copy=spreads[1],
        best=reach[0],
        worst=reach[1],
    )


def _outcomes(sign: EvidenceItem, copies: Mapping[str, float]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """p(reading | retail) and p(reading | copy) over what may be read, and how much room each takes."""
    likely = {name: share for name, share in copies.items() if share > 1e-6}
    if sign.kind is Kind.CONTINUOUS:
        own = spread_of(sign.kind, sign.retail, sign.prior, sign.uncertainty, sign.retail_uncertainty)
        grids = [own.centre + own.scale * NODES]
        for name in likely:
            if name in sign.batches:
                belief = replace(sign.prior, compares=False)
                theirs = spread_of(sign.kind, sign.batches[name], belief, sign.uncertainty)
                grids.append(theirs.centre + theirs.scale * NODES)
        at = np.unique(np.concatenate(grids))
        if own.magnitude:
            # Nearer to retail than retail pairs are to each other reads like their middle, and takes no room.
            at = at[at >= own.centre]
        width = np.gradient(at)
        return density(sign, at), sum(share * copy_density(sign, name, at) for name, share in likely.items()), width
    if sign.kind is Kind.PAPER:
        outcomes: list[Any] = [1.0, 0.002]
    elif sign.kind is Kind.ANSWER:
        outcomes = list(sign.prior.possible or dict.fromkeys(sign.retail))
    else:
        usual = spread_of(sign.kind, sign.retail, sign.prior, 0.0, sign.retail_uncertainty).expected
        outcomes = [n for n in range(usual - COUNT_REACH, usual + COUNT_REACH + 1) if n >= 0]
    ours = np.array([density(sign, outcome) for outcome in outcomes], float)
    theirs = np.array(
        [sum(share * copy_density(sign, name, outcome) for name, share in likely.items()) for outcome in outcomes],
        float,
    )
    return ours, theirs, np.ones(len(outcomes))


def plan(  # noqa: PLR0913 - what a case is
    unread: Sequence[EvidenceItem],
    items: Sequence[GradedItem],
    balance: Balance,
    policy: Policy,
    rule: DecisionRule,
    *,
    prior: float = 0.0,
    decisive: Set[str] = frozenset(),
    open_bounds: Mapping[str, tuple[float, float]] | None = None,
    settle: bool = True,
) -> Plan:
    """Plan the checks that nobody has done.

    ``unread``: signs without a value; ``items``: every finding of the case as the decision rules take it, the unread
    ones among them; ``rule``: the organisation's; ``prior``: prior odds, decibans; ``decisive``: keys of checks that
    rule a pair out. ``open_bounds``: by key the most that a check may still weigh for retail and against, decibans, of
    all that is not compared and might be, also where a photograph or a tool is missing; without it that of ``unread``.
    ``settle``: whether to work out what would settle it, which takes as long as all the rest.
    """
    counted: dict[str, int] = {}
    for piece in balance.pieces:
        counted[piece.group] = counted.get(piece.group, 0) + 1
    retail = 1 / (1 + 10 ** (-max(-300.0, min(300.0, balance.total + prior)) / 10))
    worths = []
    for sign in unread:
        try:
            worths.append(worth(sign, balance.copies, retail, before=counted.get(sign.group, 0)))
        except CannotJudge:
            continue
    worths.sort(key=lambda one: (-one.rate, one.key))
    now = rule(items, policy).verdict
    settling, minutes = _settling(worths, items, policy, rule, now) if settle else ((), 0.0)
    bounds = open_bounds if open_bounds is not None else {sign.key: caps(sign) for sign in unread}
    is_covered = coverage(items) >= policy.coverage
    is_ruled_out = any(item.applies and item.grade is Grade.RULES_OUT for item in items)
    return Plan(
        tuple(worths),
        (is_covered or is_ruled_out) and _cannot_turn(items, policy, rule, bounds, decisive, now),
        is_covered,
        _chance(worths, balance, policy, now, retail),
        settling,
        minutes,
    )


def _supposed(items: Sequence[GradedItem], weights: Mapping[str, float], grade: Grade) -> list[GradedItem]:
    """The sheet with these checks done: each weighs so much and has this grade."""
    return [replace(item, grade=grade, weight=weights[item.key]) if item.key in weights else item for item in items]


def _cannot_turn(
    items: Sequence[GradedItem],
    policy: Policy,
    rule: DecisionRule,
    bounds: Mapping[str, tuple[float, float]],
    decisive: Set[str],
    now: Verdict,
) -> bool:
    """Whether neither the best nor the worst that all open checks may read gives another verdict.

    A finding moves the total by no more than its cap: the total is a mixture over copies of sums of capped terms, and
    lies between the smallest and the largest of them. A flag that waits for an eye may be confirmed or taken back.
    """
    waiting = {item.key for item in items if item.pending}
    best = _supposed(items, {key: up for key, (up, _) in bounds.items()} | dict.fromkeys(waiting, 0.0), Grade.AGREES)
    worst = _supposed(items, {key: -down for key, (_, down) in bounds.items()}, Grade.DEPARTS)
    worst = _supposed(worst, {key: -down for key, (_, down) in bounds.items() if key in decisive}, Grade.RULES_OUT)
    worst = [replace(one, confirmed=True) if one.key in bounds else one for one in worst]
    flagged = [replace(one, pending=False, confirmed=True) if one.pending else one for one in worst]
    quiet = [replace(one, pending=False) for one in best]
    return all(rule(sheet, policy).verdict is now for sheet in (best, quiet, worst, flagged))


def _chance(worths: Sequence[Worth], balance: Balance, policy: Policy, now: Verdict, retail: float) -> float:
    """Probability that the total ends beyond the thresholds that the verdict now rests on, taking the sum of what is
    left for normal."""
    if not worths:
        return 0.0
    found = 0.0
    for share, means, spreads in (
        (retail, [one.if_retail for one in worths], [one.spread_retail for one in worths]),
        (1 - retail, [one.if_copy for one in worths], [one.spread_copy for one in worths]),
    ):
        mean, sd = balance.total + math.fsum(means), math.sqrt(max(math.fsum(spreads), 1e-9))
        over = 0.5 * math.erfc((policy.legit_from - mean) / sd / math.sqrt(2))
        under = 0.5 * math.erfc((mean - policy.fake_from) / sd / math.sqrt(2))
        turns = {Verdict.LEGIT: 1 - over, Verdict.FAKE: 1 - under, Verdict.UNDECIDED: over + under}[now]
        found += share * turns
    return min(1.0, found)


def _settling(
    worths: Sequence[Worth], items: Sequence[GradedItem], policy: Policy, rule: DecisionRule, now: Verdict
) -> tuple[tuple[str, ...], float]:
    """Checks, the musts first, then by bits a minute, until retail is expected to end as legit and a copy as fake;
    those that it ends without as well are struck out again."""
    if now is not Verdict.UNDECIDED or not worths:
        return (), 0.0
    must = {item.key for item in items if item.mandatory}
    ordered = sorted(worths, key=lambda one: (one.key not in must, -one.rate, one.key))

    def settled(taken: Sequence[Worth]) -> bool:
        ours = _supposed(items, {one.key: one.if_retail for one in taken}, Grade.AGREES)
        theirs = _supposed(items, {one.key: one.if_copy for one in taken}, Grade.AGREES)
        return rule(ours, policy).verdict is Verdict.LEGIT or rule(theirs, policy).verdict is Verdict.FAKE

    taken: list[Worth] = []
    for one in ordered:
        taken.append(one)
        if settled(taken):
            break
    else:
        return (), 0.0
    for one in sorted(taken, key=lambda one: (one.rate, -one.minutes)):
        less = [other for other in taken if other is not one]
        if less and settled(less):
            taken = less
    return tuple(one.key for one in taken), math.fsum(one.minutes for one in taken)

"""What the decision rules say to the same findings.

A decision rule is a function ``(findings, policy) -> Answer``. ``DECISION_RULES`` lists them in the order shown;
a further one joins that list. The shop follows one, ``Policy.decision_rule``; the others are shown beside it.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from assay.errors import CannotJudge
from assay.judge import assumptions
from assay.judge.assumptions import CopyLevel
from assay.judge.grade import RED_FLAGS, Grade


class Verdict(StrEnum):
    """The three answers."""

    LEGIT = "legit"
    FAKE = "fake"
    UNDECIDED = "undecided"


class Ultraviolet(StrEnum):
    """What a shop makes of what glows under the lamp. Common practice, no source."""

    FOUND_COUNTS = "found_counts"
    """Lines and stamps speak against a pair, none found says nothing: they wash off."""
    DIRTY_IS_FAKE = "dirty_is_fake"
    """Any of them, confirmed, rules a pair out; none found is a good sign."""


FAKE_COVERAGE = 0.15
"""Share of the applicable groups that must have been compared before weight alone says fake: what accuses somebody
rests on more than a look at the box. Assumed."""
FEWEST_SIGNS = 2
"""Independent signs against a pair without which weight alone says fake only where one was confirmed by eye."""
FEWEST_PAIRS = 3
"""Verified pairs that most of what was compared rests on before a clean sheet says legit: two do not show how pairs
scatter, and a fair copy then raises no flag either. Rendered shoes of other making."""
FURTHEST_DECIBANS = 100.0
"""Thresholds lie within a likelihood ratio of ten thousand millions: beyond it no verdict would ever be reached."""
MOST_FLAGS = 9
LEAST_NEAR_PERFECT = 0.001
"""Fewer nearly perfect copies than this nobody can know of: agreeing would say more than it ever can."""
MOST_NEAR_PERFECT = 0.3
"""From more on agreeing says nothing that a verdict could rest on."""


@dataclass(frozen=True, slots=True)
class Policy:
    """What a shop asks before it decides."""

    red_flags: int = 3
    """Independent red flags before a pair is called fake. Common practice, no source: three, strict shops four."""
    coverage: float = 0.6
    """Share of the applicable groups that must have been compared before a pair is called legit."""
    legit_from: float = 13.0
    """Decibans for retail from which weighing says legit; odds of 20 to 1."""
    fake_from: float = -20.0
    """Decibans from which it says fake: accusing needs more, odds of 100 to 1."""
    decision_rule: str = "weighs_everything"
    """Which of ``DECISION_RULES`` the shop follows."""
    near_perfect: float = assumptions.SHARE_OF_LEVEL[CopyLevel.NEARLY_PERFECT]
    """Share of unknown copies that get nearly all right, as the shop believes: it bounds what agreeing may say."""

    def checked(self) -> "Policy":
        """Itself. Raises CannotJudge ``thresholds_cross`` unless fake < 0 < legit, ``threshold_too_far``,
        ``bad_coverage``, ``bad_flags``, ``no_such_rule``, ``bad_near_perfect``."""
        thresholds = (self.legit_from, self.fake_from)
        if not all(map(math.isfinite, thresholds)) or not self.fake_from < 0 < self.legit_from:
            raise CannotJudge("thresholds_cross", legit_from=self.legit_from, fake_from=self.fake_from)
        if max(map(abs, thresholds)) > FURTHEST_DECIBANS:
            raise CannotJudge("threshold_too_far", most=round(FURTHEST_DECIBANS))
        if not 0 <= self.coverage <= 1:
            raise CannotJudge("bad_coverage", got=self.coverage)
        if not 1 <= self.red_flags <= MOST_FLAGS:
            raise CannotJudge("bad_flags", got=self.red_flags)
        if self.decision_rule not in RULES:
            raise CannotJudge("no_such_rule", rule=self.decision_rule)
        if not LEAST_NEAR_PERFECT <= self.near_perfect <= MOST_NEAR_PERFECT:
            raise CannotJudge("bad_near_perfect", least=LEAST_NEAR_PERFECT, most=MOST_NEAR_PERFECT)
        return self


@dataclass(frozen=True, slots=True)
class GradedItem:
    """One finding, as far as the decision rules care."""

    key: str
    group: str
    """Checkpoints of one part or one cause: together they raise one flag."""
    grade: Grade
    mandatory: bool = False
    """No legit verdict without it."""
    applies: bool = True
    """False where the pair's facts void the checkpoint: it then counts neither way."""
    noted: bool = False
    """Seen by a person and on no list: it raises a flag, and is no examination that covers anything."""
    weight: float = 0.0
    """Decibans that it moves the balance by: positive speaks for retail."""
    of_shoe: bool = True
    """False for box, label, tag and packing: however clean they are, they make no pair legit."""
    confirmed: bool = False
    """A person looked at what it reads and stands by it."""
    pairs: int | None = None
    """Verified pairs that it was held against; None: it rests on none, as print does."""
    pending: bool = False
    """It departs by what a machine read at a place that nobody has looked at: no flag, and no weight, before somebody
    has."""


@dataclass(frozen=True, slots=True)
class RuleAnswer:
    """What one decision rule says, and what stands in the way of the other answers."""

    rule: str
    """Its key in ``RULES``."""
    verdict: Verdict
    reason: str
    flags: tuple[str, ...]
    """Groups with a red flag."""
    coverage: float
    missing: tuple[str, ...]
    """Keys of mandatory checkpoints not compared yet."""
    pending: tuple[str, ...] = ()
    """Keys of flags that wait for a person's eye."""


def flagged_groups(items: Sequence[GradedItem]) -> tuple[str, ...]:
    """Groups with at least one red flag that counts, each once: signs of one cause are one sign."""
    return tuple(dict.fromkeys(item.group for item in _flags(items)))


def _flags(items: Sequence[GradedItem]) -> list[GradedItem]:
    return [item for item in items if item.applies and item.grade in RED_FLAGS and not item.pending]


def pending_flags(items: Sequence[GradedItem]) -> tuple[str, ...]:
    """Keys of flags that wait for a person's eye."""
    return tuple(item.key for item in items if item.applies and item.pending)


def total_weight(items: Sequence[GradedItem]) -> float:
    """Decibans of all that counts."""
    return math.fsum(item.weight for item in items if item.applies and not item.pending)


def _accuses(items: Sequence[GradedItem]) -> bool:
    """Whether more than one unconfirmed reading speaks against the pair."""
    return len(flagged_groups(items)) >= FEWEST_SIGNS or _is_confirmed(items)


def _is_confirmed(items: Sequence[GradedItem]) -> bool:
    return any(item.confirmed for item in _flags(items))


def coverage(items: Sequence[GradedItem]) -> float:
    """Share of the applicable checkpoints that were compared, each group counting as one.

    >>> grades = {"a": Grade.AGREES, "b": Grade.NOT_COMPARED, "c": Grade.AGREES}
    >>> coverage([GradedItem(key, "h" if key == "c" else "g", grade) for key, grade in grades.items()])
    0.75
    """
    groups: dict[str, list[bool]] = {}
    for item in items:
        if item.applies and not item.noted:
            groups.setdefault(item.group, []).append(item.grade is not Grade.NOT_COMPARED)
    if not groups:
        return 0.0
    return sum(sum(done) / len(done) for done in groups.values()) / len(groups)


def sure_sign(items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    """Fake as soon as one confirmed sign rules the pair out; without one this rule never says fake."""
    ruled_out = [item for item in items if item.applies and item.grade is Grade.RULES_OUT]
    if ruled_out:
        return _answer("sure_sign", Verdict.FAKE, "ruled_out", items)
    return _without_fake("sure_sign", "no_sure_sign", items, policy)


def red_flag_tally(items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    """Fake from ``policy.red_flags`` independent red flags on, of which one alone must be confirmed by eye."""
    if len(flagged_groups(items)) >= policy.red_flags and _accuses(items):
        return _answer("red_flag_tally", Verdict.FAKE, "enough_flags", items)
    return _without_fake("red_flag_tally", "too_few_flags", items, policy)


def weighs_everything(items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    """All that was found, in decibans, against two thresholds.

    A confirmed sure sign still decides. Fake by weight needs a least coverage and two independent signs, or one that a
    person has confirmed. As many flags as make a fake elsewhere bar legit, and so does one that waits for an eye; legit
    needs coverage and its musts.
    """
    name = "weighs_everything"
    if any(item.applies and item.grade is Grade.RULES_OUT for item in items):
        return _answer(name, Verdict.FAKE, "ruled_out", items)
    if not any(item.applies and item.grade is not Grade.NOT_COMPARED for item in items):
        return _answer(name, Verdict.UNDECIDED, "nothing_compared", items)
    total = total_weight(items)
    if total <= policy.fake_from:
        return _fake_by_weight(name, items)
    for bars, reason in (
        (bool(pending_flags(items)), "flags_to_confirm"),
        (total < policy.legit_from, "weighs_too_little"),
        (len(flagged_groups(items)) >= policy.red_flags, "flags_bar_legit"),
    ):
        if bars:
            return _answer(name, Verdict.UNDECIDED, reason, items)
    answer = _covered(name, items, policy)
    flagged = answer.verdict is Verdict.LEGIT and answer.flags
    return replace(answer, reason="weighs_for_retail") if flagged else answer


def _fake_by_weight(name: str, items: Sequence[GradedItem]) -> RuleAnswer:
    """Fake, where a person has confirmed a flag, or where several signs and more than a first look stand behind it."""
    if not _accuses(items):
        return _answer(name, Verdict.UNDECIDED, "fake_needs_an_eye", items)
    if coverage(items) < FAKE_COVERAGE and not _is_confirmed(items):
        return _answer(name, Verdict.UNDECIDED, "fake_needs_coverage", items)
    return _answer(name, Verdict.FAKE, "weighs_for_fake", items)


DECISION_RULES: tuple[Callable[[Sequence[GradedItem], Policy], RuleAnswer], ...] = (
    sure_sign,
    red_flag_tally,
    weighs_everything,
)


RULES = {rule.__name__: rule for rule in DECISION_RULES}


def organisation_verdict(items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    """What the shop's own rule says; a confirmed sure sign decides in every decision rule."""
    sure = sure_sign(items, policy)
    return sure if sure.verdict is Verdict.FAKE else RULES[policy.decision_rule](items, policy)


def _without_fake(rule: str, flags_reason: str, items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    if flagged_groups(items):
        return _answer(rule, Verdict.UNDECIDED, flags_reason, items)
    if pending_flags(items):
        return _answer(rule, Verdict.UNDECIDED, "flags_to_confirm", items)
    return _covered(rule, items, policy)


def _covered(rule: str, items: Sequence[GradedItem], policy: Policy) -> RuleAnswer:
    """Legit, where enough was compared."""
    if coverage([item for item in items if item.of_shoe]) < policy.coverage:
        return _answer(rule, Verdict.UNDECIDED, "shoe_not_examined", items)
    if _missing(items):
        return _answer(rule, Verdict.UNDECIDED, "mandatory_missing", items)
    if coverage(items) < policy.coverage:
        return _answer(rule, Verdict.UNDECIDED, "coverage_short", items)
    if _rests_on_few(items):
        return _answer(rule, Verdict.UNDECIDED, "few_retail_pairs", items)
    return _answer(rule, Verdict.LEGIT, "clean_and_covered", items)


def _rests_on_few(items: Sequence[GradedItem]) -> bool:
    """Whether most of what was compared was held against too few verified pairs to show how they scatter."""
    held = [item.pairs for item in items if item.applies and item.grade is not Grade.NOT_COMPARED and item.pairs]
    return 2 * sum(pairs < FEWEST_PAIRS for pairs in held) > len(held)


def _answer(rule: str, verdict: Verdict, reason: str, items: Sequence[GradedItem]) -> RuleAnswer:
    flags, waiting = flagged_groups(items), pending_flags(items)
    return RuleAnswer(rule, verdict, reason, flags, coverage(items), _missing(items), waiting)


def _missing(items: Sequence[GradedItem]) -> tuple[str, ...]:
    return tuple(item.key for item in items if item.mandatory and item.applies and item.grade is Grade.NOT_COMPARED)

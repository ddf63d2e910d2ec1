"""How deep a case is looked into: which checks a level asks for, in what order, and where triage ends.

A level is chosen from the guide by what each check tells a minute; triage needs about five minutes and nothing but the
pair and its photographs. Raising the level adds checks and never drops one.
"""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from assay.judge.assumptions import FALLING
from assay.judge.rules import Verdict


class Level(StrEnum):
    """Each asks for all that the one before asks for."""

    TRIAGE = "triage"
    STANDARD = "standard"
    FULL = "full"


def next_level(level: Level) -> Level | None:
    """The one that asks for more; None behind the last."""
    return {Level.TRIAGE: Level.STANDARD, Level.STANDARD: Level.FULL}.get(level)


BUDGET_MINUTES = {Level.TRIAGE: 5.0, Level.STANDARD: 15.0}
"""Common practice, no source: a seller waits at the counter for five minutes, not for fifteen."""
SWITCH_MINUTES = 0.5
"""What going to another part takes, such as to open the box or to switch the lamp on. Assumed."""
REQUIRED_BITS = 0.5
"""What a check that legit requires is worth besides its information. Assumed."""
COVERAGE_BITS = 0.1
"""What comparing a whole group is worth as long as too little is compared. Assumed."""


@dataclass(frozen=True, slots=True)
class LevelCheck:
    """One check, as a level is chosen from it."""

    key: str
    group: str
    section: str
    bits: float
    """Expected information about retail or copy, nothing else being known."""
    minutes: float
    is_decisive: bool = False
    is_required: bool = False
    needs_tool: bool = False
    pinned: str = ""
    """The level that a guide writer put it on; empty: by its worth."""


def checks_of(checks: Sequence[LevelCheck], level: Level) -> frozenset[str]:
    """Keys of the checks that a level asks for.

    Pinned checks first, then decisive ones, then those that tell most a minute (a group's second tells half), until the
    level's minutes are used up. Standard asks for what legit requires as well, however long that takes.

    >>> checks = [LevelCheck("a", "g", "box", 0.9, 3), LevelCheck("b", "g", "box", 0.9, 3, is_required=True)]
    >>> [sorted(checks_of(checks, level)) for level in Level]
    [['a'], ['a', 'b'], ['a', 'b']]
    """
    if level is Level.FULL:
        return frozenset(check.key for check in checks)
    taken = _filled(checks, Level.TRIAGE, {check.key for check in checks if check.pinned == Level.TRIAGE})
    if level is Level.STANDARD:
        required = {check.key for check in checks if check.is_required or check.pinned == Level.STANDARD}
        taken = _filled(checks, level, taken | required)
    return frozenset(taken)


def _filled(checks: Sequence[LevelCheck], level: Level, taken: set[str]) -> set[str]:
    """These and the best others that fit into the level's minutes."""
    taken = set(taken)
    left = BUDGET_MINUTES[level] - sum(check.minutes for check in checks if check.key in taken)
    free = [check for check in checks if check.key not in taken and check.bits > 0 and check.pinned in ("", level)]
    if level is Level.TRIAGE:
        free = [one for one in free if not one.needs_tool]
    count = Counter(check.group for check in checks if check.key in taken)
    while free:
        best = max(free, key=lambda one: (one.is_decisive, one.bits * FALLING ** count[one.group] / one.minutes))
        free.remove(best)
        if best.minutes <= left:
            taken.add(best.key)
            left -= best.minutes
            count[best.group] += 1
    return taken


def ordered(checks: Sequence[LevelCheck], done: Mapping[str, int], *, is_covered: bool, section: str = "") -> list[str]:
    """Keys in the order that serves a decision best: worth a minute, going to another part counted.

    ``checks``: those that can be done now; ``done``: how many of each group are compared already; ``is_covered``:
    whether enough is compared; ``section``: where the checker is.

    >>> lamp, dots = LevelCheck("u", "u", "UV", 0.3, 0.5), LevelCheck("v", "v", "UV", 0.1, 0.5)
    >>> box = LevelCheck("b", "b", "box", 0.25, 0.5)
    >>> ordered([box, lamp, dots], {}, is_covered=True, section="UV")
    ['u', 'b', 'v']
    """
    left, count, found = list(checks), Counter(done), []

    def rate(level_check: LevelCheck, here: str) -> float:
        worth = level_check.bits * FALLING ** count[level_check.group] + (
            REQUIRED_BITS if level_check.is_required else 0.0
        )
        if not is_covered:
            worth += COVERAGE_BITS / (1 + count[level_check.group])
        return worth / (level_check.minutes + (0.0 if level_check.section == here else SWITCH_MINUTES))

    while left:
        rates = [rate(one, section) for one in left]
        best = left[rates.index(max(rates))]
        left.remove(best)
        found.append(best.key)
        count[best.group] += 1
        section = best.section
    return found


class TriageEnd(StrEnum):
    """How triage ends; never in legit."""

    FAKE = "fake"
    WORKING = "working"
    """It has not ended yet."""
    GO_ON = "go_on"
    """Nothing decides: the next level."""
    NO_FURTHER = "no_further"
    """What is left needs pictures or tools that are not here."""


def triage_end(verdict: Verdict, left: Collection[str], blocked: Collection[str]) -> TriageEnd:
    """Where triage stands. ``left``: checks of triage that can be done now; ``blocked``: those that cannot.

    >>> triage_end(Verdict.LEGIT, [], [])
    <TriageEnd.GO_ON: 'go_on'>
    """
    if verdict is Verdict.FAKE:
        return TriageEnd.FAKE
    if left:
        return TriageEnd.WORKING
    return TriageEnd.NO_FURTHER if blocked else TriageEnd.GO_ON

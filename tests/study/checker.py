"""A simulated checker: how many minutes until a decision, by the order in which checks are done, world by world."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from assay.judge.copy_model import learned
from assay.judge.evidence import EvidenceItem
from assay.judge.levels import Level, LevelCheck, checks_of, ordered
from assay.judge.planner import plan
from assay.judge.rules import Policy, weighs_everything
from assay.judge.weigh import weigh
from tests.study.worlds import WORLDS, World, draw_guide, signs, suspect

ORDERS = ("fixed", "random", "planned", "triage", "standard")
RULES = Policy(coverage=0.0)
WHOLE_GUIDE = 40.0
"""Minutes that all checks of a guide take, as the demo's do: those of a world's forty are stretched to it."""


@dataclass(frozen=True, slots=True)
class Spent:
    """One pair, done in one order."""

    minutes: float
    decided: bool
    """Whether the weight crossed a threshold; triage decides for a copy alone."""


def spent(world: World, order: str, seed: int, pairs: int) -> list[Spent]:
    """Pairs of a world, half of them retail, one a guide; the same ones for every order."""
    found = []
    for n in range(pairs):
        rng = np.random.default_rng([seed, 99, WORLDS.index(world), n])
        guide = draw_guide(world, rng)
        read, unsure = suspect(guide, rng, retail=n % 2 == 0)
        known = learned(signs(guide, read, unsure))
        stretched = WHOLE_GUIDE / sum(one.minutes for one in known)
        known = [replace(one, minutes=stretched * one.minutes) for one in known if one.value is not None]
        found.append(_one(known, order, {f"{key}" for key in guide.decisive}, np.random.default_rng([seed, n])))
    return found


def _one(known: Sequence[EvidenceItem], order: str, decisive: set[str], rng: np.random.Generator) -> Spent:
    open_ones, done, minutes = list(known), [], 0.0
    if order == "random":
        rng.shuffle(open_ones)
    if order in (Level.TRIAGE, Level.STANDARD):
        asked = checks_of(_as_level_checks(open_ones, done, decisive), Level(order))
        open_ones = [one for one in open_ones if one.key in asked]
    while open_ones:
        balance = weigh([*done, *(replace(one, value=None) for one in open_ones)])
        if balance.total <= RULES.fake_from or (balance.total >= RULES.legit_from and order != Level.TRIAGE):
            return Spent(minutes, decided=True)
        chosen = open_ones[0]
        if order not in ("fixed", "random"):
            groups = Counter(one.group for one in done)
            best = ordered(_as_level_checks(open_ones, done, decisive), groups, is_covered=False)[0]
            chosen = next(one for one in open_ones if one.key == best)
        open_ones.remove(chosen)
        done.append(chosen)
        minutes += chosen.minutes
    balance = weigh(done)
    told = balance.total <= RULES.fake_from or (balance.total >= RULES.legit_from and order != Level.TRIAGE)
    return Spent(minutes, decided=told)


def _as_level_checks(open_ones, done, decisive: set[str]) -> list[LevelCheck]:
    unread = [replace(one, value=None) for one in open_ones]
    made = plan(unread, [], weigh([*done, *unread]), RULES, weighs_everything)
    bits = {one.key: one.bits for one in made.worths}
    return [
        LevelCheck(one.key, one.group, "", bits.get(one.key, 0.0), one.minutes, is_decisive=one.key in decisive)
        for one in open_ones
    ]


def row(world: World, seed: int, pairs: int) -> str:
    """One line of the table: minutes and share decided, order by order."""
    cells = []
    for order in ORDERS:
        found = spent(world, order, seed, pairs)
        cells.append(f"{np.mean([one.minutes for one in found]):8.1f} {np.mean([one.decided for one in found]):5.0%}")
    return f"{world.name:<24}" + "".join(cells)

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
    unread_items, done, minutes = list(known), [], 0.0
    if order == "random":
        rng.shuffle(unread_items)
    if order in (Level.TRIAGE, Level.STANDARD):
        asked = checks_of(_as_level_checks(unread_items, done, decisive), Level(order))
        unread_items = [unread_item for unread_item in unread_items if unread_item.key in asked]
    while unread_items:
        balance = weigh([*done, *(replace(unread_item, value=None) for unread_item in unread_items)])
        if balance.total <= RULES.fake_from or (balance.total >= RULES.legit_from and order != Level.TRIAGE):
            return Spent(minutes, decided=True)
        chosen = unread_items[0]
        if order not in ("fixed", "random"):
            groups = Counter(one.group for one in done)
            best = ordered(_as_level_checks(unread_items, done, decisive), groups, is_covered=False)[0]
            chosen = next(unread_item for unread_item in unread_items if unread_item.key == best)
        unread_items.remove(chosen)
        done.append(chosen)
        minutes += chosen.minutes
    balance = weigh(done)
    told = balance.total <= RULES.fake_from or (balance.total >= RULES.legit_from and order != Level.TRIAGE)
    return Spent(minutes, decided=told)


def _as_level_checks(unread_items, done, decisive: set[str]) -> list[LevelCheck]:
    unread = [replace(unread_item, value=None) for unread_item in unread_items]
    made = plan(unread, [], weigh([*done, *unread]), RULES, weighs_everything)
    bits = {worth.key: worth.bits for worth in made.worths}
    return [
        LevelCheck(
            unread_item.key,
            unread_item.group,
            "",
            bits.get(unread_item.key, 0.0),
            unread_item.minutes,
            is_decisive=unread_item.key in decisive,
        )
        for unread_item in unread_items
    ]


def row(world: World, seed: int, pairs: int) -> str:
    """One line of the table: minutes and share decided, order by order."""
    cells = []
    for order in ORDERS:
        found = spent(world, order, seed, pairs)
        cells.append(f"{np.mean([one.minutes for one in found]):8.1f} {np.mean([one.decided for one in found]):5.0%}")
    return f"{world.name:<24}" + "".join(cells)

"""``make study``: Cllr, wrong verdicts and minutes of every decision rule, world by world, beside what is attainable.

Seeds and sizes can be given: ``python -m tests.study --seed 7 --guides 40``.
"""

import argparse
import math
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field

import numpy as np

from assay.errors import CannotJudge
from assay.judge.copy_model import learned
from assay.judge.evidence import EvidenceItem
from assay.judge.grade import Grade
from assay.judge.judgement import judge
from assay.judge.metrics import calibration_error, cllr, cllr_min
from assay.judge.rules import DECISION_RULES, GradedItem, Policy, Verdict
from assay.judge.weigh import Balance, weigh
from tests.study import attainable, checker
from tests.study.worlds import WORLDS, Guide, World, draw_guide, oracle, signs, suspect

COVERAGE = 0.6
PAIRS_A_GUIDE = 20


@dataclass
class Tally:
    """What came out of one world."""

    ours: list[float] = field(default_factory=list)
    oracles: list[float] = field(default_factory=list)
    attainable: list[float] = field(default_factory=list)
    retail: list[bool] = field(default_factory=list)
    verdicts: dict[str, list[Verdict]] = field(default_factory=dict)


def sheet(known: Sequence[EvidenceItem], guide: Guide, balance: Balance) -> list[GradedItem]:
    """Findings as the decision rules take them; a person confirms sure signs and unsure counts."""
    weights = {piece.key: piece.piece for piece in balance.pieces}
    items = []
    for n, sign in enumerate(known):
        grade = Grade.NOT_COMPARED
        if sign.value is not None:
            try:
                grade = judge(
                    sign.kind, sign.retail, sign.value, sign.prior, uncertainty=sign.uncertainty,
                    decisive=n in guide.decisive, confirmed=n in guide.decisive and not sign.lessened,
                ).grade  # fmt: skip
            except CannotJudge:
                grade = Grade.NOT_COMPARED
        items.append(GradedItem(sign.key, sign.group, grade, weight=weights.get(sign.key, 0.0)))
    return items


def run(world: World, seed: int, guides: int) -> Tally:
    """Draw and decide."""
    rng = np.random.default_rng([seed, WORLDS.index(world)])
    tally = Tally(verdicts={rule.__name__: [] for rule in DECISION_RULES})
    rules = Policy(coverage=0.0 if world.missing or world.worn else COVERAGE)
    for _ in range(guides):
        guide = draw_guide(world, rng)
        for n in range(PAIRS_A_GUIDE):
            retail = n % 2 == 0
            read, unsure = suspect(guide, rng, retail=retail)
            known = learned(signs(guide, read, unsure))
            balance = weigh(known)
            items = sheet(known, guide, balance)
            tally.ours.append(balance.total / 10)
            tally.oracles.append(math.nan if world.is_adverse else oracle(guide, read, unsure))
            known_how = attainable.is_known(world)
            tally.attainable.append(attainable.log10_ratio(guide, read, unsure) if known_how else math.nan)
            tally.retail.append(retail)
            for rule in DECISION_RULES:
                tally.verdicts[rule.__name__].append(rule(items, rules).verdict)
    return tally


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(prog="python -m tests.study", description=__doc__.splitlines()[0])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--guides", type=int, default=20, help="models a world, twenty pairs each, half of them retail")
    parser.add_argument("--checked", type=int, default=20, help="pairs a world that a simulated checker works through")
    parser.add_argument("--scheduler", default="", help="a Dask scheduler, such as tcp://10.0.0.5:8786")
    given = parser.parse_args()
    started = time.perf_counter()
    print(f"{given.guides * PAIRS_A_GUIDE} pairs a world, seed {given.seed}")
    print(" " * 64, "".join(f"{rule.__name__.replace('_', ' '):>27}" for rule in DECISION_RULES))
    columns = "{:<24}{:>7}{:>7}{:>11}{:>8}{:>7}".format("world", "Cllr", "min", "attainable", "oracle", "ECE")
    print(columns + "   passed accused undecided" * 3 + "  at tally’s")
    with farm(given.scheduler) as pool:
        spent = [pool.submit(checker.row, world, given.seed, given.checked) for world in WORLDS]
        tallies = [pool.submit(run, world, given.seed, given.guides) for world in WORLDS]
        for world, tally in zip(WORLDS, tallies, strict=True):
            print(_row(world, tally.result()), flush=True)
        print(f"\nminutes until a decision, and how often there is one, {given.checked} pairs a world")
        print(" " * 24 + "".join(f"{order:>14}" for order in checker.ORDERS))
        for told in spent:
            print(told.result(), flush=True)
    print(f"{time.perf_counter() - started:.0f} s")


@contextmanager
def farm(scheduler: str) -> Iterator[Executor]:
    """Two local processes, or a Dask cluster's."""
    if not scheduler:
        with ProcessPoolExecutor(2) as pool:
            yield pool
        return
    from dask.distributed import Client

    with Client(scheduler, timeout=10) as client:
        yield client.get_executor()


def _row(world: World, tally: Tally) -> str:
    truth = np.array(tally.retail)
    ours, oracles, best = np.array(tally.ours), np.array(tally.oracles), np.array(tally.attainable)
    said = 1 / (1 + 10 ** -np.clip(ours, -30, 30))
    columns = [
        cllr(ours[truth], ours[~truth]),
        cllr_min(ours[truth], ours[~truth]),
        cllr(best[truth], best[~truth]),
        cllr(oracles[truth], oracles[~truth]),
        calibration_error(said, truth),
    ]
    row = f"{world.name:<24}" + "{:>7.3f}{:>7.3f}{:>11.3f}{:>8.3f}{:>7.3f}".format(*columns)
    for verdicts in tally.verdicts.values():
        kinds = np.array(verdicts)
        shares = (
            (kinds[~truth] == Verdict.LEGIT).mean(),
            (kinds[truth] == Verdict.FAKE).mean(),
            (kinds == Verdict.UNDECIDED).mean(),
        )
        row += "{:>9.1%}{:>8.1%}{:>10.1%}".format(*shares)
    return row + f"{_undecided_at_equal_error(tally):>12.1%}"


def _undecided_at_equal_error(tally: Tally) -> float:
    """Share that the weight leaves undecided at the closest thresholds, as far out on either side, that pass and accuse
    no more pairs than the red-flag tally does."""
    truth, decibans = np.array(tally.retail), 10 * np.array(tally.ours)
    tallied = np.array(tally.verdicts["red_flag_tally"])
    passed, accused = (tallied[~truth] == Verdict.LEGIT).sum(), (tallied[truth] == Verdict.FAKE).sum()
    for threshold in np.arange(0.0, 40.0, 0.5):
        if (decibans[~truth] >= threshold).sum() <= passed and (decibans[truth] <= -threshold).sum() <= accused:
            break
    return float((np.abs(decibans) < threshold).mean())


if __name__ == "__main__":
    main()

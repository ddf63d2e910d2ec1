"""What the weight of a case does when each assumed figure is halved or doubled.

``python -m tests.study.assumptions CASE.json …`` with exported cases; prints the table of docs/assumptions.md.
"""

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from types import ModuleType

import numpy as np

from assay.judge import assumptions, common_causes
from assay.judge.assumptions import CopyLevel
from assay.judge.case_io import from_data, read_document
from assay.judge.copy_model import learned
from assay.judge.weigh import weigh

SHARES = {"SHARE_OF_UNKNOWN", "RIGHT", "RIGHT_LENGTH", "COPY_SLIPS", "STEP_DOWN", "FALLING"}
"""Doubled, these stop short of one."""
CAPS = (
    "CAP_FOR",
    "CAP_AGAINST",
    "BELIEVED_AGAINST",
    "DECISIVE_AGAINST",
    "PAPER_FOR",
    "PAPER_AGAINST",
    "ONE_WAY_AGAINST",
)


UNSEEN, SEEN = assumptions.READING_ERROR, assumptions.READING_ERROR_SEEN


def total(case: dict) -> float:
    """Decibans of a case by the figures in force, its batches teaching anew."""
    items = [from_data(one) for one in case["findings"] if one.get("weighing")]
    anew = [
        replace(item, wider=assumptions.WIDER, right=None, reading_error=_reading_error(item.reading_error))
        for item in items
    ]
    return weigh([one for one in learned(anew) if one.value is not None]).total


def _reading_error(kept: float) -> float:
    if kept == SEEN:
        return assumptions.READING_ERROR_SEEN
    return kept * assumptions.READING_ERROR / UNSEEN


def _recapped(case: dict, old: float, new: float, side: str) -> dict:
    again = json.loads(json.dumps(case))
    for one in again["findings"]:
        if one.get("weighing") and one["weighing"][side] == old:
            one["weighing"][side] = new
    return again


@contextmanager
def _set(name: str, value: object, where: ModuleType = assumptions) -> Iterator[None]:
    before = getattr(where, name)
    setattr(where, name, value)
    try:
        yield
    finally:
        setattr(where, name, before)


def rows(cases: list[dict]) -> Iterator[tuple[str, object, list[float], list[float]]]:
    """(figure, value, totals at half, totals at double)."""
    for name in CAPS:
        old, side = getattr(assumptions, name), "cap_for" if name.endswith("FOR") else "cap_against"
        both = [[total(_recapped(case, old, old * by, side)) for case in cases] for by in (0.5, 2)]
        yield name, old, *both
    for name, old in vars(assumptions).items():
        if name.isupper() and isinstance(old, float) and name not in CAPS:
            yield name, old, *([*_totals(name, _by(name, old, by), cases)] for by in (0.5, 2))
    for level in CopyLevel:
        for name in ("ODDS_OF_RIGHT", "SHARE_OF_LEVEL"):
            old = getattr(assumptions, name)
            changed = [old | {level: old[level] * by} for by in (0.5, 2)]
            if name == "SHARE_OF_LEVEL":
                changed = [{key: one / sum(table.values()) for key, one in table.items()} for table in changed]
            yield f"{name}, {level}", old[level], *([*_totals(name, table, cases)] for table in changed)

    for loose, old in list(assumptions.LOOSENESS.items())[1:]:
        changed = [assumptions.LOOSENESS | {loose: old * by} for by in (0.5, 2)]
        logs = [np.log(np.array(list(table.values())) / sum(table.values())) for table in changed]
        yield f"LOOSENESS, {loose}", old, *([*_totals("SHARES", shares, cases, common_causes)] for shares in logs)


def _by(name: str, old: float, by: float) -> float:
    return min(old * by, (1 + old) / 2) if name in SHARES else old * by


def _totals(name: str, value: object, cases: list[dict], where: ModuleType = assumptions) -> Iterator[float]:
    with _set(name, value, where):
        yield from (total(case) for case in cases)


def main(paths: list[str]) -> None:
    """Print the table, as Markdown."""
    cases = [read_document(Path(path).read_text()) for path in paths]
    names = [case["case"] if isinstance(case["case"], str) else str(case["case"]["number"]) for case in cases]
    print("| figure | value |", *(f"{name} halved | {name} doubled |" for name in names))
    print("|---|---|" + "---|---|" * len(cases))
    now = [total(case) for case in cases]
    print("| as it is | |", *(f"{one:+.1f} | {one:+.1f} |" for one in now))
    for name, value, half, double in rows(cases):
        told = (f"{a:+.1f} | {b:+.1f} |" for a, b in zip(half, double, strict=True))
        print(f"| `{name}` | {value:g} |", *told)


if __name__ == "__main__":
    main(sys.argv[1:])

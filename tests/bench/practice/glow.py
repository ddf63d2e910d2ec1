"""Ultraviolet pictures of other making: what is found, by class, and which counts are sure and wrong."""

import json
from collections import Counter
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import glow as measure
from assay.surface.glow import glows_of
from assay.surface.region import region_of

CLASSES = {"guide_line": "line", "stamp": "stamp", "smear": "smear", "panel_glow": "panel"}
SURE = 0.3
"""A count with a smaller uncertainty may accuse."""
COUNTED = ("", "lines", "stamps", "panels", "smears")
BESIDE_PX = 6


class Seen(NamedTuple):
    """One picture."""

    name: str
    level: str
    hits: Counter
    false: Counter
    missed: Counter
    wrong_and_sure: tuple[str, ...]
    sure: int
    unsure_but_right: int
    refused: str


def jobs(folder: Path) -> list[tuple[str, dict]]:
    """The folder's pictures of this family."""
    items = json.loads((folder / "truth.json").read_text())["items"]
    return [(str(folder), item) for item in items if item["family"] == "uv"]


def look(job: tuple[str, dict]) -> Seen:
    """Measure one picture over all of it."""
    folder, item = job
    rgb = np.ascontiguousarray(cv2.imread(str(Path(folder) / item["images"]["photo"]))[..., ::-1])
    height, width = rgb.shape[:2]
    marks = Marks(MarkKind.REGION, ((2, 2), (width - 3, 2), (width - 3, height - 3), (2, height - 3)))
    picture = Picture(rgb, item["given"]["mm_per_px"])
    truth = [(CLASSES[one["class"]], one["bbox_px"]) for one in item["truth"]["objects"]]
    try:
        read = measure.measure(picture, marks)
        found = glows_of(region_of(picture, marks), picture.mm_per_px).glows
    except CannotMeasure as error:
        missed = Counter(name for name, _ in truth)
        return Seen(item["id"], item["difficulty"], Counter(), Counter(), missed, (), 0, 0, error.reason)
    hits, false = Counter(), Counter()
    left = list(truth)
    for one in found:
        match = next((known for known in left if known[0] == one.form.value and _within(one.path + 2, known[1])), None)
        if match:
            left.remove(match)
        (hits if match else false)[one.form.value] += 1
    is_ = Counter(name for name, _ in truth)
    wrong, sure, unsure = [], 0, 0
    for name in COUNTED:
        value = read.value if name == "" else read.parts[name]
        u = read.uncertainty if name == "" else read.parts[f"{name}_uncertainty"]
        true = is_["line"] + is_["stamp"] if name == "" else is_[name.removesuffix("s")]
        sure += u < SURE
        if u < SURE and value != true:
            wrong.append(f"{name or 'drawn'} {value:g} for {true}")
        unsure += u >= SURE and value == true
    missed = Counter(name for name, _ in left)
    return Seen(item["id"], item["difficulty"], hits, false, missed, tuple(wrong), sure, unsure, "")


def _within(path: np.ndarray, box: list[float]) -> bool:
    """Whether most of a path lies in a box."""
    x, y, width, height = box
    inside = (path >= [x - BESIDE_PX, y - BESIDE_PX]) & (path <= [x + width + BESIDE_PX, y + height + BESIDE_PX])
    return bool(inside.all(axis=1).mean() > 0.5)


def table(seen: list[Seen]) -> None:
    """A line a level."""
    print("\nultraviolet          of  refused  F1 with class   line  stamp  smear  panel", end="")
    print("   sure counts  wrong and sure  right but unsure")
    for level in ("easy", "realistic", "hard"):
        rows = [one for one in seen if one.level == level]
        if not rows:
            continue
        by_class = [_f1(rows, name) for name in CLASSES.values()]
        print(
            f"             {level:9}{len(rows):3}{sum(bool(row.refused) for row in rows):9}{_f1(rows):15.2f}"
            + "".join(f"{value:7.2f}" for value in by_class)
            + f"{sum(row.sure for row in rows):13}{sum(len(row.wrong_and_sure) for row in rows):16}"
            + f"{sum(row.unsure_but_right for row in rows):18}"
        )


def _f1(rows: list[Seen], name: str = "") -> float:
    total = lambda field: sum(getattr(row, field)[name] if name else getattr(row, field).total() for row in rows)  # noqa: E731
    hit, false, missed = total("hits"), total("false"), total("missed")
    return 2 * hit / max(1, 2 * hit + false + missed)

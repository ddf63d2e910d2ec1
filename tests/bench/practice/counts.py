"""Rows of stitches and groups of holes: exact, refused, wrong but sure, right but unsure; and how far a claim holds."""

import json
from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import AssayError
from assay.judge.judgement import UNSURE_COUNT
from assay.measure import holes, seam

LEVELS = ("easy", "realistic", "hard")
# Edges of the reliability table: standard uncertainty of a count.
CLAIMS = (0.0, 0.05, 0.15, 0.3, 0.5, 1.0, 9.0)


@dataclass(frozen=True, slots=True)
class Counted:
    """One picture's count beside the truth."""

    name: str
    family: str
    level: str
    true: int
    got: int | None
    uncertainty: float
    missing: int
    missing_got: int | None
    simple: int | None

    @property
    def right(self) -> bool:
        return self.got == self.true

    @property
    def sure(self) -> bool:
        return self.got is not None and self.uncertainty < UNSURE_COUNT


def count(job: tuple[Path, dict, int | None]) -> Counted:
    """Measure one item."""
    cv2.setNumThreads(1)
    folder, item, simple = job
    given, truth = item["given"], item["truth"]
    rgb = np.ascontiguousarray(cv2.imread(str(folder / item["images"]["photo"]))[..., ::-1])
    stitched = item["family"] == "seams"
    points = np.clip(given["trace_px" if stitched else "region_px"], 0, np.array(rgb.shape[1::-1]) - 1.0)
    marks = Marks(MarkKind.PATH if stitched else MarkKind.REGION, tuple(map(tuple, points)))
    kind = "rows" if stitched else item["kind"]
    own = {"name": f"{folder.name}/{item['id']}", "family": kind, "level": item["difficulty"], "simple": simple}
    own |= {"true": truth["count"], "missing": truth.get("missing", 0)}
    try:
        found = (seam.measure if stitched else holes.measure_either)(Picture(rgb, given["mm_per_px"]), marks)
    except AssayError:
        return Counted(got=None, uncertainty=9.0, missing_got=None, **own)
    lost = found.parts.get("missing")
    return Counted(
        got=int(found.value), uncertainty=found.uncertainty, missing_got=None if lost is None else int(lost), **own
    )


def jobs(folder: Path) -> list[tuple]:
    """What there is to count, with the plain answer beside it where that was worked out."""
    items, plain = json.loads((folder / "truth.json").read_text())["items"], {}
    if (folder / "baseline.json").exists():
        kept = json.loads((folder / "baseline.json").read_text())
        plain = {name: one.get("count") for name, one in kept["results"].items()}
    return [(folder, item, plain.get(item["id"])) for item in items if item["family"] in ("seams", "holes")]


def table(rows: list[Counted]) -> None:
    """Print it."""
    print("\ncounted           of  exact  refused  wrong but sure  right but unsure   plain, exact")
    groups: dict[tuple, list] = defaultdict(list)
    for row in rows:
        groups[row.family, row.level].append(row)
        if row.missing:
            groups["  with gaps", row.level].append(row)
    for family in ("rows", "  with gaps", "eyelets", "perforation", "ringed", "real"):
        for level in LEVELS:
            if some := groups.get((family, level)):
                wrong = sum(row.sure and not row.right for row in some)
                unsure = sum(row.right and not row.sure for row in some)
                print(
                    f"{family:11} {level:10} {len(some):3} {np.mean([row.right for row in some]):6.2f} "
                    f"{sum(row.got is None for row in some):8} {wrong:15} {unsure:17} "
                    f"{np.mean([row.simple == row.true for row in some]):14.2f}"
                )
    print("\na claimed uncertainty of   counts   right")
    told = [row for row in rows if row.got is not None]
    for low, high in pairwise(CLAIMS):
        if some := [row for row in told if low <= row.uncertainty < high]:
            print(f"{low:9.2f} to {high:4.2f} {len(some):15} {np.mean([row.right for row in some]):8.2f}")

"""Words and emblems against a sewn panel's edge, and circled letters."""

import json
from collections import defaultdict
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from assay.compare.mark import compare
from assay.contracts import MarkKind, Marks, Picture
from assay.errors import AssayError
from assay.measure import mark, ring

ROOM_MM = 1.5


def main(folder: Path) -> None:
    marks, rings = defaultdict(list), defaultdict(list)
    for item in json.loads((folder / "truth.json").read_text())["items"]:
        if item["family"] == "marks":
            (rings if item["kind"] == "ring" else marks)[item["difficulty"]].append(item)
    print("\nmarks of other making: median off (95 %), of retail and suspect laid on each other")
    print("             refused   tilt, deg    place, mm      size, %      stroke, %     spacing, %   within 2u")
    for level, items in sorted(marks.items()):
        rows = [_mark(folder, item) for item in items]
        told = [row for row in rows if row]
        cells = [np.abs([row[name][0] for row in told if name in row]) for name in NAMES]
        words = "  ".join(f"{np.median(c):5.2f} ({np.percentile(c, 95):5.2f})" for c in cells)
        kept = [abs(off) <= 2 * u for row in told for off, u in row.values()]
        print(f"{level:12} {len(rows) - len(told):3} of {len(rows):3}  {words}  {np.mean(kept):8.1%}")
    for level, items in sorted(rings.items()):
        right = [_ring(folder, item) for item in items]
        sure = sum(not ok and u < 0.3 for ok, u in right)
        print(
            f"{level:12} circled letters: touches right {np.mean([ok for ok, _ in right]):.2f}, sure but wrong {sure}"
        )


NAMES = ("tilt", "place", "size", "stroke", "spacing")


def _read(folder: Path, item: dict, which: str):
    given, rgb = item["given"], _picture(folder / item["images"][which])
    step, corners = given[f"{which}_mm_per_px"], np.array(given[f"{which}_panel_corners_px"])
    points = [*corners[:2], *_around(given[f"{which}_mark_box_px"], ROOM_MM / step)]
    points = np.clip(points, 0, np.array(rgb.shape[1::-1]) - 1)
    kept = mark.MEASURE.read(Picture(rgb, step), Marks(MarkKind.PLACES, tuple(map(tuple, points)))).descriptor
    at = tuple(n * step for n in kept.image_at)
    kept = replace(kept, unit="mm", points=kept.points * step, marks=kept.marks * step)
    return replace(kept, image_at=at, image_step=kept.image_step * step)


def _mark(folder: Path, item: dict) -> dict | None:
    truth = item["truth"]
    try:
        found = compare(*(_read(folder, item, which) for which in ("reference", "suspect"))).parts
    except AssayError:
        return None
    rows = {
        "tilt": (found["turned_deg"] - truth["tilt_deg"], found["turned_deg_uncertainty"]),
        "place": (found["across_mm"] - truth["offset_mm"][1], found["across_mm_uncertainty"]),
        "size": (found["size_pct"] - truth["size_pct"], found["size_pct_uncertainty"]),
        "stroke": (found["stroke_pct"] - truth["stroke_pct"], found["stroke_pct_uncertainty"]),
    }
    if truth["spacing_pct"] is not None and "spacing_pct" in found:
        rows["spacing"] = (found["spacing_pct"] - truth["spacing_pct"], found["spacing_pct_uncertainty"])
    return rows


def _ring(folder: Path, item: dict) -> tuple[bool, float]:
    given, rgb = item["given"], _picture(folder / next(iter(item["images"].values())))
    box = _around(given["ring_box_px"], max(3, 0.08 * given["ring_box_px"][2]))
    points = np.clip(box, 0, np.array(rgb.shape[1::-1]) - 1)
    try:
        marks = Marks(MarkKind.REGION, tuple(map(tuple, points)))
        found = ring.MEASURE.read(Picture(rgb, given["mm_per_px"]), marks).parts
    except AssayError:
        return False, 1.0
    return bool(found["touches"]) == bool(item["truth"]["touches"]), found["touches_uncertainty"]


def _picture(path: Path) -> np.ndarray:
    return np.ascontiguousarray(cv2.imread(str(path))[..., ::-1])


def _around(box: list, room: float) -> list[list[float]]:
    x, y, width, height = box
    return [
        [x - room, y - room],
        [x + width + room, y - room],
        [x + width + room, y + height + room],
        [x - room, y + height + room],
    ]

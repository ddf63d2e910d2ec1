"""Outlines: of either picture against its true line, whatever region was drawn; of a pair, its largest departure."""

import json
from collections import defaultdict
from pathlib import Path

import cv2
import numpy as np
from scipy.spatial import cKDTree

from assay.compare.contour import register_contour
from assay.contour.trace import contour_of
from assay.contracts import MarkKind, Marks, Picture
from assay.errors import AssayError

ROOMS_MM = (3.0, 8.0, 20.0, 40.0)
FAR_MM = 3.0
SHOES = ("side", "rear", "top")
LEVELS = ("easy", "realistic", "hard")


def outline(job: tuple[Path, dict]) -> dict:
    """Both contours, by every region, and the pair's departure at 8 mm."""
    cv2.setNumThreads(1)
    folder, item = job
    read = {which: _read(folder, item, which) for which in ("reference", "suspect")}
    middle = ROOMS_MM[1]
    both = [read[which][middle] for which in read]
    found, said = None, any(one["doubts"] for one in both)
    if all(one["points"] is not None for one in both):
        try:
            found = register_contour(*(one["points"] for one in reversed(both))).largest
        except AssayError:
            found = None
    for kept in (one for of in read.values() for one in of.values()):
        kept.pop("points")
    truth = item["truth"]
    return {
        "name": f"{folder.name}/{item['id']}", "kind": item["kind"], "level": item["difficulty"], "read": read,
        "change": truth["change"], "true": truth["max_dev_mm"], "found": found, "said": said,
    }  # fmt: skip


def _read(folder: Path, item: dict, which: str) -> dict:
    rgb = np.ascontiguousarray(cv2.imread(str(folder / item["images"][which]))[..., ::-1])
    step, true = item["given"][f"{which}_mm_per_px"], np.array(item["truth"][f"{which}_outline_px"])
    size, found = np.array(rgb.shape[1::-1]) - 1.0, {}
    for room in ROOMS_MM:
        low, high = true.min(0) - room / step, true.max(0) + room / step
        box = np.clip([low, [high[0], low[1]], high, [low[0], high[1]]], 0, size)
        marks = Marks(MarkKind.REGION, tuple(map(tuple, box)))
        try:
            contour, doubts = contour_of(Picture(rgb, step), marks)
        except AssayError as error:
            found[room] = {"points": None, "off": None, "doubts": (), "why": error.reason}
            continue
        points = contour.points
        dense = _dense(true)
        off = max(cKDTree(dense).query(points)[0].max(), cKDTree(_dense(points)).query(true)[0].max()) * step
        found[room] = {"points": points * step, "off": float(off), "doubts": tuple(doubts), "why": ""}
    return found


def _dense(loop: np.ndarray) -> np.ndarray:
    closed = np.vstack([loop, loop[:1]])
    along = np.r_[0, np.cumsum(np.hypot(*np.diff(closed, axis=0).T))]
    t = np.arange(0, along[-1], 0.5)
    return np.stack([np.interp(t, along, closed[:, k]) for k in (0, 1)], 1)


def jobs(folder: Path) -> list[tuple]:
    items = json.loads((folder / "truth.json").read_text())["items"]
    return [(folder, item) for item in items if item["family"] == "silhouettes"]


def table(rows: list[dict]) -> None:
    """Print it."""
    print("\noutlines           of  refused   off by, median, 95 %   over 3 mm, unsaid   refused at 3, 8, 20, 40 mm")
    by_level = defaultdict(list)
    for row in rows:
        by_level[row["level"]].append(row)
    for level in LEVELS:
        # The true line of other things than shoes is given too coarsely to be held against.
        pictures = [of for row in by_level[level] if row["kind"] in SHOES for of in row["read"].values()]
        each = [kept for of in pictures for kept in of.values()]
        off = [one["off"] for one in each if one["off"] is not None]
        far = [one for one in each if one["off"] is not None and one["off"] > FAR_MM]
        refused = [sum(of[room]["off"] is None for of in pictures) for room in ROOMS_MM]
        unsaid = sum(not one["doubts"] for one in far)
        print(
            f"pictures {level:10} {len(each):3} {len(each) - len(off):8} {np.median(off):12.2f} "
            f"{np.percentile(off, 95):8.2f} {len(far):14} {unsaid:8}          {refused}"
        )
    print("pairs              of  refused   departure off by, median, 95 %   within 1/2 mm or said   unchanged, worst")
    for level in LEVELS:
        some = [row for row in by_level[level] if row["change"] != "scale"]
        told = [row for row in some if row["found"] is not None]
        off = np.array([abs(abs(row["found"]) - row["true"]) for row in told])
        good = [o <= 0.5 or row["said"] for o, row in zip(off, told, strict=True)]
        same = [abs(row["found"]) for row in told if row["change"] == "none"]
        print(
            f"         {level:10} {len(some):3} {len(some) - len(told):8} {np.median(off):14.2f} "
            f"{np.percentile(off, 95):8.2f} {np.mean(good):22.2f} {max(same, default=float('nan')):18.2f}"
        )

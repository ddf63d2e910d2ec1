"""Weaves, and colours and naps beside a grey strip of known reflectance, of other making."""

import json
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from assay.contracts import Light, MarkKind, Marks, Picture
from assay.errors import AssayError
from assay.imaging.colour import de00
from assay.imaging.white_balance import correction_from_neutral
from assay.measure import weave
from assay.surface.region import region_of
from assay.surface.tone import tone_of

SURE_SHARE = 0.05
WRONG_SHARE = 0.03


@dataclass(frozen=True, slots=True)
class Row:
    """How far a reading is off, and its claim; both None where it was refused."""

    name: str
    kind: str
    level: str
    off: float | None
    claim: float | None


def jobs(folder: Path) -> list[tuple[Path, dict]]:
    items = json.loads((folder / "truth.json").read_text())["items"]
    return [(folder, item) for item in items if item["family"] == "materials" and item["kind"] in READ]


def look(job: tuple[Path, dict]) -> list[Row]:
    folder, item = job
    return [Row(item["id"], item["kind"], item["difficulty"], off, u) for off, u in READ[item["kind"]](folder, item)]


def _picture(folder: Path, item: dict, which: str) -> np.ndarray:
    return np.ascontiguousarray(cv2.imread(str(folder / item["images"][which]))[..., ::-1])


def _whole(rgb: np.ndarray) -> Marks:
    height, width = rgb.shape[:2]
    return Marks(MarkKind.REGION, ((1, 1), (width - 2, 1), (width - 2, height - 2), (1, height - 2)))


def _weave(folder: Path, item: dict) -> list[tuple]:
    """Of one cloth to the other: the spacing of crests is not that of a mesh's holes."""
    found = []
    for which in "ab":
        rgb = _picture(folder, item, which)
        try:
            found.append(weave.MEASURE.read(Picture(rgb, item["given"][f"mm_per_px_{which}"]), _whole(rgb)))
        except AssayError:
            return [(None, None)]
    one, other = found
    true = item["truth"]["period_mm_b"] / item["truth"]["period_mm_a"]
    unsure = float(np.hypot(one.uncertainty / one.value, other.uncertainty / other.value))
    return [((other.value / one.value) / true - 1, unsure)]


def _tones(folder: Path, item: dict) -> tuple[np.ndarray, np.ndarray, float, float]:
    labs, hue, exposure = [], 0.0, 0.0
    for which in "ab":
        rgb, given = _picture(folder, item, which), item["given"]
        left, top, right, bottom = given["grey_strip_box_px"]
        at = ((left + right) / 2, (top + bottom) / 2)
        light = correction_from_neutral(rgb, at, reflectance=given["grey_strip_linear"])
        left, top, right, bottom = given["patch_box_px"]
        points = ((left + 2, top + 2), (right - 3, top + 2), (right - 3, bottom - 3), (left + 2, bottom - 3))
        lit = light.corrected(rgb, np.eye(3))
        region = region_of(Picture(lit, given["mm_per_px"], light=Light.CARD), Marks(MarkKind.REGION, points))
        labs.append(tone_of(region).lab)
        hue, exposure = float(np.hypot(hue, light.uncertainty_de00)), light.exposure_uncertainty
    return labs[0], labs[1], hue, exposure


def _colour(folder: Path, item: dict) -> list[tuple]:
    one, other, u, _ = _tones(folder, item)
    return [(de00(one, other) - item["truth"]["delta_e00"], u)]


def _nap(folder: Path, item: dict) -> list[tuple]:
    one, other, u, _ = _tones(folder, item)
    return [(abs(other[0] - one[0]) - abs(item["truth"]["delta_L"]), u)]


READ = {"weave": _weave, "colour": _colour, "nap": _nap}


def table(found: list[list[Row]]) -> None:
    print("\nmaterials of other making: one period against the other, share; colour, dE00; nap, L*: median off (95 %)")
    print("                      refused   off              wrong and sure   within 2u")
    groups = defaultdict(list)
    for row in (row for rows in found for row in rows):
        groups[row.kind, row.level].append(row)
    for (kind, level), some in sorted(groups.items()):
        told = [row for row in some if row.off is not None]
        off, u = np.abs([row.off for row in told]), np.array([row.claim for row in told])
        wrong = int(((off > WRONG_SHARE) & (u < SURE_SHARE)).sum()) if kind == "weave" else int((off > 3 * u).sum())
        print(
            f"{kind:8} {level:10}  {len(some) - len(told):3} of {len(some):3}   {np.median(off):6.3f} "
            f"({np.percentile(off, 95):6.3f})   {wrong:3}               {np.mean(off <= 2 * u):6.1%}"
        )

"""How often stitches and holes are counted exactly on pictures that owe nothing to the simulator."""

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.judge.judgement import UNSURE_COUNT
from assay.measure import holes, seam
from tests.bench import baseline, claims, drawn_rows

COUNT = 80
ROWS = ("stitches", "gapped", "few", "crossed")
# Pictures from here on: nothing was ever set by looking at them.
FIRST_SEED = 1000


def row(job: tuple) -> tuple:
    """True count, ours, pitch's error in mm, the baseline's count, whether we are sure, and what else is told."""
    cv2.setNumThreads(1)
    level, seed, what = job
    picture = drawn_rows.row(level, seed, **({} if what == "stitches" else {what: True}))
    found = _found(seam.measure, MarkKind.PATH, picture)
    off = abs(found.parts["pitch_mm"] - picture.pitch_mm) if found else None
    simple = baseline.count_stitches(picture.rgb, picture.marks)
    return len(picture.centres), found and found.value, off, simple, _sure(found), found and _form(found, picture)


def group(job: tuple[str, int, str]) -> tuple:
    """True count, ours, nothing, the baseline's count, whether we are sure."""
    cv2.setNumThreads(1)
    picture = drawn_rows.holes(*job)
    found = _found(holes.measure_either, MarkKind.REGION, picture)
    simple = baseline.count_holes(picture.rgb, picture.marks)
    return len(picture.centres), found and found.value, None, simple, _sure(found)


def _sure(found) -> bool:
    return found is not None and found.uncertainty < UNSURE_COUNT


def _found(measure, kind: MarkKind, picture):
    try:
        return measure(Picture(picture.rgb, drawn_rows.MM_PER_PX), Marks(kind, tuple(map(tuple, picture.marks))))
    except CannotMeasure:
        return None


def _form(found, picture) -> dict:
    """What is told of a row besides its count, less what was drawn."""
    told = {
        "bars": picture.about.startswith("bars"),
        "two": bool(picture.apart_mm),
        "told two": found.parts["rows"] == 2,
    }
    told["spacing"] = abs(found.parts["pitch_mm"] - picture.pitch_mm)
    if "slant_deg" in found.parts:
        told["lean"] = abs((found.parts["slant_deg"] - picture.slant_deg + 90) % 180 - 90)
    if "stitch_mm" in found.parts:
        told["length"] = abs(found.parts["stitch_mm"] - picture.stitch_mm)
    if told["two"] and told["told two"]:
        told["apart"] = abs(found.parts["row_gap_mm"] - picture.apart_mm)
    told["claimed"] = {name: found.parts.get(f"{part}_uncertainty") for name, part in CLAIMED.items()}
    return told


CLAIMED = {"spacing": "pitch_mm", "lean": "slant_deg", "length": "stitch_mm", "apart": "row_gap_mm"}
"""What is told of a row, and the part that it is read from."""


def main(pool) -> None:
    """Print the tables."""
    forms = _counts(pool)
    _print_forms(forms)
    for rows in forms.values():
        for name in CLAIMED:
            claims.told(f"stitches' {name}", [(one[name], one["claimed"][name]) for one in rows if name in one])


def _print_forms(forms: dict[str, list[dict]]) -> None:
    print("\nthe same rows' form, how far off, median and 95 %")
    for level, rows in forms.items():
        bars, run, two, single = (
            [one for one in rows if one[name] is wanted]
            for name, wanted in (("bars", True), ("bars", False), ("two", True), ("two", False))
        )
        seen, mistaken = (sum(one["told two"] for one in some) for some in (two, single))
        print(
            f"{level:12} lean of {sum('lean' in bar for bar in bars)} of {len(bars)} bars {_off(bars, 'lean', 1)}°, "
            f"their length {_off(bars, 'length', 2)} mm; running stitches' {_off(run, 'length', 2)} mm; "
            f"second rows {seen} of {len(two)} (none there: {mistaken} of {len(single)}), {_off(two, 'apart', 2)} mm"
        )


def _off(rows: list[dict], name: str, digits: int) -> str:
    off = [one[name] for one in rows if name in one]
    return " ".join(f"{number:.{digits}f}" for number in np.percentile(off, (50, 95))) if off else "–"


def _counts(pool) -> dict[str, list[dict]]:
    """Print how often counts are exact. Returns what else was told of the rows, by level."""
    forms = {}
    print(f"\n{COUNT} rows and groups a line, drawn on textures (no simulator)")
    print("                        exact  refused  wrong but sure  right but unsure   pitch off | baseline exact")
    for what in (*ROWS, *drawn_rows.KINDS):
        for level in drawn_rows.LEVELS:
            act = row if what in ROWS else group
            found = list(pool.map(act, [(level, seed, what) for seed in range(FIRST_SEED, FIRST_SEED + COUNT)]))
            if what == "stitches":
                forms[level] = [one[5] for one in found if one[5]]
            exact, simple = (np.mean([one[n] == one[0] for one in found]) for n in (1, 3))
            offs = [one[2] for one in found if one[1] == one[0] and one[2] is not None]
            pitch = f"{np.mean(offs):.3f} mm" if offs else "–"
            refused = sum(one[1] is None for one in found)
            wrong = sum(one[4] and one[1] != one[0] for one in found)
            unsure = sum(not one[4] and one[1] == one[0] for one in found)
            told = f"{exact:7.1%} {refused:8} {wrong:15} {unsure:17}"
            print(f"{what:9} {level:10} {told} {pitch:>11} | {simple:13.1%}")
    return forms

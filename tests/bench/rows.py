"""How often stitches and holes are counted exactly on pictures that owe nothing to the simulator."""

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import holes, seam
from tests.bench import baseline, drawn_rows

COUNT = 80
# Pictures from here on: nothing was ever set by looking at them.
FIRST_SEED = 1000


def row(job: tuple[str, int]) -> tuple:
    """True count, ours, pitch's error in mm, the baseline's count."""
    cv2.setNumThreads(1)
    picture = drawn_rows.row(*job)
    found = _found(seam.measure, MarkKind.PATH, picture)
    off = abs(found.parts["pitch_mm"] - picture.pitch_mm) if found else None
    return len(picture.centres), found and found.value, off, baseline.count_stitches(picture.rgb, picture.marks)


def group(job: tuple[str, int, str]) -> tuple:
    """True count, ours, nothing, the baseline's count."""
    cv2.setNumThreads(1)
    picture = drawn_rows.holes(*job)
    found = _found(holes.measure, MarkKind.REGION, picture)
    return len(picture.centres), found and found.value, None, baseline.count_holes(picture.rgb, picture.marks)


def _found(measure, kind: MarkKind, picture):
    try:
        return measure(Picture(picture.rgb, drawn_rows.MM_PER_PX), Marks(kind, tuple(map(tuple, picture.marks))))
    except CannotMeasure:
        return None


def main(pool) -> None:
    """Print the table."""
    print(f"\n{COUNT} rows and groups a line, drawn on textures (no simulator)")
    print("                            exact  refused   pitch off | baseline exact")
    for what in ("stitches", *drawn_rows.KINDS):
        for level in drawn_rows.LEVELS:
            act, rest = (row, ()) if what == "stitches" else (group, (what,))
            found = list(pool.map(act, [(level, seed, *rest) for seed in range(FIRST_SEED, FIRST_SEED + COUNT)]))
            exact, simple = (np.mean([one[n] == one[0] for one in found]) for n in (1, 3))
            offs = [one[2] for one in found if one[1] == one[0] and one[2] is not None]
            pitch = f"{np.mean(offs):.3f} mm" if offs else "–"
            refused = sum(one[1] is None for one in found)
            print(f"{what:9} {level:12} {exact:9.1%} {refused:8} {pitch:>11} | {simple:13.1%}")

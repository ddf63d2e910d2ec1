"""``make bench``: how often counts are exact, how far lengths are off, and what a reading and a whole pass cost.

Swatches come from the simulator, three difficulties, fixed seeds. The baseline is a straightforward use of libraries on
the same pictures in the same run. CPU time, one thread, against one decode of a 12-megapixel JPEG.
"""

import os
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from multiprocessing import Pool, get_context

os.environ.setdefault("OMP_NUM_THREADS", "1")

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import holes, seam
from assay.simulator.swatch import DIFFICULTIES, Swatch, hole_swatch, seam_swatch
from tests.bench import baseline, claims, gaps, glow, labels, misread, outlines, photographs, rows, surfaces, whole_pass

SWATCHES = int(sys.argv[1]) if len(sys.argv) > 1 else 80
KINDS = {
    "stitches": (seam_swatch, seam.measure, MarkKind.PATH, baseline.count_stitches),
    "holes": (hole_swatch, holes.measure, MarkKind.REGION, baseline.count_holes),
}


@dataclass
class Row:
    """One line of the table."""

    exact: int = 0
    refused: int = 0
    baseline_exact: int = 0
    claimed_sure_and_wrong: int = 0
    pitch_off_mm: list[float] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    baseline_seconds: list[float] = field(default_factory=list)


def timed(act, *given):
    start = time.process_time()
    try:
        found = act(*given)
    except CannotMeasure:
        found = None
    return found, time.process_time() - start


def one(job: tuple[str, str, int]):
    kind, difficulty, seed = job
    cv2.setNumThreads(1)
    make, measure, marks_kind, simple = KINDS[kind]
    swatch: Swatch = make(difficulty, seed)
    marks = Marks(marks_kind, tuple(map(tuple, swatch.marks)))
    reading, seconds = timed(measure, Picture(swatch.rgb, swatch.mm_per_px), marks)
    simple_count, simple_seconds = timed(simple, swatch.rgb, swatch.marks)
    off = abs(reading.parts["pitch_mm"] - swatch.pitch_mm) if reading and swatch.pitch_mm else None
    count = (reading.value, reading.uncertainty) if reading else (None, 0.0)
    return len(swatch.centres), *count, off, seconds, simple_count, simple_seconds


def row_of(results) -> Row:
    row = Row()
    for true, count, uncertainty, off, seconds, simple, simple_seconds in results:
        row.exact += count == true
        row.refused += count is None
        row.baseline_exact += simple == true
        row.claimed_sure_and_wrong += count not in (true, None) and uncertainty < 0.3
        if off is not None and count == true:
            row.pitch_off_mm.append(off)
        row.seconds.append(seconds)
        row.baseline_seconds.append(simple_seconds)
    return row


def decode_seconds() -> float:
    """CPU time of one 12-megapixel JPEG decode, median of 5."""
    noise = np.random.default_rng(0).integers(0, 255, (750, 1000, 3), dtype=np.uint8)
    picture = cv2.resize(noise, (4000, 3000), interpolation=cv2.INTER_CUBIC)
    data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 90])[1]
    return float(np.median([timed(cv2.imdecode, data, cv2.IMREAD_COLOR)[1] for _ in range(5)]))


def main() -> None:
    cv2.setNumThreads(1)
    decode = decode_seconds()
    print(f"{SWATCHES} simulated swatches a line; D = one 12 MP decode = {1000 * decode:.0f} ms CPU in this run")
    print("                       exact  refused  sure but wrong  pitch off    cost | baseline exact   cost")
    with Pool(2) as pool:
        for kind in KINDS:
            for difficulty in DIFFICULTIES:
                row = row_of(pool.map(one, [(kind, difficulty, seed) for seed in range(SWATCHES)]))
                pitch = f"{np.mean(row.pitch_off_mm):.3f} mm" if row.pitch_off_mm else "       –"
                print(
                    f"{kind:9} {difficulty:10} {row.exact / SWATCHES:7.1%} {row.refused:8} "
                    f"{row.claimed_sure_and_wrong:15} {pitch:>10} {np.median(row.seconds) / decode:6.2f} D | "
                    f"{row.baseline_exact / SWATCHES:13.1%} {np.median(row.baseline_seconds) / decode:6.2f} D"
                )
    with ProcessPoolExecutor(2, mp_context=get_context("fork")) as pool:
        photographs.main(pool)
        labels.main(pool)
        misread.main(pool)
        rows.main(pool)
        gaps.main(pool)
        outlines.main(pool)
        surfaces.main(pool)
        glow.main(pool)
    claims.main()
    whole_pass.main()


if __name__ == "__main__":
    main()

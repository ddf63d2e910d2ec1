"""How true outlines and heel widths are, on pictures that owe nothing to the simulator.

Beside a straightforward use of libraries: one Otsu threshold and its largest contour, laid on by plain iterated closest
points (nearest point, least squares, rotation and shift).
"""

import time

import cv2
import numpy as np
from scipy.spatial import cKDTree

from assay.compare.contour import register_contour
from assay.contour.orient import OrientedContour
from assay.contour.trace import contour_of
from assay.contracts import MarkKind, Marks, Picture
from assay.errors import AssayError
from assay.measure import profile
from tests.bench import claims, drawn

HEELS, PAIRS = 20, 20
WIDTHS = ("collar_mm", "waist_mm", "base_mm")


def heel(job: tuple[str, int]) -> dict:
    """Errors of the three widths, ours and the baseline's, mm."""
    cv2.setNumThreads(1)
    picture = drawn.heel(*job)
    start = time.process_time()
    try:
        parts = profile.measure_rear(*_given(picture)).parts
        ours = [abs(parts[name] - picture.truth[name]) for name in WIDTHS]
        claimed = [parts[f"{name}_uncertainty"] for name in WIDTHS]
    except AssayError:
        ours = claimed = None
    seconds = time.process_time() - start
    level = OrientedContour(_upright(_otsu(picture)), lambda points: points, 1.0, ())
    top = float(level.points[:, 1].max())
    spans = [level.span(top * share) for share in np.linspace(0.03, 0.97, 190)]
    wide = np.array([high - low for low, high in spans])
    simple = [wide[140:].max(), wide[66:166].min(), wide[:40].max()]
    return {
        "ours": ours,
        "simple": [abs(s - picture.truth[n]) for s, n in zip(simple, WIDTHS, strict=True)],
        "s": seconds,
        "claimed": claimed,
    }


def pair(job: tuple[str, int]) -> dict:
    """Error of the largest local departure, mm; every fifth pair is unchanged."""
    cv2.setNumThreads(1)
    level, seed = job
    rng = np.random.default_rng([seed, 5])
    bump = 0.0 if seed % 5 == 0 else float(rng.choice([-1, 1]) * rng.uniform(1, 4))
    ours, theirs = drawn.shoe(level, seed, (float(rng.uniform(0.05, 0.95)), bump)), drawn.shoe(level, seed + 1000)
    true = register_contour(ours.outline_mm, theirs.outline_mm).largest
    try:
        contours = [contour_of(*_given(one))[0].points * drawn.MM_PER_PX for one in (ours, theirs)]
        found = register_contour(*contours).largest
    except AssayError:
        found = None
    return {"bump": bump, "true": true, "ours": found, "simple": _closest_points(_otsu(ours), _otsu(theirs))}


def _given(picture) -> tuple[Picture, Marks]:
    return Picture(picture.rgb, drawn.MM_PER_PX), Marks(MarkKind.REGION, tuple(map(tuple, picture.region)))


def _otsu(picture) -> np.ndarray:
    x0, y0 = picture.region.min(0).astype(int)
    x1, y1 = picture.region.max(0).astype(int)
    grey = cv2.GaussianBlur(cv2.cvtColor(picture.rgb[y0:y1, x0:x1], cv2.COLOR_RGB2GRAY), (0, 0), 1)
    contour = np.concatenate([grey[0], grey[-1], grey[:, 0], grey[:, -1]])
    _, mask = cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    if np.median(contour) > np.median(grey):
        mask = 255 - mask
    loops, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return (max(loops, key=cv2.contourArea)[:, 0] + [x0, y0]) * drawn.MM_PER_PX


def _upright(loop: np.ndarray) -> np.ndarray:
    return np.stack([loop[:, 0], loop[:, 1].max() - loop[:, 1]], 1)


def _closest_points(ours: np.ndarray, theirs: np.ndarray) -> float:
    tree, moved = cKDTree(theirs), ours - ours.mean(0) + theirs.mean(0)
    for _ in range(60):
        near = theirs[tree.query(moved)[1]]
        a, b = moved - moved.mean(0), near - near.mean(0)
        u, _, vt = np.linalg.svd(a.T @ b)
        spin = (u @ np.diag([1, np.sign(np.linalg.det(u @ vt))]) @ vt).T
        moved = a @ spin.T + near.mean(0)
    return float(tree.query(moved)[0].max())


def main(pool) -> None:
    """Print the table."""
    print(f"\n{HEELS} heels and {PAIRS} pairs of shoes a line, drawn on textures (no simulator)")
    print(
        "           widths, mean error (baseline)   largest departure: median error, 95 % (baseline)   unchanged, worst"
    )
    for level in drawn.LEVELS:
        heels = list(pool.map(heel, [(level, seed) for seed in range(HEELS)]))
        pairs = list(pool.map(pair, [(level, seed) for seed in range(PAIRS)]))
        widths = [row["ours"] for row in heels if row["ours"]]
        for row in heels:
            claims.told("a heel's widths", zip(row["ours"] or (), row["claimed"] or (), strict=True))
        changed = [row for row in pairs if row["bump"] and row["ours"] is not None]
        off = np.abs([row["ours"] - row["true"] for row in changed])
        simple = np.abs([row["simple"] - abs(row["true"]) for row in pairs if row["bump"]])
        same = [abs(row["ours"]) for row in pairs if not row["bump"] and row["ours"] is not None]
        simple_widths = np.mean([row["simple"] for row in heels])
        print(
            f"{level:10} {np.mean(widths):8.3f} ({simple_widths:6.2f}) {len(widths):3}/{HEELS}"
            f" {np.median(off):20.3f} {np.percentile(off, 95):8.3f} ({np.median(simple):6.2f}) {len(changed):3}/"
            f"{sum(bool(row['bump']) for row in pairs)} {max(same, default=float('nan')):16.2f}"
        )
    print(f"a heel's gauges: {np.median([row['s'] for row in heels]):.2f} s CPU")

"""How true distances along a gap are, where a line of holes lands, where a row ends: drawn on textures, no simulator.

Beside a straightforward use of libraries on the gap: the two strongest steps of the strip's mean profile.
"""

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import cKDTree

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import line_edge_intersection, parallel, row_end
from assay.stitches.strip import straighten
from tests.bench import claims, drawn_rows
from tests.bench.drawn_rows import LEVELS, LOOKS, MARGIN, MM_PER_PX

COUNT = 60


def gap(job: tuple[str, int]) -> tuple:
    """Error of a gap's mean width, mm, None where refused; the baseline's; and the uncertainty that was claimed."""
    cv2.setNumThreads(1)
    level, seed = job
    rng = np.random.default_rng([LEVELS.index(level), seed, 41])
    grain, contrast, uneven, blur, noise, _ = LOOKS[level]
    path, angle = drawn_rows.curve(rng, rng.uniform(300, 520), (0.2, 0.5, 0.8)[LEVELS.index(level)])
    width, height = (np.ceil(path.max(0)) + MARGIN).astype(int)
    t, beside = _beside(path, angle, (width, height))
    wide = rng.uniform(2.2, 4.5) + rng.uniform(-0.8, 0.8) * (t / len(path) - 0.5)
    tone = rng.uniform(0.15, 0.5)
    reflect = tone * drawn_rows.panel(rng, (height, width), grain)
    for side in (-1, 1):
        beyond = np.clip(beside * side - wide / 2 / MM_PER_PX + 0.5, 0, 1)
        reflect *= 1 + beyond * rng.choice([-0.6, 1.0]) * max(rng.uniform(*contrast), 0.12)
    rgb = drawn_rows.photographed(reflect, (uneven, blur, noise), rng)
    drawn = path[np.linspace(0, len(path) - 1, 9).astype(int)] + rng.normal(0, 1.2, (9, 2)).clip(-2, 2)
    true = wide[(np.abs(beside) < 1)].mean()
    marks = Marks(MarkKind.PATH, tuple(map(tuple, drawn)))
    picture = Picture(rgb, MM_PER_PX)
    try:
        found = parallel.measure(picture, marks)
        off, claimed = abs(found.parts["mean_mm"] - true), found.parts["mean_mm_uncertainty"]
    except CannotMeasure:
        off = claimed = None
    return off, abs(_strongest_steps(picture, drawn) - true), claimed


def lands(job: tuple[str, int]) -> tuple:
    """Error of where a line of holes lands, mm, and the uncertainty that was claimed; None where refused."""
    cv2.setNumThreads(1)
    level, seed = job
    rng = np.random.default_rng([LEVELS.index(level), seed, 42])
    grain, contrast, uneven, blur, noise, scatter = LOOKS[level]
    lean, count, pitch = rng.uniform(-0.3, 0.3), int(rng.integers(4, 8)), rng.uniform(26, 36)
    way = np.array([np.cos(lean), np.sin(lean)])
    holes = np.array([70.0, 170.0]) + np.outer(np.arange(count) * pitch, way)
    holes += rng.normal(0, scatter * 3, holes.shape)
    foot = holes[-1] + rng.uniform(60, 110) * way
    slant = np.pi / 2 + rng.uniform(-0.4, 0.4)
    along = np.array([np.cos(slant), np.sin(slant)])
    size = (340, int(foot[0] + 110))
    y, x = np.mgrid[: size[0], : size[1]]
    across = (x - foot[0]) * along[1] - (y - foot[1]) * along[0]
    tone = rng.uniform(0.2, 0.5)
    reflect = tone * drawn_rows.panel(rng, size, grain)
    reflect *= 1 + np.clip(across + 0.5, 0, 1) * rng.choice([-0.6, 1.0]) * max(rng.uniform(*contrast), 0.12)
    for hole in holes:
        drawn_rows.hole(reflect, hole, rng.uniform(6, 8), 0.3 * tone, 1.0, None)
    rgb = drawn_rows.photographed(reflect, (uneven, blur, noise), rng)
    held = foot - along * rng.uniform(20, 50)
    clicked = np.array([holes[0], holes[-1], held, held + along * 90])
    clicked[[0, 1, 3]] += rng.normal(0, 2, (3, 2))
    # The true line is the best through the true centres.
    middle = holes.mean(0)
    true_way = np.linalg.svd(holes - middle)[2][0]
    meets = np.linalg.solve(np.column_stack([true_way, -along]), held - middle)[1]
    try:
        marks = Marks(MarkKind.PATH, tuple(map(tuple, clicked)))
        found = line_edge_intersection.measure(Picture(rgb, MM_PER_PX), marks)
        return abs(found.value - meets * MM_PER_PX), found.uncertainty
    except CannotMeasure:
        return None, None


def ends(job: tuple[str, int]) -> tuple:
    """Error of where a row ends against an edge, mm, how many stitches pass it, and the uncertainty claimed;
    None where refused."""
    cv2.setNumThreads(1)
    level, seed = job
    rng = np.random.default_rng([LEVELS.index(level), seed, 43])
    grain, contrast, uneven, blur, noise, scatter = LOOKS[level]
    count, pitch = int(rng.integers(8, 18)), rng.uniform(1.8, 3.0) / MM_PER_PX
    path, angle = drawn_rows.curve(rng, (count + 6) * pitch, (0.2, 0.4, 0.6)[LEVELS.index(level)])
    at = (np.arange(count) + 0.5 + rng.normal(0, scatter, count).clip(-0.2, 0.2)) * pitch
    length = rng.uniform(0.66, 0.82) * pitch
    # The edge lies from three pitches short of the row's end to four past it, and not just where a stitch's middle is.
    crosses = at[-1] + pitch * (rng.integers(-3, 4) + rng.uniform(0.2, 0.8))
    width, height = (np.ceil(path.max(0)) + MARGIN).astype(int)
    (foot,), (lean,) = drawn_rows.on(path, angle, np.array([crosses]), 0.0)
    slant = lean + np.pi / 2 + rng.uniform(-0.5, 0.5)
    along = np.array([np.cos(slant), np.sin(slant)])
    y, x = np.mgrid[:height, :width]
    tone = rng.uniform(0.15, 0.5)
    reflect = tone * drawn_rows.panel(rng, (height, width), grain)
    beyond = np.clip((x - foot[0]) * along[1] - (y - foot[1]) * along[0] + 0.5, 0, 1)
    step, other = max(rng.uniform(*contrast), 0.2), 1.0
    # The thread stands out against the panel beyond at least half as much as against its own.
    while other == 1.0 or abs(np.log((1 + step) / other)) < 0.5 * np.log(1 + step):
        other = 1 + rng.choice([-0.5, 0.7]) * max(rng.uniform(*contrast), 0.2)
    reflect *= 1 + beyond * (other - 1)
    yarn, sun = tone * (1 + step), rng.uniform(0, 2 * np.pi)
    for place, way in zip(*drawn_rows.on(path, angle, at, 0.0), strict=True):
        drawn_rows.thread(reflect, place, way, (length, 0.7 / MM_PER_PX), yarn, 1.0, sun)
    rgb = drawn_rows.photographed(reflect, (uneven, blur, noise), rng)
    stops = at[at < crosses][-1] + min(length / 2, 0.4 * (crosses - at[at < crosses][-1]))
    row = drawn_rows.on(path, angle, np.linspace(0, stops, 7), 0.0)[0] + rng.normal(0, 0.9, (7, 2)).clip(-2, 2)
    edge = foot + np.outer([-30, 30], along) + rng.normal(0, 2, (2, 2))
    true = (crosses - at[-1] - length / 2) * MM_PER_PX
    try:
        found = row_end.measure(Picture(rgb, MM_PER_PX), Marks(MarkKind.PATH, tuple(map(tuple, [*row, *edge]))))
    except CannotMeasure:
        return None, None, None
    return abs(found.value - true), abs(found.parts["past"] - (at > crosses).sum()), found.uncertainty


def _beside(path: np.ndarray, angle: np.ndarray, size: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
    """Of every pixel (H, W): the nearest place along a path, and the signed distance from it, px."""
    y, x = np.mgrid[: size[1], : size[0]]
    spots = np.stack([x.ravel(), y.ravel()], 1).astype(float)
    away, near = cKDTree(path).query(spots)
    normal = np.stack([-np.sin(angle), np.cos(angle)], 1)
    side = np.sign(((spots - path[near]) * normal[near]).sum(1))
    return near.reshape(x.shape), (away * side).reshape(x.shape)


def _strongest_steps(picture: Picture, drawn: np.ndarray) -> float:
    strip = straighten(picture, drawn)
    profile = strip.grey[:, strip.start : strip.stop].mean(1)
    steps = np.abs(gaussian_filter1d(profile, 1.5, order=1))
    middle = len(steps) // 2
    return float(middle - steps[:middle].argmax() + steps[middle:].argmax()) * picture.mm_per_px


def main(pool) -> None:
    """Print the table."""
    print(f"\n{COUNT} gaps and lines of holes a line, drawn on textures (no simulator), {MM_PER_PX} mm a pixel")
    print("             gap: mean error     95 %  refused  baseline | landing: mean error     95 %  refused")
    for level in LEVELS:
        jobs = [(level, seed) for seed in range(COUNT)]
        gaps, landed, ended = (list(pool.map(each, jobs)) for each in (gap, lands, ends))
        off, where = ([one[0] for one in found if one[0] is not None] for found in (gaps, landed))
        simple = np.mean([one[1] for one in gaps])
        print(
            f"{level:10} {np.mean(off):16.3f} {np.percentile(off, 95):8.3f} {COUNT - len(off):8} {simple:9.2f} |"
            f" {np.mean(where):19.3f} {np.percentile(where, 95):8.3f} {COUNT - len(where):8}"
        )
        _print_ends([one for one in ended if one[0] is not None])
        for name, found, at in (("gap", gaps, 2), ("landing", landed, 1), ("row's end", ended, 2)):
            claims.told(name, [(one[0], one[at]) for one in found if one[0] is not None])


def _print_ends(found: list[tuple]) -> None:
    """Where rows end against an edge: half of them short of it, half past it."""
    off, stitches, _ = (np.array(part) for part in zip(*found, strict=True))
    print(
        f"  a row's end against an edge: mean error {off.mean():.3f} mm, median {np.median(off):.3f}, 95 %"
        f" {np.percentile(off, 95):.3f}; stitches past it exact {100 * (stitches == 0).mean():.1f} %;"
        f" refused {COUNT - len(found)}"
    )

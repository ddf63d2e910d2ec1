"""Materials, weaves, specks and embroidery, drawn without the simulator: accuracy beside plain library use."""

import os
from pathlib import Path

import cv2
import numpy as np
from skimage.feature import local_binary_pattern

from assay.compare import tone as tone_compare
from assay.compare.texture import compare
from assay.contracts import Light, MarkKind, Marks, Picture
from assay.errors import AssayError, CannotMeasure
from assay.imaging.colour import de00, linear_to_lab
from assay.imaging.plane import scaled
from assay.imaging.region import measure_region
from assay.imaging.white_balance import correction_from_neutral
from assay.measure import colour, contrast, embroidery, speckle, texture, weave
from tests.bench import drawn_surfaces as drawn

PAIRS = 60
EACH = 40


def main(pool) -> None:
    print(f"\nsurfaces, drawn on no simulator: {PAIRS} pairs, {EACH} pictures a line")
    print(
        "                 texture AUC (LBP)   same, 95 %  other, 5 %  refused | period off median, 95 % (FFT)  refused"
    )
    for level in drawn.LOOKS:
        jobs = [(level, seed) for seed in range(PAIRS)]
        pairs = [one for both in pool.map(_texture, jobs, chunksize=4) for one in both]
        told = [pair for pair in pairs if pair[1] is not None]
        same, other = ([d for same, d, _ in told if same is kind] for kind in (True, False))
        simple = [(s, d) for s, _, d in pairs]
        periods = list(pool.map(_weave, [(level, seed) for seed in range(EACH)], chunksize=4))
        found = [abs(p / t - 1) * 100 for p, t, _ in periods if p is not None]
        plain = [abs(p / t - 1) * 100 for _, t, p in periods]
        print(
            f"{level:12}       {_auc(same, other):.3f} ({_auc(*_split(simple)):.3f})     {np.percentile(same, 95):8.2f}"
            f"   {np.percentile(other, 5):8.2f}  {len(pairs) - len(told):7} |   {np.median(found):.2f} %"
            f" {np.percentile(found, 95):.2f} % ({np.median(plain):.2f} %)  {sum(p is None for p, *_ in periods):7}"
        )
    print("             specks exact, within 2u, worst   | loose threads found, false a picture, sure but wrong")
    for level in drawn.LOOKS:
        jobs = [(level, seed) for seed in range(EACH)]
        rows = list(pool.map(_specks, jobs, chunksize=4))
        seen = [(f, t) for f, t, _ in rows if f is not None]
        within = [abs(f - t) <= 2 * u for f, t, u in rows if f is not None]
        loose = [one for one in pool.map(_loose, jobs, chunksize=4) if one[0] is not None]
        hit = sum(min(f, t) for f, t, _ in loose) / max(1, sum(t for _, t, _ in loose))
        false = sum(max(0, f - t) for f, t, _ in loose) / max(1, len(loose))
        wrong = sum(f != t and u < 0.3 for f, t, u in loose)
        print(
            f"{level:12} {np.mean([f == t for f, t in seen]):6.1%} {np.mean(within):8.1%}"
            f" {max(abs(f - t) for f, t in seen):6.0f} specks off   | {hit:6.2f} {false:12.2f} {wrong:12}"
        )
    print("             panels of one picture: dE00 off, median, 95 % | of two pictures in two lights, within 2u")
    for level in drawn.LOOKS:
        rows = [row for row in pool.map(_panels, [(level, seed) for seed in range(EACH)], chunksize=4) if row]
        inside, across, within = np.array(rows).T
        print(
            f"{level:12} {np.median(inside):6.2f} {np.percentile(inside, 95):6.2f}   | {np.median(across):6.2f}"
            f" {np.percentile(across, 95):6.2f} {within.mean():8.1%}; refused {EACH - len(rows)}"
        )
    if folder := os.environ.get("WAHRHEIT_PRACTICE"):
        from tests.bench.practice.__main__ import main as practice

        practice([Path(folder)], worst=False)


def _read(entry, rgb, step, region):
    height, width = rgb.shape[:2]
    points = np.clip(region, 1, [width - 2, height - 2])
    marks = Marks(MarkKind.REGION, tuple(map(tuple, points)))
    return measure_region(entry.read, Picture(rgb, step), scaled(step, 0.003, "card"), marks, units=entry.units)


def _texture(job):
    level, seed = job
    rng = np.random.default_rng([seed, 3])
    one = drawn.material(rng)
    pictures = [drawn.piece(m, level, 10 * seed + n) for n, m in enumerate((one, one, drawn.material(rng, one)))]
    histograms = [_lbp(*picture) for picture in pictures]
    try:
        kept = [_read(texture.MEASURE, *picture).descriptor for picture in pictures]
    except CannotMeasure:
        kept = None
    rows = []
    for same, n in ((True, 1), (False, 2)):
        simple = float(((histograms[0] - histograms[n]) ** 2 / (histograms[0] + histograms[n] + 1e-9)).sum())
        try:
            distance = compare(kept[0], kept[n]).parts["distance"] if kept else None
        except AssayError:
            distance = None
        rows.append((same, distance, simple))
    return rows


def _lbp(rgb, step, region):
    """Uniform patterns of three radii on the picture brought to one scale."""
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    grey = cv2.resize(grey, None, fx=step / 0.1, fy=step / 0.1, interpolation=cv2.INTER_AREA)
    grey = grey[grey.shape[0] // 10 : -grey.shape[0] // 10, grey.shape[1] // 10 : -grey.shape[1] // 10]
    parts = [
        np.bincount(local_binary_pattern(grey, 8, r, "uniform").astype(int).ravel(), minlength=10) for r in (1, 2, 4)
    ]
    joined = np.concatenate(parts).astype(float)
    return joined / joined.sum()


def _weave(job):
    rgb, step, region, pitches = drawn.mesh(*job)
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY).astype(float)
    power = np.abs(np.fft.rfft2((grey - grey.mean()) * np.hanning(grey.shape[0])[:, None] * np.hanning(grey.shape[1])))
    power[:3, :3] = power[-3:, :3] = 0
    at = np.unravel_index(power.argmax(), power.shape)
    simple = step / np.hypot(np.fft.fftfreq(grey.shape[0])[at[0]], np.fft.rfftfreq(grey.shape[1])[at[1]])
    try:
        found = _read(weave.MEASURE, rgb, step, region).value
    except CannotMeasure:
        found = None
    near = lambda value: min(pitches, key=lambda p: abs(np.log(p / value)))  # noqa: E731
    return found, near(found if found else simple), simple * near(found if found else simple) / near(simple)


def _specks(job):
    *picture, count = drawn.specks(*job)
    try:
        found = _read(speckle.MEASURE, *picture)
    except CannotMeasure:
        return None, count, 0.0
    return int(found.parts["specks"]), count, max(1.0, found.parts["specks_uncertainty"])


def _loose(job):
    *picture, count = drawn.embroidered(*job)
    try:
        found = _read(embroidery.MEASURE, *picture)
    except CannotMeasure:
        return None, count, 0.0
    return found.value, count, found.uncertainty


def _panels(job):
    """How far off a colour difference is: inside one picture, and across two lights by the grey tile in both."""
    level, seed = job
    try:
        seen, paints = zip(*(_neutral(*drawn.two_panels(level, n)) for n in (seed, seed + 1000)), strict=True)
        truth = de00(*linear_to_lab(paints[0]))
        inside = contrast.MEASURE.read(seen[0], Marks(MarkKind.PLACES, ((100, 100), (300, 100)))).value
        boxes = [((x + 20, 20), (x + 180, 20), (x + 180, 180), (x + 20, 180)) for x in (0, 200)]
        kept = [
            colour.MEASURE.read(picture, Marks(MarkKind.REGION, box)).descriptor
            for picture, box in zip(seen, boxes, strict=True)
        ]
    except CannotMeasure:
        return None
    across = tone_compare.compare(*kept).parts
    off = abs(across["apart_dE00"] - truth)
    return abs(inside - truth), off, off <= 2 * across["apart_dE00_uncertainty"]


def _neutral(rgb, paints):
    light = correction_from_neutral(rgb, (300, 250))
    true = light.corrected(rgb, np.eye(3))
    return Picture(true, light=Light.SAME_FRAME, u_light_de00=light.uncertainty_de00), paints


def _split(rows):
    return [d for same, d in rows if same], [d for same, d in rows if not same]


def _auc(same, other) -> float:
    """Chance that two of one material lie nearer than two others."""
    one, two = np.array(same)[:, None], np.array(other)[None]
    return float(((two > one) + 0.5 * (two == one)).mean())

"""Close-ups with one row of stitches or one group of holes, for accuracy tables.

Three difficulties: ``easy`` (contrast thread, even light), ``realistic`` (mixed thread, a panel edge beside the row,
uneven light, some blur), ``hard`` (thread of the panel's own colour, strong blur and noise, fewer pixels).
"""

from dataclasses import dataclass

import numpy as np

from assay.simulator.camera import Camera, expose, pose
from assay.simulator.materials import LEATHER, RUBBER, SUEDE, Rgb
from assay.simulator.relief import Relief, Thread, beside, curve, normals
from assay.simulator.shading import Lamp, shade

DIFFICULTIES = ("easy", "realistic", "hard")
COLOURS: tuple[Rgb, ...] = ((224, 220, 208), (96, 108, 116), (60, 52, 46), (150, 96, 62), (178, 176, 170), (38, 40, 44))


@dataclass(frozen=True, slots=True)
class Swatch:
    """A close-up and its truth, everything in pixels of the picture."""

    rgb: np.ndarray
    mm_per_px: float
    marks: np.ndarray
    """Path or region a person would draw, (N, 2)."""
    centres: np.ndarray
    """True places of stitches or holes, (N, 2)."""
    pitch_mm: float = 0.0


def seam_swatch(difficulty: str, seed: int) -> Swatch:
    """One row of running or bar stitches on a curved path."""
    level = DIFFICULTIES.index(difficulty)
    rng = np.random.default_rng([level, seed, 11])
    camera = _camera(rng, level)
    relief = Relief((84.0, 36.0), camera.mm_per_px, rng)
    colour = COLOURS[rng.integers(len(COLOURS))]
    material = (LEATHER, LEATHER, SUEDE, RUBBER)[rng.integers(4)].coloured(colour)
    relief.skin(np.ones(relief.shape, np.float32), material)
    line = _row_line(rng, level)
    if level > 0 and rng.random() < 0.7:
        edge = beside(line, rng.uniform(2.0, 3.2) * rng.choice([-1, 1]))
        far = edge + (edge[len(edge) // 2] - line[len(line) // 2]) * 12
        relief.panel(np.vstack([edge, far[::-1]]), material, -1.0 if rng.random() < 0.5 else 1.0)
    across = bool(rng.random() < 0.3)
    pitch = rng.uniform(1.5, 2.4) if across else rng.uniform(2.1, 3.6)
    stitches = int(np.hypot(*np.diff(line, axis=0).T).sum() / pitch)
    own = rng.random() < (0.0, 0.35, 0.75)[level]
    thread = Thread(
        tuple(np.clip(np.asarray(colour) * rng.uniform(0.95, 1.06), 0, 255)) if own else _contrasting(colour, rng),
        width_mm=rng.uniform(0.55, 0.85),
        across=across,
        bar_mm=rng.uniform(2.8, 4.6),
        duty=rng.uniform(0.68, 0.82),
        jitter=(0.03, 0.05, 0.06)[level],
    )
    centres = relief.sew(line, stitches, thread)
    rgb = expose(shade(relief, _lamp(rng, level)), camera, rng)
    placed = pose(camera, relief.shape)
    wobble = rng.normal(0, (0.5, 1.5, 2.0)[level], (7, 2))
    drawn = _stretched(line, 0.35 * pitch)[np.linspace(0, len(line) - 1, 7).astype(int)] / camera.mm_per_px + wobble
    gaps = np.hypot(*np.diff(centres, axis=0).T)
    return Swatch(
        rgb,
        camera.mm_per_px,
        placed.through(drawn),
        placed.through(centres / camera.mm_per_px - 0.5),
        float(gaps.sum() / len(gaps)),
    )


def hole_swatch(difficulty: str, seed: int) -> Swatch:
    """A row or a lattice of punched holes inside a region."""
    level = DIFFICULTIES.index(difficulty)
    rng = np.random.default_rng([level, seed, 12])
    camera = _camera(rng, level)
    relief = Relief((70.0, 46.0), camera.mm_per_px, rng)
    # Dark panels only where the level allows: a dark hole in black leather is found by its rim alone.
    colour = COLOURS[rng.integers(3 + level)] if level < 2 else COLOURS[rng.integers(len(COLOURS))]
    material = (LEATHER, LEATHER, SUEDE)[rng.integers(3)].coloured(colour)
    relief.skin(np.ones(relief.shape, np.float32), material)
    if level > 0:
        relief.sew(
            curve(np.array([[4, 5], [35, 4 + rng.uniform(-1, 1)], [66, 5]])), 24, Thread(_contrasting(colour, rng))
        )
    diameter = rng.uniform(1.6, 4.6)
    centres = _lattice(rng, diameter)
    keep = np.ones(len(centres), bool)
    if level and rng.random() < 0.4 and len(centres) > 4:
        keep[rng.integers(len(centres))] = False
    centres = centres[keep]
    inside = tuple(np.clip(np.asarray(colour) * (0.16, 0.28, 0.4)[level], 12, 255))
    for centre in centres:
        relief.punch(centre, diameter * rng.normal(1, 0.02), inside=inside)
    rgb = expose(shade(relief, _lamp(rng, level)), camera, rng)
    placed = pose(camera, relief.shape)
    low, high = centres.min(0) - 3.5 - diameter / 2, centres.max(0) + 3.5 + diameter / 2
    corners = np.array([low, [high[0], low[1]], high, [low[0], high[1]]]) / camera.mm_per_px
    limit = np.asarray(relief.shape[::-1]) - 2
    return Swatch(
        rgb,
        camera.mm_per_px,
        placed.through(corners).clip(1, limit),
        placed.through(centres / camera.mm_per_px - 0.5),
    )


def _camera(rng: np.random.Generator, level: int) -> Camera:
    return Camera(
        mm_per_px=(0.10, 0.13, 0.17)[level] * rng.uniform(0.9, 1.1),
        blur_px=(0.6, 1.1, 1.6)[level],
        noise=(0.006, 0.014, 0.026)[level],
        uneven=(0.05, 0.25, 0.4)[level],
        turn_deg=rng.uniform(-4, 4),
        exposure=rng.uniform(*((0.9, 1.1), (0.7, 1.2), (0.5, 1.3))[level]),
    )


def _lamp(rng: np.random.Generator, level: int) -> Lamp:
    return Lamp(azimuth_deg=rng.uniform(-170, -10), elevation_deg=rng.uniform(*((45, 65), (35, 70), (30, 75))[level]))


def _row_line(rng: np.random.Generator, level: int) -> np.ndarray:
    bend = (2.0, 5.0, 7.0)[level]
    x = np.linspace(9, rng.uniform(45, 75), 4)
    return curve(np.stack([x, 18 + rng.uniform(-bend, bend, 4) * [0.5, 1, 1, 0.5]], 1))


def _stretched(line: np.ndarray, by_mm: float) -> np.ndarray:
    side = normals(line)
    along = np.stack([-side[:, 1], side[:, 0]], 1)
    share = np.linspace(-1, 1, len(line))[:, None]
    return line + along * by_mm * share


def _contrasting(colour: Rgb, rng: np.random.Generator) -> Rgb:
    light = sum(colour) > 330
    return (
        tuple(rng.uniform(30, 95, 3))
        if light and rng.random() < 0.6
        else tuple(np.clip(np.asarray(colour) + (45 if not light else -55), 0, 255))
    )


def _lattice(rng: np.random.Generator, diameter: float) -> np.ndarray:
    rows = int(rng.integers(1, 5))
    columns = int(rng.integers(4, 9))
    pitch = min(diameter * rng.uniform(1.9, 3.0), 52 / columns, 34 / rows)
    y, x = np.mgrid[0:rows, 0:columns].astype(float)
    x += 0.5 * (y % 2) * (rng.random() < 0.5)
    spots = np.stack([x.ravel(), y.ravel()], 1) * pitch
    spots += rng.normal(0, 0.03 * pitch, spots.shape)
    return spots - spots.mean(0) + [35, 24]

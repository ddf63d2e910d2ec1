"""Rows of stitches and holes that owe nothing to the simulator: drawn on photographed textures, three difficulties.

The textures are those that ship with scikit-image. Threads are capsules lit as cylinders, holes are discs, rings and
dents; light, shadow, blur, noise and JPEG are plain formulas. Hard means: still solvable by a careful person.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from skimage import data

from assay.imaging.colour import linear_to_srgb

LEVELS = ("easy", "realistic", "hard")
MM_PER_PX = 0.12
MARGIN = 60
# Kinds of holes; ringed ones have a metal eyelet round each, shallow ones are dents, light ones studs.
KINDS = ("punched", "ringed", "filled", "shallow", "laced", "light")
# Contrast of the panel's grain, of thread against panel, unevenness of light, blur px, noise, scatter of the places.
LOOKS = {
    "easy": (0.2, (0.5, 0.9), 0.1, 0.7, 0.004, 0.03),
    "realistic": (0.35, (0.2, 0.55), 0.35, 1.0, 0.008, 0.06),
    "hard": (0.35, (0.0, 0.22), 0.5, 1.2, 0.010, 0.08),
}
# A second thread lies across the first by so much.
CROSSED = np.radians(60)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A picture, marks as a person would draw them, and what was drawn."""

    rgb: np.ndarray
    marks: np.ndarray
    """(N, 2) px: a path along the row, or a region round the holes."""
    centres: np.ndarray
    """(K, 2) px."""
    pitch_mm: float = 0.0
    about: str = ""
    stitch_mm: float = 0.0
    """From end to end of a stitch."""
    slant_deg: float = 0.0
    """Of a stitch to the row, clockwise as seen."""
    apart_mm: float = 0.0
    """To the second row beside it; 0: there is none."""
    crosswise: tuple[int, ...] = ()
    """Stitches that a second thread lies across."""


def row(level: str, seed: int, *, gapped: bool = False, crossed: bool = False, few: bool = False) -> Drawn:
    """One row of stitches along a curve, running stitch or bars across; ``gapped``: one or two of it are missing;
    ``crossed``: a second thread lies across one or two; ``few``: of five to nine stitches."""
    rng = np.random.default_rng([LEVELS.index(level), seed, 31])
    hardness = LEVELS.index(level)
    grain, contrast, uneven, blur, noise, scatter = LOOKS[level]
    count = int(rng.integers(5, 10) if few else rng.integers(10, 34))
    pitch = float(rng.uniform(*((1.9, 3.4), (1.6, 3.2), (1.3, 3.0))[hardness])) / MM_PER_PX
    path, angle = curve(rng, count * pitch, (0.3, 0.8, 1.1)[hardness])
    at = (np.arange(count) + 0.5 + rng.normal(0, scatter, count).clip(-0.2, 0.2)) * pitch
    width, height = (np.ceil(path.max(0)) + MARGIN).astype(int)
    tone = rng.uniform(0.12, 0.6)
    reflect = tone * panel(rng, (height, width), grain)
    step = rng.uniform(*contrast)
    yarn = tone / (1 + step) if tone > 0.3 and rng.random() < 0.5 else tone * (1 + step)
    bars = rng.random() < 0.35
    thick = min(rng.uniform(0.55, 0.9) / MM_PER_PX, 0.5 * pitch)
    size = (rng.uniform(1.6, 2.6) / MM_PER_PX if bars else rng.uniform(0.66, 0.82) * pitch, thick)
    slant = np.radians(rng.uniform(65, 90) if bars else rng.uniform(-12, 12))
    beside = bool(hardness and rng.random() < 0.35)
    if hardness and rng.random() < 0.5:
        _edge(reflect, path, rng)
    fresh = wear(rng, count) if hardness == 2 else np.ones(count)
    sun = rng.uniform(0, 2 * np.pi)
    crosswise = set()
    if crossed:
        own = np.random.default_rng([hardness, seed, 78])
        crosswise = set(own.choice(np.arange(1, count - 1), int(own.integers(1, 3)), replace=False).tolist())
    lines = [(0.0, 0.0)]
    if beside:
        lines.append((rng.choice([-1, 1]) * max(rng.uniform(2.4, 3.4) / MM_PER_PX, 1.4 * size[0] * bars), 0.5 * pitch))
    here = np.ones(count, bool)
    if gapped:
        # Drawn by a generator of its own: all else stays as it is without gaps.
        own = np.random.default_rng([hardness, seed, 77])
        here[own.choice(np.arange(2, count - 2), int(own.integers(1, 3)), replace=False)] = False
    for off, along in lines:
        places, leans = on(path, angle, at + along, off)
        for n, (place, lean, new) in enumerate(zip(places[here], leans[here], fresh[here], strict=True)):
            way = lean + slant + rng.normal(0, 0.05)
            thread(reflect, place, way, size, yarn, new, sun)
            if off == 0.0 and np.flatnonzero(here)[n] in crosswise:
                thread(reflect, place, way + CROSSED, size, yarn, new, sun)
    drawn = path[np.linspace(0, len(path) - 1, max(4, len(path) // 35)).astype(int)]
    drawn = drawn + (rng.normal(0, 0.9, drawn.shape).clip(-2, 2) if hardness else 0)
    true = float(np.polyfit(np.arange(count), at, 1)[0]) * MM_PER_PX
    about = f"{'bars' if bars else 'run'}{' own' if step < 0.08 else ''}{' beside' if beside else ''}"
    rgb = photographed(reflect, (uneven, blur, noise), rng)
    apart = abs(lines[-1][0]) * MM_PER_PX
    return Drawn(
        rgb,
        drawn,
        on(path, angle, at, 0)[0][here],
        true,
        about,
        size[0] * MM_PER_PX,
        float(np.degrees(slant)),
        float(apart),
        tuple(sorted(crosswise)),
    )


def holes(level: str, seed: int, kind: str) -> Drawn:
    """Holes in a line or a lattice. ``kind``: see ``KINDS``; one of the filled ones is plugged, and not counted."""
    rng = np.random.default_rng([LEVELS.index(level), seed, 32 + KINDS.index(kind)])
    hardness = LEVELS.index(level)
    grain, _, uneven, blur, noise, scatter = LOOKS[level]
    lattice = kind in ("punched", "filled", "shallow") and rng.random() < 0.6
    radius = rng.uniform(*((0.5, 0.9) if lattice else (1.0, 2.2))) / MM_PER_PX
    pitch = radius * rng.uniform(*((3.6, 5.0) if lattice or kind == "punched" else (4.6, 6.0)))
    columns, rows = (int(rng.integers(3, 7)), int(rng.integers(2, 6))) if lattice else (int(rng.integers(4, 9)), 1)
    grid = np.stack(np.meshgrid(np.arange(columns), np.arange(rows)), -1).reshape(-1, 2).astype(float)
    if lattice and rng.random() < 0.5:
        grid[:, 0] += 0.5 * (grid[:, 1] % 2)
    if lattice and rng.random() < 0.5:
        grid = np.delete(grid, int(rng.integers(len(grid))), axis=0)
    grid += rng.normal(0, 0.4 * scatter, grid.shape)
    if not lattice:
        grid[:, 1] += rng.uniform(-0.04, 0.04) * (grid[:, 0] - columns / 2) ** 2
    turn = rng.uniform(-0.6, 0.6)
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    room = min(0.5 * pitch, 1.6 * radius + 6)
    low, high = pitch * grid.min(0) - room, pitch * grid.max(0) + room
    box = np.array([low, [high[0], low[1]], high, [low[0], high[1]]]) @ spin.T
    shift = MARGIN / 2 - box.min(0)
    centres, box = pitch * grid @ spin.T + shift, box + shift
    width, height = np.ceil(box.max(0) + MARGIN / 2).astype(int)
    tone = rng.uniform(*((0.2, 0.65), (0.2, 0.65), (0.12, 0.35))[hardness])
    reflect = tone * panel(rng, (height, width), grain)
    sun = rng.uniform(0, 2 * np.pi)
    deep = tone * rng.uniform(*((0.08, 0.3), (0.15, 0.45), (0.3, 0.55))[hardness])
    if kind == "light":
        deep = min(0.95, tone * rng.uniform(*((1.8, 2.6), (1.5, 2.2), (1.35, 1.8))[hardness]))
    if kind == "filled":
        plugged = int(rng.integers(len(centres)))
        hole(reflect, centres[plugged], radius, tone * rng.uniform(0.86, 0.92), sun, None)
        centres = np.delete(centres, plugged, axis=0)
    for centre in centres:
        if kind == "shallow":
            _dent(reflect, centre, radius * (1 + rng.normal(0, 0.02)), rng.uniform(0.35, 0.5), sun)
        else:
            hole(reflect, centre, radius * (1 + rng.normal(0, 0.02)), deep, sun, rng if kind == "ringed" else None)
        if kind == "laced":
            _lace(reflect, centre, turn + np.pi / 2 + rng.normal(0, 0.2), radius, tone * rng.uniform(1.6, 2.2))
    return Drawn(photographed(reflect, (uneven, blur, noise), rng), box, centres, about="lattice" if lattice else "")


def curve(rng: np.random.Generator, length: float, bend: float) -> tuple[np.ndarray, np.ndarray]:
    """(T, 2) px one apart with room around, and its direction."""
    t = np.linspace(0, 1, int(length) + 1)
    angle = rng.uniform(-0.4, 0.4) + rng.uniform(-bend, bend) * t + rng.uniform(-bend, bend) / 2 * np.sin(np.pi * t)
    path = np.cumsum(np.stack([np.cos(angle), np.sin(angle)], 1), axis=0)
    return path + MARGIN - path.min(0), angle


def on(path: np.ndarray, angle: np.ndarray, at: np.ndarray, off: float) -> tuple[np.ndarray, np.ndarray]:
    """Places along a path and beside it, and the direction there."""
    t = np.arange(len(path))
    lean = np.interp(at, t, angle)
    places = np.stack([np.interp(at, t, path[:, k]) for k in (0, 1)], 1)
    return places + off * np.stack([-np.sin(lean), np.cos(lean)], 1), lean


def panel(rng: np.random.Generator, shape: tuple[int, int], contrast: float) -> np.ndarray:
    """Grain of mean 1; seen from further than the texture was taken, so that it is a few pixels large."""
    texture = (data.gravel(), data.grass(), data.brick())[int(rng.integers(3))].astype(np.float32)
    grain = cv2.resize(texture, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    grain = np.tile(grain, (shape[0] // 256 + 2, shape[1] // 256 + 2))
    y, x = rng.integers(0, 256, 2)
    grain = grain[y : y + shape[0], x : x + shape[1]]
    return np.clip(1 + contrast * (grain / grain.mean() - 1), 0.3, 2.0).astype(np.float32)


def _near(reflect: np.ndarray, place: np.ndarray, reach: float) -> tuple:
    """The piece around a place, and offsets from it."""
    x0, y0 = np.maximum(0, np.floor(place - reach)).astype(int)
    x1, y1 = np.ceil(place + reach).astype(int) + 1
    piece = reflect[y0:y1, x0:x1]
    y, x = np.mgrid[y0 : y0 + piece.shape[0], x0 : x0 + piece.shape[1]].astype(float)
    return piece, x - place[0], y - place[1]


def thread(reflect, place, lean, size, tone, fresh, sun) -> None:
    """A capsule lit as a cylinder, a shadow beside it, and a needle's pit at each end."""
    length, thick = size
    piece, x, y = _near(reflect, place, length / 2 + thick + 3)
    u, v = x * np.cos(lean) + y * np.sin(lean), -x * np.sin(lean) + y * np.cos(lean)
    straight = max(0.0, (length - thick) / 2)
    away = np.hypot(np.maximum(0, np.abs(u) - straight), v)
    light = np.sin(sun - lean)
    shade = np.clip(0.5 + thick / 2 + 1.2 - np.hypot(np.maximum(0, np.abs(u) - straight), v - light * 1.6), 0, 1)
    piece *= 1 - 0.3 * fresh * shade
    for end in (-1, 1):
        pit = np.exp(-0.5 * (np.hypot(u - end * (straight + thick / 2 + 0.6), v) / (0.3 * thick)) ** 2)
        piece *= 1 - (0.35 + 0.3 * fresh) * pit
    round_ = np.sqrt(np.clip(1 - (v / (thick / 2 + 0.3)) ** 2, 0, 1))
    lit = tone * (0.62 + 0.3 * round_ + 0.22 * light * np.clip(v / (thick / 2), -1, 1))
    cover = np.clip(thick / 2 + 0.5 - away, 0, 1) * (0.25 + 0.75 * fresh)
    piece += cover * (lit - piece)


def wear(rng: np.random.Generator, count: int) -> np.ndarray:
    """How much of each stitch's contrast is left: one stretch is rubbed."""
    middle, wide = rng.uniform(0, count), rng.uniform(2, 5)
    return 1 - 0.55 * np.exp(-0.5 * ((np.arange(count) - middle) / wide) ** 2)


def _edge(reflect: np.ndarray, path: np.ndarray, rng: np.random.Generator) -> None:
    """The panel ends beside the row: another tone, and a shadow under it."""
    side, off = rng.choice([-1, 1]), rng.uniform(2.0, 3.2) / MM_PER_PX
    y, x = np.mgrid[: reflect.shape[0], : reflect.shape[1]]
    order = np.argsort(path[:, 0])
    line = np.interp(x, path[order, 0], path[order, 1])
    beyond = (y - line) * side - off
    other = np.clip(beyond + 0.5, 0, 1)
    reflect *= 1 + other * (rng.uniform(-0.4, 0.4))
    reflect *= 1 - 0.35 * np.where(beyond > 0, np.exp(-beyond / 4), np.clip(beyond + 1, 0, 1))


def hole(reflect, centre, radius, deep, sun, ringed) -> None:
    """A punched hole: dark, with a lit far wall; with an eyelet round it: bright, curved, with glints."""
    ring = 1.75 * radius
    piece, x, y = _near(reflect, centre, 2.6 * radius + 6)
    away, turn = np.hypot(x, y), np.arctan2(y, x)
    if ringed is not None:
        cast = np.clip(ring + 1.5 - np.hypot(x + 1.8 * np.cos(sun), y + 1.8 * np.sin(sun)), 0, 1)
        piece *= 1 - 0.35 * cast
        share = (away - radius) / (ring - radius)
        tilt = np.clip(2 * share - 1, -1, 1) * np.cos(turn - sun)
        metal = 0.32 + 0.25 * tilt
        for _ in range(3):
            way, where = ringed.uniform(0, 2 * np.pi), ringed.uniform(0.3, 0.7)
            apart = np.hypot(np.angle(np.exp(1j * (turn - way))) * away, (share - where) * (ring - radius))
            metal = metal + 0.9 * np.exp(-0.5 * (apart / (0.12 * radius + 0.6)) ** 2)
        cover = np.clip(ring + 0.5 - away, 0, 1)
        piece += cover * (metal - piece)
    wall = deep * (1 + 0.5 * np.clip(away / radius, 0, 1) ** 3 * np.cos(turn - sun + np.pi))
    cover = np.clip(radius + 0.5 - away, 0, 1)
    piece += cover * (wall - piece)


def _dent(reflect, centre, radius, depth, sun) -> None:
    """A blind hole: no darker than its surroundings but for the shade that its slope towards the light lies in."""
    piece, x, y = _near(reflect, centre, 1.6 * radius + 4)
    away, turn = np.hypot(x, y), np.arctan2(y, x)
    slope = np.exp(-0.5 * ((away - 0.85 * radius) / (0.22 * radius)) ** 2)
    piece *= 1 - depth * slope * np.cos(turn - sun) - 0.2 * np.clip(radius + 0.5 - away, 0, 1)


def _lace(reflect, centre, lean, radius, tone) -> None:
    """A lace that comes out of a hole and runs off across its panel."""
    length, thick = 5.0 * radius, 1.1 * radius
    middle = centre + np.array([np.cos(lean), np.sin(lean)]) * (length / 2 - 0.3 * radius)
    piece, x, y = _near(reflect, middle, length / 2 + thick + 3)
    u, v = x * np.cos(lean) + y * np.sin(lean), -x * np.sin(lean) + y * np.cos(lean)
    away = np.hypot(np.maximum(0, np.abs(u) - (length - thick) / 2), v)
    piece *= 1 - 0.3 * np.clip(thick / 2 + 2.5 - away, 0, 1)
    weave = 1 + 0.18 * np.sin(2 * np.pi * (u + np.abs(v)) / (0.5 * thick))
    cover = np.clip(thick / 2 + 0.5 - away, 0, 1)
    piece += cover * (tone * weave * (0.75 + 0.25 * np.sqrt(np.clip(1 - (2 * v / thick) ** 2, 0, 1))) - piece)


def photographed(reflect: np.ndarray, look: tuple[float, float, float], rng: np.random.Generator) -> np.ndarray:
    uneven, blur, noise = look
    height, width = reflect.shape
    x, y = np.meshgrid(np.linspace(-1, 1, width), np.linspace(-1, 1, height))
    angle = rng.uniform(0, 2 * np.pi)
    light = 1 + uneven * (np.cos(angle) * x + np.sin(angle) * y) / 1.4
    whole = cv2.GaussianBlur((reflect * light).astype(np.float32), (0, 0), blur)[..., None]
    whole = whole * np.array([1.0, rng.uniform(0.9, 1.0), rng.uniform(0.75, 1.0)])
    whole = whole + noise * np.sqrt(whole.clip(0.02)) * rng.standard_normal(whole.shape)
    rgb = np.round(linear_to_srgb(whole)).astype(np.uint8)
    _, file = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 90])
    return np.ascontiguousarray(cv2.imdecode(file, cv2.IMREAD_COLOR)[..., ::-1])

"""Close-ups of the made-up court shoe: emblem, ring, satin field, seam and suede on one; sole, glue and lining on the
other.

All lengths in mm on the close-up's own canvas, x to the right, y down. The faults that copies are caught by are
parameters; truth stands beside the picture.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.materials import LEATHER, RUBBER, SUEDE, TEXTILE, Rgb, linear
from assay.simulator.printing import Type, write
from assay.simulator.relief import SUBPIXEL_BITS, Relief, Thread, curve
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

FRAME = (112.0, 84.0)
NEUTRAL_AT = (104.0, 8.0)
"""Middle of a grey tile, plain white and grey cards being what a counter has."""
NEUTRAL_MM = 9.0
NEUTRAL: Rgb = (158, 158, 158)
SOLE_EDGE = 70.0
"""The midsole's upper edge, which the emblem is held against."""
PENNANT = ((14.0, 33.0), (60.0, 24.0), (53.0, 36.0), (63.0, 46.0), (38.0, 50.0), (11.5, 54.0))
SHORT_TAIL = ((14.0, 33.0), (60.0, 24.0), (53.0, 36.0), (57.5, 41.0), (56.8, 47.0), (38.0, 50.0), (11.5, 54.0))
"""The same with the lower barb of its tail cut off: a small part that copies leave short."""
RING_AT = (84.0, 26.0)
BADGE_MM = 7.5
RING_MM = 4.6
"""Outer radius of the circled letter."""
SATIN = ((74.0, 46.0), (98.0, 44.0))
ROW = ((6.0, 62.0), (58.0, 60.5), (106.0, 62.5))
ROW_STITCHES = 36
SUEDE_EDGE = ((0.0, 0.0), (9.0, 0.0), (7.0, 28.0), (0.0, 29.0))
WORD_AT = (67.0, 6.0)
SPECKS_IN = ((3.0, 3.0), (53.0, 81.0))
GLUE_IN = ((58.0, 16.0), (108.0, 40.0))
LINING_IN = ((58.0, 44.0), (108.0, 80.0))


@dataclass(frozen=True, slots=True)
class CloseUp:
    """What a pair's close-ups show."""

    seed: int
    leather: Rgb = (228, 224, 214)
    suede: Rgb = (86, 104, 110)
    emblem: Rgb = (44, 74, 98)
    thread: Rgb = (168, 140, 108)
    grain_mm: float = 1.15
    emblem_low_mm: float = 0.0
    """How much nearer to the sole's edge than the pattern."""
    emblem_tilt_deg: float = 0.0
    emblem_size: float = 1.0
    stub: bool = False
    """The tail's lower barb left short."""
    ring_gap_mm: float = 0.75
    """Between the letter's foot and its ring; 0: they touch."""
    satin_pitch_mm: float = 0.42
    loose_threads: int = 0
    thread_mm: float = 0.7
    specks_per_cm2: float = 1.1
    glue_share: float = 0.8
    lining_mm: float = 1.6
    """Spacing of the lining's yarns."""
    nap: float = 0.3
    """Share of its light that the suede loses when its hair is brushed back; 0: it does not move."""
    badge_gloss: float = 0.16


MOVED = Lamp(azimuth_deg=-40.0, elevation_deg=30.0)
"""Where the lamp stands for the second photograph of a shining part."""


def brushed_close(close_up: CloseUp, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The same place, its suede brushed back: napped hair turned from the light is darker, a printed look-alike
    stays."""
    red, green, blue = (float(255 * (channel / 255) * (1 - close_up.nap) ** (1 / 2.2)) for channel in close_up.suede)
    shot = emblem_close(replace(close_up, suede=(red, green, blue)), camera, lamp, scene)
    shot.truth.update(nap=close_up.nap)
    return shot


def lamp_moved_close(close_up: CloseUp, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The same place with the lamp low on the other side."""
    return emblem_close(close_up, camera, lamp or MOVED, scene)


def emblem_close(close_up: CloseUp, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """Quarter with emblem, circled letter, satin field and row, over the midsole's edge."""
    rng = np.random.default_rng([close_up.seed, 31])
    relief = Relief(FRAME, camera.mm_per_px, rng)
    whole = np.array([(-1, -1), (113, -1), (113, 85), (-1, 85)])
    relief.skin(relief.mask(whole), replace(LEATHER.coloured(close_up.leather), grain_mm=close_up.grain_mm))
    # Even enough that two photographs of one place show one tone.
    relief.panel(np.array(SUEDE_EDGE), replace(SUEDE.coloured(close_up.suede), mottle=0.05), 1.2)
    turned = _turn(close_up.emblem_tilt_deg, close_up.emblem_size, (37.0, 40.0), (0.0, close_up.emblem_low_mm))
    flag = LEATHER.coloured(close_up.emblem)
    mask = relief.panel(turned(SHORT_TAIL if close_up.stub else PENNANT), flag, 0.7, edge_mm=0.4)
    write(relief, WORD_AT, "QUAYSIDE", Type(3.2, tracking_mm=0.5))
    gap = _ring(relief, close_up)
    _satin(relief, close_up, rng)
    thread = Thread(close_up.thread, width_mm=close_up.thread_mm, jitter=0.03)
    relief.sew(curve(np.array(ROW) + rng.normal(0, 0.15, 2)), ROW_STITCHES, thread)
    wall = np.array([(-1, SOLE_EDGE), (113, SOLE_EDGE), (113, 85), (-1, 85)])
    relief.height *= 1 - relief.mask(wall)
    relief.albedo *= 1 - 0.4 * np.clip(relief.mask(wall - [0, 0.9]) - relief.mask(wall), 0, 1)[..., None]
    relief.panel(wall, RUBBER.coloured((214, 206, 190)), 2.2, edge_mm=1.6)
    shot = _taken(relief, close_up, camera, lamp, scene, rng)
    shot.truth.update(gap_mm=gap, emblem_mm2=float(mask.sum()) * camera.mm_per_px**2)
    return shot


def under_close(close_up: CloseUp, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """A piece of the sole, the insole's underside with its glue, a piece of the lining."""
    rng = np.random.default_rng([close_up.seed, 32])
    relief = Relief(FRAME, camera.mm_per_px, rng)
    whole = np.array([(-1, -1), (113, -1), (113, 85), (-1, 85)])
    relief.skin(relief.mask(whole), RUBBER.coloured((208, 200, 182)))
    specks = _specks(relief, close_up, rng)
    (left, top), (right, low) = GLUE_IN
    foam = np.array([(left, top), (right, top), (right, low), (left, low)])
    relief.skin(relief.mask(foam), RUBBER.coloured((196, 198, 200)))
    reach = left + close_up.glue_share * (right - left)
    edge = np.linspace(top, low, 40)
    ragged = np.stack([reach + 0.5 * np.sin(edge * 1.7) + rng.normal(0, 0.1, 40), edge], 1)
    glue = np.vstack([[(left, top)], ragged, [(left, low)]])
    relief.albedo += 0.8 * relief.mask(glue)[..., None] * (linear((206, 172, 96)) - relief.albedo)
    (left, top), (right, low) = LINING_IN
    lining = np.array([(left, top), (right, top), (right, low), (left, low)])
    yarn = _yarns(relief, close_up.lining_mm, rng)
    cover = relief.mask(lining)[..., None]
    relief.albedo += cover * (linear(TEXTILE.colour) * yarn[..., None] - relief.albedo)
    relief.height += 0.12 * cover[..., 0] * yarn
    shot = _taken(relief, close_up, camera, lamp, scene, rng)
    shot.truth.update(specks=specks)
    return shot


def _taken(
    relief: Relief,
    close_up: CloseUp,
    camera: Camera,
    lamp: Lamp | None,
    scene: Scene | None,
    rng: np.random.Generator,
) -> Shot:
    grey_tile(relief)
    return take(relief, {}, scene or Scene(FRAME), camera, lamp or Lamp(), rng)


def grey_tile(relief: Relief) -> None:
    """Lay the counter's plain grey tile on the close-up's corner."""
    x, y = NEUTRAL_AT
    half = NEUTRAL_MM / 2
    tile = relief.mask(
        np.array([(x - half, y - half), (x + half, y - half), (x + half, y + half), (x - half, y + half)])
    )
    relief.albedo += tile[..., None] * (linear(NEUTRAL) - relief.albedo)
    relief.height = relief.height * (1 - tile) + 3 * tile
    relief.gloss *= 1 - tile


def _turn(
    degrees: float, size: float, about: tuple[float, float], shift: tuple[float, float]
) -> Callable[[Sequence[Any]], np.ndarray]:
    angle = np.radians(degrees)
    spin = size * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return lambda points: (np.asarray(points, float) - about) @ spin.T + about + shift


def _ring(relief: Relief, close_up: CloseUp) -> float:
    """A circled V, light on the leather's own dark badge; returns the gap between its foot and the ring."""
    x, y = RING_AT
    t = np.linspace(0, 2 * np.pi, 120)
    badge = np.stack([x + BADGE_MM * np.cos(t), y + BADGE_MM * np.sin(t)], 1)
    relief.panel(badge, replace(LEATHER.coloured((52, 54, 58)), gloss=close_up.badge_gloss), 0.5)
    light = linear((228, 224, 214))
    outer, inner = (np.stack([x + r * np.cos(t), y + r * np.sin(t)], 1) for r in (RING_MM, RING_MM - 0.6))
    ring = relief.mask(outer) * (1 - relief.mask(inner))
    foot = RING_MM - 0.6 - close_up.ring_gap_mm
    letter = np.array(
        [(-2.2, -2.4), (-1.3, -2.4), (0, foot - 1.6), (1.3, -2.4), (2.2, -2.4), (0.45, foot), (-0.45, foot)]
    ) + np.array([x, y])
    ink = np.clip(ring + relief.mask(letter), 0, 1)[..., None]
    relief.albedo += ink * (light - relief.albedo)
    # The foot is a short bar: its corners come nearest to the ring.
    return float(RING_MM - 0.6 - np.hypot(0.45, foot))


def _satin(relief: Relief, close_up: CloseUp, rng: np.random.Generator) -> None:
    line = curve(np.array(SATIN), 0.1)
    length = float(np.hypot(*np.diff(line, axis=0).T).sum())
    bars = Thread(close_up.emblem, width_mm=0.46, proud_mm=0.25, across=True, bar_mm=9.0, jitter=0.04)
    relief.sew(line, max(8, round(length / close_up.satin_pitch_mm)), bars)
    for _ in range(close_up.loose_threads):
        start = np.array([rng.uniform(76, 96), SATIN[0][1] + 5.2])
        path = start + np.vstack([[0, 0], np.cumsum(rng.uniform([-1.0, 0.3], [1.0, 1.2], (5, 2)), axis=0)])
        drawn = np.zeros(relief.shape, np.uint8)
        spots = np.round(relief.px(path) * 2**SUBPIXEL_BITS).astype(np.int32)
        thick = max(1, round(0.28 / relief.mm_per_px))
        cv2.polylines(
            drawn, [spots], isClosed=False, color=255, thickness=thick, lineType=cv2.LINE_AA, shift=SUBPIXEL_BITS
        )
        cover = drawn.astype(np.float32)[..., None] / 255
        relief.albedo += cover * (linear(close_up.emblem) - relief.albedo)
        relief.height += 0.2 * cover[..., 0]


def _specks(relief: Relief, close_up: CloseUp, rng: np.random.Generator) -> int:
    (left, top), (right, low) = SPECKS_IN
    wanted = int(rng.poisson(close_up.specks_per_cm2 * (right - left) * (low - top) / 100))
    places: list[np.ndarray] = []
    while len(places) < wanted:
        at = rng.uniform([left + 1, top + 1], [right - 1, low - 1])
        if all(np.hypot(*(at - other)) > 2.2 for other in places):
            places.append(at)
    t = np.linspace(0, 2 * np.pi, 24)
    for at in places:
        r = rng.uniform(0.45, 0.75)
        speck = np.stack([at[0] + r * np.cos(t), at[1] + r * np.sin(t)], 1)
        relief.albedo += relief.mask(speck)[..., None] * (linear((64, 70, 78)) - relief.albedo)
    return wanted


def _yarns(relief: Relief, pitch_mm: float, rng: np.random.Generator) -> np.ndarray:
    """Tone of a plain weave, about 1."""
    y, x = (np.mgrid[: relief.shape[0], : relief.shape[1]] * relief.mm_per_px).astype(np.float32)
    lean = rng.normal(0, 0.01)
    u, v = (x + lean * y) * np.pi / pitch_mm, (y - lean * x) * np.pi / pitch_mm
    return (0.75 + 0.35 * np.maximum(np.abs(np.sin(u)) * (np.cos(v) > 0), np.abs(np.sin(v)) * (np.cos(v) <= 0))).astype(
        np.float32
    )

"""Close-ups of the made-up court shoe's insides: tongue with its tag, the insole's face, the footbed board.

All lengths in mm on the close-up's own canvas, x to the right, y down; what copies get wrong are parameters.
"""

from dataclasses import dataclass, replace

import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.close_ups import FRAME, grey_tile
from assay.simulator.materials import LEATHER, RUBBER, TEXTILE, Rgb
from assay.simulator.printing import Type, write
from assay.simulator.relief import Relief, Thread, curve
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

TONGUE = ((24.0, 10.0), (88.0, 10.0), (86.0, 83.0), (26.0, 83.0))
TAG = ((38.0, 20.0), (74.0, 20.0), (74.0, 44.0), (38.0, 44.0))
FLAG = ((45.0, 29.0), (68.0, 25.0), (64.5, 31.0), (69.0, 36.0), (44.0, 40.0))
SLIT_MM = 9.0
SLITS_Y = 54.0
INSOLE = (
    (14.0, 26.0),
    (30.0, 14.0),
    (60.0, 10.0),
    (97.0, 10.0),
    (97.0, 76.0),
    (60.0, 76.0),
    (30.0, 72.0),
    (14.0, 60.0),
)
WORD_AT = (38.0, 34.0)
SIZE_AT = (78.0, 60.0)
BOARD_ROW = ((8.0, 14.0), (50.0, 11.0), (93.0, 13.0))
ROW_STITCHES = 30
GUIDE_HOLES = ((30.0, 44.0), (56.0, 42.0), (82.0, 44.0))
STAMP_AT = (60.0, 62.0)


@dataclass(frozen=True, slots=True)
class Insides:
    """What a pair's insides show."""

    seed: int
    tongue: Rgb = (206, 202, 192)
    tag_low_mm: float = 0.0
    """How much further from the tongue's top edge than the pattern."""
    tag_tilt_deg: float = 0.0
    slits_apart_mm: float = 12.0
    insole: Rgb = (196, 188, 170)
    word: str = "QUAYSIDE"
    word_shift: tuple[float, float] = (0.0, 0.0)
    word_weight: int = 560
    guide_holes: int = 3
    board: Rgb = (214, 208, 196)
    board_thread: Rgb = (150, 70, 60)
    row_stitches: int = ROW_STITCHES


def tongue_close(insides: Insides, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The tongue's front with its woven tag and the two lace slits."""
    rng, relief = _start(insides, camera, 41)
    leather = replace(LEATHER.coloured(insides.tongue), grain_mm=1.0)
    relief.panel(np.array(TONGUE), leather, 4.0, edge_mm=3.0)
    angle = np.radians(insides.tag_tilt_deg)
    spin = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    middle = np.mean(TAG, axis=0)
    tag = (np.array(TAG) - middle) @ spin.T + middle + [0, insides.tag_low_mm]
    relief.panel(tag, replace(TEXTILE.coloured((58, 74, 84)), grain_mm=0.5), 0.8, edge_mm=0.4)
    flag = (np.array(FLAG) - middle) @ spin.T + middle + [0, insides.tag_low_mm]
    relief.panel(flag, replace(LEATHER.coloured((226, 222, 210)), grain_mm=0.5), 0.3, edge_mm=0.2)
    seam = Thread((40, 52, 60), width_mm=0.5, jitter=0.03)
    inner = (tag - tag.mean(0)) * 0.92 + tag.mean(0)
    for start, end in zip(inner, np.roll(inner, -1, axis=0), strict=True):
        relief.sew(
            curve(np.array([start, (start + end) / 2, end])), max(8, round(np.hypot(*(end - start)) / 2.2)), seam
        )
    for side in (-0.5, 0.5):
        x = 56.0 + side * insides.slits_apart_mm
        slit = np.array(
            [(x - 0.8, SLITS_Y), (x + 0.8, SLITS_Y), (x + 0.8, SLITS_Y + SLIT_MM), (x - 0.8, SLITS_Y + SLIT_MM)]
        )
        cover = relief.mask(slit)
        relief.albedo *= 1 - 0.85 * cover[..., None]
        relief.height -= 1.5 * cover
    return _done(relief, camera, lamp, scene, rng)


def insole_close(insides: Insides, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The insole's face at the heel, its printed word and the size."""
    rng, relief = _start(insides, camera, 42)
    relief.panel(
        np.array(INSOLE), replace(TEXTILE.coloured(insides.insole), grain_mm=0.7, depth_mm=0.04), 3.0, edge_mm=2.0
    )
    x, y = np.add(WORD_AT, insides.word_shift)
    write(relief, (float(x), float(y)), insides.word, Type(6.0, insides.word_weight, tracking_mm=0.8))
    write(relief, SIZE_AT, "9.5", Type(3.6, 500))
    return _done(relief, camera, lamp, scene, rng)


def board_close(insides: Insides, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The footbed board under the insole: its stitching, guide holes and a stamp in plain ink."""
    rng, relief = _start(insides, camera, 43)
    board = np.array([(4, 6), (97, 6), (97, 78), (4, 78)], float)
    relief.panel(board, replace(RUBBER.coloured(insides.board), grain_mm=0.6, depth_mm=0.02, mottle=0.03), 1.0)
    row = curve(np.array(BOARD_ROW) + rng.normal(0, 0.2, 2))
    relief.sew(row, insides.row_stitches, Thread(insides.board_thread, width_mm=0.8, jitter=0.03))
    for at in GUIDE_HOLES[: insides.guide_holes]:
        relief.punch(np.array(at) + rng.normal(0, 0.15, 2), 3.0, depth_mm=1.0)
    write(relief, STAMP_AT, "B4", Type(4.0, 480), 0.5)
    return _done(relief, camera, lamp, scene, rng)


def _start(insides: Insides, camera: Camera, salt: int) -> tuple[np.random.Generator, Relief]:
    rng = np.random.default_rng([insides.seed, salt])
    relief = Relief(FRAME, camera.mm_per_px, rng)
    whole = np.array([(-1, -1), (113, -1), (113, 85), (-1, 85)])
    relief.skin(relief.mask(whole), replace(LEATHER.coloured((92, 96, 98)), grain_mm=0.9))
    return rng, relief


def _done(relief: Relief, camera: Camera, lamp: Lamp | None, scene: Scene | None, rng: np.random.Generator) -> Shot:
    grey_tile(relief)
    return take(relief, {}, scene or Scene(FRAME), camera, lamp or Lamp(), rng)

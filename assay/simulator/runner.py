"""A made-up knit runner, side out: a second maker's shoe, so that nothing is fitted to the first. Lengths in mm.

Drawn with the toe to the left, as a left shoe is seen from its outer side; a right shoe is the mirror image.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.court_shoe import FRAME, GROUND_Y, LEFT_X, mirror
from assay.simulator.materials import LEATHER, RUBBER, TEXTILE, Material, Rgb
from assay.simulator.relief import Relief, Thread, beside, curve
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

KNIT = Material("weave", (150, 84, 58), grain_mm=1.5, depth_mm=0.22, gloss=0.0, shininess=4, mottle=0.05)


@dataclass(frozen=True, slots=True)
class Runner:
    """One shoe. The defaults are the retail pattern of the left shoe."""

    foot: str = "left"
    seed: int = 1
    knit: Rgb = (150, 84, 58)
    overlay: Rgb = (70, 64, 62)
    foam: Rgb = (226, 222, 214)
    outsole: Rgb = (52, 50, 50)
    emblem: Rgb = (232, 206, 168)
    thread: Rgb = (206, 178, 140)
    loops: int = 6
    heel_stitches: int = 30
    emblem_shift: tuple[float, float] = (0.0, 0.0)
    looseness: float = 1.0
    size: float = 1.0
    """Length against the pattern's; everything grows with it."""


def runner_from_side(shoe: Runner, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """Build the runner, light it and take its picture from its outer side."""
    rng = np.random.default_rng([shoe.seed, shoe.foot == "right", 7])
    relief = Relief(FRAME, camera.mm_per_px, rng)

    def at(points: list[tuple[float, float]]) -> np.ndarray:
        x, y = np.asarray(points, float).T * shoe.size
        return np.stack([x + LEFT_X, GROUND_Y - y], 1)

    features = _upper(relief, shoe, at, rng)
    _sole(relief, shoe, at)
    if shoe.foot == "right":
        mirror(relief)
        features = {name: np.stack([FRAME[0] - f[:, 0], f[:, 1]], 1) for name, f in features.items()}
    return take(relief, features, scene or Scene(FRAME, ground_mm=GROUND_Y), camera, lamp or Lamp(), rng)


def _upper(
    relief: Relief, shoe: Runner, at: Callable[..., np.ndarray], rng: np.random.Generator
) -> dict[str, np.ndarray]:
    slack = 0.3 * shoe.looseness
    outline = [(10, 30), (12, 46), (30, 62), (62, 70), (96, 82), (128, 100), (158, 117), (172, 121), (186, 108)]
    outline += [(212, 97), (242, 101), (266, 118), (276, 126), (283, 122), (279, 96), (281, 66), (286, 40), (286, 30)]
    body = relief.panel(curve(at(outline)), KNIT.coloured(shoe.knit), 2.0, edge_mm=2)
    relief.swell(body, 36, 26)
    overlay = LEATHER.coloured(shoe.overlay)
    thread = Thread(shoe.thread, width_mm=0.7, jitter=0.04 * shoe.looseness)
    toe = curve(at([(4, 28), (14, 56), (34, 55), (60, 46), (82, 28)]))
    relief.panel(toe, overlay, 1.2, within=body)
    heel_edge = curve(at([(228, 28), (236, 56), (254, 82), (268, 96), (292, 102)]))
    relief.panel(np.vstack([heel_edge, at([(300, 28)])]), overlay, 1.6, within=body)
    line = beside(heel_edge, 2.6)[18:-28] + rng.normal(0, slack / 2, 2)
    features = {"heel_row": relief.sew(line, shoe.heel_stitches, thread)}
    stay = curve(
        at([(98, 78), (112, 78), (140, 92), (166, 106), (182, 108), (170, 124), (150, 118), (120, 98), (98, 84)])
    )
    relief.panel(stay, overlay, 1.4, within=body)
    places = np.linspace(0, 1, shoe.loops)
    row = np.array([np.array([116, 86]) + p * np.array([48, 27]) for p in places])
    features["eyelets"] = at(row.tolist()) + rng.normal(0, slack / 2, (shoe.loops, 2))
    for hole in features["eyelets"]:
        relief.punch(hole, 4.2)
    steps = [
        (128, 40),
        (128, 51),
        (150, 51),
        (150, 62),
        (172, 62),
        (172, 73),
        (196, 73),
        (190, 62),
        (184, 62),
        (178, 51),
    ]
    steps += [(168, 51), (160, 40)]
    shift = np.asarray(shoe.emblem_shift) + rng.normal(0, slack, 2)
    stair = at([tuple(np.asarray(p) + shift) for p in steps])
    relief.panel(stair, LEATHER.coloured(shoe.emblem), 1.0, edge_mm=0.5)
    features["stair"] = stair
    collar = curve(at([(186, 108), (212, 97), (242, 101), (266, 118)]))
    roll = np.vstack([collar, beside(collar, 9)[::-1]])
    relief.panel(roll, TEXTILE.coloured(tuple(0.8 * c for c in shoe.knit)), 1.0, within=body)
    return features


def _sole(relief: Relief, shoe: Runner, at: Callable[..., np.ndarray]) -> None:
    top = [(2, 30), (50, 33), (110, 29), (170, 32), (230, 36), (292, 38)]
    under = [(300, 30), (300, 16), (286, 7), (200, 5), (100, 5), (40, 8), (6, 20), (2, 30)]
    wall = np.vstack([curve(at(top)), curve(at(under))])
    mask = relief.mask(wall)
    relief.height = relief.height * (1 - mask) + 21 * mask
    relief.panel(wall, RUBBER.coloured(shoe.foam), 3.2, edge_mm=4)
    for low in (22, 16):
        wave = [(12 + 24 * k, low + (3 if k % 2 else -1.5)) for k in range(12)]
        relief.groove(curve(at(wave)), 2.2, 0.9)
    tread = np.vstack(
        [curve(at([(6, 16), (60, 9), (150, 8), (250, 9), (298, 14)])), at([(296, 4), (286, 0), (60, 0), (24, 4)])]
    )
    relief.panel(tread, RUBBER.coloured(shoe.outsole), 2.0, edge_mm=1.0)
    for x in range(20, 290, 9):
        relief.groove(at([(x, 1), (x + 2, 7)]), 1.6, 1.0)

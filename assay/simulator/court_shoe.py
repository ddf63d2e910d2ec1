"""A made-up low court shoe, side out, left or right, from one seeded specification.

All lengths in mm. The shoe is drawn with its toe to the left, as a left shoe is seen from its outer side; a right shoe
is the mirror image with counts of its own.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.materials import LEATHER, RUBBER, SUEDE, TEXTILE, Rgb
from assay.simulator.relief import Relief, Thread, beside, curve
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp
from assay.simulator.ultraviolet import UnderUv, fluoresce

FRAME = (330.0, 205.0)
GROUND_Y = 172.0
LEFT_X = 18.0
ON_STAND = Scene(FRAME, ground_mm=GROUND_Y)


@dataclass(frozen=True, slots=True)
class Palette:
    """Colours of one colourway."""

    leather: Rgb = (224, 220, 208)
    overlay: Rgb = (214, 210, 197)
    suede: Rgb = (92, 112, 112)
    emblem: Rgb = (52, 74, 80)
    thread: Rgb = (112, 116, 112)
    contrast_thread: Rgb = (64, 80, 86)
    sole: Rgb = (232, 228, 216)
    tongue: Rgb = (205, 201, 190)


@dataclass(frozen=True, slots=True)
class CourtShoe:
    """One shoe. The defaults are the retail pattern of the left shoe."""

    foot: str = "left"
    seed: int = 1
    palette: Palette = field(default_factory=Palette)
    lace_holes: int = 7
    lace_hole_mm: float = 4.0
    vent_rows: tuple[int, ...] = (5, 4, 5)
    vent_mm: float = 2.3
    bar_stitches: int = 13
    quarter_stitches: int = 25
    quarter_end_mm: float = 0.0
    """How much longer the quarter row runs than the pattern says: with the count it sets the pitch."""
    emblem_shift: tuple[float, float] = (0.0, 0.0)
    emblem_tilt_deg: float = 0.0
    looseness: float = 1.0
    """Scatter of places, 1 = a careful factory."""
    thread_mm: float = 0.72
    waist_mm: float = 0.0
    """How much wider than the pattern's the heel is in the middle, seen from behind: a straight heel has about 8."""
    tread_mm: float = 6.2
    """From zigzag to zigzag under the sole."""
    toe_lift_mm: float = 0.0
    """How much higher than the pattern's the nose stands."""
    under_uv: UnderUv = field(default_factory=UnderUv)
    inner: bool = False
    """Its inner side: no emblem, no vents."""
    size: float = 1.0
    """Length against the pattern's; everything grows with it."""


def _at(points: Sequence[tuple[float, float]]) -> np.ndarray:
    """Pattern coordinates (y up from the ground) to picture coordinates (y down), mm."""
    x, y = np.asarray(points, dtype=float).T
    return np.stack([x + LEFT_X, GROUND_Y - y], 1)


# The pattern: every line once, toe to the left, y up from the ground.
TOE = [(6, 22), (4.5, 32), (9, 45), (21, 56.5), (42, 66), (66, 73), (90, 81), (106, 89)]
# How much of a lift of the nose every point of it takes.
TOE_LIFT = (0, 0.1, 0.5, 1, 1, 0.5, 0, 0)
THROAT = [(106, 89), (126, 100), (146, 111), (166, 121), (175, 122)]
COLLAR = [(175, 122), (183, 113), (196, 101), (214, 93.5), (236, 92.5), (254, 100), (267, 112), (276, 120.5)]
HEEL = [(276, 120.5), (284, 120), (286.5, 108), (283.5, 86), (284, 62), (288.5, 42), (290, 22)]
TOE_CAP_EDGE = [(47, 69), (55, 59), (62, 42), (67, 22)]
QUARTER_EDGE = [(103, 84), (99, 70), (104, 50), (118, 34), (134, 22)]
EYESTAY_EDGE = [(97, 82), (104, 76), (116, 76), (134, 84), (156, 97), (176, 107), (192, 109)]
COUNTER_EDGE = [(214, 22), (221, 44), (238, 64), (262, 77), (288, 80)]
TAB_EDGE = [(252, 101), (257, 90), (270, 86), (290, 87)]
LACE_LINE = [(109, 84.5), (126, 92.5), (146, 103), (164, 112.5)]
BAR_LINE = [(258.5, 96.5), (268, 92.8), (280.5, 92.8)]
QUARTER_ROW = [(103.5, 72), (107.5, 54), (120.5, 38), (133, 29)]
PENNANT = [(142, 68), (206, 84), (196, 70), (210, 58), (176, 54), (139, 49)]
FOLD = [(142, 68), (176, 54), (139, 49)]
SOLE_TOP = [(3, 25), (40, 25), (100, 23.5), (160, 24), (230, 26.5), (290, 29)]
VENT_ORIGIN = (69.0, 62.0)
VENT_ALONG = (6.3, 0.9)
VENT_DOWN = (1.2, -6.2)


def photograph(shoe: CourtShoe, camera: Camera, lamp: Lamp | None = None, scene: Scene = ON_STAND) -> Shot:
    """Build the shoe, light it and take its picture from its outer side."""
    rng = np.random.default_rng([shoe.seed, shoe.foot == "right"])
    # Built at the pattern's size with finer pixels, looked at with the camera's: everything comes out larger.
    relief = Relief(FRAME, camera.mm_per_px / shoe.size, rng)
    features = _build(relief, shoe, rng)
    lamp = lamp or Lamp()
    if lamp.excites:
        _fluoresce(relief, shoe)
    # The inner side of a left shoe shows its toe where the outer side of a right one does.
    if (shoe.foot == "right") != shoe.inner:
        mirror(relief)
        features = {name: np.stack([FRAME[0] - f[:, 0], f[:, 1]], 1) for name, f in features.items()}
    features = {name: shoe.size * f for name, f in features.items()}
    return take(relief, features, scene, camera, lamp, rng)


def _build(relief: Relief, shoe: CourtShoe, rng: np.random.Generator) -> dict[str, np.ndarray]:
    slack = 0.35 * shoe.looseness
    thread = Thread(shoe.palette.thread, width_mm=shoe.thread_mm, jitter=0.035 * shoe.looseness)
    _tongue(relief, shoe)
    _overlays(relief, shoe, thread, _body(relief, shoe))
    if not shoe.inner:
        _pennant(relief, shoe, rng, slack)
    quarter = curve(_at(QUARTER_ROW) + rng.normal(0, slack / 2, 2))
    scale = 1 + shoe.quarter_end_mm / np.hypot(*np.diff(quarter, axis=0).T).sum()
    quarter = quarter[0] + (quarter - quarter[0]) * scale
    bar = Thread(shoe.palette.contrast_thread, width_mm=0.95, proud_mm=0.4, across=True, bar_mm=4.6, jitter=0.03)
    features = {
        "quarter_row": relief.sew(quarter, shoe.quarter_stitches, thread),
        "heel_bar": relief.sew(curve(_at(BAR_LINE) + rng.normal(0, slack / 2, 2)), shoe.bar_stitches, bar),
        "lace_holes": _lace_holes(shoe, rng, slack),
        "vents": _vents(shoe, rng, slack),
    }
    for hole in features["lace_holes"]:
        relief.punch(hole, shoe.lace_hole_mm * rng.normal(1, 0.01))
    for hole in features["vents"] if not shoe.inner else ():
        relief.punch(hole, shoe.vent_mm * rng.normal(1, 0.015), depth_mm=1.1)
    _sole(relief, shoe)
    return features


def _fluoresce(relief: Relief, shoe: CourtShoe) -> None:
    """Its own light under an ultraviolet lamp."""
    edges = (curve(_at(QUARTER_EDGE[1:])), curve(_at(PENNANT[:3])), curve(_at(COUNTER_EDGE[1:4])))
    rng = np.random.default_rng([shoe.seed, 91])
    tab = _at([(253, 101), (257, 90), (270, 86), (288, 87), (285, 112), (270, 114)])
    fluoresce(
        relief,
        shoe.under_uv,
        rng,
        edges=edges,
        sole=curve(_at(SOLE_TOP)),
        stamp_at=tuple(_at([(226, 74)])[0]),
        insert=tab,
    )


def _closed(*parts: Sequence[tuple[float, float]]) -> np.ndarray:
    """One polygon from several smooth lines."""
    return np.vstack([curve(_at(part)) for part in parts])


def _tongue(relief: Relief, shoe: CourtShoe) -> None:
    lining = TEXTILE.coloured(tuple(0.45 * c for c in shoe.palette.tongue))
    far_rim = [(170, 116), (188, 112), (212, 103), (238, 101), (258, 108), (272, 118)]
    relief.panel(_closed(far_rim, [(272, 96), (214, 84), (172, 100)]), lining, 0.5)
    shape = [(112, 86), (132, 110), (150, 130), (163, 137.5), (176, 136), (184, 124), (180, 106), (140, 88)]
    mask = relief.panel(_closed([*shape, shape[0]]), TEXTILE.coloured(shoe.palette.tongue), 1.5)
    relief.swell(mask, 12, 7)
    edge = beside(curve(_at([(122, 99), (148, 127), (163, 134), (174, 132.5)])), -0.5)
    relief.sew(edge, 28, Thread(shoe.palette.thread, width_mm=0.6))


def _body(relief: Relief, shoe: CourtShoe) -> np.ndarray:
    nose = [(x, y + shoe.toe_lift_mm * share) for (x, y), share in zip(TOE, TOE_LIFT, strict=True)]
    outline = _closed(nose, THROAT, COLLAR, HEEL)
    # The tongue and the lining lie behind: they must not show through as bumps.
    relief.height *= 1 - relief.mask(outline)
    body = relief.panel(outline, LEATHER.coloured(shoe.palette.leather), 2.0, edge_mm=1.6)
    relief.swell(body, 34, 24)
    for crease, depth in (((98, 64), 0.5), ((90, 50), 0.4)):
        start = np.asarray(crease, float)
        relief.groove(curve(_at([tuple(start), tuple(start - (6, 9)), tuple(start - (9, 20))])), 7, depth)
    return body


def _overlays(relief: Relief, shoe: CourtShoe, thread: Thread, body: np.ndarray) -> None:
    overlay = LEATHER.coloured(shoe.palette.overlay)
    suede = SUEDE.coloured(shoe.palette.suede)
    beyond = [(300, 130), (300, 10)]
    # Every overlay runs on past the shoe and is cut to the upper; its lower end hides behind the sole.
    quarter = np.vstack([_closed(QUARTER_EDGE)[::-1], _at([(103, 140), *beyond])])
    relief.panel(quarter, LEATHER.coloured(shoe.palette.leather), 1.3, within=body)
    roll = np.vstack([curve(_at(COLLAR)), beside(curve(_at(COLLAR)), 8)[::-1]])
    relief.swell(relief.mask(roll) * body, 4, 2.0)
    relief.sew(beside(curve(_at(COLLAR)), 9.5)[34:-44], 38, thread)
    relief.panel(np.vstack([_at([(-9, 22), (-9, 90)]), _closed(TOE_CAP_EDGE)]), suede, 1.4, within=body)
    relief.sew(beside(curve(_at(TOE_CAP_EDGE)), -2.4)[16:], 17, thread)
    relief.panel(np.vstack([_closed(COUNTER_EDGE), _at([(300, 80), (300, 22)])]), suede, 1.5, within=body)
    relief.sew(beside(curve(_at(COUNTER_EDGE)), -2.4)[16:-16], 32, thread)
    relief.panel(np.vstack([_closed(TAB_EDGE), _at([(300, 87), (300, 130), (252, 130)])]), overlay, 1.5, within=body)
    eyestay = np.vstack([_closed(EYESTAY_EDGE), _at([(192, 130), (100, 130)])])
    relief.panel(eyestay, overlay, 1.4, within=body)
    relief.sew(beside(curve(_at(EYESTAY_EDGE)), 2.3)[14:-30], 36, thread)


def _pennant(relief: Relief, shoe: CourtShoe, rng: np.random.Generator, slack: float) -> None:
    middle = np.array([172.0, 65.0])
    tilt = np.radians(shoe.emblem_tilt_deg + rng.normal(0, 0.5 * shoe.looseness))
    turn = np.array([[np.cos(tilt), -np.sin(tilt)], [np.sin(tilt), np.cos(tilt)]])
    shift = np.asarray(shoe.emblem_shift) + rng.normal(0, slack, 2)

    def placed(points: list[Any]) -> np.ndarray:
        return _at([tuple(p) for p in (np.asarray(points, float) - middle) @ turn.T + middle + shift])

    flag = LEATHER.coloured(shoe.palette.emblem)
    relief.panel(placed(PENNANT), flag, 0.9, edge_mm=0.5)
    relief.panel(placed(FOLD), flag.coloured(tuple(min(255, c * 1.35) for c in shoe.palette.emblem)), 0.8, edge_mm=0.5)
    rim = placed([*PENNANT, PENNANT[0]])
    inner = placed([tuple(0.92 * np.asarray(p) + 0.08 * middle) for p in [*PENNANT, PENNANT[0]]])
    for k in (0, 3, 4):
        length = np.hypot(*(rim[k + 1] - rim[k]))
        relief.sew(
            np.linspace(inner[k], inner[k + 1], 80), int(length / 2.4), Thread(shoe.palette.emblem, width_mm=0.6)
        )


def _lace_holes(shoe: CourtShoe, rng: np.random.Generator, slack: float) -> np.ndarray:
    line = curve(_at(LACE_LINE))
    places = np.linspace(0, len(line) - 1, shoe.lace_holes).round().astype(int)
    return line[places] + rng.normal(0, slack / 2, (shoe.lace_holes, 2))


def _vents(shoe: CourtShoe, rng: np.random.Generator, slack: float) -> np.ndarray:
    widest = max(shoe.vent_rows)
    along, down = np.asarray(VENT_ALONG), np.asarray(VENT_DOWN)
    spots = [
        np.asarray(VENT_ORIGIN) + row * down + (column + (widest - holes) / 2) * along
        for row, holes in enumerate(shoe.vent_rows)
        for column in range(holes)
    ]
    return _at([tuple(p) for p in spots]) + rng.normal(0, slack / 3, (len(spots), 2))


def _sole(relief: Relief, shoe: CourtShoe) -> None:
    top = curve(_at(SOLE_TOP))
    back = [(290, 29), (293.5, 27.5), (295, 22), (294.5, 10), (292, 3), (286, 0)]
    front = [(60, 0), (34, 1), (16, 5), (5, 12), (0.5, 19), (0.5, 23.5), (3, 25)]
    wall = np.vstack([top, curve(_at(back)), curve(_at(front))])
    mask = relief.mask(wall)
    # A foxing strip stands in front of the upper: it starts from its own level, not from the upper's.
    relief.height = relief.height * (1 - mask) + 20 * mask
    relief.albedo *= 1 - 0.35 * np.clip(relief.mask(wall - [0, 1.2]) - mask, 0, 1)[..., None]
    relief.panel(wall, RUBBER.coloured(shoe.palette.sole), 2.6, edge_mm=2.2)
    relief.groove(beside(top, -4.2)[8:-8], 1.6, 0.5)
    relief.sew(beside(top, -4.2)[14:-14], 78, Thread(shoe.palette.sole, width_mm=0.9, duty=0.7))
    relief.groove(curve(_at([(4, 9), (30, 6), (100, 5.5), (200, 5.5), (294, 7)])), 1.2, 0.5)


def mirror(relief: Relief) -> None:
    """Turn a canvas into its mirror image."""
    for name in ("height", "albedo", "gloss", "shininess", "solid", "emits"):
        setattr(relief, name, np.ascontiguousarray(getattr(relief, name)[:, ::-1]))

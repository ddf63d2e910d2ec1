"""The made-up court shoe from above, from behind and from below. All lengths in mm; drawn as a left shoe.

From above the toe points left and the outer side is at the bottom; a right shoe is the mirror image, top to bottom.
"""

import cv2
import numpy as np

from assay.simulator import noise
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, mirror
from assay.simulator.materials import LEATHER, RUBBER, SUEDE, TEXTILE
from assay.simulator.relief import Relief, Thread, beside, curve
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

LENGTH = 295.0
TOP_FRAME = (330.0, 140.0)
REAR_FRAME = (150.0, 165.0)
SOLE_FRAME = (330.0, 140.0)
# Half widths of the last along its length, inner (up) and outer (down), from the middle line y = 70.
STATIONS = (1, 8, 24, 48, 80, 118, 160, 205, 245, 275, 290, 295)
INNER = (11, 23, 34, 41, 45, 41, 35, 33, 34, 31, 18, 2)
OUTER = (2, 11, 24, 36, 45, 49, 43, 36, 35, 32, 19, 3)
OFFSET = np.array([17.0, 70.0])


def _last(grow: float = 0.0, low: float = 0.0, high: float = LENGTH) -> np.ndarray:
    """Outline of the foot's plan, grown sideways, between two stations."""
    x = np.array(STATIONS, float)
    keep = (x >= low) & (x <= high)
    inner = np.stack([x, -(np.array(INNER) + grow)], 1)[keep]
    outer = np.stack([x, np.array(OUTER) + grow], 1)[keep][::-1]
    loop = curve(np.vstack([inner, outer, inner[:1]]))
    middle = np.array([LENGTH / 2, 0])
    return (loop - middle) * [1 + grow / LENGTH * 2, 1] + middle + OFFSET


def from_above(shoe: CourtShoe, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The shoe seen from above."""
    rng = np.random.default_rng([shoe.seed, shoe.foot == "right", 2])
    relief = Relief(TOP_FRAME, camera.mm_per_px, rng)
    relief.panel(_last(6), RUBBER.coloured(shoe.palette.sole), 6.0, edge_mm=5)
    upper = relief.panel(_last(1), LEATHER.coloured(shoe.palette.leather), 4.0, edge_mm=3)
    relief.swell(upper, 40, 22)
    thread = Thread(shoe.palette.thread, width_mm=shoe.thread_mm, jitter=0.035 * shoe.looseness)
    cap = np.vstack([curve(np.array([[70, -60], [60, -20], [57, 5], [62, 30], [74, 62]]) + OFFSET), [[5, 140], [5, 0]]])
    relief.panel(cap, SUEDE.coloured(shoe.palette.suede), 1.4, within=upper)
    relief.sew(curve(np.array([[68, -38], [62, -18], [59.5, 5], [64, 30], [71, 42]]) + OFFSET), 30, thread)
    heel = np.vstack([curve(np.array([[252, -60], [246, -10], [246, 10], [252, 60]]) + OFFSET), [[330, 140], [330, 0]]])
    relief.panel(heel, SUEDE.coloured(shoe.palette.suede), 1.5, within=upper)
    features = _throat(relief, shoe, thread, upper)
    _collar(relief, shoe)
    return _taken(relief, features, shoe, TOP_FRAME, scene, camera, lamp, rng)


def _throat(relief: Relief, shoe: CourtShoe, thread: Thread, upper: np.ndarray) -> dict[str, np.ndarray]:
    tongue = curve(
        np.array([[100, 1], [112, -15], [150, -21], [206, -22], [212, 0], [206, 23], [150, 22], [112, 16], [100, 1]])
        + OFFSET
    )
    mask = relief.panel(tongue, TEXTILE.coloured(shoe.palette.tongue), 1.2)
    relief.swell(mask, 14, 3)
    features = {}
    for name, side in (("lace_holes_inner", -1), ("lace_holes_outer", 1)):
        band = curve(np.array([[98, 7], [110, 15], [150, 20], [196, 22]]) * [1, side] + OFFSET)
        outer = curve(np.array([[92, 16], [106, 30], [150, 34], [198, 33]]) * [1, side] + OFFSET)
        relief.panel(np.vstack([band, outer[::-1]]), LEATHER.coloured(shoe.palette.overlay), 1.6, within=upper)
        relief.sew(beside(outer, -2.2 * side)[10:-8], 36, thread)
        line = curve(np.array([[109, 20.5], [150, 26], [192, 27]]) * [1, side] + OFFSET)
        places = np.linspace(0, len(line) - 1, shoe.lace_holes).round().astype(int)
        features[name] = line[places] + relief.rng.normal(0, 0.2 * shoe.looseness, (shoe.lace_holes, 2))
        for hole in features[name]:
            relief.punch(hole, shoe.lace_hole_mm)
    return features


def _collar(relief: Relief, shoe: CourtShoe) -> None:
    rim = curve(
        np.array([[196, -2], [206, -25], [236, -28], [268, -22], [281, 0], [268, 22], [236, 28], [206, 25], [196, -2]])
        + OFFSET
    )
    hole = relief.mask(rim)
    relief.swell(cv2.dilate(hole, np.ones((3, 3)), iterations=round(6 / relief.mm_per_px)) - hole, 3, 2.5)
    relief.height = relief.height * (1 - hole) - 6 * hole
    lining = TEXTILE.coloured(tuple(0.42 * c for c in shoe.palette.tongue))
    relief.skin(hole, lining)
    inner = curve(
        np.array([[206, 0], [212, -18], [240, -20], [266, -15], [274, 0], [266, 15], [240, 20], [212, 18], [206, 0]])
        + OFFSET
    )
    relief.skin(relief.mask(inner), TEXTILE.coloured(tuple(0.3 * c for c in shoe.palette.suede)))


def from_behind(shoe: CourtShoe, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The heel, standing."""
    rng = np.random.default_rng([shoe.seed, shoe.foot == "right", 3])
    relief = Relief(REAR_FRAME, camera.mm_per_px, rng)
    half = np.array([[36.0, 26], [33, 44], [29.5, 66], [28.5, 84], [30.5, 104], [33, 118], [26, 124], [0, 125.5]])
    half[:, 0] += np.array([0, 0.1, 0.4, 0.5, 0.3, 0, 0, 0]) * shoe.waist_mm
    left = curve(half * [-1, -1] + [75, 150])
    outline = np.vstack([left, (left * [-1, 1] + [150, 0])[::-1]])
    body = relief.panel(outline, LEATHER.coloured(shoe.palette.leather), 2.2, edge_mm=2)
    relief.swell(body, 30, 26)
    counter = np.array([[-50, 22], [-50, 78], [-26, 76], [0, 64], [26, 76], [50, 78], [50, 22]]) * [1, -1] + [75, 150]
    relief.panel(curve(counter), SUEDE.coloured(shoe.palette.suede), 1.5, within=body)
    thread = Thread(shoe.palette.thread, width_mm=shoe.thread_mm, jitter=0.03 * shoe.looseness)
    relief.sew(
        curve(np.array([[-29, 78.5], [-14, 73], [0, 66.5], [14, 73], [29, 78.5]]) * [1, -1] + [75, 150]), 24, thread
    )
    tab = np.array([[-15, 88], [-17, 112], [-12, 124], [12, 124], [17, 112], [15, 88], [0, 84], [-15, 88]])
    relief.panel(curve(tab * [1, -1] + [75, 150]), LEATHER.coloured(shoe.palette.overlay), 1.4, within=body)
    bar = Thread(shoe.palette.contrast_thread, width_mm=0.95, proud_mm=0.4, across=True, bar_mm=4.6, jitter=0.03)
    row = relief.sew(curve(np.array([[-13, 92.5], [0, 90], [13, 92.5]]) * [1, -1] + [75, 150]), shoe.bar_stitches, bar)
    flag = np.array([[-9, 104], [10, 110], [6, 104], [10, 99], [0, 97], [-9, 96], [-9, 104]])
    relief.panel(flag * [1, -1] + [75, 150], LEATHER.coloured(shoe.palette.emblem), 0.8, edge_mm=0.4)
    wall = np.array([[-38, 30], [-40, 26], [-39, 8], [-36, 1], [36, 1], [39, 8], [40, 26], [38, 30]]) * [1, -1] + [
        75,
        150,
    ]
    mask = relief.mask(wall)
    relief.height = relief.height * (1 - mask) + 24 * mask
    relief.panel(wall, RUBBER.coloured(shoe.palette.sole), 2.6, edge_mm=2.2)
    relief.groove(np.array([[37.5, 125.5], [112.5, 125.5]]), 1.4, 0.5)
    if shoe.foot == "right":
        mirror(relief)
        row = np.stack([REAR_FRAME[0] - row[:, 0], row[:, 1]], 1)
    scene = scene or Scene(REAR_FRAME, ground_mm=150.0)
    return take(relief, {"rear_bar": row}, scene, camera, lamp or Lamp(), rng)


def from_below(shoe: CourtShoe, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The outsole."""
    rng = np.random.default_rng([shoe.seed, shoe.foot == "right", 4])
    relief = Relief(SOLE_FRAME, camera.mm_per_px, rng)
    colour = tuple(0.93 * c for c in shoe.palette.sole)
    sole = relief.panel(_last(5), RUBBER.coloured(colour), 5.0, edge_mm=4)
    inner = relief.mask(_last(-3))
    x, y = np.meshgrid(*(np.arange(n, dtype=np.float32) * camera.mm_per_px for n in relief.shape[::-1]))
    zigzag = (x + 5 * np.abs(((y / 12) % 1) * 2 - 1)) / shoe.tread_mm % 1
    cut = (1 / (1 + np.exp((np.abs(zigzag - 0.5) - 0.14) * 40))).astype(np.float32)
    pivot, arch = np.hypot(x - OFFSET[0] - 82, y - OFFSET[1] - 2), relief.mask(_last(-9, 118, 205))
    rings = (np.cos(2 * np.pi * pivot / 5.2) > 0.35).astype(np.float32)
    cut = np.where(pivot < 24, cv2.GaussianBlur(rings, (0, 0), 1.2), cut) * inner * (1 - arch)
    relief.height -= 1.5 * cv2.GaussianBlur(cut, (0, 0), 0.8)
    relief.albedo *= (1 - 0.25 * cut)[..., None]
    flag = np.array([[132, -6], [186, -14], [178, -2], [188, 10], [160, 12], [131, 14]], float) + OFFSET
    relief.panel(flag, RUBBER.coloured(shoe.palette.emblem), 1.0, within=sole)
    relief.albedo *= (1 + 0.05 * noise.clouds(relief.shape, 30 / camera.mm_per_px, rng) * sole)[..., None]
    return _taken(relief, {"pennant": flag}, shoe, SOLE_FRAME, scene, camera, lamp, rng, flipped=True)


def _taken(  # noqa: PLR0913, PLR0917 - a shoe, how it lies and how it is photographed
    relief: Relief,
    features: dict[str, np.ndarray],
    shoe: CourtShoe,
    frame: tuple[float, float],
    scene: Scene | None,
    camera: Camera,
    lamp: Lamp | None,
    rng: np.random.Generator,
    *,
    flipped: bool = False,
) -> Shot:
    """Mirror top to bottom where the foot, or looking from below, asks for it."""
    if (shoe.foot == "right") != flipped:
        for name in ("height", "albedo", "gloss", "shininess", "solid"):
            setattr(relief, name, np.ascontiguousarray(getattr(relief, name)[::-1]))
        features = {name: np.stack([f[:, 0], frame[1] - f[:, 1]], 1) for name, f in features.items()}
    return take(relief, features, scene or Scene(frame), camera, lamp or Lamp(), rng)

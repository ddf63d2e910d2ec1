"""How true print and edges of a label are measured, and whether its bars are read: simulated labels of known make.

Through the whole chain: card found, plane straightened, region measured. The baseline is a straightforward use of
libraries on the same straightened picture: one Otsu threshold, bounding boxes, twice the distance transform's ridge.
"""

from dataclasses import replace

import cv2
import numpy as np
from skimage.morphology import skeletonize

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import AssayError
from assay.imaging.card import find_card
from assay.imaging.opening import decode
from assay.imaging.pyramid import pyramid_of
from assay.imaging.region import measure_region
from assay.measure import edge_distance, lettering
from assay.paperwork import barcode
from assay.simulator.box import Box, Label, box_end
from assay.simulator.camera import Camera
from assay.simulator.printing import Type
from assay.simulator.printing import lettering as truly
from assay.simulator.scene import CardPlace, Scene
from assay.simulator.shading import Lamp, lamp_colour

LABELS = 16
GTIN = "2004412095003"


def one(seed: int) -> dict[str, float]:
    """Errors on one label; a measure that refuses leaves its own out."""
    cv2.setNumThreads(1)
    rng = np.random.default_rng([seed, 77])
    kind = Type(6.2 + rng.normal(0, 0.25), int(rng.integers(420, 700)), float(rng.normal(0, 0.15)))
    label = Label(gtin=GTIN, letters=kind, width_mm=104 + rng.normal(0, 1.5), tab_mm=11.0)
    camera = Camera(
        mm_per_px=0.13,
        turn_deg=float(rng.normal(0, 3)),
        tilt_deg=(float(rng.normal(0, 4)), float(rng.normal(0, 4))),
        blur_px=float(rng.uniform(0.7, 1.4)),
        noise=float(rng.uniform(0.006, 0.016)),
        exposure=float(rng.uniform(0.8, 1.15)),
    )
    scene = Scene((460.0, 345.0), (120.0, 180.0), cards=(CardPlace((138.0, 96.0), float(rng.normal(0, 2))),))
    lamp = replace(Lamp(), tint=lamp_colour(float(rng.uniform(3000, 7000))))
    shot = box_end(Box(label, seed=seed), camera, lamp, scene)
    rgb = decode(shot.jpeg)
    pyramid = pyramid_of(rgb)
    plane = find_card(pyramid).plane
    picture = Picture(rgb, plane.mm_per_px((rgb.shape[1] / 2, rgb.shape[0] / 2)))
    at = {name: np.array(shot.truth[name]["centres"]) for name in ("code", "label", "perforation")}
    true = truly(label.style_code, kind)
    errors = _print_errors(picture, plane, at["code"], true, rng)
    errors |= _edge_errors(picture, plane, at, label, rng)
    return errors | {"bars read": float(GTIN in [code.text for code in barcode.find(pyramid)])}


def _print_errors(picture, plane, code, true, rng) -> dict[str, float]:
    middle = code.mean(0)
    drawn = (code - middle) * [1.06, 1.5] + middle + rng.normal(0, 2, 2)
    marks = Marks(MarkKind.REGION, tuple(map(tuple, drawn)))
    errors = {}
    try:
        parts = measure_region(lettering.measure, picture, plane, marks, units=lettering.MEASURE.units).parts
        errors["stroke %"] = 100 * (parts["stroke_mm"] / true.stroke_mm - 1)
        errors["spacing %"] = 100 * (parts["pitch_mm"] / true.pitch_mm - 1)
        errors["letter height mm"] = parts["height_mm"] - true.height_mm
    except AssayError:
        pass
    simple = _baseline(picture, plane, drawn)
    if simple:
        errors["stroke %, baseline"] = 100 * (simple[0] / true.stroke_mm - 1)
        errors["letter height mm, baseline"] = simple[1] - true.height_mm
    return errors


def _baseline(picture, plane, drawn) -> tuple[float, float] | None:
    flat = plane.to_mm(drawn)
    low, high, step = flat.min(0), flat.max(0), picture.mm_per_px
    onto = plane.matrix @ np.array([[step, 0, low[0]], [0, step, low[1]], [0, 0, 1]])
    size = tuple(int(n) for n in (high - low) / step)
    piece = cv2.warpPerspective(picture.rgb, onto, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    grey = cv2.cvtColor(piece, cv2.COLOR_RGB2GRAY)
    _, ink = cv2.threshold(grey, 0, 1, cv2.THRESH_BINARY_INV + cv2.THRESH_OTSU)
    _, _, stats, _ = cv2.connectedComponentsWithStats(ink)
    tall = [height for _, _, _, height, area in stats[1:] if area > 30]
    if not tall:
        return None
    ridge = skeletonize(ink > 0)
    return 2 * float(cv2.distanceTransform(ink, cv2.DIST_L2, 5)[ridge].mean()) * step, float(np.median(tall)) * step


def _edge_errors(picture, plane, at, label, rng) -> dict[str, float]:
    corners, tear = at["label"], at["perforation"]
    low = 0.95
    left = corners[0] * (1 - low) + corners[3] * low
    ends = {"label width mm": (corners[1] * (1 - low) + corners[2] * low, label.width_mm + label.tab_mm)}
    ends["width to perforation mm"] = (tear[0] * (1 - low) + tear[1] * low, label.width_mm)
    errors = {}
    for name, (stop, true) in ends.items():
        path = tuple(tuple(point + rng.normal(0, 4, 2)) for point in (left, stop))
        try:
            drawn, units = Marks(MarkKind.PATH, path), edge_distance.MEASURE.units
            errors[name] = measure_region(edge_distance.measure, picture, plane, drawn, units=units).value - true
        except AssayError:
            continue
    return errors


def main(pool) -> None:
    """Print the table."""
    found = list(pool.map(one, range(LABELS)))
    print(f"\n{LABELS} simulated labels, card in the picture, to about 8° of tilt, 3000-7000 K, blur 0.7-1.4 px")
    print("                                  mean    mean error   95th percentile   answered")
    for name in dict.fromkeys(name for row in found for name in row):
        values = np.array([row[name] for row in found if name in row])
        if name == "bars read":
            print(f"bars read off the photograph   {values.mean():7.1%}")
            continue
        print(
            f"{name:28} {values.mean():10.3f} {np.abs(values).mean():13.3f} {np.percentile(np.abs(values), 95):17.3f}"
            f" {len(values):7} of {LABELS}"
        )

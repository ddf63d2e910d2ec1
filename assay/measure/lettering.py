"""A line of print: height of its letters, weight of their strokes, the white between them.

Ink is parted from paper half way between the two in linear light (IEC 61966-2-1), each seen locally, on finer
pixels. The line is turned level by its own baseline. The weight of a stroke is four times the mean distance of
ink to its rim: exact for a bar (distance transform: Felzenszwalb & Huttenlocher 2012). Refuses what is too coarse and
what is no print; letters that cannot be told apart are a doubt.
"""

from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import BASELINE, MarkKind, Marks, Measurement, Picture, Point, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.colour import grey_light
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed

# Fine pixels to one of the picture's: a third as many for the first, rough look; fewer where the print is large anyway.
FINEST = 8
COARSEST = 4
MOST_FINE = 2_200_000
# Paper is looked at on so much coarser pixels than print.
COARSER = 8
# A stroke narrower than this blurs into its neighbours: its weight would be the camera's.
FEWEST_PX_A_STROKE = 2.2
# Standard uncertainty of a rim, px of the picture: by bars of known width and simulated labels.
RIM_PX = 0.12
# Darkness, as a share of paper's light, from which something is print at all.
FAINTEST = 0.18
LEAST_LETTERS = 2
INK_PERCENTILE = 12
# Of the piece every so many pixels of every so many rows tell its levels.
SAMPLED = 3
# How deep the rim is along which the ground is seen, as a share of the region's height.
GROUND_SEEN = 0.06
# Ink that grows by more than this share where gaps of so much of a letter's height are closed is broken into threads:
# the weight of a stroke is then a thread's, by half or so, and its pieces may be taken for letters. On one set of
# words by others all wrong counts grow by 0.11 and more, right ones without a doubt by 0.06 at most.
GAPS_CLOSED = 0.06
BROKEN_FROM = 0.085
BROKEN_OFF = 0.5
# Relative to the line's height: smaller blobs are dots, hyphens or dirt and do not say how high letters are.
FULL_HEIGHT = 0.72


@dataclass(frozen=True, slots=True)
class _Line:
    """Letters of one line, in fine pixels of the levelled piece, left to right."""

    boxes: np.ndarray
    """(N, 4) left, top, right, bottom."""
    ink: np.ndarray
    """0 and 1."""
    onto: np.ndarray
    """2 × 3, fine pixels of the piece to the picture's own."""
    finer: int
    """Fine pixels to one of the picture's."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Measure the line of print inside a region. Value: height of a capital, mm (px without a scale).

    Parts: ``stroke_mm``, ``gap_mm``, ``pitch_mm`` with their uncertainties, ``stroke_ratio`` and ``gap_ratio`` to the
    height, ``letters``, ``tilt_deg``. Raises CannotMeasure ``no_print_found``, ``print_too_small`` or what the marks
    raise.
    """
    corners = marks.checked(picture.size)
    finer = int(np.clip(np.sqrt(MOST_FINE / max(1.0, np.prod(np.ptp(corners, axis=0)))), COARSEST, FINEST))
    line = _found(picture, corners, np.eye(2, 3), max(2, finer // 3))
    turn = _tilt(line)
    middle = corners.mean(0)
    line = _found(picture, corners, cv2.getRotationMatrix2D(tuple(middle), np.degrees(turn), 1.0), finer)
    return _reading(picture, line, turn)


def _found(picture: Picture, corners: np.ndarray, turned: np.ndarray, finer: int) -> _Line:
    flat = corners @ turned[:, :2].T + turned[:, 2]
    low, high = flat.min(0), flat.max(0)
    size = tuple(int(n) for n in np.ceil((high - low) * finer))
    if min(size) < COARSER:
        raise CannotMeasure("no_print_found", letters=0)
    # Fine pixel (u, v) lies at low + (u, v) / finer of the turned picture.
    back = np.linalg.inv(np.vstack([turned, [0, 0, 1]]))
    onto = (back @ np.array([[1 / finer, 0, low[0]], [0, 1 / finer, low[1]], [0, 0, 1]]))[:2]
    x, y = np.maximum(0, np.floor(corners.min(0)).astype(int) - 3)
    right, bottom = np.ceil(corners.max(0)).astype(int) + 4
    here = onto - np.array([[0, 0, x], [0, 0, y]])
    # Twice as fine by cubic interpolation, on from there linearly: half the cost, and the rims stay where they are.
    light = cv2.resize(grey_light(picture.rgb[y:bottom, x:right]), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    piece = cv2.warpAffine(light, 2 * here + [0, 0, 0.5], size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    inside = np.zeros(piece.shape, np.uint8)
    cv2.fillPoly(inside, [np.round((flat - low) * finer).astype(np.int32)], 1)
    ink, blobs = _whole(_ink(_dark_on_light(piece, inside), inside), inside)
    boxes = _letters(blobs, finer)
    if len(boxes) < LEAST_LETTERS:
        raise CannotMeasure("no_print_found", letters=len(boxes))
    return _Line(boxes, ink, onto, finer)


def _dark_on_light(piece: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """The piece with its ground bright: turned round where the ground, seen along the region's rim, is nearer to the
    darkest than to the brightest there. Half way between ink and ground stays where it is."""
    depth = max(1, round(GROUND_SEEN * min(piece.shape)))
    rim = inside - cv2.erode(inside, np.ones((2 * depth + 1, 2 * depth + 1), np.uint8), borderValue=0)
    low, high = np.percentile(piece[inside > 0][::SAMPLED], [1, 99])
    ground = float(np.median(piece[rim > 0])) if rim.any() else high
    if high - ground <= ground - low:
        return piece
    return np.maximum(high + low - piece, 1e-4)


def _ink(piece: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """Ink as 0 and 1: below half way between the paper around and the middles of the strokes."""
    coarse = cv2.resize(piece, None, fx=1 / COARSER, fy=1 / COARSER, interpolation=cv2.INTER_AREA)
    reach = max(3, (min(coarse.shape) // 2) | 1)
    paper = cv2.GaussianBlur(cv2.dilate(coarse, np.ones((reach, reach), np.uint8)), (0, 0), reach / 2)
    paper = cv2.resize(paper, piece.shape[::-1], interpolation=cv2.INTER_LINEAR)
    share = piece / np.maximum(paper, 1e-4)
    here = share[::SAMPLED, ::SAMPLED][inside[::SAMPLED, ::SAMPLED] > 0]
    lowest = float(np.percentile(here, 0.2))
    # The paper's own level: its middle, not its brightest grain.
    usual = float(np.median(here[here > (1 + lowest) / 2])) if (here > (1 + lowest) / 2).any() else 1.0
    if usual - lowest < FAINTEST:
        raise CannotMeasure("no_print_found", letters=0)
    # The ink's: of the middles of strokes, not of a speck.
    darkest = float(np.percentile(here[here < (usual + lowest) / 2], INK_PERCENTILE))
    return ((share < (usual + darkest) / 2) & (inside > 0)).astype(np.uint8)


def _whole(ink: np.ndarray, inside: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Ink without what the region's rim cuts: the foot of the line above, a frame, a letter half outside; and its blobs
    (N, 5): box and area."""
    _, marked, stats, _ = cv2.connectedComponentsWithStats(ink)
    rim = (inside > 0) & (cv2.erode(inside, np.ones((3, 3), np.uint8), borderValue=0) == 0)
    left = np.ones(len(stats), bool)
    left[marked[rim]] = False
    left[0] = False
    return left[marked].astype(np.uint8), stats[left]


def _letters(blobs: np.ndarray, finer: int) -> np.ndarray:
    """Boxes of the letters: blobs that overlap from side to side are one letter (i, =, %); specks are none."""
    blobs = blobs[blobs[:, 4] > (0.6 * finer) ** 2]
    if not len(blobs):
        return np.zeros((0, 4))
    tall = blobs[:, 3].max()
    blobs = blobs[(blobs[:, 3] > 0.12 * tall) | (blobs[:, 2] > 0.2 * tall)]
    boxes: list[list[float]] = []
    for x, y, width, height, _ in sorted(blobs.tolist()):
        if boxes and x < boxes[-1][2] - 0.25 * width:
            last = boxes[-1]
            boxes[-1] = [last[0], min(last[1], y), max(last[2], x + width), max(last[3], y + height)]
        else:
            boxes.append([x, y, x + width, y + height])
    return np.array(boxes, float).reshape(-1, 4)


def _full(boxes: np.ndarray) -> np.ndarray:
    heights = boxes[:, 3] - boxes[:, 1]
    return boxes[heights > FULL_HEIGHT * heights.max()]


def _tilt(line: _Line) -> float:
    """Angle of the baseline, radians: the median slope between the feet of full letters (Theil 1950, Sen 1968)."""
    full = _full(line.boxes)
    x, y = (full[:, 0] + full[:, 2]) / 2, full[:, 3]
    first, second = np.triu_indices(len(full), 1)
    apart = x[second] - x[first]
    far = apart > 0.3 * max(float(np.ptp(x)), 1.0)
    if not far.any():
        return 0.0
    return float(np.arctan(np.median((y[second] - y[first])[far] / apart[far])))


def _reading(picture: Picture, line: _Line, turn: float) -> Measurement:
    boxes, full = line.boxes / line.finer, _full(line.boxes) / line.finer
    depth = cv2.distanceTransform(line.ink, cv2.DIST_L2, cv2.DIST_MASK_5)
    stroke = 4 * (cv2.mean(depth, line.ink)[0] - 0.5) / line.finer
    heights = full[:, 3] - full[:, 1]
    height = float(np.median(heights))
    if stroke < FEWEST_PX_A_STROKE:
        raise CannotMeasure("print_too_small", px=round(stroke, 2), needed=FEWEST_PX_A_STROKE)
    gaps = boxes[1:, 0] - boxes[:-1, 2]
    middles = (boxes[:, 0] + boxes[:, 2]) / 2
    # A blank between words is no gap between letters.
    close = gaps < 0.75 * height
    gap = float(gaps[close].mean()) if close.any() else float(gaps.mean())
    pitch = float(np.diff(middles)[close].mean()) if close.any() else float(np.diff(middles).mean())
    unit = picture.mm_per_px or 1.0
    name = "mm" if picture.mm_per_px else "px"
    # What is not known of where the rims lie, and what the letters scatter by.
    rim = RIM_PX
    off_height = float(np.hypot(rim, np.std(heights) / np.sqrt(len(heights))))
    broken = _broken(line.ink, height * line.finer)
    off_stroke = float(np.hypot(rim, BROKEN_OFF * stroke)) if broken else rim
    sizes = {"stroke": (stroke, off_stroke), "gap": (gap, rim), "pitch": (pitch, rim / np.sqrt(len(boxes)))}
    parts = {}
    for part, (value, u) in sizes.items():
        parts[f"{part}_{name}"], parts[f"{part}_{name}_uncertainty"] = value * unit, float(u) * unit
    parts |= {f"height_{name}": height * unit, f"height_{name}_uncertainty": off_height * unit}
    parts |= {"stroke_ratio": stroke / height, "gap_ratio": gap / height}
    parts |= {"stroke_ratio_uncertainty": off_stroke / height, "gap_ratio_uncertainty": rim / height}
    parts |= {"letters": len(boxes), "tilt_deg": float(np.degrees(turn))}
    doubts = [*picture.doubts]
    if (gaps < 0.3).any() or (boxes[:, 2] - boxes[:, 0] > 1.25 * height).any():
        doubts.append("letters_touch")
    if broken:
        doubts.append("strokes_broken")
    return Measurement(
        value=height * unit,
        unit=name,
        uncertainty=off_height * unit,
        parts=MappingProxyType(parts),
        overlay=_drawn(line, full),
        doubts=tuple(dict.fromkeys(doubts)),
    )


def _broken(ink: np.ndarray, height: float) -> bool:
    """Whether strokes are seen as single threads; ``height``: of the letters, in the ink's pixels."""
    reach = max(3, round(GAPS_CLOSED * height))
    closed = cv2.morphologyEx(ink, cv2.MORPH_CLOSE, np.ones((reach, reach), np.uint8))
    return cv2.countNonZero(closed) > (1 + BROKEN_FROM) * cv2.countNonZero(ink)


def _drawn(line: _Line, full: np.ndarray) -> tuple[Stroke, ...]:
    """Baseline, the height of capitals, and a box round every letter."""

    def placed(points: list[Any]) -> tuple[Point, ...]:
        fine = np.asarray(points, float) * line.finer
        return tuple((float(x), float(y)) for x, y in fine @ line.onto[:, :2].T + line.onto[:, 2])

    boxes = line.boxes / line.finer
    left, right = boxes[0, 0] - 4, boxes[-1, 2] + 4
    foot, head = float(np.median(full[:, 3])), float(np.median(full[:, 1]))
    lines = [
        Stroke(StrokeKind.LINE, placed([[left, y], [right, y]]), label) for y, label in ((head, ""), (foot, BASELINE))
    ]
    round_it = [
        Stroke(StrokeKind.LINE, placed([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]])) for x0, y0, x1, y1 in boxes
    ]
    return (*lines, *round_it)


def _sample() -> Sample:
    """A line of upright strokes as capitals, dark on white, 0.1 mm a pixel."""
    drawing = canvas(420, 160, (238, 236, 232))
    for n in range(10):
        bar(drawing, (50 + 32 * n, 60, 54.5 + 32 * n, 92), (36, 36, 40))
        bar(drawing, (50 + 32 * n, 60, 66 + 32 * n, 64.5), (36, 36, 40))
    return exposed(drawing, 0.1, [[34, 44], [384, 44], [384, 108], [34, 108]])


MEASURE = Measure(
    name="lettering",
    version=8,
    marks=MarkKind.REGION,
    measure=measure,
    unit="mm",
    parts={
        "height_mm": "mm",
        "stroke_mm": "mm",
        "gap_mm": "mm",
        "pitch_mm": "mm",
        "stroke_ratio": "ratio",
        "gap_ratio": "ratio",
    },
    unjudged={"letters": "count", "tilt_deg": "deg"},
    drill="mark",
    coarsest_mm_per_px=0.16,
    refuses=frozenset({"no_print_found", "print_too_small"}),
    sample=_sample,
)

"""Gauges off a shoe's rim: from the side, from behind, from above.

The rim is found to a fraction of a pixel (``photo.contour``) and set level: on its sole from the side and from behind,
along its longest way from above. Every gauge is a plain number that a person can check with a rule on the photograph.
Refuses what the rim refuses, and a picture in which a third of the rim is a guess.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from assay.contracts import Marks, Picture, Point, Reading, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.photo.contour import find_rim

SIDE_PARTS = (
    "length_mm",
    "height_mm",
    "toe_5_mm",
    "toe_10_mm",
    "toe_20_mm",
    "toe_ratio",
    "toe_slope_deg",
    "heel_lean_deg",
)
REAR_PARTS = ("collar_mm", "waist_mm", "base_mm", "hourglass_ratio", "flank_mm")
TOP_PARTS = ("length_mm", "ball_mm", "toe_10_mm", "squareness_ratio")
# Standard uncertainty of where a rim lies, px: by drawn outlines of known shape.
RIM_PX = 0.4
GUESSED_MOST = 0.34
# Where the rear's widths are sought, as shares of the height over ground.
COLLAR, WAIST, BASE = (0.72, 0.97), (0.35, 0.85), (0.03, 0.22)


@dataclass(frozen=True, slots=True)
class _Level:
    """A rim set level: x to the right, y up from the ground, in mm (px without a scale)."""

    points: np.ndarray
    back: Callable[[np.ndarray], np.ndarray]
    """Level points to picture pixels."""
    unit: float
    doubts: tuple[str, ...]

    def span(self, height: float) -> tuple[float, float]:
        """Leftmost and rightmost place of the rim at a height."""
        return _crossings(self.points, height, 1)

    def rise(self, place: float) -> tuple[float, float]:
        """Lowest and highest point of the rim at a place along."""
        return _crossings(self.points, place, 0)


def measure_side(picture: Picture, marks: Marks) -> Reading:
    """From the side. Value: length, mm. Parts: see ``SIDE_PARTS``.

    Toe heights at 5, 10 and 20 % of the length; ``toe_ratio``: that at 10 % over the length, for pairs of other sizes.
    """
    level = _level(picture, marks, sole_down=True)
    points = level.points
    left, right = float(points[:, 0].min()), float(points[:, 0].max())
    length, height = right - left, float(points[:, 1].max())
    near = [level.rise(left + share * length)[1] for share in (0.08, 0.92)]
    toe, way = (left, 1) if near[0] < near[1] else (right, -1)
    heights = {share: level.rise(toe + way * share * length)[1] for share in (0.05, 0.1, 0.2)}
    slope = np.degrees(np.arctan2(heights[0.2] - heights[0.1], 0.1 * length))
    heel = [_end(level, height * share, way) for share in (0.2, 0.6)]
    lean = np.degrees(np.arctan2((heel[1] - heel[0]) * way, height * 0.4))
    parts = {
        "length_mm": length,
        "height_mm": height,
        "toe_5_mm": heights[0.05],
        "toe_10_mm": heights[0.1],
        "toe_20_mm": heights[0.2],
        "toe_ratio": heights[0.1] / length,
        "toe_slope_deg": float(slope),
        "heel_lean_deg": float(lean),
    }
    lines = [[[left, 0], [right, 0]]]
    lines += [[[toe + way * share * length, 0], [toe + way * share * length, high]] for share, high in heights.items()]
    return _reading("profile_side", picture, level, parts, ("length_mm", lines))


def measure_rear(picture: Picture, marks: Marks) -> Reading:
    """From behind. Value: width of the waist, mm. Parts: see ``REAR_PARTS``.

    ``hourglass_ratio``: the waist over the mean of collar and base; ``flank_mm``: how far the flanks bend from straight
    lines between collar and base, the mean of both sides, inwards positive.
    """
    level = _level(picture, marks, sole_down=True)
    height = float(level.points[:, 1].max())

    def widest(band: tuple[float, float]) -> tuple[float, float]:
        rows = [(level.span(height * share), height * share) for share in np.linspace(*band, 25)]
        (low, high), at = max(rows, key=lambda row: row[0][1] - row[0][0])
        return high - low, at

    collar, collar_at = widest(COLLAR)
    base, base_at = widest(BASE)
    rows = [(level.span(height * share), height * share) for share in np.linspace(*WAIST, 51)]
    (low, high), waist_at = min(rows, key=lambda row: row[0][1] - row[0][0])
    parts = {
        "collar_mm": collar,
        "waist_mm": high - low,
        "base_mm": base,
        "hourglass_ratio": (high - low) / ((collar + base) / 2),
        "flank_mm": _flanks(level, collar_at, base_at, waist_at),
    }
    lines = [[[left, at], [right, at]] for at in (collar_at, waist_at, base_at) for left, right in (level.span(at),)]
    return _reading("profile_rear", picture, level, parts, ("waist_mm", lines))


def measure_top(picture: Picture, marks: Marks) -> Reading:
    """From above. Value: width at the ball, mm. Parts: see ``TOP_PARTS``.

    ``squareness_ratio``: width at 3 % of the length from the toe over that at 15 %: round toes have less.
    """
    level = _level(picture, marks, sole_down=False)
    left, right = float(level.points[:, 0].min()), float(level.points[:, 0].max())
    length = right - left

    def width(share: float) -> float:
        low, high = level.rise(left + share * length)
        return high - low

    # The ball lies in the toe's half and is the widest part there is.
    widths = {share: width(share) for share in np.linspace(0.2, 0.8, 61)}
    ball_at = max(widths, key=widths.get)
    toe = (lambda share: share) if ball_at < 0.5 else (lambda share: 1 - share)
    parts = {
        "length_mm": length,
        "ball_mm": widths[ball_at],
        "toe_10_mm": width(toe(0.1)),
        "squareness_ratio": width(toe(0.03)) / width(toe(0.15)),
    }
    places = [left + share * length for share in (ball_at, toe(0.1))]
    lines = [[[x, low], [x, high]] for x in places for low, high in (level.rise(x),)]
    return _reading("profile_top", picture, level, parts, ("ball_mm", lines))


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Reading:
    """A rim is put right by moving its region: always raises CannotMeasure."""
    raise CannotMeasure("move_the_region", points=len(points))


def _level(picture: Picture, marks: Marks, *, sole_down: bool) -> _Level:
    region = marks.checked(picture.size)
    rim = find_rim(picture.rgb, region)
    guessed = rim.guessed
    if guessed > GUESSED_MOST:
        raise CannotMeasure("rim_unclear", share=round(100 * guessed))
    points = rim.points * [1, -1]
    turn = _sole_angle(points) if sole_down else _long_angle(points)
    turned = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    flat = points @ turned.T
    ground = _ground(flat) if sole_down else float(flat[:, 1].mean())
    unit = picture.mm_per_px or 1.0

    def back(level: np.ndarray) -> np.ndarray:
        return ((np.asarray(level, float) / unit + [0, ground]) @ turned) * [1, -1]

    doubts = (*picture.doubts, *(("rim_partly_guessed",) if guessed > 0.08 else ()))
    return _Level((flat - [0, ground]) * unit, back, unit, doubts)


def _sole_angle(points: np.ndarray) -> float:
    """Angle of the sole's lower edge, radians: a robust line through the lowest points of every place along."""
    low = _lower_edge(points)
    middle = low[(low[:, 0] > np.quantile(low[:, 0], 0.2)) & (low[:, 0] < np.quantile(low[:, 0], 0.8))]
    weight = np.ones(len(middle))
    slope = 0.0
    for _ in range(5):
        slope, start = np.polyfit(middle[:, 0], middle[:, 1], 1, w=weight)
        off = np.abs(middle[:, 1] - slope * middle[:, 0] - start)
        weight = 1 / (1 + (off / (1.5 * np.median(off) + 0.3)) ** 2)
    return float(np.arctan(slope))


def _lower_edge(points: np.ndarray) -> np.ndarray:
    places = np.linspace(points[:, 0].min(), points[:, 0].max(), 90)[3:-3]
    return np.array([[x, _crossings(points, x, 0)[0]] for x in places])


def _ground(flat: np.ndarray) -> float:
    """Height of the ground: where the level sole stands, its worn or raised ends left out."""
    low = _lower_edge(flat)[:, 1]
    return float(np.quantile(low, 0.15))


def _long_angle(points: np.ndarray) -> float:
    """Angle of the longest way through, radians (principal axis)."""
    off = points - points.mean(0)
    _, _, axes = np.linalg.svd(off, full_matrices=False)
    return float(np.arctan2(axes[0, 1], axes[0, 0]) if axes[0, 0] >= 0 else np.arctan2(-axes[0, 1], -axes[0, 0]))


def _crossings(points: np.ndarray, at: float, axis: int) -> tuple[float, float]:
    """Least and greatest value of the other coordinate where the closed rim has ``at`` on this one."""
    following = np.roll(points, -1, axis=0)
    one, other = points[:, axis] - at, following[:, axis] - at
    crossing = (one <= 0) != (other <= 0)
    if not crossing.any():
        near = points[np.abs(points[:, axis] - at).argmin(), 1 - axis]
        return float(near), float(near)
    share = one[crossing] / (one[crossing] - other[crossing])
    values = points[crossing, 1 - axis] + share * (following - points)[crossing, 1 - axis]
    return float(values.min()), float(values.max())


def _end(level: _Level, height: float, way: int) -> float:
    """Place of the heel's rim at a height; ``way``: 1 where the toe is at the left."""
    left, right = level.span(height)
    return right if way == 1 else left


def _flanks(level: _Level, collar_at: float, base_at: float, waist_at: float) -> float:
    """How far both flanks lie inside straight lines from collar to base, at the waist."""
    top, foot, middle = (np.array(level.span(at)) for at in (collar_at, base_at, waist_at))
    share = (waist_at - base_at) / (collar_at - base_at)
    straight = foot + share * (top - foot)
    return float(((middle - straight) * [1, -1]).mean())


def _reading(name: str, picture: Picture, level: _Level, parts: dict, shown: tuple[str, list]) -> Reading:
    main, lines = shown
    off = RIM_PX * level.unit * np.sqrt(2)
    numbers = {}
    for part, value in parts.items():
        stem, _, unit = part.rpartition("_")
        if unit == "mm" and not picture.mm_per_px:
            numbers[f"{stem}_px"] = float(value)
            continue
        numbers[part] = float(value)
        if unit == "mm":
            numbers[f"{part}_uncertainty"] = float(off)
    width = max(parts[main], 1e-9)
    for part in [part for part in parts if part.endswith("_ratio")]:
        numbers[f"{part}_uncertainty"] = float(off / width)

    def stroke(points: list | np.ndarray) -> Stroke:
        return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in level.back(np.asarray(points))))

    outline = np.vstack([level.points[::4], level.points[:1]])
    return Reading(
        value=float(parts[main]),
        unit="mm" if picture.mm_per_px else "px",
        uncertainty=float(off),
        method=f"{name}/1",
        parts=MappingProxyType(numbers),
        overlay=(stroke(outline), *(stroke(line) for line in lines)),
        doubts=tuple(dict.fromkeys(level.doubts)),
    )

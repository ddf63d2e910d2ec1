"""Gauges off a shoe's contour: from the side, from behind, from above.

The contour is found to a fraction of a pixel (``contour.trace``) and set level: on its sole from the side and from
behind, along its longest way from above. Every gauge is a plain number that a person can check with a rule on the
photograph. Refuses what the contour refuses, and a picture in which a fifth of the contour is a guess.
"""

from collections.abc import Callable, Mapping
from itertools import pairwise
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contour.orient import OrientedContour, orient
from assay.contour.trace import BAND_SIDE, OF_THE_CONTOUR, OFF_SHARE
from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.measure.entry import Measure
from assay.measure.sample import heel_from_behind, shoe_from_above, shoe_from_the_side

# Standard uncertainty of where a contour lies, px: by drawn outlines of known shape.
RIM_PX = 0.4
# Where the rear's widths are sought, as shares of the height over ground.
COLLAR = (0.72, 0.97)
WAIST = (0.35, 0.85)
BASE = (0.03, 0.22)
# The part of the heel's contour that leans and bows, as shares of the height; how far from the heel the collar's
# opening may reach, as a share of the length.
HEEL = (0.2, 0.6)
OPENING = 0.62
# A bow flatter than this, px, has no radius to speak of.
FLAT_PX = 2.0


def measure_side(picture: Picture, marks: Marks) -> Measurement:
    """From the side. Value: length, mm. Parts: see ``MEASURES``.

    Toe heights at 5, 10 and 20 % of the length; ``toe_ratio``: that at 10 % over the length, for pairs of other sizes.
    ``heel_bow_mm``: how far the heel's back stands out over its chord between 20 and 60 % of the height (in: negative),
    with the ``heel_radius_mm`` of that arc where it is not flat. ``collar_dip_mm``: how deep the opening lies under a
    straight edge laid over heel tab and tongue.
    """
    oriented = orient(picture, marks, sole_down=True)
    points = oriented.points
    left, right = float(points[:, 0].min()), float(points[:, 0].max())
    length, height = right - left, float(points[:, 1].max())
    near = oriented.rise(left + length * np.array([0.08, 0.92]))[:, 1]
    toe, way = (left, 1) if near[0] < near[1] else (right, -1)
    heights = {share: oriented.rise(toe + way * share * length)[1] for share in (0.05, 0.1, 0.2)}
    slope = np.degrees(np.arctan2(heights[0.2] - heights[0.1], 0.1 * length))
    back = _heel(oriented, height, way)
    lean = np.degrees(np.arctan2(*((back[-1] - back[0]) * [way, 1])))
    bow, radius = _bow(back, way)
    dip, bridge = _dip(oriented, right if way == 1 else left, -way * OPENING * length)
    parts = {
        "length_mm": length,
        "height_mm": height,
        "toe_5_mm": heights[0.05],
        "toe_10_mm": heights[0.1],
        "toe_20_mm": heights[0.2],
        "toe_ratio": heights[0.1] / length,
        "toe_slope_deg": float(slope),
        "heel_lean_deg": float(lean),
        "heel_bow_mm": bow,
        "collar_dip_mm": dip,
    }
    # An angle is as unsure as its two places on the contour are across the distance between them.
    u = _uncertainty(oriented)
    parts |= {
        "toe_slope_deg_uncertainty": float(np.degrees(u / (0.1 * length))),
        "heel_lean_deg_uncertainty": float(np.degrees(u / (np.ptp(HEEL) * height))),
    }
    if abs(bow) > FLAT_PX * oriented.unit:
        parts["heel_radius_mm"] = radius
        if picture.mm_per_px:
            parts["heel_radius_mm_uncertainty"] = radius * u / abs(bow)
    lines = [[[left, 0], [right, 0]], [back[0], back[-1]], *bridge]
    lines += [[[toe + way * share * length, 0], [toe + way * share * length, high]] for share, high in heights.items()]
    return _reading("profile_side", picture, oriented, parts, ("length_mm", lines))


def measure_rear(picture: Picture, marks: Marks) -> Measurement:
    """From behind. Value: width of the waist, mm. Parts: see ``MEASURES``.

    ``hourglass_ratio``: the waist over the mean of collar and base; ``flank_mm``: how far the flanks bend from straight
    lines between collar and base, the mean of both sides, inwards positive.
    """
    oriented = orient(picture, marks, sole_down=True)
    height = float(oriented.points[:, 1].max())

    def across(band: tuple[float, float], count: int, pick: Callable[[np.ndarray], int]) -> tuple[float, float]:
        heights = height * np.linspace(*band, count)
        widths = np.ptp(oriented.span(heights), axis=1)
        chosen = pick(widths)
        return widths[chosen], heights[chosen]

    collar, collar_at = across(COLLAR, 25, np.argmax)
    base, base_at = across(BASE, 25, np.argmax)
    waist, waist_at = across(WAIST, 51, np.argmin)
    parts = {
        "collar_mm": collar,
        "waist_mm": waist,
        "base_mm": base,
        "hourglass_ratio": waist / ((collar + base) / 2),
        "flank_mm": _flanks(oriented, collar_at, base_at, waist_at),
    }
    lines = [[[left, at], [right, at]] for at in (collar_at, waist_at, base_at) for left, right in (oriented.span(at),)]
    return _reading("profile_rear", picture, oriented, parts, ("waist_mm", lines))


def measure_top(picture: Picture, marks: Marks) -> Measurement:
    """From above. Value: width at the ball, mm. Parts: see ``MEASURES``.

    ``squareness_ratio``: width at 3 % of the length from the toe over that at 15 %: round toes have less.
    """
    oriented = orient(picture, marks, sole_down=False)
    left, right = float(oriented.points[:, 0].min()), float(oriented.points[:, 0].max())
    length = right - left

    def width(share: np.ndarray | float) -> np.ndarray:
        return np.ptp(oriented.rise(left + share * length), axis=-1)

    # The ball lies in the toe's half and is the widest part there is.
    shares = np.linspace(0.2, 0.8, 61)
    widths = width(shares)
    ball_at = shares[widths.argmax()]
    toe = (lambda share: share) if ball_at < 0.5 else (lambda share: 1 - share)
    parts = {
        "length_mm": length,
        "ball_mm": widths.max(),
        "toe_10_mm": width(toe(0.1)),
        "squareness_ratio": width(toe(0.03)) / width(toe(0.15)),
    }
    places = [left + share * length for share in (ball_at, toe(0.1))]
    lines = [[[x, low], [x, high]] for x in places for low, high in (oriented.rise(x),)]
    return _reading("profile_top", picture, oriented, parts, ("ball_mm", lines))


def _heel(oriented: OrientedContour, height: float, way: int) -> np.ndarray:
    """The heel's back from low to high, (N, 2); ``way``: 1 where the toe is at the left."""
    heights = np.linspace(*HEEL, 41) * height
    return np.stack([oriented.span(heights)[:, 1 if way == 1 else 0], heights], 1)


def _bow(back: np.ndarray, way: int) -> tuple[float, float]:
    """How far an arc stands out over its chord, signed, and its radius: both from the parabola of least squares."""
    chord = back[-1] - back[0]
    length = float(np.hypot(*chord))
    along = (back - back[0]) @ chord / length
    out = ((back - back[0]) @ np.array([chord[1], -chord[0]]) / length) * way
    bow = float(-np.polyfit(along, out, 2)[0] * length**2 / 4)
    return bow, length**2 / (8 * max(abs(bow), 1e-9)) + abs(bow) / 2


def _dip(oriented: OrientedContour, heel: float, reach: float) -> tuple[float, list[Any]]:
    """Depth of the collar's opening under a straight edge across it, and the lines that show both."""
    places = np.linspace(heel, heel + reach, 160)[1:]
    top = np.stack([places, oriented.rise(places)[:, 1]], 1)
    hull = _upper_hull(top)
    deepest, shown = 0.0, []
    for one, other in pairwise(hull):
        between = top[one : other + 1]
        share = (between[:, 0] - between[0, 0]) / (between[-1, 0] - between[0, 0])
        under = between[0, 1] + share * (between[-1, 1] - between[0, 1]) - between[:, 1]
        low = int(under.argmax())
        if under[low] > deepest:
            deepest = float(under[low])
            shown = [[between[0], between[-1]], [between[low], between[low] + [0, deepest]]]
    return deepest, shown


def _upper_hull(points: np.ndarray) -> list[int]:
    """Which points a straight edge laid on from above touches, in their order."""
    around = cv2.convexHull(points.astype(np.float32), returnPoints=False).ravel()
    ends = {0, len(points) - 1}
    share = (points[:, 0] - points[0, 0]) / (points[-1, 0] - points[0, 0])
    chord = points[0, 1] + share * (points[-1, 1] - points[0, 1])
    return sorted(n for n in around.tolist() if n in ends or points[n, 1] > chord[n])


def _flanks(oriented: OrientedContour, collar_at: float, base_at: float, waist_at: float) -> float:
    """How far both flanks lie inside straight lines from collar to base, at the waist."""
    top, foot, middle = (np.array(oriented.span(at)) for at in (collar_at, base_at, waist_at))
    share = (waist_at - base_at) / (collar_at - base_at)
    straight = foot + share * (top - foot)
    return float(((middle - straight) * [1, -1]).mean())


def _uncertainty(oriented: OrientedContour) -> float:
    """Standard uncertainty of the distance of two places on the contour."""
    own = RIM_PX * np.sqrt(2) * oriented.unit
    if set(oriented.doubts) & set(OF_THE_CONTOUR):
        own = np.hypot(own, OFF_SHARE * np.ptp(oriented.points, axis=0).min())
    return float(own)


def _reading(
    name: str, picture: Picture, oriented: OrientedContour, parts: dict[str, Any], shown: tuple[str, list[Any]]
) -> Measurement:
    main, lines = shown
    u = _uncertainty(oriented)
    numbers = {}
    for part, value in parts.items():
        stem, _, unit = part.rpartition("_")
        if unit == "mm" and not picture.mm_per_px:
            numbers[f"{stem}_px"] = float(value)
            continue
        numbers[part] = float(value)
        if unit == "mm":
            numbers[f"{part}_uncertainty"] = float(parts.get(f"{part}_uncertainty", u))
    width = max(parts[main], 1e-9)
    for part in [part for part in parts if part.endswith("_ratio")]:
        numbers[f"{part}_uncertainty"] = float(u / width)

    def stroke(points: list[Any] | np.ndarray) -> Stroke:
        return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in oriented.back(np.asarray(points))))

    outline = np.vstack([oriented.points[::4], oriented.points[:1]])
    return Measurement(
        value=float(parts[main]),
        unit="mm" if picture.mm_per_px else "px",
        uncertainty=float(u),
        parts=MappingProxyType(numbers),
        overlay=(stroke(outline), *(stroke(line) for line in lines)),
        doubts=oriented.doubts,
    )


def _entry(
    name: str, reading: Callable[..., Any], sample: Callable[..., Any], parts: Mapping[str, str], sometimes: str = ""
) -> Measure:
    return Measure(
        name=name,
        version=12,
        marks=MarkKind.REGION,
        measure=reading,
        unit="mm",
        parts=parts,
        sometimes=frozenset(filter(None, [sometimes])),
        coarsest_mm_per_px=0.4,
        misread=(1, 608),
        most_px=BAND_SIDE,
        same_on_each_photo=True,
        of_tooling=True,
        refuses=frozenset({"nothing_stands_out", "cut_by_frame", "rim_unclear"}),
        sample=sample,
    )


MEASURES = (
    _entry(
        "profile_side",
        measure_side,
        shoe_from_the_side,
        {
            "length_mm": "mm",
            "height_mm": "mm",
            "toe_5_mm": "mm",
            "toe_10_mm": "mm",
            "toe_20_mm": "mm",
            "toe_ratio": "ratio",
            "toe_slope_deg": "deg",
            "heel_lean_deg": "deg",
            "heel_bow_mm": "mm",
            "heel_radius_mm": "mm",
            "collar_dip_mm": "mm",
        },
        sometimes="heel_radius_mm",
    ),
    _entry(
        "profile_rear",
        measure_rear,
        heel_from_behind,
        {"collar_mm": "mm", "waist_mm": "mm", "base_mm": "mm", "hourglass_ratio": "ratio", "flank_mm": "mm"},
    ),
    _entry(
        "profile_top",
        measure_top,
        shoe_from_above,
        {"length_mm": "mm", "ball_mm": "mm", "toe_10_mm": "mm", "squareness_ratio": "ratio"},
    ),
)

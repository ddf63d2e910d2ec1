"""Geometry of what is drawn on the bench: focus boxes, marks, the small spread curve. Numbers only; templates print."""

from collections.abc import Sequence

import numpy as np

from assay.judge.spread import Continuous, Counted
from casework.figures import plain

CURVE_WIDTH = 276
BASE_Y = 64
# The region shown first around a checkpoint's marks: this much wider than they are, and never closer than this.
FOCUS_PAD = 0.35
FOCUS_LEAST_PX = 160
LABEL_GAP = 2.0
# A longer row shows the first number, every fifth and the last, so that numbers do not run into each other.
NUMBER_ALL_UP_TO = 15


def focus(points: Sequence, size: tuple[int, int]) -> list[float]:
    """x, y, width, height of what to look at: around the marks, or the whole picture."""
    if not points:
        return [0, 0, *size]
    low, high = np.min(points, axis=0), np.max(points, axis=0)
    middle, span = (low + high) / 2, np.maximum((high - low) * (1 + 2 * FOCUS_PAD), FOCUS_LEAST_PX)
    # What fills the picture is shown with little around it.
    span = np.where(span > np.asarray(size) * 0.9, (high - low) * (1 + FOCUS_PAD / 4), span)
    return [round(float(n), 1) for n in (*(middle - span / 2), *span)]


def laid_onto(matrix: np.ndarray) -> list[float]:
    """The other way round of a 2 × 3 matrix, in the order that SVG wants: suspect pixels to reference pixels."""
    back = np.linalg.inv(np.vstack([matrix, [0, 0, 1]]))
    return [round(float(n), 6) for n in back[:2].T.ravel()]


def marks_drawn(overlay: list[dict]) -> list[dict]:
    """Ticks, rings and lines of a reading; ticks and rings with their centre and a place for their number."""
    drawn = []
    for number, stroke in enumerate(overlay, start=1):
        named = len(overlay) <= NUMBER_ALL_UP_TO or number in (1, len(overlay)) or number % 5 == 0
        points = np.asarray(stroke["points"], float)
        if stroke["kind"] == "line":
            drawn.append({"kind": "line", "points": " ".join(f"{x:.1f},{y:.1f}" for x, y in points)})
            continue
        centre = points.mean(axis=0)
        if stroke["kind"] == "ring":
            label = centre + 0.75 * stroke["radius_px"] * np.array([1, -1])
        else:
            top = points[np.argmin(points[:, 1])]
            label = centre + (top - centre) * LABEL_GAP
        drawn.append(
            {
                "kind": stroke["kind"],
                "label": stroke["label"] if named else "",
                "r": round(stroke["radius_px"], 1),
                "x1": round(points[0, 0], 1),
                "y1": round(points[0, 1], 1),
                "x2": round(points[-1, 0], 1),
                "y2": round(points[-1, 1], 1),
                "cx": round(centre[0], 1),
                "cy": round(centre[1], 1),
                "lx": round(label[0], 1),
                "ly": round(label[1], 1),
            }
        )
    return drawn


def spread_drawing(spread, value, retail: Sequence, names: dict[str, str] | None = None) -> dict | None:
    """The small picture of what retail does, with this pair on it."""
    if isinstance(spread, Continuous):
        return _curve(spread, value, [v for _, v in retail])
    if isinstance(spread, Counted):
        return _bars(spread, value, names or {})
    return None


def _curve(spread: Continuous, value, retail: list[float]) -> dict:
    low, high = spread.interval(0.9995)
    shown = [v for v in (value, *retail) if v is not None]
    low, high = min(low, *shown), max(high, *shown)
    margin = 0.06 * (high - low)
    low, high = low - margin, high + margin
    xs = np.linspace(low, high, 90)
    top = spread.density(spread.centre)
    ys = [BASE_Y - 50 * spread.density(float(x)) / top for x in xs]
    place = lambda v: round((v - low) / (high - low) * CURVE_WIDTH, 1)  # noqa: E731
    band = spread.interval(0.95)
    least = max(0.0, band[0]) if spread.magnitude else band[0]
    line = " ".join(f"{place(x)},{y:.1f}" for x, y in zip(xs, ys, strict=True))
    return {
        "kind": "curve",
        "line": line,
        "area": f"0,{BASE_Y} {line} {CURVE_WIDTH},{BASE_Y}",
        "band": {"x": place(band[0]), "width": round(place(band[1]) - place(band[0]), 1)},
        "retail": [place(v) for v in retail],
        "value": None if value is None else place(value),
        "labels": [{"x": place(band[0]), "text": plain(least)}, {"x": place(band[1]), "text": plain(band[1])}],
    }


def _bars(spread: Counted, value, names: dict[str, str]) -> dict:
    if isinstance(spread.expected, int):
        reach = max(2, abs(int(value) - spread.expected)) if value is not None else 2
        outcomes = list(range(spread.expected - min(reach, 6), spread.expected + min(reach, 6) + 1))
        if value is not None and value not in outcomes:
            outcomes = sorted({*outcomes, int(value)})
    else:
        outcomes = list(names)
    step = CURVE_WIDTH / len(outcomes)
    width = min(30, 0.6 * step)
    bars = []
    for n, outcome in enumerate(outcomes):
        tall = max(1.5, 52 * spread.probability(outcome))
        middle = (n + 0.5) * step
        bars.append(
            {
                "x": round(middle - width / 2, 1),
                "y": round(BASE_Y - tall, 1),
                "w": round(width, 1),
                "h": round(tall, 1),
                "middle": round(middle, 1),
                "text": str(n + 1) if names else str(outcome),
                "here": outcome == value,
            }
        )
    return {"kind": "bars", "bars": bars, "value": next((bar["middle"] for bar in bars if bar["here"]), None)}


def signs(expected: str, found: str) -> list[dict]:
    """Two codes sign by sign."""
    length = max(len(expected), len(found))
    pairs = zip(expected.ljust(length), found.ljust(length), strict=True)
    return [{"expected": a, "found": b, "same": a == b} for a, b in pairs]


def near(alignment, box) -> np.ndarray:
    """The alignment as a plain affine map (2 × 3) that is right around a box of the reference, bend included."""
    x, y, width, height = box
    spots = np.array([x, y]) + np.array([[0, 0], [1, 0], [0, 1], [1, 1], [0.5, 0.5]]) * [width, height]
    rows = np.c_[spots, np.ones(len(spots))]
    return np.linalg.lstsq(rows, alignment.place(spots), rcond=None)[0].T


BOX_ROOM = 16
BOX_SCALE = 0.62
BOX_GAP = 60


def boxes(retail: Sequence[float], found: Sequence[float] | None) -> dict:
    """Two boxes to scale, one over the other: long side and short side. Lengths in mm: length, width, height."""
    tallest = max(retail[2], found[2] if found else 0)
    longest, widest = (max(retail[n], found[n] if found else 0) for n in (0, 1))
    second = BOX_ROOM + BOX_SCALE * longest + BOX_GAP
    floor = BOX_ROOM + BOX_SCALE * tallest

    def standing(size: Sequence[float]) -> list[dict]:
        return [
            {
                "x": round(left, 1),
                "y": round(floor - BOX_SCALE * size[2], 1),
                "w": round(BOX_SCALE * side, 1),
                "h": round(BOX_SCALE * size[2], 1),
            }
            for left, side in ((BOX_ROOM, size[0]), (second, size[1]))
        ]

    return {
        "width": round(second + BOX_SCALE * widest + BOX_ROOM),
        "height": round(floor + 54),
        "lines": [round(floor + 16 * n) for n in (1, 2, 3)],
        "retail": standing(retail),
        "found": standing(found) if found else [],
        "names": [
            {"x": x, "words": _side_words(name, retail, found, side)}
            for x, name, side in ((BOX_ROOM, "long side", 0), (round(second), "short side", 1))
        ],
    }


def _side_words(name: str, retail: Sequence[float], found: Sequence[float] | None, side: int) -> list[str]:
    """Three lines: which side, what retail boxes have, what this one has."""
    here = f"this   {found[side]:.1f} × {found[2]:.1f}" if found else ""
    return [f"{name}, mm", f"retail {retail[side]:.1f} × {retail[2]:.1f}", here]

"""Count the stitches of one row along a traced path, and measure their pitch.

What: number of stitches whose centre lies on the path; pitch in mm (px without a scale) and its scatter.
Also: stitches that are missing from the rhythm or doubled, with their place; where a second thread seems to lie across
one (a doubt: two in three are not told); a second row beside this one and how far
away; a stitch's length, and the lean of bars; how many stitches go on past the ends of the path.
Method: the strip along the path is straightened, freed of uneven light, and searched for periods that repeat
(autocorrelation over the whole strip, so that thread of the panel's own colour, seen only by its needle pits, counts
too). For each the row is followed across the strip; the mean stitch is learnt from the picture itself and laid along
the row; places are chosen by dynamic programming over how well they match and how evenly they follow each other; at
its ends the row is held against what lies at its sides. The row is kept whose places are most alike.
Valid: one row, at least 4 stitches, at least 2.5 px a stitch, the path within about half a pitch of the row.
Refuses: ``path_too_short``, ``marks_off_picture``, ``too_few_pixels``, ``no_row_found``.
"""

from collections.abc import Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter1d

from assay.contracts import CORRECTED_BY_HAND, MarkKind, Marks, Measurement, Picture, Point, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import stitches
from assay.stitches.ends import PAST_END
from assay.stitches.find import FEWEST_PX_PER_STITCH, Stitched, find_stitches
from assay.stitches.periodic_row import PLACE_FROM
from assay.stitches.refine import snapped_row
from assay.stitches.row import Row
from assay.stitches.second_row import second_row
from assay.stitches.shape import form_of, tightest_bend
from assay.stitches.strip import Strip, smooth_path

# Standard uncertainty of the count of a row that plain leather may pass for: the ticks deserve a look.
UNSURE = 0.5
# Two stitches nearer than this share of the pitch are one too many.
DOUBLED_BELOW = 0.55
# Path without a stitch at an end that deserves a look, in pitches.
UNEXPLAINED = 1.3
# Standard uncertainties by drawn rows: of a running stitch's length, of a bar's (pits lengthen dark thread), of the gap
# between rows, px; of a bar's lean; of how many rows there are.
PITCH_OFF_PX = 0.7
LENGTH_OFF_PX = 1.9
BAR_OFF_PX = 3.5
GAP_OFF_PX = 0.6
SLANT_OFF_DEG = 1.5
ROWS_OFF = 0.2
# From this uncertainty of the count on, the row may not be followed stitch by stitch: its pitch is no surer than that.
PITCH_ASTRAY_FROM = 0.3
# The pitch of one half of a row against the other's from which they may be two rows.
OTHER_PITCH = 0.12
# What the sum of the chances is multiplied by, so that of counts that pass for sure (under 0.3) 99 in 100 are right: of
# 844 rows drawn by others (seeds looked at) 568 are under it, and 4 of them wrong.
CALIBRATED = 1.2
# Softness of the border between a stitch and none, for the uncertainty.
BORDER_SOFTNESS = 0.07


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Count stitches along a path.

    ``marks``: a path in picture pixels. Returns a count; ``parts`` pitch_px, pitch_mm (with a scale), pitch_cv,
    missing and doubled (stitches out of the rhythm), rows (1 or 2) and row_gap_mm, stitch_mm, slant_deg of bars,
    bend_radius_mm and bend_deg of the tightest bend (an angled corner's radius is less than a pitch or two), before and
    behind (stitches that go on past the path's start and end).
    """
    points = marks.checked(picture.size)
    found = find_stitches(picture, points)
    strip, row = found.strip, found.row
    centres = found.at(found.along(row.places))
    ends = (strip.start, strip.stop)
    doubts, crossed = _doubts(found, ends), found.crossed
    doubts += ("crossed_stitch",) * bool(crossed)
    unsure = {"weak_row", "row_goes_on", "last_unclear"} & set(doubts)
    uncertainty = max(_uncertainty(row, ends), UNSURE if unsure else 0.0)
    reading = _reading(picture, points, centres, _half_ticks(row), uncertainty, doubts)
    more, beside = _more(picture, strip, row, centres)
    across = [stroke for n in crossed for stroke in _cross(centres[n], _half_ticks(row))]
    return replace(
        reading, parts=MappingProxyType({**reading.parts, **more}), overlay=(*reading.overlay, *across, *beside)
    )


def rebuild(picture: Picture, marks: Marks, centres: Sequence[Point]) -> Measurement:
    """The reading that follows from stitch centres put right by a person, sorted along the path."""
    points = marks.checked(picture.size)
    if not len(centres):
        raise CannotMeasure("no_points_left")
    placed = np.asarray(centres, dtype=float).reshape(-1, 2)
    path = smooth_path(points)
    order = np.argsort([np.argmin(np.hypot(*(path - centre).T)) for centre in placed])
    return _reading(picture, points, placed[order], 7.0, 0.0, (CORRECTED_BY_HAND,))


def _more(picture: Picture, strip: Strip, row: Row, centres: np.ndarray) -> tuple[dict[str, float], list[Stroke]]:
    """What else is seen of a row; and the second row, drawn."""
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    parts = {name: float(count) for name, count in zip(("before", "behind"), row.goes_on, strict=True)}
    form, beside = form_of(row), second_row(strip, row, picture.mm_per_px)
    if form.length is not None:
        u = LENGTH_OFF_PX if form.slant is None else BAR_OFF_PX
        parts |= {f"stitch_{name}": form.length * unit, f"stitch_{name}_uncertainty": u * unit}
    if form.slant is not None:
        parts |= {"slant_deg": form.slant, "slant_deg_uncertainty": SLANT_OFF_DEG}
    bend = tightest_bend(centres, unit) if picture.mm_per_px else None
    if bend:
        parts |= dict(zip(("bend_radius_mm", "bend_radius_mm_uncertainty", "bend_deg"), bend, strict=True))
    parts |= {"rows": 2.0 if beside else 1.0, "rows_uncertainty": ROWS_OFF}
    if beside is None:
        return parts, []
    parts |= {f"row_gap_{name}": beside.apart * unit, f"row_gap_{name}_uncertainty": GAP_OFF_PX * unit}
    line = (strip.path + strip.normal * beside.line[:, None])[strip.start : strip.stop : 6]
    return parts, [Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in line), label="row")]


def _half_ticks(row: Row) -> float:
    return float(np.clip(0.45 * row.period, 4, row.band.shape[1] / 2))


def _uncertainty(row: Row, ends: tuple[int, int]) -> float:
    """Standard uncertainty of the count: every chosen place, and one place past each end, may be right or wrong."""
    match, places, period = row.match, list(row.places), row.period
    typical = np.median(match[places])
    reach = max(1, int(0.2 * period))
    outer = [
        t
        for t in (int(places[0] - period), int(places[-1] + period))
        if ends[0] - PAST_END * period <= t <= ends[1] + PAST_END * period
    ]
    levels = [match[max(0, t - reach) : t + reach + 1].max(initial=-1.0) / typical for t in [*places, *outer]]
    chance = 1 / (1 + np.exp(-(np.asarray(levels) - PLACE_FROM) / BORDER_SOFTNESS))
    # Of the path that holds no stitch, a pitch at either end is room; the rest may hold what was not seen.
    bare = max(0.0, places[0] - ends[0] - period) + max(0.0, ends[1] - places[-1] - period)
    variance = (chance * (1 - chance)).sum() + row.unclear + (0.5 * bare / period) ** 2
    return CALIBRATED * float(np.sqrt(variance))


def _doubts(stitched: Stitched, ends: tuple[int, int]) -> tuple[str, ...]:
    row = stitched.row
    gaps = np.diff(row.places) / row.period
    found = []
    if (gaps > 1.6).any():
        found.append("gap_in_row")
    if max(row.places[0] - ends[0], ends[1] - row.places[-1]) > UNEXPLAINED * row.period:
        found.append("row_ends_early")
    if any(row.goes_on):
        found.append("row_goes_on")
    if len(gaps) > 8:
        halves = [float(np.median(half[half < 1.6])) for half in np.array_split(gaps, 2)]
        if abs(halves[0] - halves[1]) > OTHER_PITCH:
            found.append("pitch_changes")
    if stitched.ends_in_doubt:
        found.append("last_unclear")
    if row.period < 2 * FEWEST_PX_PER_STITCH:
        found.append("few_pixels")
    if stitched.weak:
        found.append("weak_row")
    return tuple(found)


def _reading(
    picture: Picture,
    path: np.ndarray,
    centres: np.ndarray,
    half_tick: float,
    uncertainty: float,
    doubts: tuple[Any, ...],
) -> Measurement:
    parts, faults = {}, []
    if len(centres) > 1:
        gaps = np.hypot(*np.diff(centres, axis=0).T)
        # A gap of two pitches is a missing stitch, not a longer pitch.
        turns = np.maximum(1, np.round(gaps / np.median(gaps)))
        at, along = np.concatenate([[0], np.cumsum(turns)]), np.concatenate([[0], np.cumsum(gaps)])
        pitch = float(np.polyfit(at, along, 1)[0])
        faults = _faults(centres, gaps / pitch, half_tick)
        doubled = float((gaps < DOUBLED_BELOW * pitch).sum())
        evenness = float(np.std(gaps / turns) / pitch)
        off = evenness / np.sqrt(2 * len(gaps)) + PITCH_OFF_PX / pitch
        parts = {"pitch_px": pitch, "pitch_px_uncertainty": PITCH_OFF_PX}
        parts |= {"pitch_cv": evenness, "pitch_cv_uncertainty": float(off)}
        parts |= {"missing": float((turns - 1).sum()), "doubled": doubled}
        parts |= {f"{name}_uncertainty": uncertainty for name in ("missing", "doubled")}
        if picture.mm_per_px:
            parts["pitch_mm"] = pitch * picture.mm_per_px
            # Where a stitch more or less may be there, all of them may lie so much closer or further apart.
            astray = pitch * uncertainty / len(centres) if uncertainty >= PITCH_ASTRAY_FROM else 0.0
            off = float(np.hypot(PITCH_OFF_PX / max(1, len(centres) - 1), astray))
            parts["pitch_mm_uncertainty"] = off * picture.mm_per_px
    overlay = (*_ticks(path, centres, half_tick), *faults)
    return Measurement(len(centres), "count", uncertainty, MappingProxyType(parts), overlay, (*picture.doubts, *doubts))


def _faults(centres: np.ndarray, turns: np.ndarray, half_tick: float) -> list[Stroke]:
    """A line across every gap that lacks a stitch, and one between two that stand too close."""
    odd = np.flatnonzero((turns >= 1.5) | (turns < DOUBLED_BELOW))
    return [
        Stroke(
            StrokeKind.LINE,
            tuple((float(x), float(y)) for x, y in centres[n : n + 2]),
            label="gap" if turns[n] >= 1.5 else "double",
            radius_px=half_tick,
        )
        for n in odd
    ]


def _point(at: np.ndarray) -> Point:
    return float(at[0]), float(at[1])


def _cross(centre: np.ndarray, reach: float) -> list[Stroke]:
    """Two lines across a stitch."""
    ways = ((-1, -1), (-1, 1))
    ends = [[_point(centre + sign * reach * np.array(way)) for sign in (-1, 1)] for way in ways]
    return [Stroke(StrokeKind.LINE, tuple(both), label="cross", radius_px=reach) for both in ends]


def _ticks(path: np.ndarray, centres: np.ndarray, half_tick: float) -> list[Stroke]:
    line = smooth_path(path)
    tangent = np.gradient(gaussian_filter1d(line, 3, axis=0, mode="nearest"), axis=0)
    strokes = []
    for number, centre in enumerate(centres, start=1):
        along = tangent[int(np.argmin(np.hypot(*(line - centre).T)))]
        across = np.array([-along[1], along[0]]) / (np.hypot(*along) + 1e-12) * half_tick
        ends = (_point(centre - across), _point(centre + across))
        strokes.append(Stroke(StrokeKind.TICK, ends, label=str(number)))
    return strokes


MEASURE = Measure(
    name="seam",
    version=17,
    marks=MarkKind.PATH,
    measure=measure,
    rebuild=rebuild,
    snap=snapped_row,
    unit="count",
    parts={
        "pitch_mm": "mm",
        "pitch_cv": "ratio",
        "missing": "count",
        "doubled": "count",
        "stitch_mm": "mm",
        "slant_deg": "deg",
        "rows": "count",
        "row_gap_mm": "mm",
        "bend_radius_mm": "mm",
        "bend_deg": "deg",
    },
    unjudged={"pitch_px": "px", "before": "count", "behind": "count"},
    same_on_each_photo=True,
    sometimes=frozenset({"stitch_mm", "slant_deg", "row_gap_mm", "bend_radius_mm", "bend_deg"}),
    drill="count",
    coarsest_mm_per_px=0.22,
    misread=(4, 568),
    refuses=frozenset({"no_row_found", "too_few_pixels", "path_too_short", "no_points_left"}),
    sample=stitches,
)

"""Count the stitches of one row along a traced path, and measure their pitch.

What: number of stitches whose centre lies on the path; pitch in mm (px without a scale) and its scatter.
Method: the strip along the path is straightened, freed of uneven light, and searched for the period that repeats best
(autocorrelation over the whole strip, so that thread of the panel's own colour, seen only by its needle pits, counts
too). The row is followed across the strip; the mean stitch is learnt from the picture itself and laid along the row;
places are chosen by dynamic programming over how well they match and how evenly they follow each other.
Valid: one row, at least 4 stitches, at least 2.5 px a stitch, the path within about half a pitch of the row.
Refuses: ``path_too_short``, ``marks_off_picture``, ``too_few_pixels``, ``no_row_found``.
"""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np
from scipy.fft import rfft
from scipy.ndimage import gaussian_filter1d

from assay.contracts import CORRECTED_BY_HAND, Marks, Picture, Point, Reading, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.photo.rhythm import PLACE_FROM, band_along, choose_places, follow, match_repeats, period_of, telling_channels
from assay.photo.strip import Strip, smooth_path, straighten

METHOD = "seam/1"
# Below this a stitch is less than a light and a dark pixel and a margin: aliasing cannot be told from stitches.
FEWEST_PX_PER_STITCH = 2.5
FEWEST_STITCHES = 4
# A line in the spectrum this far over the median is a repetition, not noise.
CLEAR_LINE = 40
# Longest pitch looked for, as a share of the path, and in mm where the scale is known.
LONGEST_PITCH_SHARE = 1 / 3.2
LONGEST_PITCH_MM = 6.5
# Share of the strip's variance that must repeat. In our tables rows lie above 0.3, grass, gravel, plain leather and
# household photographs nearly always below 0.2; below WEAK_PERIODICITY the ticks deserve a look.
LEAST_PERIODICITY = 0.28
# The same over the whole strip, before the row is followed: only what has no chance is turned away.
LEAST_PERIODICITY_OF_STRIP = 0.1
WEAK_PERIODICITY = 0.42
# How far past the drawn path a stitch's centre may lie, as a share of the pitch.
PAST_END = 0.05
# Softness of that border, for the uncertainty.
BORDER_SOFTNESS = 0.07


def measure(picture: Picture, marks: Marks) -> Reading:
    """Count stitches along a path.

    ``marks``: a path in picture pixels. Returns a count; ``parts`` pitch_px, pitch_mm (with a scale), pitch_cv.
    """
    points = marks.checked(picture.size)
    strip = straighten(picture, points)
    if strip.stop - strip.start < FEWEST_STITCHES * FEWEST_PX_PER_STITCH:
        raise CannotMeasure("path_too_short", length_px=strip.stop - strip.start)
    _refuse_aliased(strip.grey[:, strip.start : strip.stop])
    period, periodicity = period_of(strip.values, _longest(strip, picture))
    if periodicity < LEAST_PERIODICITY_OF_STRIP:
        raise CannotMeasure("no_row_found", periodicity=round(periodicity, 3))
    if period < FEWEST_PX_PER_STITCH:
        raise CannotMeasure("too_few_pixels", px_per_stitch=round(period, 2), needed=FEWEST_PX_PER_STITCH)
    strip = telling_channels(strip, period)
    row = follow(strip, period)
    band = band_along(strip, row, period)
    period, periodicity = period_of(band, min(_longest(strip, picture), 1.6 * period))
    if periodicity < LEAST_PERIODICITY:
        raise CannotMeasure("no_row_found", periodicity=round(periodicity, 3))
    match = match_repeats(band, period)
    places = choose_places(match, period)
    inside = [t for t in places if strip.start - PAST_END * period <= t <= strip.stop + PAST_END * period]
    if len(inside) < FEWEST_STITCHES:
        raise CannotMeasure("no_row_found", periodicity=round(periodicity, 3))
    centres = _to_picture(strip, row, np.asarray(inside))
    doubts = _doubts(match, inside, period, periodicity)
    uncertainty = _uncertainty(match, inside, period, (strip.start, strip.stop))
    return _reading(picture, points, centres, _half_ticks(band, period), uncertainty, doubts)


def rebuild(picture: Picture, marks: Marks, centres: Sequence[Point]) -> Reading:
    """The reading that follows from stitch centres put right by a person, sorted along the path."""
    points = marks.checked(picture.size)
    if not len(centres):
        raise CannotMeasure("no_points_left")
    centres = np.asarray(centres, dtype=float).reshape(-1, 2)
    path = smooth_path(points)
    order = np.argsort([np.argmin(np.hypot(*(path - centre).T)) for centre in centres])
    return _reading(picture, points, centres[order], 7.0, 0.0, (CORRECTED_BY_HAND,))


def _refuse_aliased(grey: np.ndarray) -> None:
    """Refuse a strip whose clearest repetition is finer than can be told from the pixel grid."""
    power = (np.abs(rfft(grey - grey.mean(1, keepdims=True), axis=1)) ** 2).mean(0)[2:]
    clearest = int(power.argmax()) + 2
    px_per_stitch = grey.shape[1] / clearest
    if px_per_stitch < FEWEST_PX_PER_STITCH and power.max() > CLEAR_LINE * np.median(power):
        raise CannotMeasure("too_few_pixels", px_per_stitch=round(px_per_stitch, 2), needed=FEWEST_PX_PER_STITCH)


def _longest(strip: Strip, picture: Picture) -> float:
    longest = (strip.stop - strip.start) * LONGEST_PITCH_SHARE
    return longest if picture.mm_per_px is None else min(longest, LONGEST_PITCH_MM / picture.mm_per_px)


def _to_picture(strip: Strip, row: np.ndarray, places: np.ndarray) -> np.ndarray:
    return strip.path[places] + strip.normal[places] * row[places][:, None]


def _half_ticks(band: np.ndarray, period: float) -> float:
    return float(np.clip(0.45 * period, 4, band.shape[1] / 2))


def _uncertainty(match: np.ndarray, places: list[int], period: float, ends: tuple[int, int]) -> float:
    """Standard uncertainty of the count: every chosen place, and one place past each end, may be right or wrong."""
    typical = np.median(match[places])
    reach = max(1, int(0.2 * period))
    outer = [
        t
        for t in (int(places[0] - period), int(places[-1] + period))
        if ends[0] - PAST_END * period <= t <= ends[1] + PAST_END * period
    ]
    levels = [match[max(0, t - reach) : t + reach + 1].max(initial=-1.0) / typical for t in [*places, *outer]]
    chance = 1 / (1 + np.exp(-(np.asarray(levels) - PLACE_FROM) / BORDER_SOFTNESS))
    return float(np.sqrt((chance * (1 - chance)).sum()))


def _doubts(match: np.ndarray, places: list[int], period: float, periodicity: float) -> tuple[str, ...]:
    gaps = np.diff(places) / period
    found = []
    if (gaps > 1.6).any():
        found.append("gap_in_row")
    if period < 2 * FEWEST_PX_PER_STITCH:
        found.append("few_pixels")
    if periodicity < WEAK_PERIODICITY:
        found.append("weak_row")
    return tuple(found)


def _reading(
    picture: Picture, path: np.ndarray, centres: np.ndarray, half_tick: float, uncertainty: float, doubts: tuple
) -> Reading:
    parts = {}
    if len(centres) > 1:
        gaps = np.hypot(*np.diff(centres, axis=0).T)
        # A gap of two pitches is a missing stitch, not a longer pitch.
        turns = np.maximum(1, np.round(gaps / np.median(gaps)))
        pitch = float(gaps.sum() / turns.sum())
        parts = {"pitch_px": pitch, "pitch_cv": float(np.std(gaps / turns) / pitch)}
        if picture.mm_per_px:
            parts["pitch_mm"] = pitch * picture.mm_per_px
            parts["pitch_mm_uncertainty"] = 0.7 * picture.mm_per_px / max(1, len(centres) - 1)
    overlay = tuple(_ticks(path, centres, half_tick))
    return Reading(
        len(centres), "count", uncertainty, METHOD, MappingProxyType(parts), overlay, (*picture.doubts, *doubts)
    )


def _ticks(path: np.ndarray, centres: np.ndarray, half_tick: float) -> list[Stroke]:
    line = smooth_path(path)
    tangent = np.gradient(gaussian_filter1d(line, 3, axis=0, mode="nearest"), axis=0)
    strokes = []
    for number, centre in enumerate(centres, start=1):
        along = tangent[int(np.argmin(np.hypot(*(line - centre).T)))]
        across = np.array([-along[1], along[0]]) / (np.hypot(*along) + 1e-12) * half_tick
        ends = (tuple(map(float, centre - across)), tuple(map(float, centre + across)))
        strokes.append(Stroke(StrokeKind.TICK, ends, label=str(number)))
    return strokes

"""Count the stitches of one row along a traced path, and measure their pitch.

What: number of stitches whose centre lies on the path; pitch in mm (px without a scale) and its scatter.
Method: the strip along the path is straightened, freed of uneven light, and searched for the period that repeats best
(autocorrelation over the whole strip, so that thread of the panel's own colour, seen only by its needle pits, counts
too). The row is followed across the strip; the mean stitch is learnt from the picture itself and laid along the row;
places are chosen by dynamic programming over how well they match and how evenly they follow each other.
Source: Ellis, "Beat tracking by dynamic programming", J. New Music Research 36(1), 2007, for the last step.
Valid: one row, at least 4 stitches, at least 2.5 px a stitch, the path within about half a pitch of the row.
Refuses: ``path_too_short``, ``marks_off_picture``, ``too_few_pixels``, ``no_row_found``.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType

import cv2
import numpy as np
from scipy.fft import irfft, next_fast_len, rfft
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from assay.contracts import CORRECTED_BY_HAND, Marks, Picture, Point, Reading, Stroke, StrokeKind
from assay.errors import CannotMeasure

METHOD = "seam/1"

# Half the width of the strip that is looked at: wide enough for bar stitches (about 5 mm) and a wobbly path.
HALF_STRIP_MM = 3.6
HALF_STRIP_PX = 28
# Below this a stitch is less than a light and a dark pixel and a margin: aliasing cannot be told from stitches.
FEWEST_PX_PER_STITCH = 2.5
FEWEST_STITCHES = 4
# Longest pitch looked for, as a share of the path, and in mm where the scale is known.
LONGEST_PITCH_SHARE = 1 / 3.2
LONGEST_PITCH_MM = 6.5
# Share of the strip's variance that repeats with the period; pure grain stays below this in our tables.
LEAST_PERIODICITY = 0.05
# A place is a stitch from this share of a typical stitch's match on.
STITCH_FROM = 0.45
# Contrast of a stretch, as a share of the mean stitch's, below which likeness in form alone no longer counts.
CONTRAST_FLOOR = 0.12
# Cost of following a row one pitch away from the drawn path, against a gain of 1 for the clearest row there.
OFF_PATH_COST = 0.8
# How far past the drawn path a stitch's centre may lie, as a share of the pitch.
PAST_END = 0.05
# Softness of that border, for the uncertainty.
BORDER_SOFTNESS = 0.07


@dataclass(frozen=True, slots=True)
class _Strip:
    """The straightened surroundings of a path."""

    path: np.ndarray
    """(T, 2) pixels of the picture, one pixel apart, run on past both ends."""
    normal: np.ndarray
    """(T, 2) unit vectors across."""
    values: np.ndarray
    """(C, Y, T) light-corrected channels."""
    start: int
    stop: int
    """The drawn path's part of T."""


def measure(picture: Picture, marks: Marks) -> Reading:
    """Count stitches along a path.

    ``marks``: a path in picture pixels. Returns a count; ``parts`` pitch_px, pitch_mm (with a scale), pitch_cv.
    """
    points = marks.checked(picture.size)
    strip = _straighten(picture, points)
    period, periodicity = _period(strip.values, _longest(strip, picture))
    if periodicity < LEAST_PERIODICITY:
        raise CannotMeasure("no_row_found", periodicity=round(periodicity, 3))
    if period < FEWEST_PX_PER_STITCH:
        raise CannotMeasure("too_few_pixels", px_per_stitch=round(period, 2), needed=FEWEST_PX_PER_STITCH)
    row = _follow(strip, period)
    band = _band(strip, row, period)
    period, periodicity = _period(band, min(_longest(strip, picture), 1.6 * period))
    match = _match(band, period)
    places = _choose(match, period)
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
    path = _smooth_path(points)
    order = np.argsort([np.argmin(np.hypot(*(path - centre).T)) for centre in centres])
    return _reading(picture, points, centres[order], 7.0, 0.0, (CORRECTED_BY_HAND,))


def _smooth_path(points: np.ndarray) -> np.ndarray:
    """One point a pixel along a smooth line through the drawn points."""
    steps = np.hypot(*np.diff(points, axis=0).T)
    points = points[np.concatenate([[True], steps > 1e-6])]
    chord = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    fine = np.linspace(0, chord[-1], max(2, int(2 * chord[-1])))
    if len(points) > 2:
        dense = CubicSpline(chord, points)(fine)
    else:
        dense = np.stack([np.interp(fine, chord, points[:, k]) for k in (0, 1)], 1)
    length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(dense, axis=0).T))])
    even = np.arange(0, length[-1], 1.0)
    return np.stack([np.interp(even, length, dense[:, k]) for k in (0, 1)], 1)


def _straighten(picture: Picture, points: np.ndarray) -> _Strip:
    path = _smooth_path(points)
    if len(path) < FEWEST_STITCHES * FEWEST_PX_PER_STITCH:
        raise CannotMeasure("path_too_short", length_px=len(path))
    half = HALF_STRIP_PX if picture.mm_per_px is None else int(np.clip(HALF_STRIP_MM / picture.mm_per_px, 10, 80))
    margin = half
    tangent = np.gradient(gaussian_filter1d(path, 3, axis=0, mode="nearest"), axis=0)
    tangent /= np.hypot(*tangent.T)[:, None] + 1e-12
    before = path[0] - tangent[0] * np.arange(margin, 0, -1)[:, None]
    after = path[-1] + tangent[-1] * np.arange(1, margin + 1)[:, None]
    path = np.vstack([before, path, after])
    tangent = np.vstack([np.repeat(tangent[:1], margin, 0), tangent, np.repeat(tangent[-1:], margin, 0)])
    normal = np.stack([-tangent[:, 1], tangent[:, 0]], 1)
    across = np.arange(-half, half + 1, dtype=float)
    grid = path[None] + normal[None] * across[:, None, None]
    strip = cv2.remap(
        picture.rgb,
        grid[..., 0].astype(np.float32),
        grid[..., 1].astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    ).astype(np.float32)
    return _Strip(path, normal, _evened(strip), margin, len(path) - margin)


def _evened(strip: np.ndarray) -> np.ndarray:
    """Log of light, and two colour differences, each freed of its slow run along the path."""
    logs = np.log(strip + 12.0)
    channels = np.stack([logs.mean(-1), 0.7 * (logs[..., 0] - logs[..., 2]), 0.7 * (logs[..., 1] - logs.mean(-1))])
    channels = _denoised(channels)
    sigma = max(12.0, strip.shape[1] / 14)
    return channels - _along(channels, sigma)


def _denoised(channels: np.ndarray) -> np.ndarray:
    """A light blur against sensor noise."""
    return np.stack([cv2.GaussianBlur(channel, (0, 0), 0.8) for channel in channels])


def _along(values: np.ndarray, sigma: float) -> np.ndarray:
    """Smooth along the path, the last axis."""
    width = values.shape[-1]
    flat = np.ascontiguousarray(values, dtype=np.float32).reshape(-1, width)
    size = 2 * int(3.5 * sigma + 1) + 1
    return cv2.GaussianBlur(flat, (size, 1), sigma, borderType=cv2.BORDER_REPLICATE).reshape(values.shape)


def _longest(strip: _Strip, picture: Picture) -> float:
    longest = (strip.stop - strip.start) * LONGEST_PITCH_SHARE
    return longest if picture.mm_per_px is None else min(longest, LONGEST_PITCH_MM / picture.mm_per_px)


def _period(values: np.ndarray, longest: float) -> tuple[float, float]:
    """Shortest period that repeats nearly as well as the best one, and the share of variance that repeats."""
    correlation = _autocorrelation(values)
    top = int(min(longest * 1.15 + 2, len(correlation) - 2))
    lags = np.arange(1, top)
    peaks = [k for k in lags[1:-1] if correlation[k] >= correlation[k - 1] and correlation[k] > correlation[k + 1]]
    # A real period shows twice: the correlation at double the lag counts as well.
    strength = {
        k: correlation[k] + 0.5 * max(correlation[2 * k - 1 : 2 * k + 2], default=0)
        for k in peaks
        if 2 * k + 2 < len(correlation)
    }
    strength = {k: s for k, s in strength.items() if k >= 2}
    best = max(strength.values(), default=0.0)
    if best <= 0:
        return 0.0, 0.0
    lag = min(k for k, s in strength.items() if s >= 0.72 * best)
    left, mid, right = correlation[lag - 1 : lag + 2]
    return float(lag + 0.5 * (left - right) / (left - 2 * mid + right - 1e-12)), float(correlation[lag])


def _autocorrelation(values: np.ndarray) -> np.ndarray:
    """Mean over rows and channels, weighted by how much repeats in the row; 1 at lag 0."""
    length = values.shape[2]
    padded = next_fast_len(2 * length, real=True)
    spectrum = np.abs(rfft(values, padded, axis=2)) ** 2
    rows = irfft(spectrum, padded, axis=2)[..., : length // 2]
    rows /= 1 - np.arange(length // 2) / length
    # A row's weight is the height of its best return after the first dip, so that quiet rows do not drown the seam.
    ups = np.maximum.accumulate(rows[..., ::-1], axis=2)[..., ::-1]
    first_dip = np.argmax(rows < 0.05 * rows[..., :1], axis=2)
    weight = np.clip(np.take_along_axis(ups, first_dip[..., None], 2)[..., 0], 0, None) ** 2
    total = (rows * weight[..., None]).sum((0, 1))
    return total / (total[0] + 1e-12)


def _follow(strip: _Strip, period: float) -> np.ndarray:
    """Where the row runs across the strip, (T,) offsets in rows, by dynamic programming over local periodic energy."""
    values = strip.values[:, :, strip.start : strip.stop]
    t = np.arange(values.shape[2])
    carrier = np.exp(-2j * np.pi * t / period)
    energy = sum(_along(values * part, 1.5 * period) ** 2 for part in (carrier.real, carrier.imag)).sum(0)
    energy = gaussian_filter1d(energy, max(1.0, period / 7), axis=0)
    rows = np.arange(energy.shape[0]) - energy.shape[0] // 2
    # Square root: a stretch in good light must not outshout the rest; the drawn path itself is a witness too.
    energy = np.sqrt(energy / (energy.max(0, keepdims=True) + 0.1 * energy.max() + 1e-12))
    energy -= OFF_PATH_COST * (rows[:, None] / period) ** 2
    stride = max(1, int(period / 3))
    score, back = energy[:, 0].copy(), []
    for column in range(stride, energy.shape[1], stride):
        options = np.stack([np.roll(score, step) - 0.02 * abs(step) for step in (-1, 0, 1)])
        options[0, -1] = options[2, 0] = -np.inf
        choice = options.argmax(0)
        back.append(choice - 1)
        score = options.max(0) + energy[:, column]
    row = int(score.argmax())
    found = [row]
    for step in reversed(back):
        row -= step[row]
        found.append(row)
    knots = np.arange(0, energy.shape[1], stride)
    line = np.interp(t, knots, np.asarray(found[::-1], float))
    line = gaussian_filter1d(line, 1.5 * period, mode="nearest") - energy.shape[0] // 2
    return np.pad(line, (strip.start, strip.values.shape[2] - strip.stop), mode="edge")


def _band(strip: _Strip, row: np.ndarray, period: float) -> np.ndarray:
    """The strip re-straightened on the row."""
    half = strip.values.shape[1] // 2
    reach = int(np.clip(round(1.1 * period), 4, half))
    across = np.arange(-reach, reach + 1, dtype=np.float32)[:, None] + row[None].astype(np.float32) + half
    along = np.broadcast_to(np.arange(len(row), dtype=np.float32), across.shape)
    return np.stack(
        [
            cv2.remap(
                channel.astype(np.float32),
                np.ascontiguousarray(along),
                across.astype(np.float32),
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )
            for channel in strip.values
        ]
    )


def _match(band: np.ndarray, period: float) -> np.ndarray:
    """How much each place along the row looks like the mean stitch: about 1 on a stitch, about 0 off the row."""
    phase = _phase(band, period)
    first = np.flatnonzero(np.diff(np.floor(phase)) > 0) + 1
    places = first[(first > period) & (first < band.shape[2] - period)]
    for _ in range(3):
        wide = _mean_patch(band, places, period)
        match = _correlate(band, _centred(wide, period))
        places = np.asarray(_choose(match, period), dtype=int)
        if len(places) < FEWEST_STITCHES:
            break
    return match


def _phase(band: np.ndarray, period: float) -> np.ndarray:
    """Phase of the period along the row, in turns, summed coherently over rows and channels."""
    t = np.arange(band.shape[2])
    carrier = np.exp(-2j * np.pi * t / period)
    local = _along(band * carrier.real, 1.2 * period) + 1j * _along(band * carrier.imag, 1.2 * period)
    local = local.reshape(-1, len(t))
    # Rows of a slanted stitch differ in phase: the strongest common direction lines them up.
    strongest = np.linalg.eigh(local @ local.conj().T)[1][:, -1]
    return t / period + np.unwrap(np.angle(strongest.conj() @ local)) / (2 * np.pi)


def _mean_patch(band: np.ndarray, places: np.ndarray, period: float) -> np.ndarray:
    half = round(0.5 * period) + 1
    wide = half + round(period / 2) + 1
    kept = [band[:, :, p - wide : p + wide + 1] for p in places if wide <= p < band.shape[2] - wide]
    if not kept:
        raise CannotMeasure("no_row_found", periodicity=0.0)
    return np.median(kept, axis=0) if len(kept) > 4 else np.mean(kept, axis=0)


def _centred(wide: np.ndarray, period: float) -> np.ndarray:
    """Cut one stitch with half a gap on each side out of a mean patch two periods wide."""
    centre = wide.shape[2] // 2
    shifts = np.arange(-int(period / 2), int(period / 2) + 1)
    profile = (wide**2).sum((0, 1))[centre + shifts]
    return _cut(wide, centre + int(shifts[_thread_place(wide, profile, shifts, period)]), period)


def _cut(wide: np.ndarray, middle: int, period: float) -> np.ndarray:
    half = round(0.5 * period) + 1
    middle = int(np.clip(middle, half, wide.shape[2] - half - 1))
    return wide[:, :, middle - half : middle + half + 1]


def _thread_place(wide: np.ndarray, profile: np.ndarray, shifts: np.ndarray, period: float) -> int:
    """Index of the shift on which the thread, not the gap, is centred."""
    across = np.sqrt((wide**2).sum((0, 2)))
    extent = (across > 0.5 * across.max()).sum() / period
    smooth = gaussian_filter1d(profile, max(1.0, period / 10), mode="wrap")
    if extent > 0.8:
        return int(smooth.argmax())
    # Running stitch: the dark needle pits mark the gap; the thread is half a period away from them.
    centre = wide.shape[2] // 2
    rows = slice(wide.shape[1] // 2 - max(1, int(period / 8)), wide.shape[1] // 2 + max(1, int(period / 8)) + 1)
    light = np.array([wide[0, rows, centre + s].mean() for s in shifts])
    colour = np.array([np.abs(wide[1:, rows, centre + s]).mean() for s in shifts])
    light = gaussian_filter1d(light, max(1.0, period / 6), mode="wrap")
    wave = light - light.mean()
    long_part = np.sign(np.median(wave)) if abs(np.median(wave)) > 0.05 * np.abs(wave).max() else 1.0
    evidence = wave * (long_part if colour.mean() < np.abs(wave).mean() else 1.0)
    turn = np.angle((evidence * np.exp(2j * np.pi * shifts / period)).sum()) / (2 * np.pi) * period
    return int(np.argmin(np.abs(shifts - turn)))


def _correlate(band: np.ndarray, template: np.ndarray) -> np.ndarray:
    """Correlation with the template, the contrast of the neighbourhood divided out unless it is far below typical.

    Rows and channels count by how much of the stitch they show. The neighbourhood is the stronger of the stretches
    before, around and behind, so that the row's end is held against the row, not against the empty panel.
    """
    weight = (template**2).mean(2)
    weight /= weight.max() + 1e-12
    half = template.shape[2] // 2
    product, power = np.zeros((2, band.shape[2]))
    for channel, shape, rows in zip(band, template, weight, strict=True):
        padded = np.pad(channel, ((0, 0), (half, half)), mode="edge").astype(np.float32)
        product += cv2.matchTemplate(padded, (shape * rows[:, None]).astype(np.float32), cv2.TM_CCORR)[0]
        column = rows @ padded**2
        power += np.convolve(column, np.ones(template.shape[2]), mode="valid")
    own = (template**2 * weight[..., None]).sum() + 1e-12
    period = template.shape[2] - 3
    power = _along(power, 0.8 * period)
    step = int(1.2 * period)
    around = np.pad(power, step, mode="edge")
    near = np.max([around[: len(power)], power, around[2 * step :]], axis=0)
    return product / np.sqrt(own * (near + CONTRAST_FLOOR * own))


def _choose(match: np.ndarray, period: float) -> list[int]:
    """Places that match best and follow each other most evenly (dynamic programming)."""
    typical = np.percentile(maximum_filter1d(match, max(3, int(period))), 60)
    if typical <= 0:
        return []
    gain = np.clip(match / typical, -1, 1.3) - STITCH_FROM
    score, back = gain.copy(), np.full(len(gain), -1)
    near, far = max(2, round(0.62 * period)), round(2.4 * period)
    steps = np.arange(near, far + 1)
    turns = steps / period
    # One stitch missing costs as much as being a quarter of a pitch off; being off grows with the square.
    cost = np.minimum(6 * (turns - 1) ** 2, 0.4 + 6 * (turns - 2) ** 2)
    for t in range(near, len(gain)):
        from_ = t - steps[steps <= t]
        options = score[from_] - cost[: len(from_)]
        best = int(options.argmax())
        if options[best] > 0:
            score[t] += options[best]
            back[t] = from_[best]
    t = int(score.argmax())
    places = []
    while t >= 0:
        places.append(t)
        t = int(back[t])
    return places[::-1]


def _to_picture(strip: _Strip, row: np.ndarray, places: np.ndarray) -> np.ndarray:
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
    chance = 1 / (1 + np.exp(-(np.asarray(levels) - STITCH_FROM) / BORDER_SOFTNESS))
    return float(np.sqrt((chance * (1 - chance)).sum()))


def _doubts(match: np.ndarray, places: list[int], period: float, periodicity: float) -> tuple[str, ...]:
    gaps = np.diff(places) / period
    found = []
    if (gaps > 1.6).any():
        found.append("gap_in_row")
    if period < 2 * FEWEST_PX_PER_STITCH:
        found.append("few_pixels")
    if periodicity < 2 * LEAST_PERIODICITY:
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
    line = _smooth_path(path)
    tangent = np.gradient(gaussian_filter1d(line, 3, axis=0, mode="nearest"), axis=0)
    strokes = []
    for number, centre in enumerate(centres, start=1):
        along = tangent[int(np.argmin(np.hypot(*(line - centre).T)))]
        across = np.array([-along[1], along[0]]) / (np.hypot(*along) + 1e-12) * half_tick
        ends = (tuple(map(float, centre - across)), tuple(map(float, centre + across)))
        strokes.append(Stroke(StrokeKind.TICK, ends, label=str(number)))
    return strokes

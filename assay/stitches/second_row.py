"""Whether a second row of stitches runs beside one that was found, and how far away.

The energy that repeats at the row's pitch, less what repeats at other periods, is seen across the strip along the row.
Another peak of it, parted from the row by bare panel and on one side only (a bar shows its two needle lines on both),
is a row where its places are as alike as a row's. Both rows show the same profile: how far apart they are is where the
profile resembles itself.
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from assay.stitches.periodic_row import band_along, straightened
from assay.stitches.periods import energy_at, telling_channels
from assay.stitches.row import Row, placed
from assay.stitches.strip import Strip

# Periods that stand for everything else, as shares of the pitch.
OTHERWISE = (0.72, 0.82, 1.2, 1.35)
# Not nearer than this, mm (px without a scale): a stitch itself is as wide.
NEAREST_MM = 1.7
NEAREST_PX = 12
# Of the energy there against the row's, at the barest place between, and at the same distance on the other side.
AS_CLEAR = (0.4, 8.0)
BARE = 0.06
ONE_SIDE = 0.3
# How alike its places must be, how much must repeat, and how near its count to the row's.
LIKENESS = 0.45
REPEATING = 0.26
SAME_COUNT = 0.2
# How far from the peak the profile's own return is looked for, px.
ROUND_ABOUT = 7


@dataclass(frozen=True, slots=True)
class SecondRow:
    """A row beside a row."""

    line: np.ndarray
    """(T,) where it runs across the strip, px off the path."""
    apart: float
    """Distance from the first row, px."""


def second_row(strip: Strip, row: Row, mm_per_px: float | None) -> SecondRow | None:
    """The row beside, within the strip; None where there is none beyond doubt."""
    telling = telling_channels(strip, row.period)
    profile = _profile(telling, row)
    half = len(profile) // 2
    away = np.abs(np.arange(len(profile)) - half)
    beyond = away > (NEAREST_PX if mm_per_px is None else NEAREST_MM / mm_per_px)
    if not beyond.any():
        return None
    top = int(np.where(beyond, profile, -1).argmax())
    own, there = float(profile[half - 3 : half + 4].max()), float(profile[top])
    between = profile[min(half, top) : max(half, top) + 1].min()
    mirror = 2 * half - top
    opposite = profile[max(0, mirror - 2) : mirror + 3].max(initial=0)
    if not (AS_CLEAR[0] * own < there < AS_CLEAR[1] * own):
        return None
    if between > BARE * min(own, there) or opposite > ONE_SIDE * there:
        return None
    apart = _apart(profile, abs(top - half))
    line = row.line + np.sign(top - half) * apart
    found = placed(strip, line, band_along(telling, line, row.period), row.period)
    if found is None or found.score < LIKENESS or found.repeats < REPEATING:
        return None
    if abs(len(found.places) - len(row.places)) > SAME_COUNT * len(row.places) + 1:
        return None
    return SecondRow(line, apart)


def _profile(strip: Strip, row: Row) -> np.ndarray:
    """(Y,) energy at the row's period across the strip, straightened on the row, less what repeats otherwise."""
    values = straightened(strip.values, row.line, strip.values.shape[1] // 2)[:, :, strip.start : strip.stop]
    periods = [row.period, *(row.period * share for share in OTHERWISE)]
    own, *others = energy_at(values, periods, 2 * row.period).sum(1)
    return gaussian_filter1d(np.clip(own - np.median(others, axis=0), 0, None), 1.0)


def _apart(profile: np.ndarray, rough: int) -> float:
    """Where the profile resembles itself best near a lag, px."""
    alike = np.correlate(profile, profile, "full")[len(profile) - 1 :]
    lags = np.arange(max(1, rough - ROUND_ABOUT), min(len(alike) - 1, rough + ROUND_ABOUT + 1))
    lag = int(lags[alike[lags].argmax()])
    before, here, after = alike[lag - 1], alike[lag], alike[lag + 1]
    bend = before - 2 * here + after
    return lag + (0.5 * float(before - after) / float(bend) if bend < 0 else 0.0)

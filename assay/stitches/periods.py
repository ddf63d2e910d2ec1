"""The periods at which a strip repeats, and how much of it does.

Source: the autocorrelation by way of the power spectrum (Wiener 1930, Khinchin 1934); a comb over its returns.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft, rfftfreq

from assay.stitches.strip import Strip

# A channel tells something from this share of the clearest channel's periodic energy on.
TELLING_SHARE = 0.2
# Teeth of the comb that finds periods, the (logarithmic) step in which they are tried, how little longer ones fall
# behind, and the share of the best's strength from which one is worth a try.
TEETH = 4
COMB_STEP = 0.01
EQUAL = 0.03
WORTH_A_TRY = 0.3


def periods_of(values: np.ndarray, longest: float, shortest: float = 2.0) -> list[tuple[float, float]]:
    """Periods at which the strip resembles itself, likeliest first, each with its strength as a share of the first's.

    A period's strength is that of a comb: how alike the strip is at its multiples, less how alike half-way between
    them. A stitch's own parts, which lie nearer than the pitch, pull the first return but not the later ones.
    """
    correlation = _autocorrelation(values)
    periods = np.exp(np.arange(np.log(shortest), np.log(longest * 1.1), COMB_STEP))
    lags, strength = np.arange(len(correlation)), np.zeros(len(periods))
    for turn in range(1, TEETH + 1):
        in_phase, out_of_phase = (np.interp(periods * at, lags, correlation, right=np.nan) for at in (turn, turn - 0.5))
        strength += np.nan_to_num(in_phase - out_of_phase)
    # Of equals the shortest: a pure tone fits its odd multiples as well.
    strength = np.where(strength > 0, strength * (periods / shortest) ** -EQUAL, strength)
    inner = strength[1:-1]
    tops = 1 + np.flatnonzero((inner >= strength[:-2]) & (inner > strength[2:]))
    tops = tops[strength[tops] > 0]
    tops = tops[np.argsort(-strength[tops], kind="stable")]
    shares = [(float(periods[k]), float(strength[k] / strength[tops[0]])) for k in tops]
    return [share for share in shares if share[1] > WORTH_A_TRY]


def repeating(values: np.ndarray, period: float) -> float:
    """Share of the variance that repeats at a period, or at two (a stitch's own parts may hide the first return)."""
    correlation = _autocorrelation(values)
    returns = [min(round(turn * period), len(correlation) - 1) for turn in (1, 2)]
    return float(max(correlation[max(1, lag - 1) : lag + 2].max(initial=-1.0) for lag in returns))


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


def energy_at(values: np.ndarray, periods: Sequence[float], reach: float) -> np.ndarray:
    """(P, C, Y) mean energy that repeats at each period, a bell of ``reach`` px (standard deviation) wide at a time.

    By Parseval's theorem: the power spectrum, weighted round the period's frequency by the bell's own.
    """
    length = next_fast_len(values.shape[2] + round(4 * reach), real=True)
    power = np.abs(rfft(values, length, axis=2)) ** 2
    detuning = rfftfreq(length) - 1 / np.array(periods)[:, None]
    bell = np.exp(-((2 * np.pi * reach * detuning) ** 2)) / (length * values.shape[2])
    return np.moveaxis(power @ bell.T.astype(power.dtype), 2, 0)


def telling_channels(strip: Strip, period: float) -> Strip:
    """The strip without those colour channels that do not show the period: they add noise and work."""
    (energy,) = energy_at(strip.values, [period], 1.5 * period)
    # The best fifth of a channel's rows: a row of stitches is narrow.
    shown = np.sort(energy, axis=1)[:, -max(1, energy.shape[1] // 5) :].mean(1)
    keep = shown >= TELLING_SHARE * shown.max()
    keep[0] = True
    return replace(strip, values=strip.values[keep], tones=strip.tones[keep])

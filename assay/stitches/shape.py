"""The form of a row's mean stitch: how long it is, how it leans."""

from typing import NamedTuple

import numpy as np
from scipy.ndimage import label, zoom

from assay.numeric.viterbi import refined
from assay.stitches.periodic_row import pieces
from assay.stitches.row import Row

# The mean stitch is looked at in steps of 1 / FINER px, where it is at least half as clear as its middle.
FINER = 4
HALF = 0.5
# From this elongation and lean on it is a bar, and its lean can be told; a running stitch is too round to tell.
LONG = 1.8
LEANING_DEG = 40.0
# A bar's lean is how far the row's rhythm, in so many waves, moves along with every pixel across: shifts that are
# tried, px; round ends stand upright, so that only this middle share of it counts; it settles in so many looks.
WAVES = 3
SHIFTS = np.linspace(-1.2, 1.2, 241)
MIDDLE = 0.6
LOOKS = 2
# Begun with what the mean stitch seems to lean by, and upright, both must lead to one lean, and the first be near it;
# and no bar is shorter than this share of the pitch.
SAME_DEG = 4.0
NEAR_DEG = 14.0
SHORTEST = 0.4
# Of a bar the rows about its middle that it is held against, px to both sides. Where thread runs out into a pit that
# stands out more, so many times, its end is there; else where it is half a pit, no more than so many px further out.
ABOUT_MIDDLE = 2
PIT = 1.3
PIT_NEAR = 8

# A bend is seen over so many stitches, up to this radius, mm; each lies where it is seen to so many px.
BENT_OVER = 5
STRAIGHT_MM = 60.0
PLACE_PX = 0.5


class StitchForm(NamedTuple):
    """Pixels and degrees; None where it cannot be told."""

    length: float | None
    """From end to end."""
    slant: float | None
    """Of a bar: the angle between it and the row, 0 to 180, clockwise as seen along the row; 90 is straight across."""


def form_of(row: Row) -> StitchForm:
    """The mean stitch's form."""
    mean, half = _mean_stitch(row)
    if mean is None:
        return StitchForm(None, None)
    seems = _seems_to_lean(mean)
    if seems is None:
        return StitchForm(_width(mean[mean.shape[0] // 2 - 1 : mean.shape[0] // 2 + 2].mean(0), half), None)
    waves = _waves(row, half)
    (lean, length), (upright, _) = (_leaning(waves, row.period, start) for start in (seems, 90.0))
    told = _apart(lean, upright) <= SAME_DEG and _apart(lean, seems) <= NEAR_DEG and length > SHORTEST * row.period
    return StitchForm(length, lean) if told else StitchForm(None, None)


def _seems_to_lean(mean: np.ndarray) -> float | None:
    """The lean of what is most of a stitch, degrees; None for one that is no bar."""
    fine = zoom(mean, FINER, order=1)
    parts, _ = label(fine > HALF)
    own = parts[fine.shape[0] // 2, fine.shape[1] // 2]
    if not own:
        return None
    y, x = np.nonzero(parts == own)
    sizes, axes = np.linalg.eigh(np.cov(np.stack([x, y])))
    lean = float(np.degrees(np.arctan2(axes[1, 1], axes[0, 1]))) % 180
    bar = np.sqrt(sizes[1] / max(sizes[0], 1e-9)) > LONG and LEANING_DEG < lean < 180 - LEANING_DEG
    return lean if bar else None


def _apart(one: float, other: float) -> float:
    """Degrees between two leans."""
    return abs((one - other + 90) % 180 - 90)


def _waves(row: Row, half: int) -> np.ndarray:
    """(K, C, Y) complex: the mean stitch's waves along the row, a channel's against their scatter from stitch to
    stitch."""
    each = pieces(row.band, row.places, half)
    weight = np.ones(2 * half + 1)
    weight[[0, -1]] = 0.5
    each = each - (each * weight).sum(-1, keepdims=True) / weight.sum()
    turns = np.outer(np.arange(1, WAVES + 1), np.arange(-half, half + 1)) / row.period
    waves = np.einsum("ncyt,kt->nkcy", each, np.exp(-2j * np.pi * turns) * weight)
    return waves.mean(0) / (waves.std(0).mean((0, 2))[:, None] + 1e-9)


def _leaning(waves: np.ndarray, period: float, lean: float) -> tuple[float, float]:
    """A bar's lean, degrees, and its length, px, begun with a ``lean``."""
    y = np.arange(waves.shape[-1]) - waves.shape[-1] // 2
    turn = 2j * np.pi * np.arange(1, WAVES + 1)[:, None] / period
    for _ in range(LOOKS):
        upright = waves * np.exp(turn * y / np.tan(np.radians(lean)))[:, None]
        middle = upright[..., abs(y) <= ABOUT_MIDDLE].mean(-1)
        shows = np.einsum("kcy,kc->y", upright, middle.conj()).real / (np.abs(middle) ** 2).sum()
        (low, top), (high, bottom) = (_end(shows[len(shows) // 2 :: way]) for way in (-1, 1))
        on = np.abs(y - (high - low) / 2) <= max(ABOUT_MIDDLE, MIDDLE * (high + low) / 2)
        moved = np.exp(turn[..., None] * SHIFTS[:, None] * y[on])
        worth = (np.abs(np.einsum("kcy,ksy->kcs", waves[..., on], moved)) ** 2).sum((0, 1))
        shift = np.interp(refined(worth[None], worth.argmax(keepdims=True)), np.arange(len(SHIFTS)), SHIFTS)[0]
        lean = float(np.degrees(np.arctan2(1.0, shift))) % 180
    return lean, float((top + bottom) / np.sin(np.radians(lean)))


def _end(shows: np.ndarray) -> tuple[int, float]:
    """Outwards from a bar's middle, how much of it shows: the last row that is mostly bar, and where it ends, px."""
    past = np.flatnonzero(shows < HALF)
    stop = max(1, int(past[0])) if len(past) else len(shows)
    peak = int(shows[:stop].argmax())
    if shows[peak] > PIT:
        return stop - 1, float(peak)
    level = (1 + min(0.0, float(shows[stop : stop + PIT_NEAR].min(initial=0.0)))) / 2
    out = int(np.argmax(shows < level)) if (shows < level).any() else len(shows)
    if not 0 < out < len(shows):
        return stop - 1, float(out)
    return stop - 1, out - 1 + float((shows[out - 1] - level) / (shows[out - 1] - shows[out]))


def tightest_bend(centres: np.ndarray, unit: float) -> tuple[float, float, float] | None:
    """Radius of the arc that a row's tightest bend follows, its standard uncertainty, and how far it turns, degrees.

    ``centres`` (N, 2) px; ``unit``: mm a px. The circle through ``BENT_OVER`` stitches in a row, by least squares (Kåsa
    1976); None for rows too short, or as good as straight.
    """
    tightest = None
    for first in range(len(centres) - BENT_OVER + 1):
        spots = centres[first : first + BENT_OVER]
        middle = spots - spots.mean(0)
        if np.linalg.svd(middle, compute_uv=False)[1] < PLACE_PX:
            continue
        design = np.column_stack([2 * middle, np.ones(BENT_OVER)])
        x, y, rest = np.linalg.lstsq(design, (middle**2).sum(1), rcond=None)[0]
        radius = float(np.sqrt(max(rest + x * x + y * y, 1e-9)))
        if tightest is None or radius < tightest[0]:
            chord = float(np.hypot(*(spots[-1] - spots[0])))
            tightest = radius, chord, float(np.degrees(2 * np.arcsin(min(1.0, chord / (2 * radius)))))
    if tightest is None or tightest[0] * unit > STRAIGHT_MM:
        return None
    radius, chord, turn = tightest
    # The bow over the chord is as unsure as the stitches' places.
    bow = max(radius - np.sqrt(max(radius**2 - chord**2 / 4, 0.0)), PLACE_PX)
    return radius * unit, float(radius * unit * PLACE_PX / bow), turn


def _mean_stitch(row: Row) -> tuple[np.ndarray | None, int]:
    """(Y, T) mean stitch with half a gap on each side, 1 at its middle, 0 in the gap, in the channel that tells most.

    And half its length, px.
    """
    half = round(0.5 * row.period)
    each = pieces(row.band, row.places, half)
    if len(each) < 3:
        return None, half
    mean = each.mean(0)
    middle = mean.shape[1] // 2
    thread = mean[:, middle - 1 : middle + 2, half - 1 : half + 2].mean((1, 2))
    ends = mean[:, :, [0, 1, -2, -1]].reshape(len(mean), -1)
    gap = np.median(ends, axis=1)
    telling = int((np.abs(thread - gap) / (ends.std(1) + 1e-9)).argmax())
    step = thread[telling] - gap[telling]
    return ((mean[telling] - gap[telling]) / step, half) if abs(step) > 1e-6 else (None, half)


def _width(profile: np.ndarray, half: int) -> float | None:
    """Width at half height of what stands in the middle of a profile, px; None where it does not fall on both sides."""
    gap = (profile[0] + profile[-1]) / 2
    level = (profile - gap) / (profile[half] - gap + 1e-12)
    fine = np.linspace(-half, half, 20 * half + 1)
    low = fine[np.interp(fine, np.arange(-half, half + 1), level) < HALF]
    if not (low > 0).any() or not (low < 0).any():
        return None
    return float(low[low > 0].min() - low[low < 0].max())

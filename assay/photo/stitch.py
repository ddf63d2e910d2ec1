"""The form of a row's mean stitch: how long it is, how it leans."""

from typing import NamedTuple

import numpy as np
from scipy.ndimage import label, zoom

from assay.photo.rhythm import pieces
from assay.photo.row import Row

# The mean stitch is looked at in steps of 1 / FINER px, where it is at least half as clear as its middle.
FINER, HALF = 4, 0.5
# From this elongation and lean on it is a bar, and its lean can be told; a running stitch is too round to tell.
LONG, LEANING_DEG = 1.8, 40.0

# A bend is seen over so many stitches, up to this radius, mm; each lies where it is seen to so many px.
BENT_OVER, STRAIGHT_MM, PLACE_PX = 5, 60.0, 0.5


class Form(NamedTuple):
    """Pixels and degrees; None where it cannot be told."""

    length: float | None
    """From end to end."""
    slant: float | None
    """Of a bar: the angle between it and the row, 0 to 180, clockwise as seen along the row; 90 is straight across."""


def form_of(row: Row) -> Form:
    """The mean stitch's form."""
    mean, half = _mean_stitch(row)
    if mean is None:
        return Form(None, None)
    fine = zoom(mean, FINER, order=1)
    parts, _ = label(fine > HALF)
    own = parts[fine.shape[0] // 2, fine.shape[1] // 2]
    if not own:
        return Form(None, None)
    y, x = np.nonzero(parts == own)
    spots = np.stack([x, y], 1) - [x.mean(), y.mean()]
    sizes, axes = np.linalg.eigh(np.cov(spots.T))
    along = axes[:, 1]
    lean = float(np.degrees(np.arctan2(along[1], along[0]))) % 180
    if np.sqrt(sizes[1] / max(sizes[0], 1e-9)) > LONG and LEANING_DEG < lean < 180 - LEANING_DEG:
        return Form(float(np.ptp(spots @ along) + 1) / FINER, lean)
    return Form(_width(mean[mean.shape[0] // 2 - 1 : mean.shape[0] // 2 + 2].mean(0), half), None)


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

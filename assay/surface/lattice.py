"""What repeats over a surface in two directions: the lattice of a weave, a mesh, a printed pattern.

The evened luminance is windowed and transformed; the peaks that stand out over their own ring of the spectrum are told
to a fraction of a bin by a parabola and then by climbing the transform itself. Of the peaks the two shortest that do
not lie in one line span the lattice. Source: the usual periodogram (Schuster 1898); windows after Harris, Proc. IEEE
66(1), 1978.
"""

from dataclasses import dataclass

import numpy as np

from assay.errors import CannotMeasure

SHORTEST_PX = 2.5
"""A shorter period is aliased, or lost."""
FEWEST_PERIODS = 4.0
"""So many periods must lie across the region."""
LARGEST_SIDE = 512
STANDS_OUT = 25.0
"""A peak's power against the median of its ring of the spectrum: white noise of half a million pixels reaches 20."""
OF_STRONGEST = 0.10
"""Weaker peaks than this share (amplitude) of the strongest do not span the lattice."""
HALF_OF_STRONGEST = 0.5
"""The same for a peak at half a stronger one's frequency: from here on that one is its overtone."""
HALF_UNCLEAR = (0.15, 0.8)
"""Between these shares it is not sure whether every thread was counted, or every second one."""
U_LEAST = 0.0025
"""Relative standard uncertainty of a period at best: practice weaves, photographed twice."""
U_MULTIPLE = 0.5
"""Relative standard uncertainty of a period that may be its half or its double: it accuses nobody."""
LEAST_ANGLE_DEG = 18.0
PEAKS = 12
CLIMBS = 3


@dataclass(frozen=True, slots=True)
class Lattice:
    """Two waves that a surface is made of."""

    first: np.ndarray
    """(2,) frequency, cycles a px, of the strongest wave or of the one that it is an overtone of."""
    second: np.ndarray | None
    """(2,) of the shortest other wave that does not lie in line with it; None where there is only one way."""
    regularity: float
    """Share of the variance that lies in the peaks, 0 to 1."""
    u_share: float
    """Relative standard uncertainty of the first wave's period; large where ``multiple_unclear``."""
    multiple_unclear: bool = False
    """Whether the period may be a half or a multiple of what was found."""


def lattice_of(even: np.ndarray, inside: np.ndarray) -> Lattice:
    """Find it in an evened luminance (h, w). Raises CannotMeasure ``no_period_found`` or ``region_too_small``."""
    if inside.sum() < (FEWEST_PERIODS * SHORTEST_PX) ** 2:
        raise CannotMeasure("region_too_small", points=0, pixels=int(inside.sum()))
    values, weight = _windowed(even, inside)
    side = float(np.sqrt((weight > 0.05).sum()))
    if side < FEWEST_PERIODS * SHORTEST_PX * 2:
        raise CannotMeasure("region_too_small", points=0, pixels=int(inside.sum()))
    found = _peaks(values, side)
    if not found:
        raise CannotMeasure("no_period_found")
    found = [(_climbed(values, frequency), power) for frequency, power in found]
    strongest = found[0][1]
    first, unclear = _fundamental(found)
    others = [
        frequency
        for frequency, power in found
        if np.sqrt(power / strongest) > OF_STRONGEST and _angle(frequency, first) > LEAST_ANGLE_DEG
    ]
    second = min(others, key=lambda frequency: float(np.hypot(*frequency)), default=None)
    total = float((values**2).sum()) * values.size / 2
    share = min(1.0, sum(_power(values, frequency) for frequency, _ in found) / max(total, 1e-9) * _gain(weight))
    signal = _power(values, first)
    noise = total / values.size * 2
    # Of a frequency by its sharpness against noise (Rife & Boorstyn, IEEE Trans. Inform. Theory 20(5), 1974).
    u = np.sqrt(6 * noise / max(signal, 1e-12)) / (2 * np.pi * side) / np.hypot(*first)
    return Lattice(first, second, share, U_MULTIPLE if unclear else float(max(u, U_LEAST)), unclear)


def _windowed(even: np.ndarray, inside: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The middle of the region, its mean taken off, fading out towards its border; and the fading."""
    rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
    box = np.s_[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    part, within = even[box], inside[box].astype(float)
    cut = [max(0, (size - LARGEST_SIDE) // 2) for size in part.shape]
    middle = tuple(slice(c, c + min(size, LARGEST_SIDE)) for c, size in zip(cut, part.shape, strict=True))
    part, within = part[middle], within[middle]
    weight = np.hanning(part.shape[0] + 2)[1:-1, None] * np.hanning(part.shape[1] + 2)[None, 1:-1] * within
    mean = float((part * weight).sum() / max(weight.sum(), 1e-9))
    return (part - mean) * weight, weight


def _peaks(values: np.ndarray, side: float) -> list[tuple[np.ndarray, float]]:
    """Frequencies (cycles a px) that stand out over their ring, and their power, the strongest first."""
    size = 2 ** int(np.ceil(np.log2(2 * max(values.shape))))
    power = np.abs(np.fft.rfft2(values, (size, size))) ** 2
    fy, fx = np.fft.fftfreq(size)[:, None], np.fft.rfftfreq(size)[None]
    radius = np.hypot(fx, fy)
    usable = (radius > FEWEST_PERIODS / side) & (radius < 1 / SHORTEST_PX) & ((fx > 0) | (fy > 0))
    rings = (radius * size / 4).astype(int)
    level = np.ones(rings.max() + 1)
    for ring in np.unique(rings[usable]):
        level[ring] = np.median(power[usable & (rings == ring)])
    over = np.where(usable, power / (level[rings] + 1e-12), 0)
    found, left = [], np.where(over > STANDS_OUT, power, 0)
    clear = max(2, round(1.6 * size / side))
    for _ in range(PEAKS):
        at = np.unravel_index(int(left.argmax()), left.shape)
        if left[at] <= 0:
            break
        found.append((np.array([fx[0, at[1]], fy[at[0], 0]]), float(left[at])))
        rows = np.arange(at[0] - clear, at[0] + clear + 1) % size
        left[np.ix_(rows, np.arange(max(0, at[1] - clear), min(left.shape[1], at[1] + clear + 1)))] = 0
    return found


def _climbed(values: np.ndarray, frequency: np.ndarray) -> np.ndarray:
    """To the top of the transform near a frequency, by parabolas through evaluations of it."""
    step = 0.25 / max(values.shape)
    for _ in range(CLIMBS):
        moved = frequency.copy()
        for axis in (0, 1):
            around = [_power(values, frequency + k * step * np.eye(2)[axis]) for k in (-1, 0, 1)]
            bend = around[0] - 2 * around[1] + around[2]
            if bend < 0:
                moved[axis] += step * float(np.clip(0.5 * (around[0] - around[2]) / bend, -2, 2))
        frequency, step = moved, step / 2
    return frequency


def _power(values: np.ndarray, frequency: np.ndarray) -> float:
    rows = np.exp(-2j * np.pi * frequency[1] * np.arange(values.shape[0]))
    columns = np.exp(-2j * np.pi * frequency[0] * np.arange(values.shape[1]))
    return float(np.abs(rows @ values @ columns) ** 2)


def _fundamental(found: list[tuple[np.ndarray, float]]) -> tuple[np.ndarray, bool]:
    """The strongest wave, or the one at half, a third of its frequency that it is an overtone of; and whether that
    choice is unclear: every second thread of a weave looks a little different from the others."""
    strongest, power = found[0]
    slower = [
        (float(np.sqrt(weaker / power)), frequency)
        for frequency, weaker in found[1:]
        for part in (2, 3)
        if min(np.hypot(*(part * sign * frequency - strongest)) for sign in (1, -1)) < 0.03 * np.hypot(*strongest)
    ]
    if not slower:
        return strongest, False
    share, frequency = max(slower, key=lambda one: one[0])
    low, high = HALF_UNCLEAR
    return (frequency if share > HALF_OF_STRONGEST else strongest), low < share < high


def _angle(one: np.ndarray, other: np.ndarray) -> float:
    """Between two waves, 0 to 90 degrees."""
    sine = abs(one[0] * other[1] - one[1] * other[0]) / (np.hypot(*one) * np.hypot(*other))
    return float(np.degrees(np.arcsin(min(1.0, sine))))


def _gain(weight: np.ndarray) -> float:
    """What a window takes from a wave's power against white noise's."""
    return float(2 * (weight**2).sum() / max(weight.sum() ** 2, 1e-9) * weight.size / 2)

"""Things that repeat along a strip: the line they follow, and the place of each.

Source: the choice of places is the dynamic programme of Ellis, "Beat tracking by dynamic programming", J. New Music
Research 36(1), 2007; the mean form is learnt from the strip itself, so nothing is assumed of its colour or contrast.
"""

from collections.abc import Sequence

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter, gaussian_filter1d

from assay.stitches.strip import Strip, smooth_along

# A stitch this long across, in pitches or as a share of the strip's half width, is a bar.
BAR_FROM = 0.65
BROAD_FROM = 0.43
# Places that make a row.
FEWEST_PLACES = 4
# A place is a stitch from this share of a typical stitch's match on.
PLACE_FROM = 0.45
# Stitches that share one mean stitch, and how much of it is their own rather than the whole row's.
PLACES_A_STRETCH = 8
LOCAL_SHARE = 0.6
# How far, in px across and along, the spread of the stitches is evened before it weighs.
SPREAD_SEEN_OVER = (1.0, 1.5)
# Contrast of a stretch, as a share of the mean stitch's, below which likeness in form alone no longer counts.
CONTRAST_FLOOR = 0.12
# Square of how many standard deviations from its middle a bell is no longer looked at.
FAR_OUT = np.float32(64)
# Cost of following a row one pitch away from the drawn path, against a gain of 1 for the clearest row there; and how
# far from the path a row may lie, in pitches (standard deviation).
OFF_PATH_COST = 0.6
NEAR_PATH = 0.6
# A crest across the row counts from this share of the highest on; middles so near each other, px, are one.
CREST = 0.3
SAME_MIDDLE = 1.5


def follow(strip: Strip, period: float) -> list[np.ndarray]:
    """Where the row may run across the strip, each (T,) offsets in rows.

    The row's own profile of periodic energy is learnt along the drawn path and followed by dynamic programming: a bar's
    two needle lines, or a row and its neighbour, move together and are not mistaken for each other.
    """
    values = strip.values[:, :, strip.start : strip.stop]
    knots = _knots(values.shape[2], period)
    energy = (np.abs(_gabor_response(values, period, 1.5 * period, knots)) ** 2).sum(0)
    energy = gaussian_filter1d(energy, max(1.0, period / 7), axis=0)
    # Square root: a stretch in good light must not outshout the rest, and one that shows little says little.
    says = np.minimum(1.0, energy.max(0) / np.median(energy.max(0)))
    energy = np.sqrt(energy / (energy.max(0, keepdims=True) + 0.1 * energy.max() + 1e-12)).astype(np.float32)
    rows = np.arange(energy.shape[0]) - energy.shape[0] // 2
    # The drawn path is a witness too.
    near = np.exp(-0.5 * (rows / (NEAR_PATH * period)) ** 2)
    line = np.zeros(len(knots))
    for _ in range(2):
        profile = _profile(energy, line) * near
        likeness = cv2.filter2D(energy, -1, (profile - profile.mean())[:, None], borderType=cv2.BORDER_REPLICATE)
        likeness = says * likeness / (np.abs(likeness).max() + 1e-12) - OFF_PATH_COST * (rows[:, None] / period) ** 2
        line = _followed(likeness, 1.5 * period / _stride(period))
    lines = [line]
    if abs(np.median(line)) > 0.5 * period:
        # A clearer row than the one that was drawn may have captured the line.
        lines.append(np.zeros(len(knots)))
    along = np.arange(strip.values.shape[2]) - strip.start
    return [np.interp(along, knots, one + middle) for one in lines for middle in _middles(energy, one, period)]


def _gabor_response(values: np.ndarray, period: float, over: float, knots: np.ndarray) -> np.ndarray:
    """(C, Y, K) complex: how strongly a strip (C, Y, T) shows a period round places (K,); ``over``: standard deviation
    of the bell that it is looked at under, px."""
    t = np.arange(values.shape[2], dtype=np.float32)
    away = (t[:, None] - knots.astype(np.float32)) / np.float32(over)
    # Cut off where it is nothing: numbers too small for their kind are multiplied a hundred times more slowly.
    bell = np.exp(-0.5 * np.minimum(away**2, FAR_OUT))
    turns = _phasor(len(t), period).astype(np.complex64)[:, None]
    waves = np.hstack([bell * turns.real, bell * turns.imag]) / np.tile(bell.sum(0), 2)
    shown = values.reshape(-1, len(t)).astype(np.float32) @ waves
    return (shown[:, : len(knots)] + 1j * shown[:, len(knots) :]).reshape(*values.shape[:2], len(knots))


def _phasor(length: int, period: float) -> np.ndarray:
    """(T,) complex: one turn a period, backwards."""
    return np.exp(-2j * np.pi * np.arange(length) / period)


def _knots(length: int, period: float) -> np.ndarray:
    """Places along a strip, a third of a period apart."""
    return np.arange(0, length, _stride(period))


def _stride(period: float) -> int:
    return max(1, int(period / 3))


def _middles(energy: np.ndarray, line: np.ndarray, period: float) -> list[float]:
    """Where the row's middle may lie off a line: between a bar's two crests of energy (their mean), or on one crest."""
    rows = np.arange(energy.shape[0]) - energy.shape[0] // 2
    near = np.exp(-0.5 * ((rows + line.mean()) / (NEAR_PATH * period)) ** 2)
    profile = np.clip(_profile(energy, line) - np.quantile(energy, 0.5), 0, None) * near
    crests = [k for k in range(1, len(rows) - 1) if profile[k - 1] <= profile[k] > profile[k + 1]]
    clear = [float(rows[k]) for k in crests if profile[k] > CREST * profile.max()]
    middle = float((profile * rows).sum() / (profile.sum() + 1e-12))
    found: list[float] = []
    for at in [middle, *clear]:
        if all(abs(at - other) > SAME_MIDDLE for other in found):
            found.append(at)
    return found


def _profile(energy: np.ndarray, line: np.ndarray) -> np.ndarray:
    """Mean energy across a line."""
    across = np.arange(energy.shape[0], dtype=np.float32)[:, None] + line[None].astype(np.float32)
    along = np.broadcast_to(np.arange(len(line), dtype=np.float32), across.shape)
    moved = cv2.remap(energy, np.ascontiguousarray(along), across, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return moved.mean(1)


def _followed(gain: np.ndarray, smooth: float) -> np.ndarray:
    """The best way along (Y, K) gains, smoothed over so many of their steps."""
    score, back = gain[:, 0].copy(), []
    beside = np.full(len(score) + 2, -np.inf)
    for own in gain.T[1:]:
        beside[1:-1] = score - 0.02
        options = np.stack([beside[2:], score, beside[:-2]])
        back.append(options.argmax(0) - 1)
        score = options.max(0) + own
    row = int(score.argmax())
    found = [row]
    for step in reversed(back):
        row -= step[row]
        found.append(row)
    return gaussian_filter1d(np.asarray(found[::-1], float), smooth, mode="nearest") - gain.shape[0] // 2


def band_along(strip: Strip, row: np.ndarray, period: float) -> np.ndarray:
    """The strip re-straightened on the row, a good pitch to either side."""
    half = strip.values.shape[1] // 2
    return straightened(strip.values, row, int(np.clip(round(1.1 * period), 4, half)))


def straightened(channels: np.ndarray, line: np.ndarray, reach: int) -> np.ndarray:
    """(C, 2 · reach + 1, T) the channels of a strip re-straightened on a line, (T,) px off its path."""
    half = channels.shape[1] // 2
    across = np.arange(-reach, reach + 1, dtype=np.float32)[:, None] + line[None].astype(np.float32) + half
    along = np.ascontiguousarray(np.broadcast_to(np.arange(len(line), dtype=np.float32), across.shape))
    return np.stack(
        [
            cv2.remap(channel.astype(np.float32), along, across, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            for channel in channels
        ]
    )


def match_repeats(band: np.ndarray, period: float, half: int) -> tuple[np.ndarray, list[int]]:
    """How much each place along the row looks like the mean stitch: about 1 on a stitch, about 0 off the row; and the
    places that are chosen by it.

    ``half``: of the strip's width, px.
    """
    bar_from = min(BAR_FROM * period, BROAD_FROM * half)
    phase = _phase(band, period)
    first = np.flatnonzero(np.diff(np.floor(phase)) > 0) + 1
    places = first[(first > period) & (first < band.shape[2] - period)]
    for _ in range(3):
        patches = _patches(band, places, period)
        wide = _mean(patches)
        middle = _middle(wide, period, bar_from)
        match = _correlate(band, _cut(wide, middle, period), _differing(_cut(patches.var(0), middle, period)))
        before, places = places, choose_places(match, period)
        if len(places) < FEWEST_PLACES:
            return match, places
        if np.array_equal(before, places):
            break
    for _ in range(2):
        match = match_at(band, np.array(places), period)
        before, places = places, choose_places(match, period)
        if len(places) < FEWEST_PLACES or before == places:
            break
    return match, places


def match_at(band: np.ndarray, places: np.ndarray, period: float) -> np.ndarray:
    """How much each place looks like the mean stitch at given places, stretch by stretch.

    A curved row turns under the light, and its look with it.
    """
    patches = _patches(band, places, period)
    whole = _mean(patches)
    middle_of = whole.shape[2] // 2
    differing = _differing(_cut(patches.var(0), middle_of, period))
    stretches = int(np.clip(len(places) // PLACES_A_STRETCH, 1, 5))
    anchors = np.linspace(places[0], places[-1], 2 * stretches + 1)[1::2]
    spread = np.ptp(places) / (2 * stretches) + period
    matches = []
    for anchor in anchors:
        near = places[np.abs(places - anchor) <= spread]
        own = _mean(_patches(band, near, period)) if len(near) >= FEWEST_PLACES else whole
        form = _cut(LOCAL_SHARE * own + (1 - LOCAL_SHARE) * whole, middle_of, period)
        matches.append(_correlate(band, form, differing))
    t = np.arange(band.shape[2])
    shares = np.array([np.interp(t, anchors, row) for row in np.eye(len(anchors))])
    return (np.array(matches) * shares).sum(0)


def _phase(band: np.ndarray, period: float) -> np.ndarray:
    """Phase of the period along the row, in turns, summed coherently over rows and channels."""
    length = band.shape[2]
    knots = _knots(length, period)
    local = _gabor_response(band, period, 1.2 * period, knots).reshape(-1, len(knots))
    # Rows of a slanted stitch differ in phase: the strongest common direction lines them up.
    strongest = np.linalg.eigh(local @ local.conj().T)[1][:, -1]
    summed = (strongest.conj() @ band.reshape(-1, length)) * _phasor(length, period)
    local = smooth_along(summed.real, 1.2 * period) + 1j * smooth_along(summed.imag, 1.2 * period)
    return np.arange(length) / period + np.unwrap(np.angle(local)) / (2 * np.pi)


def pieces(band: np.ndarray, places: Sequence[int] | np.ndarray, half: int) -> np.ndarray:
    """(N, C, Y, 2 · half + 1) what lies round each place that is not too near the band's ends."""
    kept = [band[:, :, t - half : t + half + 1] for t in places if half <= t < band.shape[2] - half]
    return np.array(kept).reshape(-1, *band.shape[:2], 2 * half + 1)


def _patches(band: np.ndarray, places: Sequence[int] | np.ndarray, period: float) -> np.ndarray:
    """Two periods round each place; nothing where none lies far enough inside."""
    wide = round(0.5 * period) + round(period / 2) + 2
    found = pieces(band, places, wide)
    return found if len(found) else np.zeros((1, *found.shape[1:]))


def _mean(patches: np.ndarray) -> np.ndarray:
    """Their median."""
    return np.quantile(patches, 0.5, axis=0) if len(patches) > 4 else patches.mean(0)


def _middle(wide: np.ndarray, period: float, bar_from: float) -> int:
    """Where, in a mean patch two periods wide, the stitch's middle is."""
    centre = wide.shape[2] // 2
    shifts = np.arange(-int(period / 2), int(period / 2) + 1)
    return centre + int(shifts[_thread_place(wide, shifts, period, bar_from)])


def _cut(wide: np.ndarray, middle: int, period: float) -> np.ndarray:
    half = round(0.5 * period) + 1
    middle = int(np.clip(middle, half, wide.shape[2] - half - 1))
    return wide[:, :, middle - half : middle + half + 1]


def _thread_place(wide: np.ndarray, shifts: np.ndarray, period: float, bar_from: float) -> int:
    """Index of the shift on which the thread, not the gap, is centred."""
    across = np.sqrt((wide**2).sum((0, 2)))
    # From the first clear row to the last: a bar's two needle pits may outshine what lies between them, on both sides
    # of its middle; what shows on one side alone is another row.
    clear = np.flatnonzero(across >= 0.5 * across.max()) - wide.shape[1] // 2
    if 2 * min(clear[-1], -clear[0]) > bar_from:
        profile = (wide**2).sum((0, 1))[wide.shape[2] // 2 + shifts]
        return int(gaussian_filter1d(profile, max(1.0, period / 10), mode="wrap").argmax())
    # Running stitch: the dark needle pits mark the gap; the thread is half a period away from them.
    centre = wide.shape[2] // 2
    rows = slice(wide.shape[1] // 2 - max(1, int(period / 8)), wide.shape[1] // 2 + max(1, int(period / 8)) + 1)
    near = wide[:, rows, centre + shifts[0] : centre + shifts[-1] + 1]
    light = near[0].mean(0)
    colour = np.abs(near[1:]).sum((0, 1)) / near.shape[1] / 2
    light = gaussian_filter1d(light, max(0.7, period / 14), mode="wrap")
    wave = light - light.mean()
    long_part = np.sign(np.median(wave)) if abs(np.median(wave)) > 0.05 * np.abs(wave).max() else 1.0
    evidence = wave * (long_part if colour.mean() < np.abs(wave).mean() else 1.0)
    turn = np.angle((evidence * np.exp(2j * np.pi * shifts / period)).sum()) / (2 * np.pi) * period
    return int(np.argmin(np.abs(shifts - turn)))


def _differing(spread: np.ndarray) -> np.ndarray:
    """How much stitches differ at each spot, against the mean spot: of the variance of their patches."""
    even = gaussian_filter(spread, (0, *SPREAD_SEEN_OVER))
    return even / (even.mean() + 1e-12)


def _correlate(band: np.ndarray, template: np.ndarray, differing: np.ndarray) -> np.ndarray:
    """Correlation with the template, the contrast of the neighbourhood divided out unless it is far below typical.

    Rows and channels count by how much of the stitch they show, and each spot the less the more the stitches differ
    there: that is where a neighbour comes near, or another row. The neighbourhood is the stronger of the stretches
    before, around and behind, so that the row's end is held against the row, not against the panel.
    """
    weight = (template**2).mean(2, keepdims=True)
    weight = weight / (weight.max() + 1e-12) / (1 + differing)
    product, power = _slid(template * weight, band), _slid(weight, band**2)
    own = (template**2 * weight).sum() + 1e-12
    period = template.shape[2] - 3
    power = smooth_along(power, 0.8 * period)
    step = int(1.2 * period)
    around = np.pad(power, step, mode="edge")
    near = np.max([around[: len(power)], power, around[2 * step :]], axis=0)
    return product / np.sqrt(own * (near + CONTRAST_FLOOR * own))


def _slid(template: np.ndarray, band: np.ndarray) -> np.ndarray:
    """(T,) the sum of a (C, Y, W) template's products with what is under it along a (C, Y, T) band, its ends going on.

    Every column of the template times every one of the band at once, then summed along the diagonals.
    """
    width, length = template.shape[2], band.shape[2]
    columns = template.reshape(-1, width).T.astype(np.float32) @ band.reshape(-1, length).astype(np.float32)
    half = width // 2
    on = np.hstack([np.repeat(columns[:, :1], half, 1), columns, np.repeat(columns[:, -1:], half, 1)])
    step, item = on.strides
    return np.lib.stride_tricks.as_strided(on, (width, length), (step + item, item)).sum(0, dtype=float)


def choose_places(match: np.ndarray, period: float) -> list[int]:
    """Places that match best and follow each other most evenly (dynamic programming)."""
    tops = cv2.dilate(match[None].astype(np.float32), np.ones((1, max(3, int(period))), np.uint8))
    typical = float(np.quantile(tops, 0.6))
    if typical <= 0:
        return []
    gain = np.clip(match / typical, -1, 1.3) - PLACE_FROM
    near, far = max(2, round(0.62 * period)), round(2.4 * period)
    turns = np.arange(far, near - 1, -1) / period
    # One stitch missing costs as much as being a quarter of a pitch off; being off grows with the square.
    cost = np.minimum(6 * (turns - 1) ** 2, 0.4 + 6 * (turns - 2) ** 2)
    # Before the first place there is none; row t of the view is what lies ``far`` to ``near`` before t.
    score, worth = np.r_[np.full(far, -np.inf), gain], np.full(len(gain), -np.inf)
    before = np.lib.stride_tricks.sliding_window_view(score, far - near + 1)
    # The nearest place before lies ``near`` away: so many can be decided at once.
    for first in range(near, len(gain), near):
        last = min(first + near, len(gain))
        np.max(before[first:last] - cost, axis=1, out=worth[first:last])
        score[far + first : far + last] += np.maximum(worth[first:last], 0)
    t = int(score[far:].argmax())
    places = [t]
    while worth[t] > 0:
        t += int((before[t] - cost).argmax()) - far
        places.append(t)
    return places[::-1]

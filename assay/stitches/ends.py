"""Where a row of stitches starts and ends within the drawn path.

A stitch that matches well inside the path is taken on trust. At an end it is not: the last needle's pit looks like half
a stitch more, a rubbed one matches badly, and gaps may have been taken for stitches all along. There the row is held
against what lies at its sides (its ridge), which bare panel does not show, however its own grain repeats.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from scipy.ndimage import gaussian_filter

from assay.stitches.periodic_row import FEWEST_PLACES, pieces, straightened
from assay.stitches.strip import Strip, smooth_along

# How far past the drawn path a stitch's centre may lie, as a share of the pitch.
PAST_END = 0.05
# A place nearer than this to the path's end, in pitches, is taken for a stitch only where the row is seen there.
TRUSTED = 0.45
# Places past the last that are taken on, to be held against the picture: where the path goes on that far, and how many.
WELL_INSIDE = 0.26
MOST_FURTHER = 3
# How much of what a stitch within shows must be seen: to keep one at an end, by how far inside the path it lies (at its
# very end half of a gap would show half), and to take on one that matched nowhere.
KEPT_FROM = ((0.08, 0.16), (0.7, 0.4))
ADDED_FROM = 0.6
# From where to where past the last stitch the next would be seen, in pitches; nearer lies the last one's own pit.
NEXT_FROM = 0.6
NEXT_TO = 1.4
ADDED_SEEN_FROM = 0.65
# Path bare of stitches beyond half a pitch at either end, and this, is room for another; more than so much is no room.
SPARE = 0.05
MOST_BARE = 2.7
# Of what the others show a place at an end shows at least so much: in drawn and simulated rows about 1 % of true ones
# show less, and most of those that lie on bare panel.
LEAST_SHARE = 0.2
# A place within the row that shows less than this of what the others show holds no stitch, or less than ALONE where
# both beside it show as much as BESIDE: of rows drawn by others, one true stitch in a hundred shows less than 0.6.
# More than so many side by side are wear, not gaps. Between stitch and none it is soft by so much.
GONE_BELOW = 0.33
ALONE = 0.46
BESIDE = 0.7
MOST_GONE = 3
GONE_SOFTLY = 0.05
# A second thread lies across a stitch that shows so many times what is foreign to the typical one, so many times as
# much in all, and no more than so like it. Of drawn rows one crossed stitch in three is told by that, and one plain row
# in eighty is (120 drawn, 157 drawn by others; tried 4 to 8, 1.1 to 1.3, .88 to .92).
CROSSED_REST = 5.0
CROSSED_MORE = 1.2
CROSSED_LIKE = 0.92
# From this share of a pitch on, all places move: what was taken for stitches were the gaps.
HALF_OFF = 0.2
# What a place past an edge must show of a stitch, and between what it is in doubt either way; how far it may stray from
# its turn, in pitches, and from where the one before it pointed, px.
SHOWN_FROM = 0.6
IN_DOUBT = (0.42, 0.72)
STRAYS = 0.15
VEERS_PX = 2
# The sides that the row is held against, and its own half width, at least and at most, as shares of the strip's.
SIDE = 1 / 6
NARROW = 1 / 6
BROAD = 0.54
MARGIN_PX = 3
# A row across reaches as far as it shows this share of its clearest part on both sides.
ACROSS = 0.5


class Surroundings(NamedTuple):
    """A row's line in its strip."""

    strip: Strip
    line: np.ndarray
    """(T,) px off the path."""
    band: np.ndarray
    """(C, Y, T) the strip straightened on it."""
    period: float
    """px."""


def ended(places: list[int], match: np.ndarray, around: Surroundings) -> tuple[int, ...]:
    """The places within the drawn path; none where too few are left. ``match`` (T,): how well each place matches."""
    start, stop, period = around.strip.start, around.strip.stop, around.period
    for way in (-1, 1):
        places = sorted({*places, *_further(places, match, period, (start, stop), way)})
    places = [t for t in places if min(t - start, stop - t) >= -PAST_END * period]
    if len(places) < FEWEST_PLACES:
        return ()
    ridge = _ridge(around, _widths(places, around))
    for way in (-1, 1):
        while len(places) >= FEWEST_PLACES:
            inside = (places[0] - start if way < 0 else stop - places[-1]) / period
            if inside > TRUSTED:
                break
            within = places[1:] if way < 0 else places[:-1]
            shown, expected = _seen(within, ridge, period, way, (NEXT_FROM, NEXT_TO))
            if shown >= np.interp(inside, *KEPT_FROM) * expected > 0:
                break
            places = within
    return (
        _shown_all(_carried_on(places, ridge, period, (start, stop)), ridge, period)
        if len(places) >= FEWEST_PLACES
        else ()
    )


def end_shares(places: Sequence[int], around: Surroundings) -> tuple[float, float]:
    """How much of what the row's inner places show its first and its last one show."""
    return _end_shares(places, _ridge(around, _widths(places, around)), around.period)


def without_gaps(places: tuple[int, ...], shares: np.ndarray) -> tuple[int, ...]:
    """The places without those between the first and the last that hold no stitch; ``shares``: what each shows."""
    beside = np.minimum(np.r_[0.0, shares[:-1]], np.r_[shares[1:], 0.0])
    gone = shares < np.where(beside > BESIDE, ALONE, GONE_BELOW)
    gone[[0, -1]] = False
    runs = np.flatnonzero(np.diff(np.r_[0, gone.astype(int), 0]))
    for first, last in zip(runs[::2], runs[1::2], strict=True):
        gone[first:last] &= last - first <= MOST_GONE
    if len(places) - gone.sum() < FEWEST_PLACES:
        return places
    return tuple(place for place, lost in zip(places, gone, strict=True) if not lost)


def doubtful_places(shares: np.ndarray) -> float:
    """Variance of the count for the places between the first and the last that may or may not hold a stitch."""
    none = 1 / (1 + np.exp(np.clip((shares[1:-1] - ALONE) / GONE_SOFTLY, -50, 50)))
    return float((none * (1 - none)).sum())


def shown_shares(places: Sequence[int], around: Surroundings) -> np.ndarray:
    """(N,) how much of what the places typically show each of them shows, by its tone against the sides or by its form
    alone: a worn stitch keeps one of them. 1 where that cannot be said."""
    shares, half = np.ones(len(places)), round(0.5 * around.period)
    ridge = _ridge(around, _widths(places, around))
    known = np.array([half <= t < ridge.shape[2] - half for t in places], bool)
    own = pieces(ridge, places, half)
    if len(own) < FEWEST_PLACES:
        return shares
    # The median: of a few places one that holds nothing would pull a mean down.
    typical, (_, unlike) = np.median(own, axis=0), _typical(own)
    told = []
    for shape in (typical, typical - typical.mean(2, keepdims=True)):
        seen = (own * (shape / unlike)).sum((1, 2, 3))
        told.append(seen / max(float(np.median(seen)), 1e-12))
    shares[known] = np.max(told, axis=0)
    return shares


def crossed_places(places: Sequence[int], around: Surroundings) -> list[int]:
    """Which of the places, by their number, show more than a stitch, and in another form: a second thread across."""
    half = round(0.5 * around.period)
    ridge = _ridge(around, _widths(places, around))
    known = [n for n, t in enumerate(places) if half <= t < ridge.shape[2] - half]
    own = pieces(ridge, [places[n] for n in known], half)
    if len(own) < FEWEST_PLACES:
        return []
    own = own.reshape(len(own), -1)
    typical = np.median(own, axis=0)
    like = own @ typical / (typical @ typical + 1e-12)
    rest, all_ = ((part**2).sum(1) for part in (own - like[:, None] * typical, own))
    shape = like * np.sqrt((typical @ typical) / (all_ + 1e-12))
    odd = (rest >= CROSSED_REST * np.median(rest)) & (all_ >= CROSSED_MORE * np.median(all_)) & (shape <= CROSSED_LIKE)
    return [known[n] for n in np.flatnonzero(odd) if 0 < known[n] < len(places) - 1]


def _shown_all(places: tuple[int, ...], ridge: np.ndarray, period: float) -> tuple[int, ...]:
    """The places without those at the ends that show next to nothing of a stitch: bare panel past the row."""
    while len(places) > FEWEST_PLACES:
        first, last = _end_shares(places, ridge, period)
        if min(first, last) >= LEAST_SHARE:
            break
        places = places[1:] if first < last else places[:-1]
    return places


def _end_shares(places: Sequence[int], ridge: np.ndarray, period: float) -> tuple[float, float]:
    half = round(0.5 * period)
    own = pieces(ridge, places[1:-1], half)
    if len(own) < 2:
        return 1.0, 1.0
    mean, unlike = _typical(own)
    # By its tone against the sides, and by its form alone, whatever the tone: a worn stitch keeps one of them.
    shares = []
    for shape in (mean, mean - mean.mean(2, keepdims=True)):
        weight = shape / unlike
        typical = max(float(np.median((own * weight).sum((1, 2, 3)))), 1e-12)
        ends = (pieces(ridge, [t], half) for t in (places[0], places[-1]))
        shares.append([float((end * weight).sum()) / typical if len(end) else 1.0 for end in ends])
    first, last = np.max(shares, axis=0)
    return float(first), float(last)


def onwards(match: np.ndarray, at: int, step: float, give: float) -> Iterator[tuple[int, int]]:
    """Step by step from a place on: the place expected next, and where within ``give`` steps it matches best."""
    reach = max(1, round(give * abs(step)))
    while True:
        t = round(at + step)
        low = max(0, t - reach)
        around = match[low : max(0, t + reach + 1)]
        if not len(around):
            return
        at = low + int(around.argmax())
        yield t, at


class Carried(NamedTuple):
    """Where a row goes on past its last place."""

    places: list[tuple[int, int]]
    """Along the strip, and across the row's line, px."""
    in_doubt: bool
    """Whether the last of them, or one more, may as well be none."""


def carried_past(places: Sequence[int], around: Surroundings, turn: int) -> Carried:
    """Places past the last that show what the row's own show, for as long as they follow each other.

    ``turn``: how far across the line the next is pointed at, px: a path's last click may lead away from the row.

    The row is held against its sides, and its even tone left out: beyond an edge it may run on another panel. It may
    bend where nobody has traced it.
    """
    half, widths = round(0.5 * around.period), _widths(places, around)
    ridges = {0: _ridge(around, widths)}
    own = pieces(ridges[0], places, half)
    mean, unlike = _typical(own)
    shape = (mean - mean.mean(2, keepdims=True)) / unlike
    typical = float(np.median((own * shape).sum((1, 2, 3))))
    found: list[tuple[int, int]] = []
    (at, offset), in_doubt = (places[-1], 0), False
    while True:
        tried = []
        for across in range(offset + turn - VEERS_PX, offset + turn + VEERS_PX + 1):
            if across not in ridges:
                ridges[across] = _ridge(around._replace(line=around.line + across), widths)
            ridge, turns = ridges[across], _next(at, around.period)
            pieces_ = ((ridge[:, :, t - half : t + half + 1], t) for t in turns if t + half < ridge.shape[2])
            tried += [(float((piece * shape).sum()), t, across) for piece, t in pieces_]
        shown, at, across = max(tried, default=(0.0, at, offset))
        in_doubt |= IN_DOUBT[0] * typical < shown < IN_DOUBT[1] * typical
        if shown < SHOWN_FROM * typical:
            return Carried(found, in_doubt)
        turn, offset = across - offset, across
        found.append((at, offset))


def _next(at: int, period: float) -> range:
    reach = max(1, round(STRAYS * period))
    return range(round(at + period) - reach, round(at + period) + reach + 1)


def _further(places: list[int], match: np.ndarray, period: float, ends: tuple[int, int], way: int) -> list[int]:
    """Places past an end that match weakly but lie well inside the path: who traced so far saw a stitch there."""
    found: list[int] = []
    for t, at in onwards(match, places[0] if way < 0 else places[-1], way * period, 0.2):
        if min(t - ends[0], ends[1] - t) / period < WELL_INSIDE or len(found) >= MOST_FURTHER:
            break
        found.append(at)
    return found


def _carried_on(places: list[int], ridge: np.ndarray, period: float, ends: tuple[int, int]) -> tuple[int, ...]:
    """The places, and those of the path's bare ends that the row is seen to run on into."""
    bare = np.array([places[0] - ends[0], ends[1] - places[-1]]) / period
    more = round(bare.sum() - 1 - SPARE)
    if more < 1 or bare.max() > MOST_BARE:
        return tuple(places)
    shown, expected = np.sum(
        [_seen(places, ridge, period, way, (ADDED_SEEN_FROM, min(NEXT_TO, bare[max(0, way)]))) for way in (-1, 1)],
        axis=0,
    )
    if shown <= ADDED_FROM * expected:
        return tuple(places)
    first = float(np.clip(bare[0] - 0.5, 0, more))
    if abs(first - round(first)) < HALF_OFF:
        first = round(first)
    room = more + 1
    before, behind = (edge + np.arange(1, room + 1) * period for edge in (places[0] - (room + 1) * period, places[-1]))
    row = np.concatenate([before, places, behind])
    at = np.arange(len(places) + more) + room - first
    return tuple(round(float(t)) for t in np.interp(at, np.arange(len(row)), row))


def _seen(
    places: list[int], ridge: np.ndarray, period: float, way: int, stretch: tuple[float, float]
) -> tuple[float, float]:
    """What a stretch past an end, in pitches from its place, shows of the row, and what it shows there within.

    Spots count the less the more the row's own stitches differ there.
    """
    at, half = places[0] if way < 0 else places[-1], round(0.5 * period)
    near, far = (round(share * period) for share in stretch)
    low, high = (-far, -near) if way < 0 else (near + 1, far + 1)
    if far - near < 2 or at + low < 0 or at + high > ridge.shape[2]:
        return 0.0, 0.0
    least, most = max(0, places[0] - half), min(ridge.shape[2], places[-1] + half)
    inside = [ridge[:, :, t + low : t + high] for t in places if least <= t + low and t + high <= most]
    if len(inside) < 2:
        return 0.0, 0.0
    mean, unlike = _typical(np.array(inside))
    weight = mean / unlike
    typical = np.median([(one * weight).sum() for one in inside])
    return float((ridge[:, :, at + low : at + high] * weight).sum()), float(typical)


def _typical(each: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The mean of pieces (N, C, Y, T), and how much they differ at each spot: by that it counts the less."""
    spread = gaussian_filter(each.var(0), (0, 1, 1.5))
    return each.mean(0), spread + spread.mean() + 1e-12


def _widths(places: Sequence[int], around: Surroundings) -> tuple[int, int]:
    """How far the row reaches across, and how far out its sides are looked at, px."""
    width = around.strip.values.shape[1] // 2
    mean = pieces(around.band, places, round(0.5 * around.period)).mean(0)
    across = np.sqrt((mean**2).sum((0, 2)))
    clear = np.flatnonzero(across >= ACROSS * across.max()) - mean.shape[1] // 2
    reach = int(np.clip(min(clear[-1], -clear[0]) + MARGIN_PX, round(NARROW * width), round(BROAD * width)))
    return reach, max(2, round(SIDE * width))


def _ridge(around: Surroundings, widths: tuple[int, int]) -> np.ndarray:
    """(C, Y, T) the row's tones against those at its sides."""
    reach, side = widths
    tones = straightened(around.strip.tones, around.line, reach + side)
    sides = (tones[:, :side].mean(1) + tones[:, -side:].mean(1)) / 2
    return tones[:, side:-side] - smooth_along(sides, 0.3 * around.period)[:, None]

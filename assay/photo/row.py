"""One row of things that repeat along a strip.

The periods at which the strip resembles itself are tried one after the other: the row is followed, its places are
chosen, and the row is kept whose places look most alike, each held against the mean of the others. That is what tells
stitches from grain (whose best-looking places are still unlike each other) and a pitch from its double.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from assay.photo.rhythm import (
    FEWEST_PLACES,
    band_along,
    choose_places,
    follow,
    match_repeats,
    periods_of,
    repeating,
    telling_channels,
)
from assay.photo.strip import Strip

# How far past the drawn path a stitch's centre may lie, as a share of the pitch.
PAST_END = 0.05
# What an end must match, by how far inside the path it lies, in pitches.
END_INSIDE, END_MATCH = (0.16, 0.28), (0.95, 0.15)
# From here on, in pitches, a place lies well inside the path; and how many such are taken on trust.
WELL_INSIDE, MOST_FURTHER = 0.26, 3
# From this share of the typical match on, a place past the path's end is of the row.
GOES_ON = 0.7
# Likeness from which no other period is tried, where nothing repeats at half of it.
SURE = 0.62
# Periods that are tried at most.
MOST_TRIED = 5


@dataclass(frozen=True, slots=True)
class Row:
    """A row that was found."""

    period: float
    """px."""
    line: np.ndarray
    """(T,) where it runs across the strip, px off the path."""
    band: np.ndarray
    """(C, Y, T) the strip straightened on it."""
    match: np.ndarray
    """(T,) how much each place looks like the mean stitch."""
    places: tuple[int, ...]
    """Along the strip, within the drawn path."""
    alike: float
    """Median correlation of a place with the mean of the others."""
    cover: float
    """Share of the drawn path that the places account for."""
    repeats: float
    """Share of the band's variance that repeats at the period."""

    @property
    def goes_on(self) -> tuple[int, int]:
        """How many places follow each other past the path's start and past its end that look like the row's own."""
        return self._going_on(self.places[0], -1), self._going_on(self.places[-1], 1)

    def _going_on(self, from_: int, way: int) -> int:
        typical, count = float(np.median(self.match[list(self.places)])), 0
        for t, at in _onwards(self.match, from_, way * self.period, 0.15):
            room = t - self.period / 2 > 0 and t + self.period / 2 < len(self.match)
            if not room or self.match[at] < GOES_ON * typical:
                break
            count += 1
        return count

    @property
    def score(self) -> float:
        """Likeness, less where the places leave part of the path bare."""
        return self.alike * min(1.0, self.cover)


def find_row(strip: Strip, longest: float, shortest: float = 2.0) -> Row | None:
    """The row whose places are most alike; None where nothing repeats. ``longest``: period, px."""
    best = None
    periods = [period for period in periods_of(strip.values, longest) if period >= shortest]
    for period in periods[:MOST_TRIED]:
        row = _row(strip, period)
        if row and (best is None or row.score > best.score):
            best = row
        if row and row.score > SURE and not any(abs(p / period - 0.5) < 0.1 for p in periods):
            break
    for parts in (2, 3) if best and best.score < SURE else ():
        # A multiple of the pitch fits nearly as well, and hides that its places repeat within themselves.
        finer = best.period / parts
        if finer >= shortest and not any(abs(period / finer - 1) < 0.1 for period in periods[:MOST_TRIED]):
            row = _row(strip, finer)
            if row and row.score > best.score:
                return row
    return best


def _row(strip: Strip, period: float) -> Row | None:
    telling = telling_channels(strip, period)
    line = follow(telling, period)
    band = band_along(telling, line, period)
    row = placed(strip, line, band, period)
    if row is None:
        return None
    gaps = np.diff(row.places)
    true = float(np.median(gaps[gaps < 1.5 * np.median(gaps)]))
    if abs(true / period - 1) > 0.02:
        better = placed(strip, line, band, true)
        row = better if better and better.score > row.score else row
    return row


def placed(strip: Strip, line: np.ndarray, band: np.ndarray, period: float) -> Row | None:
    """The row of a period along a line, the strip straightened on it being ``band``; None without enough places."""
    match = match_repeats(band, period)
    places = _ended(choose_places(match, period), match, period, (strip.start, strip.stop))
    if len(places) < FEWEST_PLACES:
        return None
    cover = len(places) * period / (strip.stop - strip.start)
    return Row(period, line, band, match, places, _alike(band, places, period), cover, repeating(band, period))


def _ended(places: list[int], match: np.ndarray, period: float, ends: tuple[int, int]) -> tuple[int, ...]:
    """The places within the drawn path.

    What the last stitch leaves behind (its needle's pit) looks like half a stitch more: near a path's end a place must
    match better than well inside, where the person who traced so far saw one.
    """
    if len(places) < FEWEST_PLACES:
        return ()
    typical = float(np.median(match[places]))

    def stands(t: int) -> bool:
        inside = min(t - ends[0], ends[1] - t) / period
        level = match[max(0, t - 2) : t + 3].max(initial=-1.0) / typical
        return inside >= -PAST_END and level >= np.interp(inside, END_INSIDE, END_MATCH)

    places = [*_further(places, match, period, ends, -1)[::-1], *places, *_further(places, match, period, ends, 1)]

    while places and not stands(places[0]):
        places = places[1:]
    while places and not stands(places[-1]):
        places = places[:-1]
    return tuple(places)


def _further(places: list[int], match: np.ndarray, period: float, ends: tuple[int, int], way: int) -> list[int]:
    """Places past an end that match weakly but lie well inside the path: who traced so far saw a stitch there."""
    found = []
    for t, at in _onwards(match, places[0] if way < 0 else places[-1], way * period, 0.2):
        if min(t - ends[0], ends[1] - t) / period < WELL_INSIDE or len(found) >= MOST_FURTHER:
            break
        found.append(at)
    return found


def _onwards(match: np.ndarray, at: int, step: float, give: float) -> Iterator[tuple[int, int]]:
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


def _alike(band: np.ndarray, places: tuple[int, ...], period: float) -> float:
    half = round(0.5 * period)
    pieces = [band[:, :, t - half : t + half + 1].ravel() for t in places if half <= t < band.shape[2] - half]
    if len(pieces) < FEWEST_PLACES:
        return 0.0
    pieces = np.array(pieces)
    others = pieces.sum(0) - pieces
    own = (pieces**2).sum(1) * (others**2).sum(1)
    return float(np.median((pieces * others).sum(1) / np.sqrt(own + 1e-12)))

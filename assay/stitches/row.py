"""One row of things that repeat along a strip.

The periods at which the strip resembles itself are tried one after the other: the row is followed, its places are
chosen, and the row is kept whose places look most alike, each held against the mean of the others. That is what tells
stitches from grain (whose best-looking places are still unlike each other) and a pitch from its double.
"""

from dataclasses import dataclass

import numpy as np

from assay.stitches.ends import Surroundings, doubtful_places, ended, onwards, shown_shares, without_gaps
from assay.stitches.periodic_row import FEWEST_PLACES, band_along, follow, match_at, match_repeats, pieces
from assay.stitches.periods import periods_of, repeating, telling_channels
from assay.stitches.strip import Strip

# A place within that correlates less than this with the others' mean may hold no stitch, whatever it shows: of 211
# drawn rows counted right and surely 7 have one, of 11 that missed a gap, surely, five. What it adds to the variance.
UNLIKE = 0.35
UNLIKE_WORTH = 0.1
# From this share of the typical match on, a place past the path's end is of the row.
GOES_ON = 0.7
# How far from the drawn path a row may well run (standard deviation), as a share of the strip's half width.
NEAR_PATH = 0.27
# A row of this worth is taken at once; periods that are tried at most.
SURE = 0.62
MOST_TRIED = 5
# On a line of this worth no other is tried.
SURE_LINE = 0.8


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
    unclear: float = 0.0
    """Variance of the count for places within that may hold no stitch."""

    @property
    def goes_on(self) -> tuple[int, int]:
        """How many places follow each other past the path's start and past its end that look like the row's own."""
        return self._going_on(self.places[0], -1), self._going_on(self.places[-1], 1)

    def _going_on(self, from_: int, way: int) -> int:
        typical, count = float(np.median(self.match[list(self.places)])), 0
        for t, at in onwards(self.match, from_, way * self.period, 0.15):
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
    best, most = None, 0.0
    for period, share in periods_of(strip.values, longest, shortest)[:MOST_TRIED]:
        row = _row(strip, period)
        worth = _worth(strip, row) * np.sqrt(share) if row else 0.0
        if worth > most:
            best, most = row, worth
        if most > SURE:
            break
    return best


def _worth(strip: Strip, row: Row) -> float:
    """How good a row is; the drawn path is a witness of where it runs."""
    offset = np.median(row.line) / (NEAR_PATH * (strip.values.shape[1] // 2))
    return float(row.score * np.exp(-0.5 * offset**2))


def _row(strip: Strip, period: float) -> Row | None:
    telling, best, most = telling_channels(strip, period), None, 0.0
    for line in follow(telling, period):
        row = _on_line(telling, line, period)
        worth = _worth(strip, row) if row else 0.0
        if worth > most:
            best, most = row, worth
        if most > SURE_LINE:
            break
    return best


def _on_line(strip: Strip, line: np.ndarray, period: float) -> Row | None:
    band = band_along(strip, line, period)
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
    match, chosen = match_repeats(band, period, strip.values.shape[1] // 2)
    around = Surroundings(strip, line, band, period)
    places = () if len(chosen) < FEWEST_PLACES else ended(chosen, match, around)
    if len(places) < FEWEST_PLACES:
        return None
    full, shares = len(places), shown_shares(places, around)
    places, unclear = without_gaps(places, shares), doubtful_places(shares)
    unclear += UNLIKE_WORTH * int((_each_alike(band, places, period)[1:-1] < UNLIKE).sum())
    if not set(chosen) & set(places):
        # All have moved: what was taken for stitches were the gaps.
        match = match_at(band, np.array(places), period)
    cover = full * period / (strip.stop - strip.start)
    alike = _alike(band, places, period)
    return Row(period, line, band, match, places, alike, cover, repeating(band, period), unclear)


def _alike(band: np.ndarray, places: tuple[int, ...], period: float) -> float:
    each = _each_alike(band, places, period)
    return float(np.median(each)) if len(each) else 0.0


def _each_alike(band: np.ndarray, places: tuple[int, ...], period: float) -> np.ndarray:
    """(N,) correlation of each place with the mean of the others; empty where they are too few."""
    half = round(0.5 * period)
    each = pieces(band, places, half)
    if len(each) < FEWEST_PLACES:
        return np.zeros(0)
    each = each.reshape(len(each), -1)
    others = each.sum(0) - each
    own = (each**2).sum(1) * (others**2).sum(1)
    return (each * others).sum(1) / np.sqrt(own + 1e-12)

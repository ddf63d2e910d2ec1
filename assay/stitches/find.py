"""The row of stitches along a traced path, or the reason why there is none to be trusted.

The surroundings are straightened (``stitches.strip``) and the row is found (``stitches.row``).
Refuses: ``path_too_short``, ``too_few_pixels``, ``no_row_found``.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.fft import rfft

from assay.contracts import Picture
from assay.errors import CannotMeasure
from assay.stitches.ends import Surroundings, carried_past, crossed_places, end_shares
from assay.stitches.periods import telling_channels
from assay.stitches.row import Row, find_row
from assay.stitches.strip import Strip, freed, straighten

# Below this a stitch is less than a light and a dark pixel and a margin: aliasing cannot be told from stitches.
FEWEST_PX_PER_STITCH = 2.5
FEWEST_STITCHES = 4
# A line in the spectrum this far over the median is a repetition, not noise.
CLEAR_LINE = 40
# Longest pitch looked for, as a share of the path, and in mm where the scale is known.
LONGEST_PITCH_SHARE = 1 / 3.2
LONGEST_PITCH_MM = 6.5
# How like each other the places of a row are, the more the fewer there are, and how much of its surroundings repeats.
# In our tables rows lie above, grass, gravel and household photographs below. Below the WEAK marks even plain leather
# may pass for a row.
LEAST_LIKENESS = 0.24
OF_FEW = 0.8
LEAST_REPEATING = 0.15
WEAK_LIKENESS = 0.42
WEAK_REPEATING = 0.26
# A stitch at an end that shows less than so much of what the others show may be none: in drawn rows one in twenty.
SURE_SHARE = 0.6
# From this likeness on a row is clear enough to say that a stitch of it is unlike the others.
CLEAR = 0.6
# So many stitches tell where a row points.
POINTING = 4


@dataclass(frozen=True, slots=True)
class Stitched:
    """A row in its strip."""

    strip: Strip
    row: Row

    def past_end(self) -> tuple[np.ndarray, bool]:
        """(N, 2) picture pixels of the places past the row's last, for as long as it goes on, over an edge as well; and
        whether how many they are is in doubt."""
        found = carried_past(self.row.places, self._around(), self._turn())
        t, offset = np.array(found.places, int).reshape(-1, 2).T
        return self.at(self.along(t)) + self.strip.normal[t] * offset[:, None], found.in_doubt

    @property
    def ends_in_doubt(self) -> bool:
        """Whether a stitch at either end shows so little that it may be none."""
        return min(end_shares(self.row.places, self._around())) < SURE_SHARE

    @property
    def crossed(self) -> list[int]:
        """Stitches, by their number, that a second thread seems to lie across; none where the row is not clear."""
        return crossed_places(self.row.places, self._around()) if self.row.alike >= CLEAR else []

    def _around(self) -> Surroundings:
        row = self.row
        return Surroundings(telling_channels(self.strip, row.period), row.line, row.band, row.period)

    def _turn(self) -> int:
        """How far across the row's line its last stitches point one pitch on, px."""
        last = self.row.places[-POINTING:]
        centres = self.at(self.along(last))
        ahead = (centres[-1] - centres[0]) * self.row.period / (last[-1] - last[0])
        next_ = min(last[-1] + round(self.row.period), len(self.strip.path) - 1)
        (there,) = self.at(np.array([next_]))
        return round(float((centres[-1] + ahead - there) @ self.strip.normal[next_]))

    @property
    def weak(self) -> bool:
        """Whether plain leather has looked as much like a row."""
        return self.row.score < WEAK_LIKENESS or self.row.repeats < WEAK_REPEATING

    def at(self, along: np.ndarray) -> np.ndarray:
        """(N, 2) picture pixels of places (N,) along the row's line, in pixels of the strip."""
        line = self.strip.path + self.strip.normal * self.row.line[:, None]
        t = np.arange(len(line))
        return np.stack([np.interp(along, t, line[:, k]) for k in (0, 1)], 1)

    def along(self, places: Sequence[int] | np.ndarray) -> np.ndarray:
        """(N,) where stitches lie along the strip: between two samples, by a parabola through the match."""
        at, match = np.array(places, int), self.row.match
        left, top, right = (match[np.clip(at + k, 0, len(match) - 1)] for k in (-1, 0, 1))
        bend = left - 2 * top + right
        return at + np.where(bend < -1e-9, np.clip(0.5 * (left - right) / np.minimum(bend, -1e-9), -0.5, 0.5), 0.0)


def find_stitches(picture: Picture, points: np.ndarray, past_px: float = 0.0) -> Stitched:
    """The row along a path (N, 2), looked at for so far past its ends. Raises CannotMeasure."""
    straight = straighten(picture, points, past_px)
    if straight.stop - straight.start < FEWEST_STITCHES * FEWEST_PX_PER_STITCH:
        raise CannotMeasure("path_too_short", length_px=straight.stop - straight.start)
    _refuse_aliased(straight.grey[:, straight.start : straight.stop])
    strip = freed(straight)
    row = find_row(strip, _longest(strip, picture))
    if row is None or not _holds(row):
        raise CannotMeasure("no_row_found", likeness=round(row.score, 3) if row else 0.0)
    if row.period < FEWEST_PX_PER_STITCH:
        raise CannotMeasure("too_few_pixels", px_per_stitch=round(row.period, 2), needed=FEWEST_PX_PER_STITCH)
    return Stitched(strip, row)


def _holds(row: Row) -> bool:
    return row.repeats >= LEAST_REPEATING and row.score >= LEAST_LIKENESS + OF_FEW / len(row.places)


def _refuse_aliased(grey: np.ndarray) -> None:
    """Refuse a strip whose clearest repetition is finer than can be told from the pixel grid."""
    power = (np.abs(rfft(grey - grey.mean(1, keepdims=True), axis=1)) ** 2).mean(0)[2:]
    clearest = int(power.argmax()) + 2
    px_per_stitch = grey.shape[1] / clearest
    if px_per_stitch < FEWEST_PX_PER_STITCH and power.max() > CLEAR_LINE * np.median(power):
        raise CannotMeasure("too_few_pixels", px_per_stitch=round(px_per_stitch, 2), needed=FEWEST_PX_PER_STITCH)


def _longest(strip: Strip, picture: Picture) -> float:
    longest = (strip.stop - strip.start) * LONGEST_PITCH_SHARE
    return longest if picture.mm_per_px is None else min(longest, LONGEST_PITCH_MM / picture.mm_per_px)

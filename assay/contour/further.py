"""A contour moved out where a sharp step stands outside it for long."""

from collections.abc import Iterator

import cv2
import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter
from scipy.spatial import cKDTree

from assay.compare.contour import even
from assay.contour.boundary import FULL, STIFF, STRAIGHT_ON_PX, sharpness, stretches, unrolled
from assay.contour.near import Contour, near
from assay.numeric.viterbi import best_path

# Every how many pixels along, and how far out, as a share of the size, another sharp step is looked for; for how long
# it must stand there, where the contour turns sharply at both ends and where not; how firmly, what staying on the
# contour is worth against it, and over how many points a lapse does not count.
FURTHER_PX = 3.0
OUT_SHARE = 0.045
SHORT_SHARE = 0.025
LONG_SHARE = 0.12
FIRM = 0.8
STAYS = 0.5
BRIEF = 9
# A contour turns sharply by so many degrees, seen over so many points before and behind; and how many points off it
# counts.
KINK_DEG = 35.0
KINK_OVER = 4
KINK_NEAR = 6
# Of what lies further out than so many px, less than this share may be a guess, as its steep ends are.
DEPARTS_PX = 3.0
LOST = 0.6


def further_out(roots: np.ndarray, contour: Contour, within_px: np.ndarray | None) -> Contour:
    """The contour moved out where a sharp step stands outside it for long (a lining seen behind the collar has nearly
    the ground's tone, and was taken for shadow), or where it was left, and come back to, for a stronger one further
    in."""
    size = max(roots.shape[:2])
    across = STRAIGHT_ON_PX + np.arange(2 * round(OUT_SHARE * size / 2))
    as_it_is = even(contour.points, FURTHER_PX)
    curve, normal, strength = unrolled(roots, as_it_is, across)
    noise = float(np.quantile(strength[:, -len(across) // 4 :], 0.5)) + 1e-4
    firm = np.minimum(strength / (FULL * noise), 1.0) * sharpness(strength, noise)
    # Columns go by twos: linings end steeply. The first stands for the contour as it is.
    firm = np.maximum(firm[:, ::2], firm[:, 1::2])
    at = np.round(_round_and_on(np.c_[np.full(len(curve), STAYS), firm])).astype(int)
    out = np.where(at > 0, across[2 * np.maximum(at, 1) - 1], 0.0)
    shown = firm[np.arange(len(curve)), np.maximum(at, 1) - 1]
    turn, moved, kinks = int(np.argmin(at)), [], _kinks(as_it_is)
    short, long = (share * size / FURTHER_PX for share in (SHORT_SHARE, LONG_SHARE))
    keep = np.zeros(len(curve), bool)
    for first, last in _shown(np.roll(at > 0, -turn), np.roll(shown, -turn), short):
        run = (np.arange(first, last) + turn) % len(curve)
        places = curve[run] + normal[run] * out[run, None]
        # Where a short one is the contour, the way left it at one end and came back at the other.
        if (last - first >= long or kinks[run[[0, -1]]].all()) and inside(places, within_px):
            keep[run] = True
            moved.append(curve[run[[0, -1]]])
    out[~keep] = 0.0
    if not moved:
        return contour
    further = near(roots, curve + normal * out[:, None])
    for ends in moved:
        contour = _spliced(contour, further, ends)
    return contour


def _round_and_on(scores: np.ndarray) -> np.ndarray:
    """The best way round (N,), begun and ended a quarter of the way before and behind: a pinned start would decide."""
    count = len(scores)
    more = count // 4
    way = best_path(np.concatenate([scores[-more:], scores, scores[:more]]), STIFF, closed=False)
    return way[more : more + count]


def _kinks(curve: np.ndarray) -> np.ndarray:
    """(N,) where an even curve turns sharply, or near it."""
    ways = np.roll(curve, -KINK_OVER, axis=0) - curve
    before = np.roll(ways, KINK_OVER, axis=0)
    turn = np.arctan2(before[:, 0] * ways[:, 1] - before[:, 1] * ways[:, 0], (before * ways).sum(1))
    return maximum_filter1d(np.abs(turn), 2 * KINK_NEAR + 1, mode="wrap") > np.radians(KINK_DEG)


def _shown(further: np.ndarray, shown: np.ndarray, least: float) -> Iterator[tuple[int, int]]:
    """Stretches that lie further out for long enough, showing a firm step; of those that do not, the parts that do."""
    for first, last in stretches(further):
        if last - first < least:
            continue
        if np.median(shown[first:last]) >= FIRM:
            yield first, last
        else:
            firm = median_filter(shown[first:last], BRIEF, mode="nearest") >= FIRM
            yield from ((first + start, first + stop) for start, stop in stretches(firm) if stop - start >= least)


def _spliced(contour: Contour, other: Contour, ends: np.ndarray) -> Contour:
    """The contour with the other's way between the places nearest to two ends (2, 2), unless that is lost on the
    way."""
    tree = cKDTree(contour.points)
    first, last = tree.query(ends)[1]
    from_, to = cKDTree(other.points).query(ends)[1]

    def between(part: np.ndarray, start: int, stop: int) -> np.ndarray:
        return np.roll(part, -start, axis=0)[: (stop - start) % len(part) + 1]

    points, clear = (between(part, from_, to) for part in (other.points, other.clear))
    departs = tree.query(points)[0] > DEPARTS_PX
    if not departs.any() or (clear[departs] < 1).mean() > LOST:
        return contour
    return Contour(
        np.concatenate([between(contour.points, last, first), points]),
        np.concatenate([between(contour.clear, last, first), clear]),
    )


def inside(places: np.ndarray, within_px: np.ndarray | None) -> bool:
    """Whether all places (N, 2) lie in a region (M, 2), or there is none."""
    if within_px is None:
        return True
    region = within_px.astype(np.float32)
    return all(cv2.pointPolygonTest(region, (float(x), float(y)), measureDist=False) >= 0 for x, y in places)

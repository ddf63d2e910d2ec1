"""The contour of a thing on a plain ground, to a fraction of a pixel.

First what differs from the ground, coarsely: the ground's colour is a gentle surface in Lab, and a shadow is the
ground, darker. Then, in a band unrolled along that rough contour, the outermost sharp step from quiet ground is
followed by dynamic programming (Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990): a shadow's edge is soft and loses, an
inner seam has the contour outside of it and loses as well.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from scipy.ndimage import distance_transform_edt, maximum_filter1d, median_filter
from scipy.spatial import cKDTree

from assay.compare.contour import even
from assay.contour.beyond import more_may_belong
from assay.contour.boundary import (
    FULL,
    STEP_PX,
    STIFF,
    STRAIGHT_ON_PX,
    follow_step,
    outermost,
    sharpness,
    stretches,
    unrolled,
)
from assay.contour.gaps import refound
from assay.contracts import Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.foreground import find_foregrounds, grown
from assay.imaging.pyramid import pyramid_of
from assay.numeric.viterbi import best_path

# How far from the ground's colour (Lab) the thing is looked for: pale on pale is tried where the first is not sure.
OFF_GROUND = (7.0, 4.0, 2.5)
SURE = 0.007
# Working size: longer sides are shrunk to it (at 1400 the simulator's soles, hardly told from their shadow, were lost);
# and how far off a rough outline the contour is looked for.
BAND_SIDE = 1800
REACH_SHARE = 0.012
# Light counts through its square root: between light, in which dark steps vanish, and its logarithm.
ROOTS = np.sqrt(np.arange(256, dtype=np.float32))
# So much larger than a card, about its middle, is drawn over.
CARD_ROOM = 1.02
# It is followed so many times at most, until less than such a share of it moves by so many pixels or more.
ROUNDS = 3
STAYS_PX = 4.0
STAYS_BUT = 0.01
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
# So many stretches of a contour are looked for anew at most.
MOST_LOST = 4
# With more than so many places so near the picture's edge, px, the thing goes on beyond it.
AT_FRAME_PX = 3.0
AT_FRAME = 3
# Shares of a contour that may be a guess: for the contour to be read at all, and without a word about it.
GUESSED_MOST = 0.05
GUESSED_UNSAID = 0.02
# With one of these doubts a part of the thing may be missing, or ground be taken for it; and how far off, as a share of
# its size, a length may be then (standard uncertainty): soles and tongues that were cut off were a tenth and more.
OF_THE_CONTOUR = ("rim_partly_guessed", "more_may_belong")
OFF_SHARE = 0.1


@dataclass(frozen=True, slots=True)
class Contour:
    """A closed contour."""

    points: np.ndarray
    """(N, 2) picture pixels, evenly stepped, clockwise as seen."""
    clear: np.ndarray
    """(N,) how far the step stands out from the ground's own scatter there; under 1 it is a guess."""
    more: bool = False
    """Whether a faint line beyond it begins and ends at it: more may belong to the thing."""

    @property
    def guessed(self) -> float:
        """Share of it that cannot be told from the ground."""
        return float((self.clear < 1).mean())


def contour_of(picture: Picture, marks: Marks) -> tuple[Contour, tuple[str, ...]]:
    """The contour inside a marked region, and the doubts about picture and contour.

    Raises what marks and contour raise, and CannotMeasure ``rim_unclear`` where too much of it is a guess.
    """
    contour = find_contour(picture, marks.checked(picture.size))
    if contour.guessed > GUESSED_MOST:
        raise CannotMeasure("rim_unclear", share=round(100 * contour.guessed))
    guessed = ("rim_partly_guessed",) if contour.guessed > GUESSED_UNSAID else ()
    more = ("more_may_belong",) if contour.more else ()
    return contour, tuple(dict.fromkeys((*picture.doubts, *guessed, *more)))


def find_contour(picture: Picture, within_px: np.ndarray | None = None) -> Contour:
    """Find the contour of the one thing in a picture; ``within_px``: a loose region around it.

    The last few are remembered: several gauges are read off one contour. Raises CannotMeasure ``nothing_stands_out`` or
    ``cut_by_frame``.
    """
    key = b"" if within_px is None else np.asarray(within_px, float).tobytes()
    return picture.memory.of(("contour", key), lambda: _with_what_lies_beyond(picture, within_px))


def _with_what_lies_beyond(picture: Picture, within_px: np.ndarray | None) -> Contour:
    found, card = _at_working_size(picture, within_px), np.array(picture.card) if picture.card else None
    return replace(found, more=more_may_belong(picture.rgb, found.points, within_px, card))


def _at_working_size(picture: Picture, within_px: np.ndarray | None) -> Contour:
    card = np.array(picture.card) if picture.card else None
    scale = BAND_SIDE / max(picture.size)
    if scale >= 1:
        return _found(picture.rgb, within_px, card)
    # Shrunk by area: contours move by what cheaper ways leave behind.
    small = cv2.resize(picture.rgb, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    within_px, card = (None if px is None else (px + 0.5) * scale - 0.5 for px in (within_px, card))
    contour = _found(small, within_px, card)
    return replace(contour, points=(contour.points + 0.5) / scale - 0.5)


def _found(rgb: np.ndarray, within_px: np.ndarray | None, card_px: np.ndarray | None) -> Contour:
    roots = cv2.LUT(rgb if card_px is None else _without(rgb, card_px), ROOTS)
    best, refusal, begun = None, CannotMeasure("nothing_stands_out"), []
    for foreground in find_foregrounds(pyramid_of(rgb), OFF_GROUND, card_px, within_px):
        if not foreground.found or foreground.cut_off:
            refusal = refusal if not foreground.found else CannotMeasure("cut_by_frame")
            continue
        # An outline within the reach of what was found, or of what that began with, leads to the same contour.
        away = min((tree.query(foreground.outline)[0].max() for tree in begun), default=np.inf)
        if away > REACH_SHARE / 2 * max(rgb.shape[:2]):
            contour = _around(roots, foreground.outline, best.guessed if best else np.inf)
            begun += [cKDTree(foreground.outline), cKDTree(contour.points)]
            if best is None or contour.guessed < best.guessed:
                best = contour
        if best.guessed < SURE:
            break
    if best is None:
        raise refusal
    contour = _further_out(roots, best, within_px)
    if contour.guessed > GUESSED_UNSAID:
        contour = _refound(roots, contour, within_px)
    beyond = np.array(rgb.shape[1::-1]) - 1 - contour.points
    if np.count_nonzero(np.minimum(contour.points, beyond).min(1) < AT_FRAME_PX) > AT_FRAME:
        raise CannotMeasure("cut_by_frame")
    return contour


def _without(rgb: np.ndarray, card_px: np.ndarray) -> np.ndarray:
    """The picture with what lies round a card (4, 2) drawn in over it: the card's sharp sides are no contour's."""
    covered = grown(card_px, CARD_ROOM, rgb.shape[:2])
    x, y, width, height = cv2.boundingRect(covered.astype(np.uint8))
    box = np.s_[max(0, y - 2) : y + height + 2, max(0, x - 2) : x + width + 2]
    covered = covered[box]
    if covered.all():
        return rgb
    nearest = distance_transform_edt(covered, return_distances=False, return_indices=True)
    bare = rgb.copy()
    bare[box] = rgb[box][tuple(nearest)]
    return bare


def _refound(roots: np.ndarray, contour: Contour, within_px: np.ndarray | None) -> Contour:
    """The contour with its lost stretches led round by what a fan shows there, for as long as that leaves less of it a
    guess."""
    for _ in range(MOST_LOST):
        curves = refound(roots, contour.points, contour.clear < 1)
        tried = [one for one in (_near(roots, curve) for curve in curves) if _inside(one.points, within_px)]
        best = min([contour, *tried], key=lambda one: one.guessed)
        if best is contour:
            break
        contour = best
    return contour


def _around(roots: np.ndarray, outline: np.ndarray, beaten_by: float) -> Contour:
    """The contour near a rough outline: far around it, then near what was found, until it stays, or does not look like
    one of which less than ``beaten_by`` is a guess."""
    reach = REACH_SHARE * max(roots.shape[:2])
    points, _ = follow_step(roots, even(outline, STEP_PX), reach)
    for _ in range(ROUNDS):
        curve = even(outermost(points), STEP_PX)
        contour = Contour(*follow_step(roots, curve, reach / 2))
        if contour.guessed >= beaten_by or (np.hypot(*(contour.points - curve).T) >= STAYS_PX).mean() < STAYS_BUT:
            break
        points = contour.points
    return contour


def _near(roots: np.ndarray, curve: np.ndarray) -> Contour:
    """The contour near a curve, followed once."""
    return Contour(*follow_step(roots, even(outermost(curve), STEP_PX), REACH_SHARE / 2 * max(roots.shape[:2])))


def _further_out(roots: np.ndarray, contour: Contour, within_px: np.ndarray | None) -> Contour:
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
        if (last - first >= long or kinks[run[[0, -1]]].all()) and _inside(places, within_px):
            keep[run] = True
            moved.append(curve[run[[0, -1]]])
    out[~keep] = 0.0
    if not moved:
        return contour
    further = _near(roots, curve + normal * out[:, None])
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


def _inside(places: np.ndarray, within_px: np.ndarray | None) -> bool:
    if within_px is None:
        return True
    region = within_px.astype(np.float32)
    return all(cv2.pointPolygonTest(region, (float(x), float(y)), measureDist=False) >= 0 for x, y in places)

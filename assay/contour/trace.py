"""The contour of a thing on a plain ground, to a fraction of a pixel.

First what differs from the ground, coarsely: the ground's colour is a gentle surface in Lab, and a shadow is the
ground, darker. Then, in a band unrolled along that rough contour, the outermost sharp step from quiet ground is
followed by dynamic programming (Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990): a shadow's edge is soft and loses, an
inner seam has the contour outside of it and loses as well.
"""

from dataclasses import replace

import cv2
import numpy as np
from scipy.ndimage import distance_transform_edt
from scipy.spatial import cKDTree

from assay.contour.beyond import is_sharp, more_may_belong
from assay.contour.further import further_out, inside
from assay.contour.gaps import refound
from assay.contour.near import REACH_SHARE, Contour, around, near
from assay.contracts import Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.foreground import find_foregrounds, grown
from assay.imaging.pyramid import pyramid_of

# How far from the ground's colour (Lab) the thing is looked for: pale on pale is tried where the first is not sure.
OFF_GROUND = (7.0, 4.0, 2.5)
SURE = 0.007
# Working size: longer sides are shrunk to it (at 1400 the simulator's soles, hardly told from their shadow, were lost).
BAND_SIDE = 1800
# An outline so near another, as a share of the picture's longer side, leads to the same contour.
AS_BEGUN = REACH_SHARE / 2
# So much further out, as a share of the picture, another contour makes a clear one doubtful; for so much of it, where
# both rest on darkness alone.
FURTHER_SHARE = 0.003
FURTHER_FOR = 0.015
# Light counts through its square root: between light, in which dark steps vanish, and its logarithm.
ROOTS = np.sqrt(np.arange(256, dtype=np.float32))
# So much larger than a card, about its middle, is drawn over.
CARD_ROOM = 1.02
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
    return replace(found, more=found.more or more_may_belong(picture.rgb, found.points, within_px, card))


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
    best: Contour | None = None
    refusal, begun = CannotMeasure("nothing_stands_out"), list[cKDTree]()
    for foreground in find_foregrounds(pyramid_of(rgb), OFF_GROUND, card_px, within_px):
        if not foreground.found or foreground.cut_off:
            refusal = refusal if not foreground.found else CannotMeasure("cut_by_frame")
            continue
        if _away(foreground.outline, begun) > AS_BEGUN * max(rgb.shape[:2]):
            contour = around(roots, foreground.outline, best.guessed if best else np.inf)
            begun += [cKDTree(foreground.outline), cKDTree(contour.points)]
            if best is None or contour.guessed < best.guessed:
                best = contour
        if best is not None and best.guessed < SURE:
            break
    if best is None:
        raise refusal
    contour = _unless_no_shadow(rgb, roots, further_out(roots, best, within_px), card_px, within_px)
    if contour.guessed > GUESSED_UNSAID:
        contour = _refound(roots, contour, within_px)
    beyond = np.array(rgb.shape[1::-1]) - 1 - contour.points
    if np.count_nonzero(np.minimum(contour.points, beyond).min(1) < AT_FRAME_PX) > AT_FRAME:
        raise CannotMeasure("cut_by_frame")
    return contour


def _unless_no_shadow(
    rgb: np.ndarray, roots: np.ndarray, contour: Contour, card_px: np.ndarray | None, within_px: np.ndarray | None
) -> Contour:
    """The contour, or one that is seen where less or nothing is taken for shadow: that where it alone is clear; where
    both are, and it lies further out, more may belong. (A part in the ground's own hue looks like ground in shadow.)"""
    further = FURTHER_SHARE * max(rgb.shape[:2])
    pyramid = pyramid_of(rgb)
    shaded, plain = (
        [
            candidate.outline
            for candidate in find_foregrounds(pyramid, OFF_GROUND, card_px, within_px, shaded=with_shadow)
            if candidate.found and not candidate.cut_off
        ]
        for with_shadow in (True, False)
    )
    by_shadow, followed = [cKDTree(outline) for outline in shaded], list[cKDTree]()
    for outline in plain:
        more = contour.guessed >= SURE or _outside(outline, contour.points, rgb.shape[:2]).max() > further
        if not more or _away(outline, followed) <= AS_BEGUN * max(rgb.shape[:2]):
            continue
        followed.append(cKDTree(outline))
        other = around(roots, outline, SURE)
        if other.guessed >= SURE:
            continue
        if contour.guessed >= SURE:
            return further_out(roots, other, within_px)
        # Where hue does not tell, the deep shadow at a sole's end looks like more.
        told = _away(outline, by_shadow) > further
        out = _outside(other.points, contour.points, rgb.shape[:2]) > further
        if out.mean() > (0 if told else FURTHER_FOR) and is_sharp(roots, other.points[out]):
            return replace(contour, more=True)
    return contour


def _away(outline: np.ndarray, begun: list[cKDTree]) -> float:
    """How far an outline lies from the nearest of those, where it does most, px."""
    return min((tree.query(outline)[0].max() for tree in begun), default=np.inf)


def _outside(points: np.ndarray, contour: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
    """How far points (N, 2) lie outside a contour, px; 0 within."""
    within = np.zeros(shape, np.uint8)
    cv2.fillPoly(within, [np.round(contour).astype(np.int32)], 1)
    x, y = np.clip(np.round(points).astype(int), 0, np.array(shape)[::-1] - 1).T
    return np.where(within[y, x], 0.0, cKDTree(contour).query(points)[0])


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
        tried = [one for one in (near(roots, curve) for curve in curves) if inside(one.points, within_px)]
        best = min([contour, *tried], key=lambda one: one.guessed)
        if best is contour:
            break
        contour = best
    return contour

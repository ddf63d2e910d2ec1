"""Carry marks from the reference photograph onto another photograph of the same view.

Method: local features (ORB; Rublee et al., ICCV 2011) on the thing alone, the affine map that most of them agree on
(MAGSAC++; Barath et al., CVPR 2020), then bent gently by what the agreeing features say near each place (a weighted
mean of their misses, after moving least squares; Schaefer et al., SIGGRAPH 2006). Where too few features are found, the
outlines are laid onto each other (``register.contour_icp``).
A mirror image is refused unless asked for: it would swap left and right.
Refuses: ``no_common_features``, ``mirrored``, ``too_few_landmarks``, ``landmarks_in_line``.
"""

from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from assay.contracts import Marks, Point
from assay.errors import CannotAlign
from assay.register.appearance import SMALL_SIDE, lay
from assay.register.contour_icp import ContourFit, fit_contours
from assay.register.features import WORKING_SIDE, Features, extent, mirrored
from assay.register.matching import agreement, found_again, ratio_matches

# Agreeing matches needed: unrelated views were seen to reach 7, the two feet's 16, the faintest of one thing (box lids)
# 29.
FEWEST_MATCHES = 20
# Longest stretch against shortest: two photographs of one side of a shoe do not differ more than a tilt of 50° does.
MOST_UNEVEN = 1.6
AGREE_PX = 5.0
FOUND_AGAIN_PX = 7.5
# Reach of the gentle bend, as a share of the reference's size, and its weight against the plain map.
BEND_REACH = 0.06
BEND_FLOOR = 0.6
# Outline against outline: mean distance, as a share of the thing's size, up to which they are of one view.
OUTLINE_AGREES = 0.02
FEWEST_OUTLINE = 20
# Between two photographs of one view a thing is not larger than this; and another turn must fit so much worse.
OUTLINE_SIZE = 1.6
OUTLINE_CLEARLY = 1.4
# Close-ups: how far off they were laid, in pixels of the small picture, on the simulator's; and how much likelier a
# mirror image must be to be believed.
APPEARANCE_OFF = 1.0
MIRROR_CLEARLY = 0.02
SEED = 7


@dataclass(frozen=True, slots=True)
class Alignment:
    """How the reference lies on the other picture."""

    matrix: np.ndarray
    """2 × 3, reference pixels to the other picture's pixels."""
    matches: int
    """Features that agree; landmarks where a person placed them; 0 where only the outline or the whole speaks."""
    error_px: float
    """Their median distance after mapping, in pixels of the other picture."""
    how: str = "features"
    """``features``, ``outline``, ``appearance`` or ``landmarks``."""
    anchors: np.ndarray = field(default_factory=lambda: np.zeros((0, 4)))
    """(K, 4) places that agree: x, y on the reference and what the matrix misses there, dx, dy."""

    def place(self, points: np.ndarray) -> np.ndarray:
        """Reference points (N, 2) on the other picture, bent gently by what is near."""
        points = np.asarray(points, float).reshape(-1, 2)
        mapped = points @ self.matrix[:, :2].T + self.matrix[:, 2]
        if not len(self.anchors):
            return mapped
        reach = BEND_REACH * float(np.ptp(self.anchors[:, :2], axis=0).max() + 1e-9)
        near = np.exp(-0.5 * ((points[:, None] - self.anchors[None, :, :2]) ** 2).sum(-1) / reach**2)
        return mapped + near @ self.anchors[:, 2:] / (near.sum(1, keepdims=True) + BEND_FLOOR)

    def nudged(self, moved_px: tuple[float, float]) -> "Alignment":
        """As a person set it who moved the other picture over the reference by so many of the reference's pixels."""
        shift = self.matrix[:, :2] @ np.asarray(moved_px, float)
        return replace(self, matrix=self.matrix - np.c_[np.zeros((2, 2)), shift], how="nudged")

    def carry(self, marks: Marks, size: tuple[int, int]) -> Marks:
        """The marks on the other picture, kept inside its ``size``."""
        points = self.place(np.asarray(marks.points)).clip(0, np.asarray(size) - 1)
        return Marks(marks.kind, tuple((float(x), float(y)) for x, y in points))


def align(reference: Features, other: Features, *, close_up: bool = False) -> Alignment:
    """Lay the reference onto the other picture; a ``close_up`` by what it looks like as a whole. Raises CannotAlign."""
    if close_up:
        return by_appearance(reference, other)
    found = by_features(reference, other)
    if found is None and len(reference.outline) and len(other.outline):
        straight, turned = by_outline(reference, other), by_outline(mirrored(reference), other)
        if straight and straight.error_px <= OUTLINE_AGREES * extent(other):
            if turned and turned.error_px < 0.7 * straight.error_px:
                raise CannotAlign("mirrored")
            found = straight
        elif turned and turned.error_px <= OUTLINE_AGREES * extent(other):
            raise CannotAlign("mirrored")
    if found is None:
        raise CannotAlign("no_common_features")
    return found


def by_features(ours: Features, theirs: Features, *, mirror: bool = False) -> Alignment | None:
    """The affine map that most matches agree on; None where too few do or where it is no view of the same thing.

    ``mirror``: ``theirs`` were described as a mirror shows them; the map then turns left into right.
    """
    agreeing = agreement(ours.descriptors, theirs.descriptors)
    one, other, mutual = ratio_matches(agreeing)
    if mutual.sum() < FEWEST_MATCHES:
        return None
    source, target = ours.points[one].astype(float), theirs.points[other].astype(float)
    pixel = max(1.0, extent(theirs) / WORKING_SIDE)
    cv2.setRNGSeed(SEED)
    matrix, agree = cv2.estimateAffine2D(
        source, target, method=cv2.USAC_MAGSAC, ransacReprojThreshold=AGREE_PX * pixel, maxIters=1000
    )
    # All have a say in the map, but only mutual in whether it is one.
    kept = mutual & (agree.ravel() > 0) if matrix is not None else mutual
    if matrix is None or kept.sum() < FEWEST_MATCHES or (np.linalg.det(matrix[:, :2]) < 0) != mirror:
        return None
    stretch = np.linalg.svd(matrix[:, :2], compute_uv=False)
    if stretch[0] > MOST_UNEVEN * stretch[1]:
        return None
    mapped = ours.points @ matrix[:, :2].T + matrix[:, 2]
    residual = np.hypot(*(target - mapped[one])[kept].T)
    # A shoe is not flat: what is found again a little off where the map puts it speaks for its own neighbourhood.
    one, other = found_again(agreeing, mapped, theirs.points, FOUND_AGAIN_PX * pixel)
    anchors = np.c_[ours.points[one], theirs.points[other] - mapped[one]]
    return Alignment(matrix, int(kept.sum()), float(np.median(residual)), "features", anchors)


def by_appearance(ours: Features, theirs: Features) -> Alignment:
    """The similarity under which panels meet alike. Raises CannotAlign ``mirrored`` or ``no_common_features``."""
    straight, turned = (lay(ours.small, theirs.small, (ours.size, theirs.size), mirror=way) for way in (False, True))
    if turned and (straight is None or turned.like > straight.like + MIRROR_CLEARLY):
        raise CannotAlign("mirrored")
    if straight is None:
        raise CannotAlign("no_common_features")
    return Alignment(straight.matrix, 0, APPEARANCE_OFF * max(theirs.size) / SMALL_SIDE, "appearance")


def by_outline(ours: Features, theirs: Features) -> Alignment | None:
    """Turn, size and shift that lay one outline onto the other; None where it could lie more than one way."""
    return by_outlines([ours], theirs)[0]


def by_outlines(known: list[Features], theirs: Features) -> list[Alignment | None]:
    """The same for several at once."""
    usable = [n for n, ours in enumerate(known) if min(len(ours.outline), len(theirs.outline)) >= FEWEST_OUTLINE]
    loops = fit_contours([known[n].outline.astype(float) for n in usable], theirs.outline.astype(float))
    laid = dict(zip(usable, loops, strict=True))
    return [_by_outline(ours, theirs, laid[n]) if n in laid else None for n, ours in enumerate(known)]


def _by_outline(ours: Features, theirs: Features, contour_fit: ContourFit) -> Alignment | None:
    size = abs(contour_fit.factor) * extent(ours) / extent(theirs)
    # Places that are known a step apart lie a quarter of it off each other where they fall as they like.
    step = float(np.hypot(*np.diff(theirs.outline, axis=0).T).mean())
    # A long thing laid on back to front fits nearly as well: then the outline decides nothing.
    back_to_front = contour_fit.elsewhere < OUTLINE_CLEARLY * max(contour_fit.error, step / 4)
    if back_to_front or not 1 / OUTLINE_SIZE < size < OUTLINE_SIZE:
        return None
    turn, shift = contour_fit.factor, contour_fit.shift
    matrix = np.array([[turn.real, -turn.imag, shift.real], [turn.imag, turn.real, shift.imag]])
    return Alignment(matrix, 0, contour_fit.error, "outline")


def by_landmarks(reference: list[Point], other: list[Point]) -> Alignment:
    """From pairs of places a person put on both pictures: three or more. Raises CannotAlign."""
    if len(reference) < 3 or len(reference) != len(other):
        raise CannotAlign("too_few_landmarks", got=min(len(reference), len(other)))
    source, target = np.asarray(reference, float), np.asarray(other, float)
    if min(np.linalg.svd(p - p.mean(0), compute_uv=False)[1] for p in (source, target)) < 3:
        raise CannotAlign("landmarks_in_line")
    rows = np.c_[source, np.ones(len(source))]
    matrix = np.linalg.lstsq(rows, target, rcond=None)[0].T
    residual = target - rows @ matrix.T
    return Alignment(matrix, len(source), float(np.median(np.hypot(*residual.T))), "landmarks", np.c_[source, residual])


def similarity(source: np.ndarray, target: np.ndarray) -> np.ndarray:
    """Turn, size and shift, never a mirror, by least squares (Umeyama, IEEE PAMI 13(4), 1991), as 2 × 3.

    >>> found = similarity(np.array([[0, 0], [1, 0], [0, 2]]), np.array([[0, 0], [-1, 0], [0, 2]]))
    >>> found.round(4).tolist()
    [[0.6, 0.4, -0.8], [-0.4, 0.6, 0.4]]
    """
    source, target = np.asarray(source, float), np.asarray(target, float)
    from_middle, to_middle = source - source.mean(0), target - target.mean(0)
    left, size, right = np.linalg.svd(to_middle.T @ from_middle / len(source))
    sign = np.array([1.0, np.sign(np.linalg.det(left) * np.linalg.det(right)) or 1.0])
    turn = (left * sign) @ right * (size @ sign) / from_middle.var(0).sum()
    return np.c_[turn, target.mean(0) - turn @ source.mean(0)]

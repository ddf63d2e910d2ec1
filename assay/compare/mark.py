"""Two marks in the frames of their edges: how one is turned, moved, grown against the other, what is missing or too
much.

The covers are laid on each other by maximising their correlation under an affine map, coarse to fine (enhanced
correlation coefficient; Evangelidis & Psarakis, IEEE PAMI 30(10), 2008), started from their middles.
"""

from dataclasses import replace
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np
from scipy.spatial import cKDTree
from skimage.measure import find_contours

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Stroke, StrokeKind
from assay.errors import CannotAlign, CannotJudge

KIND = "mark"
"""``image``: cover, 0 to 255, in the edge's frame; ``points``: that frame's origin and its unit steps along and across;
``values`` (1, 6): stroke and spacing in image pixels, what is unsure of the edge's lean (deg) and place (image pixels),
how many parts, contrast with the ground (dE00)."""
MISSING = "missing part"
TOO_MUCH = "too much"
LONGEST_PX = 420
"""Longest side at which marks are laid on each other."""
ROOM = 0.12
SOFTENED = (0.03, 0.012)
"""Standard deviations of the softening, coarse to fine, as shares of the longer side."""
STEPS = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 100, 1e-6)
REACHES = (0.06, 0.05, 0.04, 0.03, 0.02, 0.015, 0.01, 0.007, *[0.005] * 5)
"""How far off an outline still has a say, as a share of the longer side, step by step."""
LEAST_REACH_PX = 2.0
FEWEST_ON_OUTLINE = 40
LEAST_ON_OUTLINE = 0.5
"""Where less of the outline than this lies on the other, the correlation's map stays."""
LEAST_LIKE = 0.55
"""Covers that correlate by less are not of one mark."""
FAINT_LIKE = 0.8
"""The same of faint marks: grain taken for ink correlated by .67, the faintest that were read right by .90."""
LEAST_PART = 0.012
"""A part that is missing or too much is at least so large a share of the mark's own area."""
TOLERATED = 0.45
"""How far an outline may lie off before what is beside it counts, as a share of the stroke …"""
TOLERATED_OF_SIDE = 0.02
"""… and of the longer side: the stroke of a panel is its whole width."""
HELD = 0.002
"""How strongly an outline that lies outwards all round is taken for a larger mark rather than for bolder strokes …"""
HELD_SOLID = 10.0
STROKES = 0.33
"""… and where there are no strokes to be bolder: their width, against the mark's shorter side, is more than this."""
U_TILT_DEG = 0.12
U_PLACE_MM = 0.06
U_SIZE_PCT = 0.6
U_STROKE_PCT = 4.0
U_SPACING_PCT = 0.9
"""Standard uncertainties of what laying on gives, of a mark that stands out clearly: drawn marks of other making."""
CLEAR_DE = 30.0
FADES = 1.6
"""A mark that stands out by less than ``CLEAR_DE`` is so much less sure: the power by which it grows, by the same
marks."""


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """Parts: ``turned_deg``, ``across_mm`` (away from the edge), ``shifted_mm`` (along it), ``size_pct``,
    ``stroke_pct``, ``spacing_pct`` (ours against theirs), ``missing``, ``too_much`` (counted), ``like_ratio``
    (correlation).

    Raises CannotJudge ``no_scale``, CannotAlign ``marks_too_unlike``.
    """
    if theirs.unit != "mm" or ours.unit != "mm" or theirs.image is None or ours.image is None:
        raise CannotJudge("no_scale")
    step = max(theirs.image_step, ours.image_step, _longest_mm(theirs) / LONGEST_PX)
    one, one_at = _resampled(theirs, step)
    other, other_at = _resampled(ours, step)
    onto, like = _laid(one, other)
    faint = max(faintness(theirs.values[0, 5]), faintness(ours.values[0, 5]))
    if like < (LEAST_LIKE if faint == 1 else FAINT_LIKE):
        raise CannotAlign("marks_too_unlike")
    turned = float(np.degrees(np.arctan2(onto[1, 0] - onto[0, 1], onto[0, 0] + onto[1, 1])))
    alike = theirs.values[0, 4] == ours.values[0, 4]
    word = bool(theirs.values[0, 1] and ours.values[0, 1])
    grown = _grown(onto, one, word=word)
    middle = _middle(one)
    moved = (onto[:, :2] @ middle + onto[:, 2] + other_at - middle - one_at) * step
    strokes = ours.values[0, 0] * ours.image_step / max(theirs.values[0, 0] * theirs.image_step, 1e-9)
    u_lean = float(np.hypot(theirs.values[0, 2], ours.values[0, 2]))
    u_edge = float(np.hypot(theirs.values[0, 3] * theirs.image_step, ours.values[0, 3] * ours.image_step))
    # A scale that is a share off moves the mark by that share of its way from the edge.
    off = float(np.hypot(theirs.relative_uncertainty, ours.relative_uncertainty))
    away = abs(float((middle + one_at)[1])) * step
    parts = {
        "turned_deg": turned,
        "turned_deg_uncertainty": float(np.hypot(faint * U_TILT_DEG, u_lean)),
        "across_mm": float(moved[1]),
        "across_mm_uncertainty": float(np.sqrt((faint * U_PLACE_MM) ** 2 + u_edge**2 + (away * off) ** 2)),
        "shifted_mm": float(moved[0]),
        "shifted_mm_uncertainty": 0.6,
        "size_pct": 100 * (grown - 1),
        "size_pct_uncertainty": float(np.hypot(faint * U_SIZE_PCT, 100 * off)),
        "stroke_pct": 100 * (strokes / grown - 1),
        "stroke_pct_uncertainty": faint * U_STROKE_PCT,
        "like_ratio": like,
        "like_ratio_uncertainty": 0.02,
    }
    # Letters that run together on one of the two would pass for wider gaps.
    if word and alike:
        spacing = ours.values[0, 1] * ours.image_step / (theirs.values[0, 1] * theirs.image_step)
        parts |= {"spacing_pct": 100 * (spacing / grown - 1), "spacing_pct_uncertainty": faint * U_SPACING_PCT}
    overlay, counts = _differences(one, other, onto, (other_at * step, step, ours))
    return Comparison(MappingProxyType(parts | counts), overlay)


def faintness(contrast_de: float) -> float:
    """How many times less sure a mark is read that stands out from its ground by so much.

    >>> faintness(60.0), round(faintness(10.0), 1)
    (1.0, 5.8)
    """
    return max(1.0, (CLEAR_DE / max(contrast_de, 1.0)) ** FADES)


def mirrored(descriptor: Descriptor) -> Descriptor:
    """As a mirror shows it: along the edge the other way."""
    cover = _cover(descriptor)
    flipped = np.ascontiguousarray(cover[:, ::-1])
    at = (-(descriptor.image_at[0] + (cover.shape[1] - 1) * descriptor.image_step), descriptor.image_at[1])
    frame = descriptor.points * [-1, 1]
    return replace(descriptor, image=flipped, image_at=at, points=frame, marks=descriptor.marks * [-1, 1])


def _cover(descriptor: Descriptor) -> np.ndarray:
    """(h, w) uint8 of what the mark covers. Raises CannotAlign."""
    if descriptor.image is None:
        raise CannotAlign("marks_too_unlike")
    return descriptor.image


def _longest_mm(descriptor: Descriptor) -> float:
    return max(_cover(descriptor).shape) * descriptor.image_step


def _resampled(descriptor: Descriptor, step: float) -> tuple[np.ndarray, np.ndarray]:
    """The cover at a common step, cut to the mark with some room, 0 to 1; where its first pixel lies, in steps."""
    scale = descriptor.image_step / step
    image = _cover(descriptor)
    size = tuple(max(8, round(n * scale)) for n in image.shape[::-1])
    cover = cv2.resize(image.astype(np.float32) / 255, size, interpolation=cv2.INTER_AREA)
    rows, columns = np.flatnonzero((cover > 0.5).any(1)), np.flatnonzero((cover > 0.5).any(0))
    if not len(rows):
        raise CannotAlign("marks_too_unlike")
    room = round(ROOM * max(np.ptp(rows), np.ptp(columns)) + 6)
    padded = cv2.copyMakeBorder(cover, room, room, room, room, cv2.BORDER_CONSTANT, value=0)
    top, left = rows[0], columns[0]
    cut = padded[top : rows[-1] + 2 * room + 1, left : columns[-1] + 2 * room + 1]
    at = np.array(descriptor.image_at) / step + [left - room, top - room]
    return np.ascontiguousarray(cut), at


def _laid(one: np.ndarray, other: np.ndarray) -> tuple[np.ndarray, float]:
    """2 × 3, pixels of one to pixels of the other, and their correlation there. Raises CannotAlign."""
    onto = np.eye(2, 3, dtype=np.float32)
    onto[:, 2] = _middle(other) - _middle(one)
    side = max(one.shape)
    like = 0.0
    for share in SOFTENED:
        soft = [cv2.GaussianBlur(cover, (0, 0), max(0.8, share * side)) for cover in (one, other)]
        try:
            like, onto = cv2.findTransformECC(soft[0], soft[1], onto, cv2.MOTION_AFFINE, STEPS, None, 1)
        except cv2.error as error:
            raise CannotAlign("marks_too_unlike") from error
    return _settled(one, other, onto.astype(float)), float(like)


def _settled(one: np.ndarray, other: np.ndarray, onto: np.ndarray) -> np.ndarray:
    """The same by the outlines, with ever less say for what lies off: a part that is missing would turn the whole. Each
    outline may lie outwards by one distance all round, as bolder strokes do: they are no larger mark.

    Point to line with biweights (Chen & Medioni, Image Vision Comput. 10(3), 1992; Beaton & Tukey, Technometrics 16(2),
    1974)."""
    theirs, ours = _outline(one), _outline(other)
    if min(len(theirs), len(ours)) < FEWEST_ON_OUTLINE:
        return onto
    normals = _normals(ours)
    tree = cKDTree(ours[:, :2])
    middle, bolder = theirs[:, :2].mean(0), 0.0
    solid = 2 * one.sum() / (np.hypot(*theirs[:, 2:].T).sum() / 4) > STROKES * np.ptp(theirs[:, :2], axis=0).min()
    hold = HELD_SOLID if solid else HELD
    for share in REACHES:
        reach = max(share * max(one.shape), LEAST_REACH_PX)
        laid = theirs[:, :2] @ onto[:, :2].T + onto[:, 2]
        own = _normals(np.c_[laid, theirs[:, 2:] @ onto[:, :2].T])
        away, nearest = tree.query(laid + bolder * own)
        normal = normals[nearest]
        off = ((ours[nearest, :2] - laid) * normal).sum(1) - bolder
        weight = np.where(away < reach, (1 - np.minimum(away / reach, 1) ** 2) ** 2, 0)
        if (weight > 0).mean() < LEAST_ON_OUTLINE:
            return onto
        there = theirs[:, :2] - middle
        design = np.c_[normal, normal * there[:, :1], normal * there[:, 1:], np.ones(len(off))]
        scale = np.array([1, 1, *[1 / max(one.shape)] * 4, 1])
        root = np.sqrt(weight)[:, None]
        # A disc that is larger all round is larger: what cannot be told is not put down to its stroke.
        held = np.sqrt(hold * weight.sum()) * np.r_[np.zeros(6), 1]
        rows, wanted = np.vstack([design * scale * root, held]), np.r_[off * root[:, 0], -held[6] * bolder]
        step = np.linalg.lstsq(rows, wanted, rcond=1e-3)[0] * scale
        turn = np.stack([step[2:4], step[4:6]], 1)
        onto = np.c_[onto[:, :2] + turn, onto[:, 2] + step[:2] - turn @ middle]
        bolder += step[6]
    return onto


def _outline(cover: np.ndarray) -> np.ndarray:
    """(N, 4): places on the outlines, a pixel or two apart, and the way they run."""
    curves = []
    for curve in find_contours(cover, 0.5):
        if len(curve) < 8:
            continue
        places = np.fliplr(curve)
        curves.append(np.c_[places, np.roll(places, -2, axis=0) - np.roll(places, 2, axis=0)][2:-2])
    return np.vstack(curves) if curves else np.zeros((0, 4))


def _normals(outline: np.ndarray) -> np.ndarray:
    across = np.stack([-outline[:, 3], outline[:, 2]], 1)
    return across / (np.hypot(*across.T)[:, None] + 1e-9)


def _grown(onto: np.ndarray, one: np.ndarray, *, word: bool) -> float:
    """How many times as large ours is. Of a word by its height: along it, wider gaps would pass for size."""
    if not word:
        return float(np.sqrt(abs(np.linalg.det(onto[:, :2]))))
    rows, columns = (np.ptp(np.flatnonzero((one > 0.5).any(axis))) for axis in (1, 0))
    across = np.array([0.0, 1.0]) if columns >= rows else np.array([1.0, 0.0])
    return float(np.hypot(*(onto[:, :2] @ across)))


def _middle(cover: np.ndarray) -> np.ndarray:
    own = np.where(cover > 0.3, cover, 0)
    y, x = np.mgrid[: own.shape[0], : own.shape[1]]
    return np.array([(own * x).sum(), (own * y).sum()]) / max(float(own.sum()), 1e-9)


def _differences(
    one: np.ndarray, other: np.ndarray, onto: np.ndarray, place: tuple[Any, ...]
) -> tuple[tuple[Any, ...], dict[str, Any]]:
    """Outlines of what theirs has and ours has not, and the other way round; and how many there are."""
    size = other.shape[::-1]
    laid = cv2.warpAffine(one, onto, size, flags=cv2.INTER_LINEAR)
    (at_mm, step, ours) = place
    stroke = ours.values[0, 0] * ours.image_step / step
    reach = 2 * max(1, round(min(TOLERATED * stroke, TOLERATED_OF_SIDE * max(one.shape)))) + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    least = LEAST_PART * float((laid > 0.5).sum())
    origin, (along, across) = ours.points[0], ours.points[1:] - ours.points[0]
    along, across = along / np.hypot(*along), across / np.hypot(*across)
    overlay: list[Stroke] = []
    counts: dict[str, float] = {}
    for label, key, has, lacks in ((MISSING, "missing", laid, other), (TOO_MUCH, "too_much", other, laid)):
        apart = (has > 0.5).astype(np.uint8) & ~cv2.dilate((lacks > 0.4).astype(np.uint8), kernel)
        # Told by what lies well off, outlined with all that belongs to it.
        _, labels = cv2.connectedComponents(((has > 0.5) & (lacks < 0.4)).astype(np.uint8))
        whole = np.isin(labels, np.setdiff1d(np.unique(labels[apart > 0]), [0])).astype(np.uint8)
        curves, _ = cv2.findContours(whole, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        large = [curve[:, 0] for curve in curves if cv2.contourArea(curve) >= max(least, 4.0)]
        counts |= {key: float(len(large)), f"{key}_uncertainty": 0.2}
        for curve in large:
            spots = np.vstack([curve, curve[:1]]) * step + at_mm
            placed = origin + spots @ np.stack([along, across])
            overlay.append(Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in placed), label))
    return tuple(overlay), counts


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {
        "turned_deg": "deg",
        "across_mm": "mm",
        "shifted_mm": "mm",
        "size_pct": "%",
        "stroke_pct": "%",
        "spacing_pct": "%",
        "missing": "count",
        "too_much": "count",
    },
    frozenset({"spacing_pct"}),
    # How far printed words of verified practice pairs vary, and what laying on is unsure of.
    floors={
        "turned_deg": 0.3,
        "across_mm": 0.25,
        "shifted_mm": 0.5,
        "size_pct": 0.8,
        "stroke_pct": 4.0,
        "spacing_pct": 0.8,
    },
)

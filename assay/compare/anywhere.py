"""Where a suspect's photograph differs from the verified pairs' in a way that they do not differ among themselves.

No check is needed: pictures of one view are laid over each other, light and colour made alike, and looked at place by
place, each allowed to lie a little aside (parts move by tenths of a millimetre from pair to pair). A pointer for the
eye: what it shows is never graded and never weighed. Sources: local patches as in block matching; the spread among the
verified pairs takes the place of a noise model (change detection by a background's own variation, as in Radke et al.,
Image change detection algorithms: a systematic survey, IEEE TIP 14(3), 2005).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np

from assay.imaging.colour import LIGHT_OF
from assay.register.affine import Alignment

SIDE = 1000
"""Pictures are looked at this large, longer side, px."""
GRID = 16
"""An alignment's bend is worked out every so many px."""
REFINED_SIDE = 500
MOST_REFINED_PX, MOST_TURNED = 40.0, 0.06
"""A picture that lies roughly is laid on as a whole at this size, and moved no further."""
ASIDE = 4
"""A place may lie so many px aside, both ways."""
PATCH = 7
"""Places are compared by patches of so many px."""
STEPS = 1.0
"""Features are kept in so many steps a unit: with more, strong edges would be cut."""
MEDIAN_LIGHT = 0.25
LIGHT_PX = 45
"""Light that changes over more than this (standard deviation, px) is no difference."""
COARSELY = 0.125
COLOUR, EDGES = 0.6, 1.6
"""How much hue and edges count beside light."""
LEAST_APART = 0.5
"""Even one picture laid on itself again differs by so much: it is resampled."""
ROOM = 13
"""What the verified pairs differ by holds for so many px around, too."""
TIMES, FLOOR = 1.5, 3.5
"""A place differs where it lies so many times beyond them, and by so many times their typical difference at least."""
LONE_FLOOR = 6.0
"""The same with a single verified pair, which shows no spread."""
SMALLEST = 40
"""Places, px of the small picture, that a region has at least."""
CLOSE = 13
"""Places nearer to each other than this, px, make one region."""
MOST = 10
LEAST_STRENGTH = 90.0
"""Of weaker ones genuine pairs show several a photograph."""
EDGE_ROOM = 13
"""So near the thing's rim, px, nothing is said: outlines have a measure of their own."""
SOUGHT = 14
"""How far a part is sought that may have moved, px."""
MOVED_ALIKE = 0.72
"""And how alike (correlation) it must be found there."""
LEAST_MOVED_PX = 3.0
APART_PX, CLEARLY = 6.0, 0.1
"""A second place so far from the best must be less alike by so much."""
FEWER_EDGES, MORE_EDGES = 0.62, 1.6
LEAST_COLOUR = 5.0
SMOOTHER, COARSER = 0.7, 1.45

Planes = tuple[np.ndarray, ...]


@dataclass(frozen=True, slots=True)
class Difference:
    """One region that differs."""

    reference: tuple[float, float, float, float]
    """x, y, width, height on the reference photograph, px."""
    here: tuple[float, float, float, float]
    """The same on the suspect's."""
    strength: float
    """By how many of the verified pairs' typical differences, summed over its places."""
    kind: str
    """``moved``, ``missing``, ``extra``, ``lighter``, ``darker``, ``hue``, ``smoother``, ``coarser`` or ``other``."""
    amount: float = 0.0
    """Of ``moved`` px of the reference; of light and hue CIELAB units."""
    towards: str = ""
    """Of ``moved``: left, right, up or down, as the reference lies."""


def differences(
    reference: np.ndarray,
    outline: np.ndarray,
    suspect: tuple[np.ndarray, Alignment],
    others: Sequence[tuple[np.ndarray, Alignment]] = (),
) -> list[Difference]:
    """Regions of a suspect's photograph, the strongest first, at most ``MOST``.

    ``reference``: (H, W, 3) uint8 of a verified pair; ``outline``: (N, 2) its thing's, px; ``suspect``, ``others``:
    photographs of the suspect and of more verified pairs with how the reference lies on each.
    """
    scale = SIDE / max(reference.shape[:2])
    small = cv2.resize(reference, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    mask = np.zeros(small.shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.round(outline * scale).astype(np.int32)], 1)
    mask = cv2.erode(mask, np.ones((2 * EDGE_ROOM + 1,) * 2, np.uint8), borderValue=0) > 0
    laid = [_refined(small, _laid(one, alignment, scale, small.shape), mask) for one, alignment in (*others, suspect)]
    pictures = [small, *laid]
    seen = np.all([picture.max(2) > 0 for picture in pictures], axis=0) & mask
    if seen.sum() < SMALLEST:
        return []
    *retail, ours = (_features(picture, seen) for picture in pictures)
    away = np.min([_apart(ours, one) for one in retail], axis=0)
    beyond = np.where(seen, away / _bar(retail, away, seen) - 1, 0.0)
    return [_told(region, beyond, pictures[0], pictures[-1], seen, scale, suspect[1]) for region in _regions(beyond)]


def _told(
    region: np.ndarray,
    beyond: np.ndarray,
    reference: np.ndarray,
    suspect: np.ndarray,
    seen: np.ndarray,
    scale: float,
    alignment: Alignment,
) -> Difference:
    kind, amount, towards = _kind(region, reference, suspect, seen)
    box = _box(region, scale)
    corners = np.array(box[:2]) + np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * box[2:]
    there = alignment.place(corners)
    (left, top), (wide, tall) = there.min(0).tolist(), np.ptp(there, axis=0).tolist()
    here = (left, top, wide, tall)
    return Difference(
        box, here, float(beyond[region].sum()), kind, amount / scale if kind == "moved" else amount, towards
    )


def _refined(reference: np.ndarray, laid: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """A picture that lies roughly, laid on as a whole (ECC; Evangelidis & Psarakis, IEEE PAMI 30(10), 2008); as it was
    where that finds nothing."""
    shrink = REFINED_SIDE / max(reference.shape[:2])
    grey = [cv2.resize(cv2.cvtColor(one, cv2.COLOR_RGB2GRAY), None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
            for one in (reference, laid)]  # fmt: skip
    within = cv2.resize(mask.astype(np.uint8), grey[0].shape[::-1], interpolation=cv2.INTER_NEAREST)
    stop = (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 40, 1e-4)
    try:
        _, matrix = cv2.findTransformECC(*grey, np.eye(2, 3, dtype=np.float32), cv2.MOTION_AFFINE, stop, within, 5)
    except cv2.error:
        return laid
    matrix[:, 2] /= shrink
    if np.abs(matrix - np.eye(2, 3)).max() > MOST_REFINED_PX or np.abs(matrix[:, :2] - np.eye(2)).max() > MOST_TURNED:
        return laid
    size = laid.shape[1::-1]
    better = cv2.warpAffine(laid, matrix, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    off = [float(cv2.absdiff(reference, one).sum(2)[mask].mean()) for one in (laid, better)]
    return better if off[1] < off[0] else laid


def _laid(rgb: np.ndarray, alignment: Alignment, scale: float, shape: tuple[int, ...]) -> np.ndarray:
    """A picture as it lies under the small reference; black where it shows nothing."""
    ys, xs = np.mgrid[0 : shape[0] + GRID : GRID, 0 : shape[1] + GRID : GRID]
    spots = (np.stack([xs.ravel(), ys.ravel()], 1) + 0.5) / scale - 0.5
    placed = alignment.place(spots).reshape(*xs.shape, 2)
    stretch = float(np.sqrt(abs(np.linalg.det(alignment.matrix[:, :2]))))
    shrink = min(1.0, scale / stretch)
    small = cv2.resize(rgb, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA) if shrink < 1 else rgb
    placed = ((placed + 0.5) * shrink - 0.5).astype(np.float32)
    size = (xs.shape[1] * GRID, xs.shape[0] * GRID)
    # Grid points stand at the cells' corners: half a cell more to their middles.
    dense = cv2.resize(placed, size, interpolation=cv2.INTER_LINEAR)
    shift = GRID // 2
    dense = cv2.warpAffine(
        dense, np.array([[1, 0, -shift + 0.5], [0, 1, -shift + 0.5]], np.float32), size, borderMode=cv2.BORDER_REPLICATE
    )[: shape[0], : shape[1]]
    return cv2.remap(small, dense[..., 0], dense[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)


def _features(rgb: np.ndarray, seen: np.ndarray) -> Planes:
    """Five planes, 128 in their middle: light with slow changes taken off, hue, and edges by their direction; exposure
    and white balance made alike (von Kries: every channel scaled, so that all pictures have one median)."""
    linear = cv2.LUT(cv2.GaussianBlur(rgb, (0, 0), 0.8), LIGHT_OF)
    linear = linear * (MEDIAN_LIGHT / np.maximum(np.median(linear[seen], axis=0), 1e-3)).astype(np.float32)
    lab = cv2.cvtColor(np.clip(linear, 0, 1), cv2.COLOR_LRGB2Lab)
    light = lab[..., 0] - _slow(lab[..., 0], seen)
    light /= np.median(np.abs(light[seen])) / 6 + 1e-3
    x, y = (cv2.Sobel(light, cv2.CV_32F, *way, ksize=3) / 4 for way in ((1, 0), (0, 1)))
    planes = (light, COLOUR * lab[..., 1], COLOUR * lab[..., 2], EDGES * x, EDGES * y)
    return tuple(np.clip(128 + STEPS * plane, 0, 255).astype(np.uint8) for plane in planes)


def _slow(light: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """What changes slowly of it, worked out coarsely."""
    weight = cv2.resize(seen.astype(np.float32), None, fx=COARSELY, fy=COARSELY, interpolation=cv2.INTER_AREA)
    weighed = cv2.resize(light * seen, None, fx=COARSELY, fy=COARSELY, interpolation=cv2.INTER_AREA)
    far = LIGHT_PX * COARSELY
    slow = cv2.GaussianBlur(weighed, (0, 0), far) / (cv2.GaussianBlur(weight, (0, 0), far) + 1e-3)
    return cv2.resize(slow, light.shape[::-1], interpolation=cv2.INTER_LINEAR)


def _apart(one: Planes, other: Planes) -> np.ndarray:
    """(H, W) how unlike the patch round each place is to the likest near it on the other picture, as either picture
    shows it: what is missing on one is there on the other."""
    height, width = one[0].shape
    padded = [cv2.copyMakeBorder(plane, *(4 * (ASIDE,)), cv2.BORDER_REPLICATE) for plane in other]
    forth, back = np.full((2, height, width), np.iinfo(np.uint16).max, np.uint16)
    for dx, dy in ((x, y) for x in range(-ASIDE, ASIDE + 1, 2) for y in range(-ASIDE, ASIDE + 1, 2)):
        there = np.s_[ASIDE + dy : ASIDE + dy + height, ASIDE + dx : ASIDE + dx + width]
        apart = cv2.absdiff(one[0], padded[0][there])
        for mine, theirs in zip(one[1:], padded[1:], strict=True):
            apart = cv2.add(apart, cv2.absdiff(mine, theirs[there]))
        apart = cv2.boxFilter(apart, cv2.CV_16U, (PATCH, PATCH), normalize=False)
        np.minimum(forth, apart, out=forth)
        ys, xs = max(0, dy), max(0, dx)
        shown = back[ys : height + min(0, dy), xs : width + min(0, dx)]
        np.minimum(shown, apart[ys - dy : ys - dy + shown.shape[0], xs - dx : xs - dx + shown.shape[1]], out=shown)
    return np.maximum(forth, back).astype(np.float32) / (STEPS * PATCH**2)


def _bar(retail: Sequence[Planes], away: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """(H, W) from where on a place is unlike retail: what retail pairs differ by there, and at least some times what
    they, or with a single one the two pictures, typically do."""
    if len(retail) < 2:
        # Where there are edges, whatever lies a little aside differs.
        steep = sum(np.abs(plane.astype(np.float32) - 128) for plane in retail[0][3:])
        edges = cv2.dilate(cv2.blur(steep, (ROOM, ROOM)), np.ones((ROOM, ROOM), np.uint8))
        edges /= float(np.median(edges[seen])) + 1e-6
        return LONE_FLOOR * (float(np.median(away[seen])) + LEAST_APART) * np.maximum(1.0, edges)
    apart = {pair: _apart(retail[pair[0]], retail[pair[1]]) for pair in combinations(range(len(retail)), 2)}
    nearest = [np.min([value for pair, value in apart.items() if m in pair], axis=0) for m in range(len(retail))]
    own = cv2.dilate(np.max(nearest, axis=0), np.ones((ROOM, ROOM), np.uint8))
    return np.maximum(TIMES * own, FLOOR * (float(np.median(own[seen])) + LEAST_APART) / 2)


def _regions(beyond: np.ndarray) -> list[np.ndarray]:
    """Masks of places that belong together, the strongest first."""
    far = beyond > 0
    joined = cv2.dilate(far.astype(np.uint8), np.ones((CLOSE, CLOSE), np.uint8))
    count, labels = cv2.connectedComponents(joined, connectivity=8)
    masks = [(labels == n) & far for n in range(1, count)]
    masks = [mask for mask in masks if mask.sum() >= SMALLEST and beyond[mask].sum() >= LEAST_STRENGTH]
    return sorted(masks, key=lambda mask: -beyond[mask].sum())[:MOST]


def _box(mask: np.ndarray, scale: float, room: int = 6) -> tuple[float, float, float, float]:
    ys, xs = np.nonzero(mask)
    left, top = max(xs.min() - room, 0) / scale, max(ys.min() - room, 0) / scale
    return (float(left), float(top), float((np.ptp(xs) + 2 * room) / scale), float((np.ptp(ys) + 2 * room) / scale))


def _kind(mask: np.ndarray, reference: np.ndarray, suspect: np.ndarray, seen: np.ndarray) -> tuple[str, float, str]:
    """What differs: moved, tone, gone or added, grain."""
    ours, theirs = (
        cv2.cvtColor(cv2.GaussianBlur(picture, (0, 0), 1.0).astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
        for picture in (suspect, reference)
    )
    moved = _moved(ours[..., 0], theirs[..., 0], cv2.boundingRect(mask.astype(np.uint8)))
    if moved:
        return "moved", *moved
    tone = np.median((ours - theirs)[mask], axis=0) - np.median((ours - theirs)[seen], axis=0)
    hue, light = float(np.hypot(*tone[1:])), float(abs(tone[0]))
    steep = [float(_steep(one[..., 0])[mask].mean()) + 1e-3 for one in (ours, theirs)]
    grain = [float((one - cv2.GaussianBlur(one, (0, 0), 2.0))[..., 0][mask].std()) + 1e-3 for one in (ours, theirs)]
    told = {
        "hue": (hue >= LEAST_COLOUR and hue > light, hue),
        "missing": (steep[0] < FEWER_EDGES * steep[1], 0.0),
        "extra": (steep[0] > MORE_EDGES * steep[1], 0.0),
        "lighter": (tone[0] >= LEAST_COLOUR, light),
        "darker": (tone[0] <= -LEAST_COLOUR, light),
        "smoother": (grain[0] < SMOOTHER * grain[1], 0.0),
        "coarser": (grain[0] > COARSER * grain[1], 0.0),
    }
    return next(((kind, amount, "") for kind, (is_so, amount) in told.items() if is_so), ("other", 0.0, ""))


def _steep(light: np.ndarray) -> np.ndarray:
    return np.hypot(cv2.Sobel(light, cv2.CV_32F, 1, 0), cv2.Sobel(light, cv2.CV_32F, 0, 1))


def _moved(ours: np.ndarray, theirs: np.ndarray, box: tuple[int, int, int, int]) -> tuple[float, str] | None:
    """How far and which way what the reference shows there lies on the suspect's, if it lies elsewhere at all."""
    x, y, width, height = box
    left, top = max(0, x - SOUGHT), max(0, y - SOUGHT)
    field = ours[top : y + height + SOUGHT, left : x + width + SOUGHT]
    patch = theirs[y : y + height, x : x + width]
    if (
        min(patch.shape) < PATCH
        or patch.std() < 1.0
        or any(a < b for a, b in zip(field.shape, patch.shape, strict=True))
    ):
        return None
    alike = cv2.matchTemplate(field, patch, cv2.TM_CCOEFF_NORMED)
    _, best, _, (at_x, at_y) = cv2.minMaxLoc(alike)
    here = alike[min(y - top, alike.shape[0] - 1), min(x - left, alike.shape[1] - 1)]
    dx, dy = at_x - (x - left), at_y - (y - top)
    far = float(np.hypot(dx, dy))
    # A grid looks like itself a step further: where the part may lie in two places, it is said to lie in neither.
    ys, xs = np.mgrid[: alike.shape[0], : alike.shape[1]]
    elsewhere = alike[np.hypot(ys - at_y, xs - at_x) > APART_PX]
    rival = max(float(here), float(elsewhere.max(initial=-1.0)))
    if best < MOVED_ALIKE or far < LEAST_MOVED_PX or best - rival < CLEARLY:
        return None
    if abs(dx) > abs(dy):
        return far, "right" if dx > 0 else "left"
    return far, "down" if dy > 0 else "up"

"""The rim of a thing on a plain ground, to a fraction of a pixel.

First what differs from the ground, coarsely: the ground's colour is a gentle surface in Lab, and a shadow is the
ground, darker. Then, in a band unrolled along that rough rim, the outermost sharp step from quiet ground is followed by
dynamic programming (Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990): a shadow's edge is soft and loses, an inner seam
has the rim outside of it and loses as well.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d, median_filter
from scipy.spatial import cKDTree

from assay.contracts import Marks, Picture
from assay.errors import CannotMeasure
from assay.photo.follow import best_path, refined
from assay.photo.frame import frame_of
from assay.photo.remember import Remembered
from assay.photo.subject import find_subjects

# How far from the ground's colour (Lab) the thing is looked for: pale on pale is tried where the first is not sure.
OFF_GROUND, SURE = (7.0, 4.0, 2.5), 0.01
# Working size of the coarse step, and of the band's picture: longer sides are shrunk to it.
BAND_SIDE = 1800
STEP_PX, REACH_SHARE, SMOOTH = 1.5, 0.012, 4
# Light counts through its square root: between light, in which dark steps vanish, and its logarithm.
SOFTEN_PX = 1.1
ROOTS = np.sqrt(np.arange(256, dtype=np.float32))
# A step further out counts against one further in by this share of its strength.
OUTER_WINS = 0.85
# A firm step is as good as a firmer one: where the way runs on its flank it is moved to its top, so many px at most.
TOP_PX = 2.0
# What moving sideways by a pixel from point to point costs, against a firm step.
STIFF = 0.24
# A step is firm from so many times the ground's scatter, and from this share of the typical step on.
FULL, FULL_SHARE = 8.0, 0.2
CLEAR = 4.0
# A step that is as steep for so many pixels to both sides, its grain smoothed, is soft: by how much it stands out from
# that, a shadow less than SOFT, a rim more than SHARP.
SOFT_PX, GRAIN_PX, SOFT, SHARP = 4.5, 2.0, 1.25, 1.9
# A stretch that shows less than so much of what the rim shows round about, some points more on both sides, is astray:
# up to so many points, where straight on, so many px aside at most, this share of it shows; or a fainter one, but so
# many times what shows on the way.
WEAK, ASIDE, MOST_ASTRAY, STRAIGHT_ON_PX, GOES_ON = 0.4, 8, 60, 4.0, 0.35
FAINTLY, MUCH_MORE = 0.2, 1.5
# How far out, as a share of the size, another sharp step is looked for; for how long it must stand there, how firmly,
# and what staying on the rim is worth against it.
OUT_SHARE, LONG_SHARE, FIRM, STAYS = 0.045, 0.035, 0.8, 0.5
# Softening along the rim, in points, and how far it reaches.
ALONG, ALONG_REACH = 1.5, 6
# Shares of a rim that may be a guess: for the rim to be read at all, and without a word about it.
GUESSED_MOST, GUESSED_UNSAID = 0.2, 0.08
_remembered = Remembered(kept=2)


@dataclass(frozen=True, slots=True)
class Rim:
    """A closed rim."""

    points: np.ndarray
    """(N, 2) picture pixels, evenly stepped, clockwise as seen."""
    clear: np.ndarray
    """(N,) how far the step stands out from the ground's own scatter there; under 1 it is a guess."""

    @property
    def guessed(self) -> float:
        """Share of it that cannot be told from the ground."""
        return float((self.clear < 1).mean())


def rim_of(picture: Picture, marks: Marks) -> tuple[Rim, tuple[str, ...]]:
    """The rim inside a marked region, and the doubts about picture and rim.

    Raises what marks and rim raise, and CannotMeasure ``rim_unclear`` where too much of it is a guess.
    """
    rim = find_rim(picture.rgb, marks.checked(picture.size))
    if rim.guessed > GUESSED_MOST:
        raise CannotMeasure("rim_unclear", share=round(100 * rim.guessed))
    guessed = ("rim_partly_guessed",) if rim.guessed > GUESSED_UNSAID else ()
    return rim, tuple(dict.fromkeys((*picture.doubts, *guessed)))


def find_rim(rgb: np.ndarray, within_px: np.ndarray | None = None) -> Rim:
    """Find the rim of the one thing in an upright (H, W, 3) uint8 picture; ``within_px``: a loose region around it.

    The last few are remembered: several gauges are read off one rim. Raises CannotMeasure ``nothing_stands_out`` or
    ``cut_by_frame``.
    """
    key = b"" if within_px is None else np.asarray(within_px, float).tobytes()
    return _remembered.of(rgb, key, lambda: _found(rgb, within_px))


def _found(rgb: np.ndarray, within_px: np.ndarray | None) -> Rim:
    frame = frame_of(rgb)
    # Shrunk by area: rims move by what cheaper ways leave behind.
    scale = min(1.0, BAND_SIDE / max(rgb.shape[:2]))
    small = cv2.resize(rgb, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else rgb
    roots = cv2.LUT(small, ROOTS)
    best, refusal, begun = None, CannotMeasure("nothing_stands_out"), []
    for subject in find_subjects(frame, OFF_GROUND, within_px=within_px):
        if not subject.found or subject.cut_off:
            refusal = refusal if not subject.found else CannotMeasure("cut_by_frame")
            continue
        # An outline within the reach of what was found, or of what that began with, leads to the same rim.
        away = min((tree.query(subject.outline)[0].max() * scale for tree in begun), default=np.inf)
        if away > REACH_SHARE / 2 * max(small.shape[:2]):
            rim = _around(roots, subject.outline, scale)
            begun += [cKDTree(subject.outline), cKDTree(rim.points)]
            if best is None or rim.guessed < best.guessed:
                best = rim
        if best.guessed < SURE:
            break
    if best is None:
        raise refusal
    return _further_out(roots, best, scale, within_px)


def _around(roots: np.ndarray, outline: np.ndarray, scale: float) -> Rim:
    """The rim near a rough outline in full pixels: far around it by whole pixels, then near what was found by half."""
    loop = _even((outline + 0.5) * scale - 0.5, STEP_PX)
    reach = REACH_SHARE * max(roots.shape[:2])
    points, _ = _follow(roots, loop, reach, 1.0)
    points, clear = _follow(roots, _even(_outermost(points, roots.shape), STEP_PX), reach / 2, 0.5)
    return Rim((points + 0.5) / scale - 0.5, clear)


def _follow(roots: np.ndarray, loop: np.ndarray, reach: float, sample: float) -> tuple[np.ndarray, np.ndarray]:
    """The outermost sharp step within ``reach`` pixels on both sides of a loop, looked at every ``sample`` pixels.

    ``roots``: square roots of sRGB.
    """
    across = np.arange(-reach, reach + sample / 2, sample)
    loop, normal, strength = _unrolled(roots, loop, across)
    noise = float(np.median(strength[:, -max(3, len(across) // 6) :])) + 1e-4
    # A step that is clear is as good as any clearer one: a shoe's own edges are often stronger than its rim.
    full = max(FULL * noise, FULL_SHARE * float(np.median(strength.max(1))))
    firm = np.minimum(strength / full, 1.0) + 0.1 * np.minimum(strength / full, 3.0)
    firm *= _sharpness(strength, noise, sample)
    outside = np.maximum.accumulate(firm[:, ::-1], axis=1)[:, ::-1]
    # The strongest step outside of a place, its own flank left out.
    gap = round(2.5 * SOFTEN_PX / sample)
    further = np.pad(outside[:, gap:], ((0, 0), (0, gap)))
    at = best_path(firm - OUTER_WINS * further, STIFF * sample, closed=True)
    at = refined(strength, _on_top(strength, at, round(TOP_PX / sample)))
    at = _healed(strength, at, loop, normal, sample)
    at = gaussian_filter1d(at, 1.2, mode="wrap")
    rows = np.arange(len(loop))
    seen = strength[rows, np.clip(np.round(at).astype(int), 0, len(across) - 1)]
    return loop + normal * np.interp(at, np.arange(len(across)), across)[:, None], seen / (CLEAR * noise)


def _further_out(roots: np.ndarray, rim: Rim, scale: float, within_px: np.ndarray | None) -> Rim:
    """The rim moved out where a sharp step stands outside it for long: a lining seen behind the collar has nearly the
    ground's tone, and was taken for shadow."""
    size = max(roots.shape[:2])
    across = np.arange(STRAIGHT_ON_PX, OUT_SHARE * size)
    loop, normal, strength = _unrolled(roots, _even((rim.points + 0.5) * scale - 0.5, 2 * STEP_PX), across)
    noise = float(np.median(strength[:, -len(across) // 4 :])) + 1e-4
    firm = np.minimum(strength / (FULL * noise), 1.0) * _sharpness(strength, noise, 1.0)
    # The first column stands for the rim as it is.
    at = np.round(best_path(np.c_[np.full(len(loop), STAYS), firm], STIFF, closed=True)).astype(int)
    out = np.where(at > 0, across[np.maximum(at, 1) - 1], 0.0)
    shown = firm[np.arange(len(loop)), np.maximum(at, 1) - 1]
    turn = int(np.argmin(at))
    moved = []
    for first, last in _stretches(np.roll(at > 0, -turn)):
        run = (np.arange(first, last) + turn) % len(loop)
        places = (loop[run] + normal[run] * out[run, None] + 0.5) / scale - 0.5
        if len(run) * 2 * STEP_PX < LONG_SHARE * size or np.median(shown[run]) < FIRM or not _inside(places, within_px):
            out[run] = 0.0
        else:
            moved.append((loop[run[[0, -1]]] + 0.5) / scale - 0.5)
    if not moved:
        return rim
    start = _even(_outermost(loop + normal * out[:, None], roots.shape), STEP_PX)
    points, clear = _follow(roots, start, REACH_SHARE / 2 * size, 0.5)
    further = Rim((points + 0.5) / scale - 0.5, clear)
    for ends in moved:
        rim = _spliced(rim, further, ends)
    return rim


def _spliced(rim: Rim, other: Rim, ends: np.ndarray) -> Rim:
    """The rim with the other's way between the places nearest to two ends (2, 2)."""
    (first, last), (from_, to) = (cKDTree(one.points).query(ends)[1] for one in (rim, other))

    def between(part: np.ndarray, start: int, stop: int) -> np.ndarray:
        return np.roll(part, -start, axis=0)[: (stop - start) % len(part) + 1]

    return Rim(
        *(
            np.concatenate([between(ours, last, first), between(theirs, from_, to)])
            for ours, theirs in ((rim.points, other.points), (rim.clear, other.clear))
        )
    )


def _stretches(on: np.ndarray) -> Iterator[tuple[int, int]]:
    """First and past-the-last index of every stretch that is set."""
    changes = np.flatnonzero(np.diff(np.r_[0, on.astype(int), 0]))
    return zip(changes[::2], changes[1::2], strict=True)


def _inside(places: np.ndarray, within_px: np.ndarray | None) -> bool:
    if within_px is None:
        return True
    region = within_px.astype(np.float32)
    return all(cv2.pointPolygonTest(region, (float(x), float(y)), measureDist=False) >= 0 for x, y in places)


def _unrolled(roots: np.ndarray, loop: np.ndarray, across: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The loop smoothed, its outward normals (N, 2), and how steep the picture is ``across`` px out, (N, R)."""
    loop = gaussian_filter1d(loop, SMOOTH, axis=0, mode="wrap")
    tangent = np.gradient(np.vstack([loop[-1:], loop, loop[:1]]), axis=0)[1:-1]
    normal = np.stack([tangent[:, 1], -tangent[:, 0]], 1) / (np.hypot(*tangent.T)[:, None] + 1e-9)
    if _signed_area(loop) < 0:
        normal = -normal
    x, y = (
        middle[:, None] + way[:, None] * across.astype(np.float32)
        for middle, way in zip(loop.T.astype(np.float32), normal.T.astype(np.float32), strict=True)
    )
    band = cv2.remap(roots, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return loop, normal, _steepness(band, SOFTEN_PX / (across[1] - across[0]))


def _sharpness(strength: np.ndarray, noise: float, sample: float) -> np.ndarray:
    """0 to 1: a soft step, such as a shadow's rim, is as steep on and on; a sharp one stands alone."""
    reach = np.ones((1, 2 * round(SOFT_PX / sample) + 1), np.uint8)
    grain = (2 * round(4 * GRAIN_PX / sample) + 1, 1)
    smooth = cv2.GaussianBlur(strength, grain, GRAIN_PX / sample, borderType=cv2.BORDER_REPLICATE)
    soft = cv2.morphologyEx(smooth, cv2.MORPH_OPEN, reach)
    return np.clip((strength / (soft + noise / 3) - SOFT) / (SHARP - SOFT), 0, 1)


def _healed(strength: np.ndarray, at: np.ndarray, loop: np.ndarray, normal: np.ndarray, sample: float) -> np.ndarray:
    """The way without short stretches on which it leaves a strong step for a weak one, where the strong one goes on.

    Straight on between both ends a step nearly as strong as round about must show all along.
    """
    seen = strength[np.arange(len(at)), np.clip(np.round(at).astype(int), 0, strength.shape[1] - 1)]
    usual = median_filter(seen, 2 * MOST_ASTRAY + 1, mode="wrap")
    weak = cv2.dilate((seen < WEAK * usual).astype(np.uint8)[:, None], np.ones((2 * ASIDE + 1, 1), np.uint8))[:, 0] > 0
    if not weak.any() or weak.all():
        return at
    # Begun where the way is well, so that no stretch runs over the end.
    turn, middle = int(np.flatnonzero(~weak)[0]), (strength.shape[1] - 1) / 2
    weak, seen, at, usual, strength, loop, normal = (
        np.roll(one, -turn, axis=0) for one in (weak, seen, at, usual, strength, loop, normal)
    )
    for first, last in _stretches(weak):
        if last - first > MOST_ASTRAY or last >= len(at):
            continue
        run, ends = np.arange(first, last), np.array([first - 1, last])
        places = loop[ends] + normal[ends] * (at[ends] - middle)[:, None] * sample
        chord = np.stack([np.interp(run, ends, places[:, k]) for k in (0, 1)], 1)
        straight = ((chord - loop[run]) * normal[run]).sum(1) / sample + middle
        on = _on_top(strength[run], straight, round(STRAIGHT_ON_PX / sample))
        shows, astray = np.percentile(strength[run, on], 10), float(np.median(seen[run[ASIDE:-ASIDE]]))
        if shows > GOES_ON * usual[ends].min() or shows > max(MUCH_MORE * astray, FAINTLY * usual[ends].min()):
            at[run] = refined(strength[run], on)
    return np.roll(at, turn)


def _on_top(strength: np.ndarray, at: np.ndarray, reach: int) -> np.ndarray:
    """For each row's column the steepest one within ``reach`` columns."""
    near = np.round(at).astype(int)[:, None] + np.arange(-reach, reach + 1)
    near = near.clip(0, strength.shape[1] - 1)
    return near[np.arange(len(at)), np.take_along_axis(strength, near, 1).argmax(1)]


def _steepness(band: np.ndarray, across: float) -> np.ndarray:
    """How steep a closed (N, R, 3) float32 band is across, softened by so many samples and a little along, (N, R)."""
    reach = int(4 * across + 0.5)
    at = np.arange(-reach, reach + 1)
    bell = np.exp(-0.5 * (at / across) ** 2)
    slope = at / across**2 * bell / bell.sum()
    soft = cv2.getGaussianKernel(2 * ALONG_REACH + 1, ALONG)
    closed = np.concatenate([band[-ALONG_REACH:], band, band[:ALONG_REACH]])
    steep = cv2.sepFilter2D(closed, cv2.CV_32F, slope, soft, borderType=cv2.BORDER_REFLECT)[ALONG_REACH:-ALONG_REACH]
    return np.sqrt(np.einsum("nrc,nrc->nr", steep, steep))


def _outermost(loop: np.ndarray, shape: tuple) -> np.ndarray:
    """The loop without knots: the outer rim of what it encloses."""
    fill = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(fill, [np.round(loop).astype(np.int32)], 1)
    fill = cv2.morphologyEx(fill, cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
    loops, _ = cv2.findContours(fill, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return max(loops, key=cv2.contourArea)[:, 0].astype(float)


def _even(loop: np.ndarray, step: float) -> np.ndarray:
    """A closed loop at even steps."""
    closed = np.vstack([loop, loop[:1]])
    length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    places = np.linspace(0, length[-1], max(32, round(length[-1] / step)), endpoint=False)
    return np.stack([np.interp(places, length, closed[:, k]) for k in (0, 1)], 1)


def _signed_area(loop: np.ndarray) -> float:
    """Positive where the loop runs clockwise as seen (y down)."""
    x, y = loop.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2

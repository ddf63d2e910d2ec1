"""The outermost sharp step near a curve round a thing, in a band unrolled along it.

Source: the way through the band by dynamic programming after Amini, Weymouth & Jain, IEEE PAMI 12(9), 1990. A shadow's
edge is soft and loses, an inner seam has the contour outside of it and loses as well. Pictures are square roots of
sRGB, (H, W, 3) float32.
"""

from collections.abc import Iterator

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d, median_filter

from assay.numeric.viterbi import best_path, refined

# A curve's steps, px, and how far it is smoothed, in steps.
STEP_PX = 2.0
SMOOTH = 3
# A step is seen softened by so many pixels across it (standard deviation).
SOFTEN_PX = 1.1
# A step further out counts against one further in by this share of its strength.
OUTER_WINS = 0.85
# A firm step is as good as a firmer one: where the way runs on its flank it is moved to its top, so many px at most.
TOP_PX = 2.0
# What moving sideways by a pixel from point to point costs, against a firm step.
STIFF = 0.24
# A step is firm from so many times the ground's scatter, and from this share of the typical step on.
FULL = 8.0
FULL_SHARE = 0.2
CLEAR = 4.0
# A step that is as steep for so many pixels to both sides, its grain smoothed, is soft: by how much it stands out from
# that, a shadow less than SOFT, a contour more than SHARP.
SOFT_PX = 4.5
GRAIN_PX = 2.0
SOFT = 1.25
SHARP = 1.9
# A stretch that shows less than so much of what the contour shows round about, some points more on both sides, is
# astray: up to so many points, where straight on, so many px aside at most, this share of it shows; or a fainter one,
# but so many times what shows on the way.
WEAK = 0.4
ASIDE = 6
MOST_ASTRAY = 45
STRAIGHT_ON_PX = 4.0
GOES_ON = 0.35
FAINTLY = 0.25
MUCH_MORE = 1.8
# Softening along the contour, in points, and how far it reaches.
ALONG = 1.2
ALONG_REACH = 5


def follow_step(roots: np.ndarray, curve: np.ndarray, reach: float) -> tuple[np.ndarray, np.ndarray]:
    """The outermost sharp step within ``reach`` pixels on both sides of a curve: (N, 2), and how far it stands out from
    the ground's own scatter, (N,); under 1 it is a guess.
    """
    across = np.arange(-reach, reach + 0.5)
    curve, normal, strength = unrolled(roots, curve, across)
    score, noise = outer_firm(strength)
    at = best_path(score, STIFF, closed=True)
    at = refined(strength, on_top(strength, at, round(TOP_PX)))
    at = _healed(strength, at, curve, normal)
    at = gaussian_filter1d(at, 1.2, mode="wrap")
    rows = np.arange(len(curve))
    seen = strength[rows, np.clip(np.round(at).astype(int), 0, len(across) - 1)]
    return curve + normal * np.interp(at, np.arange(len(across)), across)[:, None], seen / (CLEAR * noise)


def outer_firm(strength: np.ndarray) -> tuple[np.ndarray, float]:
    """How much each place of a band (N, R), outwards, is worth as the outermost firm, sharp step; and the ground's own
    scatter, seen at its outer side."""
    noise = float(np.quantile(strength[:, -max(3, strength.shape[1] // 6) :], 0.5)) + 1e-4
    # A step that is clear is as good as any clearer one: a shoe's own edges are often stronger than its contour.
    full = max(FULL * noise, FULL_SHARE * float(np.quantile(strength.max(1), 0.5)))
    firm = np.minimum(strength / full, 1.0) + 0.1 * np.minimum(strength / full, 3.0)
    firm *= sharpness(strength, noise)
    outside = np.maximum.accumulate(firm[:, ::-1], axis=1)[:, ::-1]
    # The strongest step outside of a place, its own flank left out.
    gap = round(2.5 * SOFTEN_PX)
    return firm - OUTER_WINS * np.pad(outside[:, gap:], ((0, 0), (0, gap))), noise


def unrolled(roots: np.ndarray, curve: np.ndarray, across: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The clockwise curve smoothed, its outward normals (N, 2), and how steep it is so far ``across``, px, (N, R)."""
    curve = gaussian_filter1d(curve, SMOOTH, axis=0, mode="wrap")
    tangent = np.gradient(np.vstack([curve[-1:], curve, curve[:1]]), axis=0)[1:-1]
    normal = np.stack([tangent[:, 1], -tangent[:, 0]], 1) / (np.hypot(*tangent.T)[:, None] + 1e-9)
    x, y = (
        middle[:, None] + way[:, None] * across.astype(np.float32)
        for middle, way in zip(curve.T.astype(np.float32), normal.T.astype(np.float32), strict=True)
    )
    band = cv2.remap(roots, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return curve, normal, steepness(band, closed=True)


def sharpness(strength: np.ndarray, noise: float) -> np.ndarray:
    """0 to 1: a soft step, such as a shadow's contour, is as steep on and on; a sharp one stands alone."""
    reach = np.ones((1, 2 * round(SOFT_PX) + 1), np.uint8)
    grain = (2 * round(4 * GRAIN_PX) + 1, 1)
    smooth = cv2.GaussianBlur(strength, grain, GRAIN_PX, borderType=cv2.BORDER_REPLICATE)
    soft = cv2.morphologyEx(smooth, cv2.MORPH_OPEN, reach)
    return np.clip((strength / (soft + noise / 3) - SOFT) / (SHARP - SOFT), 0, 1)


def outermost(curve: np.ndarray) -> np.ndarray:
    """The curve without knots, to a pixel or so: the outer contour of what it encloses, seen at half the size."""
    places = np.round(curve / 2).astype(np.int32)
    corner = places.min(0) - 1
    fill = np.zeros((places.max(0) - corner + 2)[::-1], np.uint8)
    cv2.fillPoly(fill, [places - corner], 1)
    fill = cv2.morphologyEx(fill, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    curves, _ = cv2.findContours(fill, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return 2.0 * (max(curves, key=cv2.contourArea)[:, 0] + corner)


def stretches(on: np.ndarray) -> Iterator[tuple[int, int]]:
    """First and past-the-last index of every stretch that is set."""
    changes = np.flatnonzero(np.diff(np.r_[0, on.astype(int), 0]))
    return zip(changes[::2], changes[1::2], strict=True)


def _healed(strength: np.ndarray, at: np.ndarray, curve: np.ndarray, normal: np.ndarray) -> np.ndarray:
    """The way without short stretches on which it leaves a strong step for a weak one, where the strong one goes on.

    Straight on between both ends a step nearly as strong as round about must show all along, or one far stronger than
    on the way.
    """
    seen = strength[np.arange(len(at)), np.clip(np.round(at).astype(int), 0, strength.shape[1] - 1)]
    usual = median_filter(seen, 2 * MOST_ASTRAY + 1, mode="wrap")
    weak = cv2.dilate((seen < WEAK * usual).astype(np.uint8)[:, None], np.ones((2 * ASIDE + 1, 1), np.uint8))[:, 0] > 0
    if not weak.any() or weak.all():
        return at
    # Begun where the way is well, so that no stretch runs over the end.
    turn, middle = int(np.flatnonzero(~weak)[0]), (strength.shape[1] - 1) / 2
    weak, seen, at, usual, strength, curve, normal = (
        np.roll(one, -turn, axis=0) for one in (weak, seen, at, usual, strength, curve, normal)
    )
    for first, last in stretches(weak):
        if last - first > MOST_ASTRAY or last >= len(at):
            continue
        run, ends = np.arange(first, last), np.array([first - 1, last])
        places = curve[ends] + normal[ends] * (at[ends] - middle)[:, None]
        chord = np.stack([np.interp(run, ends, places[:, k]) for k in (0, 1)], 1)
        straight = ((chord - curve[run]) * normal[run]).sum(1) + middle
        on = on_top(strength[run], straight, round(STRAIGHT_ON_PX))
        usually, shows, astray = usual[ends].min(), strength[run, on], seen[run]
        core = slice(ASIDE, -ASIDE)
        much_more = np.quantile(shows[core], 0.5) > max(MUCH_MORE * np.quantile(astray[core], 0.5), FAINTLY * usually)
        if much_more or np.quantile(shows, 0.1) > GOES_ON * usually:
            at[run] = refined(strength[run], on)
    return np.roll(at, turn)


def on_top(strength: np.ndarray, at: np.ndarray, reach: int) -> np.ndarray:
    """For each row's column the steepest one within ``reach`` columns."""
    near = np.round(at).astype(int)[:, None] + np.arange(-reach, reach + 1)
    near = near.clip(0, strength.shape[1] - 1)
    return near[np.arange(len(at)), np.take_along_axis(strength, near, 1).argmax(1)]


def steepness(band: np.ndarray, *, closed: bool) -> np.ndarray:
    """How steep a (N, R, 3) float32 band, ``closed`` or not, is across, softened across and a little along, (N, R)."""
    reach = int(4 * SOFTEN_PX + 0.5)
    at = np.arange(-reach, reach + 1)
    bell = np.exp(-0.5 * (at / SOFTEN_PX) ** 2)
    slope = at / SOFTEN_PX**2 * bell / bell.sum()
    soft = cv2.getGaussianKernel(2 * ALONG_REACH + 1, ALONG)
    if closed:
        band = np.concatenate([band[-ALONG_REACH:], band, band[:ALONG_REACH]])
    steep = cv2.sepFilter2D(band, cv2.CV_32F, slope, soft, borderType=cv2.BORDER_REFLECT)
    if closed:
        steep = steep[ALONG_REACH:-ALONG_REACH]
    return np.sqrt(np.einsum("nrc,nrc->nr", steep, steep))

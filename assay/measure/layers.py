"""The layers of a cut edge along a short path across it: a lace hole's rim, a panel's edge, a midsole's stack.

The path is straightened; the light and colour across its narrow band are averaged along the layers, and the run is cut
into bands of even colour by dynamic programming: each band costs its own scatter, each further band a fixed price
(Auger & Lawrence, Bull. Math. Biology 51(1), 1989; price as in Yao, Stat. & Prob. Letters 6, 1988). Borders are
sharpened to a fraction of a pixel. The bands at both ends lie outside the edge and are not layers.
"""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np
from skimage.color import rgb2lab

from assay.contracts import CORRECTED_BY_HAND, Marks, Measurement, Picture, Point, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.stitches.strip import straighten

METHOD = "layers/2"
PARTS = ("total_mm", "thinnest_mm", "thickest_mm")
# Half the width that is averaged, px; the thinnest band that is told, px; most bands.
HALF_PX = 6
THINNEST_PX = 2.5
MOST = 12
SHORTEST_PX = 12
# Bands differ by at least this much, CIELAB units, before noise is added.
TELLING = 3.0


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Count the layers along a path. Value: count; what lies outside the first and the last border is no layer.

    Parts: ``total_mm`` from the first border to the last, ``thinnest_mm``, ``thickest_mm``, and per layer its width
    ``layer_1_mm`` and mean colour ``layer_1_l`` ``_a`` ``_b``. Raises CannotMeasure ``path_too_short``,
    ``no_layers_found`` or what the marks raise.
    """
    strip = straighten(picture, marks.checked(picture.size))
    if strip.stop - strip.start < SHORTEST_PX:
        raise CannotMeasure("path_too_short", length_px=strip.stop - strip.start)
    path, normal = strip.path[strip.start : strip.stop], strip.normal[strip.start : strip.stop]
    profile, noise = _profile(picture, path, normal)
    borders = _borders(profile, noise)
    if len(borders) < 2:
        raise CannotMeasure("no_layers_found", bands=len(borders) + 1)
    at = np.array([_sharpened(profile, border) for border in borders])
    unit = picture.mm_per_px or 1.0
    name = "mm" if picture.mm_per_px else "px"
    widths = np.diff(at) * unit
    u = 0.35 * unit
    parts = {f"total_{name}": float(at[-1] - at[0]) * unit, f"total_{name}_uncertainty": u}
    parts |= {f"thinnest_{name}": float(widths.min()), f"thickest_{name}": float(widths.max())}
    for number, (width, first, last) in enumerate(zip(widths, borders, borders[1:], strict=False), start=1):
        lab = profile[first:last].mean(0)
        parts[f"layer_{number}_{name}"] = float(width)
        parts |= {f"layer_{number}_{axis}": float(value) for axis, value in zip("lab", lab, strict=True)}
    doubts = [*picture.doubts]
    if float(np.diff(at).min()) < 2 * THINNEST_PX:
        doubts.append("few_pixels")
    overlay = tuple(_across(path, normal, spot) for spot in at)
    return Measurement(
        len(widths), "count", 0.2, METHOD, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts))
    )


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Measurement:
    """Borders put right by a person: layers lie between them. Raises CannotMeasure ``no_points_left``."""
    if len(points) < 2:
        raise CannotMeasure("no_points_left")
    strip = straighten(picture, marks.checked(picture.size))
    path, normal = strip.path[strip.start : strip.stop], strip.normal[strip.start : strip.stop]
    at = np.sort([_along(path, point) for point in np.asarray(points, float)])
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    widths = np.diff(at) * unit
    parts = {f"total_{name}": float(widths.sum()), f"thinnest_{name}": float(widths.min())}
    parts |= {f"thickest_{name}": float(widths.max())}
    parts |= {f"layer_{n}_{name}": float(width) for n, width in enumerate(widths, start=1)}
    overlay = tuple(_across(path, normal, spot) for spot in at)
    return Measurement(
        len(widths), "count", 0.0, METHOD, MappingProxyType(parts), overlay, (*picture.doubts, CORRECTED_BY_HAND)
    )


def _along(path: np.ndarray, point: np.ndarray) -> float:
    """Where along the path a point lies, px."""
    near = int(np.clip(np.argmin(np.hypot(*(path - point).T)), 0, len(path) - 2))
    return near + float((point - path[near]) @ (path[near + 1] - path[near]))


def missing_layer(theirs: Sequence[Sequence[float]], ours: Sequence[Sequence[float]]) -> tuple[list[int], list[int]]:
    """Which layers of theirs have no partner in ours, and which of ours none in theirs, by colour and order.

    Layers are CIELAB colours, outside in. Alignment of two sequences (Needleman & Wunsch, J. Mol. Biology 48, 1970);
    a gap costs as much as a difference of 14 units.

    >>> missing_layer([(90, 0, 0), (40, 20, 20), (20, 0, 0)], [(88, 1, 0), (22, 0, 1)])
    ([1], [])
    """
    gap, cost = 14.0, np.zeros((len(theirs) + 1, len(ours) + 1))
    cost[:, 0], cost[0] = gap * np.arange(len(theirs) + 1), gap * np.arange(len(ours) + 1)
    for i, a in enumerate(theirs, start=1):
        for j, b in enumerate(ours, start=1):
            pair = cost[i - 1, j - 1] + float(np.linalg.norm(np.subtract(a, b)))
            cost[i, j] = min(pair, cost[i - 1, j] + gap, cost[i, j - 1] + gap)
    i, j, lost, extra = len(theirs), len(ours), [], []
    while i or j:
        if (
            i
            and j
            and np.isclose(cost[i, j], cost[i - 1, j - 1] + np.linalg.norm(np.subtract(theirs[i - 1], ours[j - 1])))
        ):
            i, j = i - 1, j - 1
        elif i and np.isclose(cost[i, j], cost[i - 1, j] + gap):
            i -= 1
            lost.append(i)
        else:
            j -= 1
            extra.append(j)
    return lost[::-1], extra[::-1]


def _profile(picture: Picture, path: np.ndarray, normal: np.ndarray) -> tuple[np.ndarray, float]:
    """(T, 3) CIELAB along the path, the median across its band, and the noise of one such value."""
    across = np.arange(-HALF_PX, HALF_PX + 1)
    grid = np.round(path[:, None] + normal[:, None] * across[None, :, None]).astype(int)
    grid = np.clip(grid, 0, np.array(picture.size) - 1)
    lab = rgb2lab(picture.rgb[grid[..., 1], grid[..., 0]])
    profile = np.median(lab, axis=1)
    spread = 1.4826 * np.median(np.abs(lab - profile[:, None]), axis=1)
    return profile, float(np.linalg.norm(np.median(spread, axis=0))) / np.sqrt(len(across)) + 1e-3


def _borders(profile: np.ndarray, noise: float) -> list[int]:
    """Where one even band ends and the next begins, by the cheapest cut into bands."""
    count, least = len(profile), int(np.ceil(THINNEST_PX))
    sums = np.vstack([np.zeros(3), np.cumsum(profile, axis=0)])
    squares = np.concatenate([[0], np.cumsum((profile**2).sum(1))])
    price = 0.5 * least * (TELLING + 4 * noise) ** 2
    best, back = np.full(count + 1, np.inf), np.zeros(count + 1, int)
    best[0] = -price
    for end in range(least, count + 1):
        starts = np.arange(0, end - least + 1)
        length = end - starts
        scatter = squares[end] - squares[starts] - ((sums[end] - sums[starts]) ** 2).sum(1) / length
        total = best[starts] + scatter + price
        back[end] = starts[int(total.argmin())]
        best[end] = total.min()
    borders, end = [], count
    while end > 0:
        end = int(back[end])
        borders.append(end)
    borders = borders[:-1][::-1]
    return _telling(profile, borders)[:MOST]


def _telling(profile: np.ndarray, borders: list[int]) -> list[int]:
    """Without the thin band that blur puts between two layers: its colour is a mix of its neighbours'."""
    kept = list(borders)
    n = 0
    while n + 1 < len(kept):
        first, last = kept[n], kept[n + 1]
        before = profile[kept[n - 1] if n else 0 : first].mean(0)
        after = profile[last : kept[n + 2] if n + 2 < len(kept) else len(profile)].mean(0)
        here, way = profile[first:last].mean(0), after - before
        share = float((here - before) @ way / (way @ way + 1e-9))
        aside = float(np.linalg.norm(here - before - share * way))
        if last - first < 3 * THINNEST_PX and 0.05 < share < 0.95 and aside < TELLING + 0.15 * np.linalg.norm(way):
            kept[n : n + 2] = [round(first + (1 - share) * (last - first))]
            n = max(0, n - 1)
        else:
            n += 1
    return kept


def _sharpened(profile: np.ndarray, border: int, reach: int = 4) -> float:
    """The border to a fraction of a pixel: half way between the levels on either side."""
    low, high = max(0, border - reach), min(len(profile), border + reach)
    before, after = profile[low : max(low + 1, border - 2)].mean(0), profile[min(border + 2, high - 1) : high].mean(0)
    way = after - before
    share = np.clip((profile[low:high] - before) @ way / (way @ way + 1e-9), 0, 1)
    return float(high - share.sum()) - 0.5


def _across(path: np.ndarray, normal: np.ndarray, at: float) -> Stroke:
    t = np.arange(len(path))
    middle = np.array([np.interp(at, t, path[:, k]) for k in (0, 1)])
    side = normal[int(np.clip(round(at), 0, len(path) - 1))] * HALF_PX
    ends = tuple((float(x), float(y)) for x, y in (middle - side, middle + side))
    return Stroke(StrokeKind.TICK, ends)

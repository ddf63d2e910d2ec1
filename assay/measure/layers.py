"""The layers of a cut edge along a short path across it: a lace hole's rim, a panel's edge, a midsole's stack.

The path is straightened; the light and colour across its narrow band are averaged along the layers, and the run is cut
into bands of even colour by dynamic programming: each band costs its own scatter, each further band a fixed price
(Auger & Lawrence, Bull. Math. Biology 51(1), 1989; price as in Yao, Stat. & Prob. Letters 6, 1988). Borders are
sharpened to a fraction of a pixel. The bands at both ends lie outside the edge and are not layers. What is kept for
comparing is each layer's colour, true where the light is known.
"""

from collections.abc import Sequence
from itertools import pairwise
from types import MappingProxyType

import numpy as np
from skimage.color import rgb2lab

from assay.compare import layers as sequence
from assay.contracts import (
    CORRECTED_BY_HAND,
    Descriptor,
    Light,
    MarkKind,
    Marks,
    Measurement,
    Picture,
    Point,
    Stroke,
    StrokeKind,
)
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.stitches.strip import straighten

# Half the width that is averaged, px; the thinnest band that is told, px; most bands.
HALF_PX = 6
THINNEST_PX = 2.5
MOST = 12
SHORTEST_PX = 12
# Bands differ by at least this much, CIELAB units, before noise is added.
TELLING = 3.0

BORDER_PX = 0.35
"""Standard uncertainty of a layer's width, px: drawn layers."""
MOST_LAYERS = 12
"""So many layers are named at most."""


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
    u = BORDER_PX * unit
    parts = {f"total_{name}": float(at[-1] - at[0]) * unit, f"total_{name}_uncertainty": u}
    parts |= {f"thinnest_{name}": float(widths.min()), f"thickest_{name}": float(widths.max())}
    parts |= {f"{which}_{name}_uncertainty": u for which in ("thinnest", "thickest")}
    for number, (width, first, last) in enumerate(
        zip(widths[:MOST_LAYERS], borders, borders[1:], strict=False), start=1
    ):
        lab = profile[first:last].mean(0)
        parts[f"layer_{number}_{name}"] = float(width)
        parts |= {f"layer_{number}_{axis}": float(value) for axis, value in zip("lab", lab, strict=True)}
    doubts = [*picture.doubts]
    if float(np.diff(at).min()) < 2 * THINNEST_PX:
        doubts.append("few_pixels")
    overlay = tuple(_across(path, normal, spot) for spot in at)
    colours = _colours(profile, borders)
    seen = _descriptor(picture, path, at, marks, colours)
    return Measurement(len(widths), "count", 0.2, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)), seen)


def rebuild(picture: Picture, marks: Marks, points: Sequence[Point]) -> Measurement:
    """Borders put right by a person: layers lie between them. Raises CannotMeasure ``no_points_left``."""
    if len(points) < 2:
        raise CannotMeasure("no_points_left")
    strip = straighten(picture, marks.checked(picture.size))
    path, normal = strip.path[strip.start : strip.stop], strip.normal[strip.start : strip.stop]
    at = np.sort([_along(path, point) for point in np.asarray(points, float)])
    profile, _ = _profile(picture, path, normal)
    colours = _colours(profile, np.clip(np.round(at).astype(int), 0, len(profile)))
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    widths = np.diff(at) * unit
    parts = {f"total_{name}": float(widths.sum()), f"thinnest_{name}": float(widths.min())}
    parts |= {f"thickest_{name}": float(widths.max())}
    parts |= {f"{which}_{name}_uncertainty": BORDER_PX * unit for which in ("total", "thinnest", "thickest")}
    parts |= {f"layer_{n}_{name}": float(width) for n, width in enumerate(widths[:MOST_LAYERS], start=1)}
    overlay = tuple(_across(path, normal, spot) for spot in at)
    doubts = (*picture.doubts, CORRECTED_BY_HAND)
    seen = _descriptor(picture, path, at, marks, colours)
    return Measurement(len(widths), "count", 0.0, MappingProxyType(parts), overlay, doubts, seen)


def _colours(profile: np.ndarray, borders: Sequence[int]) -> np.ndarray:
    """(N, 3) colour of every band, of its middle: towards its borders the blur mixes it with its neighbours."""
    inner = [(first, last, (last - first) // 4) for first, last in pairwise(borders)]
    return np.array([profile[first + edge : max(first + edge + 1, last - edge)].mean(0) for first, last, edge in inner])


def _descriptor(picture: Picture, path: np.ndarray, at: np.ndarray, marks: Marks, colours: np.ndarray) -> Descriptor:
    """Where each layer begins, and its colour."""
    t = np.arange(len(path))
    places = np.stack([np.interp(at[:-1], t, path[:, k]) for k in (0, 1)], 1)
    return Descriptor(sequence.KIND, places, np.asarray(marks.points), values=colours, light=picture.light)


def _along(path: np.ndarray, point: np.ndarray) -> float:
    """Where along the path a point lies, px."""
    near = int(np.clip(np.argmin(np.hypot(*(path - point).T)), 0, len(path) - 2))
    return near + float((point - path[near]) @ (path[near + 1] - path[near]))


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


def _sample() -> Sample:
    """Leather, foam and lining between the ground and a dark inside, 0.1 mm a pixel."""
    drawing = canvas(160, 90)
    colours = ((236, 232, 222), (222, 196, 110), (70, 92, 120), (28, 27, 26))
    for left, right, colour in zip((40, 48.5, 62.75, 68.75), (48.5, 62.75, 68.75, 160), colours, strict=True):
        bar(drawing, (left, 0, right, 90), colour)
    return exposed(drawing, 0.1, [[22, 45], [118, 45]], 3, light=Light.CARD)


MEASURE = Measure(
    name="layers",
    version=4,
    marks=MarkKind.PATH,
    measure=measure,
    rebuild=rebuild,
    unit="count",
    parts={"total_mm": "mm", "thinnest_mm": "mm", "thickest_mm": "mm"},
    unjudged={
        f"layer_{n}_{what}": unit
        for n in range(1, MOST_LAYERS + 1)
        for what, unit in (("mm", "mm"), ("l", "L*"), ("a", "L*"), ("b", "L*"))
    },
    comparing=sequence.COMPARING,
    drill="count",
    coarsest_mm_per_px=0.12,
    true_light=True,
    refuses=frozenset({"no_layers_found", "no_points_left"}),
    sample=_sample,
)

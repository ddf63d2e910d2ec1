"""Parts of a shoe under an ultraviolet lamp, drawn without the simulator: lines, stamps, smears, panels and lint."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter

from assay.imaging.colour import linear_to_srgb

LOOKS = {
    # blur (px), noise (linear), JPEG quality, glow over the lamp's own light, lint a picture
    "easy": (0.6, 0.004, 95, (5.0, 9.0), 3),
    "realistic": (0.9, 0.007, 88, (2.6, 7.0), 10),
    "hard": (1.3, 0.012, 78, (1.8, 4.0), 20),
}
COLOURS = ((0.35, 0.55, 1.0), (0.75, 0.85, 0.8), (0.8, 0.85, 0.35), (0.35, 0.9, 0.4), (0.95, 0.6, 0.3))
FONTS = (cv2.FONT_HERSHEY_SIMPLEX, cv2.FONT_HERSHEY_DUPLEX, cv2.FONT_HERSHEY_PLAIN, cv2.FONT_HERSHEY_COMPLEX_SMALL)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A photograph and what glows in it."""

    rgb: np.ndarray
    mm_per_px: float
    truth: list[tuple[str, np.ndarray]]
    """Form, and (h, w) bool where it lies, its gaps filled."""


def picture(level: str, seed: int, *, clean: bool = False) -> Drawn:
    """One picture: a few panels, seams, lint; unless ``clean``, one to five glowing things."""
    rng = np.random.default_rng([seed, list(LOOKS).index(level), clean])
    blur, noise, quality, over, lint = LOOKS[level]
    scale = float(rng.uniform(0.11, 0.3))
    size = (round(rng.uniform(70, 130) / scale), round(rng.uniform(100, 190) / scale))
    ground, seams = _ground(size, scale, rng)
    truth: list[tuple[str, np.ndarray]] = []
    glow = np.zeros((*size, 3), np.float32)
    taken = np.zeros(size, bool)
    if not clean:
        for _ in range(rng.integers(1, 6)):
            form = str(rng.choice(["line", "line", "stamp", "smear", "panel"], p=[0.3, 0.15, 0.25, 0.2, 0.1]))
            _add(form, (glow, truth, taken), (scale, seams, over, ground), rng)
    for _ in range(rng.poisson(lint)):
        _lint(glow, scale, over, ground, rng)
    light = ground + cv2.GaussianBlur(glow, (0, 0), 0.25 / scale)
    light = cv2.GaussianBlur(light, (0, 0), blur) * rng.uniform(0.8, 1.2)
    light = light + noise * np.sqrt(np.maximum(light, 0) / 0.05 + 0.3) * rng.normal(size=light.shape)
    rgb = np.clip(linear_to_srgb(np.clip(light, 0, 1)), 0, 255).astype(np.uint8)
    packed = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])[1]
    return Drawn(np.ascontiguousarray(cv2.imdecode(packed, cv2.IMREAD_COLOR)[..., ::-1]), scale, truth)


def _ground(size: tuple[int, int], scale: float, rng: np.random.Generator) -> tuple[np.ndarray, list[np.ndarray]]:
    """The lamp's violet on a few panels with grain, seams and a hot spot; and the panels' edges (N, 2) px."""
    height, width = size
    tone = np.full(size, rng.uniform(0.3, 0.8), np.float32)
    edges = []
    for _ in range(rng.integers(2, 5)):
        x = np.linspace(-10, width + 10, 60)
        angle, bend = rng.uniform(-0.9, 0.9), rng.uniform(-0.5, 0.5)
        y = rng.uniform(0.15, 0.85) * height + angle * (x - width / 2) + bend * (x - width / 2) ** 2 / width
        edge = np.stack([x, y], 1)
        corner = np.array([[width + 20, 9e4], [-20, 9e4]])
        cover = cv2.fillPoly(np.zeros(size, np.uint8), [np.round(np.vstack([edge, corner])).astype(np.int32)], 1)
        tone = np.where(cover > 0, rng.uniform(0.15, 0.9), tone).astype(np.float32)
        edges.append(edge)
    grain = gaussian_filter(rng.normal(size=size), rng.uniform(0.3, 0.9) / scale)
    tone *= 1 + rng.uniform(0.02, 0.09) * (grain / grain.std()).astype(np.float32)
    for edge in edges:
        dark = cv2.polylines(
            np.zeros(size, np.uint8), [np.round(edge).astype(np.int32)], False, 1, max(1, round(0.8 / scale))
        )
        tone *= 1 - 0.5 * cv2.GaussianBlur(dark.astype(np.float32), (0, 0), 0.4 / scale)
    y, x = np.mgrid[:height, :width]
    at = rng.uniform(0.2, 0.8, 2) * size
    spot = 0.55 + np.exp(-((y - at[0]) ** 2 + (x - at[1]) ** 2) / (2 * (rng.uniform(0.4, 1.1) * width) ** 2))
    violet = np.array([rng.uniform(0.1, 0.22), rng.uniform(0.05, 0.12), rng.uniform(0.7, 1.0)], np.float32)
    strength = rng.uniform(0.05, 0.14)
    return (strength * (tone * spot)[..., None] * violet).astype(np.float32), edges


def _add(form: str, onto: tuple, given: tuple, rng: np.random.Generator) -> None:
    """Lay one thing on where nothing lies yet."""
    glow, truth, taken = onto
    scale, seams, over, ground = given
    make = {"line": _line, "stamp": _stamp, "smear": _smear, "panel": _panel}[form]
    for _ in range(12):
        cover, whole = make(taken.shape, scale, seams, rng)
        room = cv2.dilate(whole.astype(np.uint8), np.ones((2 * round(6 / scale) + 1,) * 2, np.uint8)) > 0
        # Off the picture, on another thing: try again.
        if whole.sum() * scale**2 < 4 or (room & taken).any() or cover[[0, -1]].any() or cover[:, [0, -1]].any():
            continue
        taken |= whole
        truth.append((form, whole))
        colour = np.array(COLOURS[rng.integers(len(COLOURS))])
        weights = np.array([0.3, 0.5, 0.2])
        base = float(np.median(ground @ weights))
        glow += (cover * rng.uniform(*over) * base / float(colour @ weights))[..., None] * colour
        return


def _line(size: tuple, scale: float, seams: list, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A pen's line beside a seam, or a free arc; whole, dashed by wear, or dotted."""
    if rng.random() < 0.7:
        edge = seams[rng.integers(len(seams))]
        side = np.gradient(edge, axis=0)
        side = np.stack([-side[:, 1], side[:, 0]], 1) / np.hypot(*side.T)[:, None]
        path = edge + side * rng.uniform(-4, 4) / scale
    else:
        angle, radius = rng.uniform(0, 6.3), rng.uniform(25, 90) / scale
        t = angle + np.linspace(0, rng.uniform(0.5, 1.6), 80)
        middle = rng.uniform(0.1, 0.9, 2) * np.array(size[::-1])
        path = middle + radius * np.stack([np.cos(t) - np.cos(angle), np.sin(t) - np.sin(angle)], 1)
    steps = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    s = np.arange(0, steps[-1])
    path = np.stack([np.interp(s, steps, path[:, k]) for k in (0, 1)], 1)
    inside = ((path > 6) & (path < np.array(size[::-1]) - 7)).all(1)
    path = path[inside]
    length = rng.uniform(24, 80) / scale
    if len(path) < 24 / scale:
        return np.zeros(size, np.float32), np.zeros(size, bool)
    start = rng.integers(0, max(1, int(len(path) - length)))
    path = path[start : start + int(length)]
    path = path + gaussian_filter(rng.normal(0, 2.0 / scale, path.shape), (3 / scale, 0))
    wide = rng.uniform(0.6, 1.5) / scale
    whole = _stroke(size, [path], wide * 2) > 0
    kind = rng.choice(["whole", "worn", "dashed"])
    if kind == "whole":
        pieces = [path]
    elif kind == "worn":
        cuts = np.sort(rng.uniform(0, len(path), 2 * rng.integers(1, 4)))
        keep = np.ones(len(path), bool)
        for one, other in zip(cuts[::2], cuts[1::2], strict=True):
            keep[int(one) : int(min(other, one + 7 / scale))] = False
        pieces = [run for run in np.split(path, np.flatnonzero(np.diff(keep)) + 1) if len(run) > 3 / scale]
        pieces = [run for run in pieces if keep[np.flatnonzero((path == run[0]).all(1))[0]]]
    else:
        dash, gap = rng.uniform(3, 8) / scale, rng.uniform(2, 5) / scale
        pieces = [path[int(at) : int(at + dash)] for at in np.arange(0, len(path) - dash, dash + gap)]
    return _stroke(size, [p for p in pieces if len(p) > 1], wide), whole


def _stroke(size: tuple, paths: list, wide: float) -> np.ndarray:
    canvas = np.zeros(size, np.uint8)
    for path in paths:
        cv2.polylines(canvas, [np.round(path * 16).astype(np.int32)], False, 255, max(1, round(wide)), cv2.LINE_AA, 4)
    return canvas.astype(np.float32) / 255


def _stamp(size: tuple, scale: float, _seams: list, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A ring with or without a figure in it, a dot, or figures."""
    middle = rng.uniform(0.12, 0.88, 2) * np.array(size[::-1])
    canvas = np.zeros(size, np.uint8)
    kind = rng.choice(["ring", "dot", "figures"])
    centre = tuple(np.round(middle).astype(int).tolist())
    thick = max(1, round(rng.uniform(0.6, 1.2) / scale))
    if kind == "dot":
        cv2.circle(canvas, centre, round(rng.uniform(1.6, 4) / scale), 255, -1, cv2.LINE_AA)
    if kind == "ring":
        radius = round(rng.uniform(3.5, 9) / scale)
        cv2.circle(canvas, centre, radius, 255, thick, cv2.LINE_AA)
        if rng.random() < 0.6:
            _text(canvas, str(rng.integers(1, 10)), middle, radius * 0.9, thick, rng)
    if kind == "figures":
        words = "".join(rng.choice(list("0123456789ABCEHKLR"), rng.integers(2, 6)))
        _text(canvas, words, middle, rng.uniform(3.5, 8) / scale, thick, rng)
    angle = cv2.getRotationMatrix2D(tuple(middle.tolist()), float(rng.uniform(-40, 40)), 1)
    cover = cv2.warpAffine(canvas, angle, size[::-1]).astype(np.float32) / 255
    # Ink that took unevenly.
    cover *= np.clip(0.9 + 0.25 * _clouds(size, 1.5 / scale, rng), 0.3, 1)
    whole = cv2.dilate((cover > 0.2).astype(np.uint8), np.ones((2 * round(2 / scale) + 1,) * 2, np.uint8)) > 0
    return cover, whole


def _text(
    canvas: np.ndarray, words: str, middle: np.ndarray, tall: float, thick: int, rng: np.random.Generator
) -> None:
    font = FONTS[rng.integers(len(FONTS))]
    (_, high), _ = cv2.getTextSize(words, font, 1.0, 1)
    grow = tall / high
    (wide, high), _ = cv2.getTextSize(words, font, grow, thick)
    at = (round(middle[0] - wide / 2), round(middle[1] + high / 2))
    cv2.putText(canvas, words, at, font, grow, 255, thick, cv2.LINE_AA)


def _smear(size: tuple, scale: float, seams: list, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Adhesive that came out along an edge: a band of uneven width, soft on one side."""
    edge = seams[rng.integers(len(seams))]
    y, x = np.mgrid[: size[0], : size[1]]
    level = np.interp(x[0], edge[:, 0], edge[:, 1])
    lean = np.sqrt(1 + np.gradient(level) ** 2)
    away = (y - level) / lean * scale * (1 if rng.random() < 0.5 else -1)
    wide = rng.uniform(2.5, 6) * np.clip(1 + 0.5 * _clouds((1, size[1]), 6 / scale, rng)[0], 0.25, 2)
    left = rng.uniform(0.05, 0.6) * size[1]
    right = left + rng.uniform(18, 60) / scale
    soft = 1 / (1 + np.exp(-(wide - away) / rng.uniform(0.25, 0.8)))
    cover = soft * (away > 0) * (x > left) * (x < right) * np.clip(0.8 + 0.3 * _clouds(size, 3 / scale, rng), 0.2, 1)
    whole = (away > -0.5) & (away < wide + 0.8) & (x > left) & (x < right)
    return cover.astype(np.float32), whole


def _panel(size: tuple, scale: float, _seams: list, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A panel or an insert that glows as a whole: a rounded polygon with an edge."""
    middle = rng.uniform(0.25, 0.75, 2) * np.array(size[::-1])
    t = np.linspace(0, 2 * np.pi, rng.integers(4, 8), endpoint=False) + rng.uniform(0, 1)
    radius = rng.uniform(13, 28, len(t)) / scale
    corners = middle + radius[:, None] * np.stack([np.cos(t), 0.8 * np.sin(t)], 1)
    canvas = cv2.fillPoly(np.zeros(size, np.uint8), [np.round(corners).astype(np.int32)], 255)
    soft = cv2.GaussianBlur(canvas, (0, 0), 1.5 / scale) > 127
    cover = soft * np.clip(0.9 + 0.1 * _clouds(size, 5 / scale, rng), 0.5, 1.2)
    return cover.astype(np.float32), soft


def _clouds(size: tuple, sigma: float, rng: np.random.Generator) -> np.ndarray:
    field = gaussian_filter(rng.normal(size=size), [min(sigma, 4 * n) for n in size])
    return field / max(field.std(), 1e-9)


def _lint(glow: np.ndarray, scale: float, over: tuple, ground: np.ndarray, rng: np.random.Generator) -> None:
    """A fibre that curls, or a speck of dust: bright, thin, small."""
    size = glow.shape[:2]
    at = rng.uniform(0, 1, 2) * np.array(size[::-1])
    turns = np.cumsum(rng.normal(0, 0.35, 40))
    length = rng.uniform(0.4, 9) / scale
    steps = np.stack([np.cos(turns), np.sin(turns)], 1) * length / 40
    cover = _stroke(size, [at + np.cumsum(steps, axis=0)], rng.uniform(0.15, 0.35) / scale)
    colour = np.array(COLOURS[0]) if rng.random() < 0.7 else np.ones(3)
    base = float(np.median(ground @ np.array([0.3, 0.5, 0.2])))
    glow += (cover * rng.uniform(*over) * base / 0.6)[..., None] * colour

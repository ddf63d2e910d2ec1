"""Surfaces drawn without the simulator: materials of known kind and grain, weaves, specks, circled letters, threads."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter

from assay.imaging.colour import linear_to_srgb

KINDS = ("pebbled", "fine", "suede", "canvas", "brushed", "pitted")
LOOKS = {"easy": (0.6, 1.2, 0.1, 95), "realistic": (0.9, 2.5, 0.25, 88), "hard": (1.2, 4.5, 0.4, 78)}
"""Blur (px), noise (of 255), unevenness of the light, JPEG quality."""


@dataclass(frozen=True, slots=True)
class Material:
    """A material as it is: kind, size of its grain (mm), depth, way."""

    kind: str
    grain_mm: float
    depth: float
    way: float


def material(rng: np.random.Generator, like: Material | None = None) -> Material:
    """Any material; ``like``: one that a copyist might take for it: the same kind, another grain, or a near kind."""
    if like is None:
        return Material(
            KINDS[rng.integers(len(KINDS))], rng.uniform(0.5, 1.6), rng.uniform(0.06, 0.16), rng.uniform(0, 3.1)
        )
    if rng.random() < 0.5:
        factor = rng.choice([0.62, 0.72, 1.4, 1.6])
        return Material(like.kind, float(like.grain_mm * factor), like.depth, like.way)
    other = [kind for kind in KINDS if kind != like.kind]
    return Material(other[rng.integers(len(other))], like.grain_mm, like.depth, like.way)


def relief(one: Material, size: tuple[int, int], mm_per_px: float, rng: np.random.Generator) -> np.ndarray:
    """(h, w) log shading of a piece of it, standard deviation ``depth``."""
    height, width = size
    px = one.grain_mm / mm_per_px
    noise = rng.normal(size=(height, width))
    y, x = np.mgrid[:height, :width]
    if one.kind == "pebbled":
        cells = gaussian_filter(noise, px / 2.2)
        field = -np.abs(cells) / cells.std()
    elif one.kind == "fine":
        field = gaussian_filter(noise, px / 5) - gaussian_filter(noise, px / 2.5)
    elif one.kind == "suede":
        field = sum(gaussian_filter(rng.normal(size=noise.shape), px / 6 * 2**k) * 2 ** (0.75 * k) for k in range(4))
    elif one.kind == "canvas":
        wobble = [gaussian_filter(rng.normal(size=noise.shape), 4 * px) for _ in range(2)]
        u, v = (n + 0.35 * px * w / w.std() / 3 for n, w in zip((x, y), wobble, strict=True))
        field = np.abs(np.sin(np.pi * u / px)) * np.abs(np.sin(np.pi * v / px)) + 0.1 * noise
    elif one.kind == "brushed":
        long = gaussian_filter(noise, (px / 6, 2.2 * px))
        turn = cv2.getRotationMatrix2D((width / 2, height / 2), float(np.degrees(one.way)), 1.5)
        field = cv2.warpAffine(long, turn, (width, height), borderMode=cv2.BORDER_REFLECT)
    else:
        pits = (gaussian_filter(noise, px / 4) > 1.9 * gaussian_filter(noise, px / 4).std()).astype(float)
        field = -gaussian_filter(pits, px / 6) + 0.04 * gaussian_filter(rng.normal(size=noise.shape), px / 8)
    return one.depth * (field - field.mean()) / field.std()


def taken(light: np.ndarray, level: str, rng: np.random.Generator, tint=(1.0, 1.0, 1.0)) -> np.ndarray:
    """A photograph (h, w, 3) uint8 of linear light (h, w) or (h, w, 3)."""
    blur, noise, uneven, quality = LOOKS[level]
    light = light[..., None] * np.ones(3) if light.ndim == 2 else light
    height, width = light.shape[:2]
    x, y = np.meshgrid(np.linspace(-1, 1, width), np.linspace(-1, 1, height))
    angle = rng.uniform(0, 2 * np.pi)
    fall = 1 + uneven * rng.uniform(0.3, 1) * (np.cos(angle) * x + np.sin(angle) * y)
    seen = light * fall[..., None] * rng.uniform(0.7, 1.3) * np.array(tint)
    seen = np.stack([gaussian_filter(seen[..., c], blur * rng.uniform(0.7, 1.2)) for c in range(3)], -1)
    srgb = linear_to_srgb(seen) + rng.normal(0, noise, seen.shape)
    _, file = cv2.imencode(
        ".jpg", np.clip(srgb, 0, 255).astype(np.uint8)[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality]
    )
    return np.ascontiguousarray(cv2.imdecode(file, cv2.IMREAD_COLOR)[..., ::-1])


def piece(one: Material, level: str, seed: int, tone: float = 0.22) -> tuple[np.ndarray, float, np.ndarray]:
    """A photograph of it at one mean tone, its scale, and a region."""
    rng = np.random.default_rng(seed)
    step = float(rng.uniform(0.06, 0.13))
    size = (round(18 / step), round(22 / step))
    turned = relief(one, size, step, rng)
    if rng.random() < 0.7:
        spin = cv2.getRotationMatrix2D((size[1] / 2, size[0] / 2), rng.uniform(-4, 4), 1.0)
        turned = cv2.warpAffine(turned, spin, size[::-1], borderMode=cv2.BORDER_REFLECT)
    rgb = taken(tone * np.exp(turned), level, rng, tint=rng.uniform(0.85, 1.15, 3))
    height, width = rgb.shape[:2]
    region = np.array([[0.08, 0.1], [0.92, 0.08], [0.9, 0.92], [0.1, 0.9]]) * [width, height]
    return rgb, step, region


def two_panels(level: str, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """A photograph of two panels, 200 px each, and a grey tile at (300, 250), in a light of its own; and the panels'
    linear colours: the same for seeds that differ by whole thousands."""
    paint = np.random.default_rng([seed % 1000, 9])
    first = paint.uniform(0.05, 0.6, 3)
    second = np.clip(first * paint.uniform(0.75, 1.33, 3), 0.02, 0.7)
    rng = np.random.default_rng([seed, 10])
    light = np.empty((300, 400, 3))
    light[:, :200], light[:, 200:], light[220:280, 270:330] = first, second, 0.3
    light *= np.exp(0.04 * gaussian_filter(rng.normal(size=light.shape[:2]), 1.5) / 0.19)[..., None]
    return taken(light, level, rng, tint=rng.uniform(0.7, 1.3, 3)), np.array([first, second])


def mesh(level: str, seed: int) -> tuple[np.ndarray, float, np.ndarray, tuple[float, float]]:
    """A mesh or weave; the truth: spacing of its two ways, mm."""
    rng = np.random.default_rng([seed, 5])
    step = float(rng.uniform(0.06, 0.14))
    pitches = rng.uniform(0.7, 2.6, 2)
    if abs(pitches[0] - pitches[1]) < 0.12:
        pitches[1] += 0.3
    size = (round(20 / step), round(24 / step))
    turn = rng.uniform(-0.2, 0.2)
    y, x = np.mgrid[: size[0], : size[1]] * step
    u, v = np.cos(turn) * x + np.sin(turn) * y, -np.sin(turn) * x + np.cos(turn) * y
    wobble = gaussian_filter(rng.normal(size=size), 1.4 / step)
    u = u + 0.03 * pitches[0] * wobble / wobble.std()
    thick = rng.uniform(0.3, 0.6)
    waves = [np.cos(2 * np.pi * w / p) > np.cos(np.pi * thick) for w, p in zip((u, v), pitches, strict=True)]
    light = 0.12 + 0.25 * np.maximum(*[wave.astype(float) for wave in waves]) + 0.05 * (waves[0] & waves[1])
    rgb = taken(gaussian_filter(light, 0.06 / step), level, rng)
    region = np.array([[0.08, 0.08], [0.92, 0.08], [0.92, 0.92], [0.08, 0.92]]) * [size[1], size[0]]
    return rgb, step, region, (float(pitches[0]), float(pitches[1]))


def specks(level: str, seed: int) -> tuple[np.ndarray, float, np.ndarray, int]:
    """A speckled sole, and how many specks lie in the region."""
    rng = np.random.default_rng([seed, 6])
    step = float(rng.uniform(0.07, 0.14))
    size = (round(26 / step), round(30 / step))
    light = (
        0.4 * np.exp(relief(Material("fine", 0.8, 0.03, 0), size, step, rng))[..., None] * np.array([1.0, 0.95, 0.85])
    )
    colour = np.array([[0.06, 0.06, 0.07], [0.45, 0.12, 0.08]][rng.integers(2)])
    wanted, places = int(rng.integers(0, 40)), []
    for _ in range(4000):
        if len(places) == wanted:
            break
        at, radius = rng.uniform([3, 3], [27, 23]), rng.uniform(0.35, 0.8)
        if all(np.hypot(*(at - other)) > radius + r + 0.5 for other, r in places):
            places.append((at, radius))
    y, x = np.mgrid[: size[0], : size[1]] * step
    for at, radius in places:
        cover = np.clip((radius - np.hypot(x - at[0], y - at[1])) / step + 0.5, 0, 1)[..., None]
        light = light * (1 - cover) + colour * cover
    region = np.array([[1.5, 1.5], [28.5, 1.5], [28.5, 24.5], [1.5, 24.5]]) / step
    return taken(light, level, rng), step, region, len(places)


def embroidered(level: str, seed: int) -> tuple[np.ndarray, float, np.ndarray, int]:
    """A satin field on leather, and how many loose threads lie about it."""
    rng = np.random.default_rng([seed, 7])
    step = float(rng.uniform(0.05, 0.09))
    size = (round(18 / step), round(24 / step))
    ground = rng.uniform(0.05, 0.35)
    thread = ground * (rng.uniform(2.2, 4) if ground < 0.2 else rng.uniform(0.2, 0.45))
    light = ground * np.exp(relief(Material("fine", 0.9, 0.05, 0), size, step, rng))
    y, x = np.mgrid[: size[0], : size[1]] * step
    inside = (np.abs(x - 12) / 6.5) ** 2.5 + (np.abs(y - 9) / 4.2) ** 2.5 < 1
    satin = thread * (0.8 + 0.2 * np.cos(2 * np.pi * (x + 0.4 * y) / rng.uniform(0.32, 0.45)))
    light = np.where(gaussian_filter(inside.astype(float), 0.05 / step) > 0.5, satin, light)
    loose = int(rng.integers(0, 4))
    drawn = np.zeros(size, np.float32)
    for n in range(loose):
        angle = 2 * np.pi * (n / max(loose, 1) + rng.uniform(-0.08, 0.08))
        start = np.array([12 + 6.3 * np.cos(angle), 9 + 4.1 * np.sin(angle)])
        steps = np.cumsum(rng.normal(0, 0.35, (10, 2)) + 0.3 * np.array([np.cos(angle), np.sin(angle)]), axis=0)
        line = np.clip(np.vstack([start, start + steps]), [1.3, 1.3], [22.7, 16.7]) / step
        cv2.polylines(
            drawn, [np.round(line * 16).astype(np.int32)], False, 1.0, max(1, round(0.25 / step)), cv2.LINE_AA, 4
        )
    light = light * (1 - drawn) + thread * drawn
    region = np.array([[0.8, 0.8], [23.2, 0.8], [23.2, 17.2], [0.8, 17.2]]) / step
    return taken(light, level, rng), step, region, loose

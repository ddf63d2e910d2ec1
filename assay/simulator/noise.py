"""Grain: seamless tiles of height, mean 0, about ±1."""

from functools import lru_cache

import cv2
import numpy as np
from scipy.spatial import cKDTree

TILE_PX = 640


def _standardised(field: np.ndarray) -> np.ndarray:
    field = field - field.mean()
    return (field / (2.5 * field.std() + 1e-9)).clip(-1.5, 1.5).astype(np.float32)


def _blur_wrapped(field: np.ndarray, sigma_x: float, sigma_y: float) -> np.ndarray:
    pad = int(4 * max(sigma_x, sigma_y)) + 2
    wide = np.pad(field, pad, mode="wrap")
    return cv2.GaussianBlur(wide, (0, 0), sigma_x, sigmaY=sigma_y)[pad:-pad, pad:-pad]


@lru_cache(maxsize=24)
def leather(cell_px: float, seed: int) -> np.ndarray:
    """Cells with valleys between them, as full-grain leather has. ``cell_px``: size of a cell."""
    rng = np.random.default_rng(seed)
    cells = max(4, int(TILE_PX / cell_px))
    grid = np.stack(np.meshgrid(np.arange(cells), np.arange(cells)), -1).reshape(-1, 2)
    seeds = (grid + rng.uniform(0.05, 0.95, grid.shape)) * (TILE_PX / cells)
    tree = cKDTree(seeds % TILE_PX, boxsize=TILE_PX)
    y, x = np.mgrid[0:TILE_PX, 0:TILE_PX]
    near = tree.query(np.stack([x, y], -1).reshape(-1, 2).astype(float), k=2)[0]
    valley = (near[:, 1] - near[:, 0]).reshape(TILE_PX, TILE_PX) / cell_px
    ridge = 1 - np.exp(-valley * 5)
    fine = _blur_wrapped(rng.standard_normal((TILE_PX, TILE_PX)), cell_px / 5, cell_px / 5)
    return _standardised(ridge + 0.5 * fine / (fine.std() + 1e-9) * ridge.std())


@lru_cache(maxsize=24)
def fibre(length_px: float, seed: int) -> np.ndarray:
    """Short hairs lying one way, as napped leather has."""
    rng = np.random.default_rng(seed)
    hairs = _blur_wrapped(rng.standard_normal((TILE_PX, TILE_PX)), max(0.6, length_px / 6), max(1.0, length_px))
    clumps = _blur_wrapped(rng.standard_normal((TILE_PX, TILE_PX)), 4 * length_px, 4 * length_px)
    return _standardised(hairs / hairs.std() + 0.6 * clumps / clumps.std())


@lru_cache(maxsize=24)
def stipple(dot_px: float, seed: int) -> np.ndarray:
    """Fine even noise, as moulded rubber has."""
    rng = np.random.default_rng(seed)
    return _standardised(_blur_wrapped(rng.standard_normal((TILE_PX, TILE_PX)), dot_px, dot_px))


@lru_cache(maxsize=24)
def weave(thread_px: float, seed: int) -> np.ndarray:
    """Plain weave of two thread directions."""
    rng = np.random.default_rng(seed)
    threads = max(2, round(TILE_PX / thread_px / 2) * 2)
    y, x = np.mgrid[0:TILE_PX, 0:TILE_PX] * (np.pi * threads / TILE_PX)
    over = np.sign(np.sin(x / 1.0) * np.sin(y / 1.0))
    field = np.where(over > 0, np.abs(np.sin(x)), np.abs(np.sin(y)))
    return _standardised(field + 0.15 * rng.standard_normal(field.shape))


def spread_tile(tile: np.ndarray, shape: tuple[int, int], rng: np.random.Generator) -> np.ndarray:
    """Lay a tile over an area with a random start and a slow wander, so that repeats are not seen."""
    height, width = shape
    coarse = rng.uniform(-14, 14, (2, height // 160 + 4, width // 160 + 4)).astype(np.float32)
    wander = [cv2.resize(layer, (width, height), interpolation=cv2.INTER_CUBIC) for layer in coarse]
    start = rng.integers(0, TILE_PX, 2)
    x = (np.arange(width, dtype=np.float32)[None, :] + wander[0] + start[0]) % (TILE_PX - 1)
    y = (np.arange(height, dtype=np.float32)[:, None] + wander[1] + start[1]) % (TILE_PX - 1)
    return cv2.remap(tile, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR)


def clouds(shape: tuple[int, int], size_px: float, rng: np.random.Generator) -> np.ndarray:
    """Slow variation over an area, mean about 0, about ±1. ``size_px``: size of a cloud."""
    height, width = shape
    coarse = rng.standard_normal((int(height / size_px) + 4, int(width / size_px) + 4)).astype(np.float32)
    return cv2.resize(coarse, (width, height), interpolation=cv2.INTER_CUBIC) / 2

"""The bench's plain background: a grey sweep with a soft shadow under the shoe."""

import cv2
import numpy as np

from assay.simulator import noise
from assay.simulator.shading import Lamp


def on_stand(
    light: np.ndarray, solid: np.ndarray, mm_per_px: float, ground_y: float, rng: np.random.Generator, lamp: Lamp
) -> np.ndarray:
    """Put a lit shoe (H, W, 3), with its coverage (H, W), before the sweep. ``ground_y``: mm from the top."""
    height, width = solid.shape
    y = np.arange(height, dtype=np.float32)[:, None] * mm_per_px
    sweep = 0.235 + 0.055 * np.tanh((y - ground_y + 12) / 22) + 0.02 * noise.clouds(solid.shape, 90 / mm_per_px, rng)
    sweep = sweep + 0.004 * noise.spread_tile(noise.stipple(1.5, 1), solid.shape, rng)
    ground = round(ground_y / mm_per_px)
    foot = solid[max(0, ground - round(14 / mm_per_px)) : ground].mean(axis=0).clip(0, 1)
    shade = np.zeros_like(solid)
    for reach_mm, strength in ((2.0, 0.75), (7.0, 0.45), (20.0, 0.30)):
        band = np.zeros_like(solid)
        rows = round(reach_mm * 0.8 / mm_per_px)
        band[max(0, ground - rows // 2) : ground + rows] = foot
        shade = 1 - (1 - shade) * (1 - strength * _soft(band, reach_mm / 1.6 / mm_per_px))
    # The shoe also keeps light from the sweep behind it, on the side away from the lamp.
    away = -lamp.direction()[:2] * 16 / mm_per_px
    moved = cv2.warpAffine(solid, np.array([[1, 0, away[0]], [0, 1, away[1]]], np.float32), (width, height))
    shade = 1 - (1 - shade) * (1 - 0.22 * _soft(moved, 15 / mm_per_px))
    back = (sweep * (1 - shade))[..., None] * np.asarray(lamp.tint, np.float32) * np.array([1.0, 1.0, 1.01], np.float32)
    cover = cv2.GaussianBlur(solid, (0, 0), 0.6)[..., None]
    return (cover * light + (1 - cover) * back).astype(np.float32)


def _soft(field: np.ndarray, sigma_px: float) -> np.ndarray:
    factor = max(1, int(sigma_px / 4))
    small = cv2.resize(field, None, fx=1 / factor, fy=1 / factor, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma_px / factor)
    return cv2.resize(small, (field.shape[1], field.shape[0]), interpolation=cv2.INTER_LINEAR)


def on_table(
    light: np.ndarray, solid: np.ndarray, mm_per_px: float, rng: np.random.Generator, lamp: Lamp
) -> np.ndarray:
    """Put a lit thing (H, W, 3), with its coverage (H, W), on a grey table seen from above."""
    table = 0.25 + 0.015 * noise.clouds(solid.shape, 80 / mm_per_px, rng)
    table = table + 0.006 * noise.spread_tile(noise.stipple(1.6, 2), solid.shape, rng)
    shade = np.zeros_like(solid)
    for reach_mm, strength in ((1.5, 0.55), (6.0, 0.35), (16.0, 0.25)):
        away = -lamp.direction()[:2] * reach_mm * 0.9 / mm_per_px
        moved = cv2.warpAffine(solid, np.array([[1, 0, away[0]], [0, 1, away[1]]], np.float32), solid.shape[::-1])
        shade = 1 - (1 - shade) * (1 - strength * _soft(moved, reach_mm / 1.8 / mm_per_px))
    back = (table * (1 - shade))[..., None] * np.asarray(lamp.tint, np.float32) * np.array([1.0, 1.0, 1.01], np.float32)
    cover = cv2.GaussianBlur(solid, (0, 0), 0.6)[..., None]
    return (cover * light + (1 - cover) * back).astype(np.float32)

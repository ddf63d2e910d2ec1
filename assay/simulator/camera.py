"""Lens, sensor and file: linear light becomes a JPEG."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True, slots=True)
class Camera:
    """How a picture is taken."""

    mm_per_px: float = 0.12
    blur_px: float = 0.8
    noise: float = 0.010
    """Standard deviation at mid grey, as a share of full scale."""
    uneven: float = 0.12
    """Fall-off of the light across the picture."""
    exposure: float = 1.0
    turn_deg: float = 0.0
    shift_mm: tuple[float, float] = (0.0, 0.0)
    jpeg_quality: int = 91


def pose(camera: Camera, shape: tuple[int, int]) -> np.ndarray:
    """2 × 3 matrix from unturned to final pixels."""
    height, width = shape
    matrix = cv2.getRotationMatrix2D((width / 2, height / 2), camera.turn_deg, 1.0)
    matrix[:, 2] += np.asarray(camera.shift_mm) / camera.mm_per_px
    return matrix


def through(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points (N, 2) through a 2 × 3 matrix."""
    return np.asarray(points) @ matrix[:, :2].T + matrix[:, 2]


def expose(light: np.ndarray, camera: Camera, rng: np.random.Generator) -> np.ndarray:
    """Linear light (H, W, 3) to an sRGB picture (H, W, 3) uint8, before the file."""
    height, width = light.shape[:2]
    turned = cv2.warpAffine(
        light, pose(camera, (height, width)), (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
    )
    angle = rng.uniform(0, 2 * np.pi)
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j].astype(np.float32)
    fall = 1 + camera.uneven * (np.cos(angle) * x + np.sin(angle) * y) - 0.10 * (x * x + y * y)
    seen = cv2.GaussianBlur(turned * fall[..., None] * camera.exposure, (0, 0), max(0.3, camera.blur_px))
    seen = np.clip(seen, 0, None)
    noise = rng.standard_normal(seen.shape, dtype=np.float32) * camera.noise * np.sqrt(0.15 + seen / 0.2)
    return _encode(seen + 0.5 * noise)


def to_jpeg(rgb: np.ndarray, quality: int) -> bytes:
    """Encode a picture."""
    done, data = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    if not done:
        raise ValueError("the picture could not be encoded")
    return data.tobytes()


_LEVELS = np.linspace(0, 2, 2**14, dtype=np.float32)
# A gentle shoulder keeps highlights from clipping hard, as camera tone curves do.
_SHOULDER = np.where(_LEVELS > 0.7, 0.7 + 0.3 * np.tanh((_LEVELS - 0.7) / 0.45), _LEVELS)
_SRGB = np.where(_SHOULDER <= 0.0031308, 12.92 * _SHOULDER, 1.055 * np.power(_SHOULDER, 1 / 2.4) - 0.055)


def _encode(light: np.ndarray) -> np.ndarray:
    srgb = _SRGB.astype(np.float32)[(light * ((2**14 - 1) / 2)).clip(0, 2**14 - 1).astype(np.uint16)]
    soft = cv2.GaussianBlur(srgb, (0, 0), 1.2)
    return np.round((srgb + 0.35 * (srgb - soft)).clip(0, 1) * 255).astype(np.uint8)

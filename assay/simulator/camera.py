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
    tilt_deg: tuple[float, float] = (0.0, 0.0)
    """Leaning of the camera about the picture's level and upright axis."""
    focal_35mm: float = 26.0
    lens: float = 0.0
    """Barrel (negative) or cushion distortion at the picture's corner, as a share of its distance from the middle."""
    glare: tuple[float, float, float] | None = None
    """A lamp's reflection: x, y and radius, as shares of the picture's width."""
    jpeg_quality: int = 91


@dataclass(frozen=True, slots=True)
class Pose:
    """From unturned to final pixels."""

    matrix: np.ndarray
    """3 × 3."""
    shape: tuple[int, int]
    lens: float = 0.0

    def through(self, points: np.ndarray) -> np.ndarray:
        """Points (N, 2) as the picture has them."""
        flat = np.asarray(points, float) @ self.matrix[:, :2].T + self.matrix[:, 2]
        ideal = flat[:, :2] / flat[:, 2:]
        return self._bent(ideal) if self.lens else ideal

    def warp(self, light: np.ndarray) -> np.ndarray:
        """The whole picture."""
        height, width = self.shape
        if self.lens:
            # Where each final pixel comes from: the lens undone by fixed-point steps, then the way back.
            final = np.stack(np.meshgrid(np.arange(width), np.arange(height)), -1).reshape(-1, 2).astype(float)
            ideal = final.copy()
            for _ in range(4):
                ideal += final - self._bent(ideal)
            back = np.c_[ideal, np.ones(len(ideal))] @ np.linalg.inv(self.matrix).T
            source = (back[:, :2] / back[:, 2:]).astype(np.float32).reshape(height, width, 2)
            return cv2.remap(light, source, None, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        return cv2.warpPerspective(
            light, self.matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
        )

    def _bent(self, points: np.ndarray) -> np.ndarray:
        middle = (np.array(self.shape[::-1]) - 1) / 2
        away = points - middle
        share = (away**2).sum(1, keepdims=True) / (middle**2).sum()
        return middle + away * (1 + self.lens * share)


def pose(camera: Camera, shape: tuple[int, int]) -> Pose:
    """How a flat scene of ``shape`` comes to lie in the picture: a pinhole camera, leaning, then turned and moved."""
    height, width = shape
    focal = camera.focal_35mm / 43.267 * float(np.hypot(width, height))
    pitch, yaw = np.radians(camera.tilt_deg)
    level = np.array([[1, 0, 0], [0, np.cos(pitch), -np.sin(pitch)], [0, np.sin(pitch), np.cos(pitch)]])
    upright = np.array([[np.cos(yaw), 0, np.sin(yaw)], [0, 1, 0], [-np.sin(yaw), 0, np.cos(yaw)]])
    turned = upright @ level
    centre = np.array([[1, 0, -width / 2], [0, 1, -height / 2], [0, 0, 1.0]])
    onto = np.array([[focal, 0, 0], [0, focal, 0], [0, 0, 1.0]]) @ np.c_[turned[:, :2], [0, 0, focal]]
    flat = np.vstack([cv2.getRotationMatrix2D((0, 0), camera.turn_deg, 1.0), [0, 0, 1]])
    flat[:2, 2] += np.asarray(camera.shift_mm) / camera.mm_per_px
    matrix = np.linalg.inv(centre) @ flat @ onto @ centre
    return Pose(matrix / matrix[2, 2], shape, camera.lens)


def expose(light: np.ndarray, camera: Camera, rng: np.random.Generator) -> np.ndarray:
    """Linear light (H, W, 3) to an sRGB picture (H, W, 3) uint8, before the file."""
    height, width = light.shape[:2]
    turned = pose(camera, (height, width)).warp(light)
    angle = rng.uniform(0, 2 * np.pi)
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j].astype(np.float32)
    fall = 1 + camera.uneven * (np.cos(angle) * x + np.sin(angle) * y) - 0.10 * (x * x + y * y)
    seen = cv2.GaussianBlur(turned * fall[..., None] * camera.exposure, (0, 0), max(0.3, camera.blur_px))
    seen = np.clip(seen, 0, None)
    if camera.glare:
        at_x, at_y, radius = (2 * camera.glare[0] - 1, 2 * camera.glare[1] - 1, 2 * camera.glare[2])
        seen += 2.5 * np.exp(-((((x - at_x) ** 2 + ((y - at_y) * height / width) ** 2) / radius**2) ** 2))[..., None]
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

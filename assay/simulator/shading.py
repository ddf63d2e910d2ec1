"""Light on a relief: a soft key light, fill, ambient light with occlusion, highlights, short cast shadows."""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.simulator.relief import Relief


@dataclass(frozen=True, slots=True)
class Lamp:
    """Where the light comes from and what colour it has."""

    azimuth_deg: float = -125.0
    """Direction the light comes from on the picture, 0 = right, -90 = above."""
    elevation_deg: float = 48.0
    key: float = 0.84
    ambient: float = 0.38
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    """Linear factors for red, green, blue."""
    excites: float = 0.0
    """How strongly it makes things send out light of their own: 0 but for ultraviolet lamps."""

    def direction(self) -> np.ndarray:
        """Unit vector towards the lamp: x right, y down, z to the camera."""
        a, e = np.radians([self.azimuth_deg, self.elevation_deg])
        return np.array([np.cos(a) * np.cos(e), np.sin(a) * np.cos(e), np.sin(e)])


# A lamp of 365 nm with its filter, as a camera sees it in a dark room: dim, violet.
UV_LAMP = Lamp(key=0.16, ambient=0.07, tint=(0.14, 0.09, 0.85), excites=1.0)

# Wavelengths that stand for red, green and blue, m; second radiation constant, m·K (CODATA).
RGB_WAVELENGTHS = np.array([600e-9, 550e-9, 460e-9])
SECOND_RADIATION = 1.438777e-2


def lamp_colour(kelvin: float) -> tuple[float, float, float]:
    """Linear factors of a black body's light against 6504 K, by Planck's law, brightness of green kept."""

    def radiance(temperature: float) -> np.ndarray:
        return RGB_WAVELENGTHS**-5 / (np.exp(SECOND_RADIATION / RGB_WAVELENGTHS / temperature) - 1)

    factors = radiance(kelvin) / radiance(6504.0)
    red, green, blue = (float(f) for f in factors / factors[1])
    return red, green, blue


def shade(relief: Relief, lamp: Lamp) -> np.ndarray:
    """Render a relief to linear light, (H, W, 3) float32."""
    step = relief.mm_per_px
    height = cv2.GaussianBlur(relief.height, (0, 0), 0.7)
    slope_x = cv2.Sobel(height, cv2.CV_32F, 1, 0, scale=1 / (8 * step))
    slope_y = cv2.Sobel(height, cv2.CV_32F, 0, 1, scale=1 / (8 * step))
    norm = 1 / np.sqrt(1 + slope_x**2 + slope_y**2)
    light = lamp.direction()
    facing = (-slope_x * light[0] - slope_y * light[1] + light[2]) * norm
    wrap = 0.22
    diffuse = np.clip((facing + wrap) / (1 + wrap), 0, None)
    open_sky = _occlusion(height, step)
    lit = _cast_shadow(height, step, light)
    half = light + np.array([0, 0, 1])
    half /= np.linalg.norm(half)
    glance = np.clip((-slope_x * half[0] - slope_y * half[1] + half[2]) * norm, 0, 1)
    highlight = relief.gloss * np.power(glance, relief.shininess) * lit * (0.4 + 0.6 * open_sky)
    upward = 0.72 + 0.28 * slope_y * norm
    fill = 0.16 * np.clip(slope_x * norm * 0.6 + 0.5, 0, None)
    strength = lamp.key * diffuse * lit + lamp.ambient * open_sky * upward + fill * open_sky
    image = relief.albedo * strength[..., None] + 0.55 * highlight[..., None]
    return (image * np.asarray(lamp.tint, np.float32) + lamp.excites * relief.emits).astype(np.float32)


def _occlusion(height: np.ndarray, step: float) -> np.ndarray:
    """How much of the sky a place sees: lower than its surroundings at several sizes means less."""
    sky = np.ones_like(height)
    for sigma_mm, strength in ((0.4, 0.9), (1.6, 0.5), (6.0, 0.10)):
        around = _wide_blur(height, sigma_mm / step)
        sky *= np.exp(-strength * np.clip(around - height, 0, 4))
    return sky


def _wide_blur(field: np.ndarray, sigma: float) -> np.ndarray:
    if sigma < 8:
        return cv2.GaussianBlur(field, (0, 0), max(sigma, 0.5))
    factor = int(sigma / 4)
    small = cv2.resize(field, None, fx=1 / factor, fy=1 / factor, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma / factor)
    return cv2.resize(small, (field.shape[1], field.shape[0]), interpolation=cv2.INTER_CUBIC)


def _cast_shadow(height: np.ndarray, step: float, light: np.ndarray) -> np.ndarray:
    """1 in the light, less where something a little way towards the lamp stands higher than the ray."""
    flat = np.hypot(light[0], light[1])
    climb = light[2] / flat
    blocked = np.zeros_like(height)
    for reach_mm in (0.35, 0.7, 1.1, 1.7, 2.6):
        shift = np.array([[1, 0, -light[0] / flat * reach_mm / step], [0, 1, -light[1] / flat * reach_mm / step]])
        towards = cv2.warpAffine(height, shift, height.shape[::-1], borderMode=cv2.BORDER_REPLICATE)
        over = towards - height - reach_mm * climb
        blocked = np.maximum(blocked, np.clip(over / (0.25 + 0.3 * reach_mm), 0, 1))
    soft = cv2.GaussianBlur(blocked, (0, 0), max(0.6, 0.2 / step))
    return 1 - 0.75 * soft

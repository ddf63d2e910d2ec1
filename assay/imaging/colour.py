"""Colour arithmetic alone: sRGB, linear light, CIELAB (D65, 2°) and CIEDE2000.

Sources: IEC 61966-2-1 (sRGB); CIE 15 (Lab); Sharma, Wu & Dalal, Color Res. Appl. 30(1), 2005, as scikit-image has them.
"""

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000, lab2xyz, xyz2lab

# sRGB primaries to XYZ, D65 (IEC 61966-2-1).
TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])


def de00(one: np.ndarray, other: np.ndarray) -> float:
    """CIEDE2000 difference of two Lab colours."""
    return float(deltaE_ciede2000(np.asarray(one, float), np.asarray(other, float)))


def linear_to_lab(linear: np.ndarray) -> np.ndarray:
    """Linear sRGB light (…, 3), 0 to 1, to CIELAB for D65 and 2°."""
    return xyz2lab(np.clip(np.asarray(linear, float), 0, None) @ TO_XYZ.T)


def lab_to_linear(lab: np.ndarray) -> np.ndarray:
    """The way back, for showing: beyond what a screen has it is clipped.

    >>> lab_to_linear(np.array([53.585, 0, 0])).round(3).tolist()
    [0.216, 0.216, 0.216]
    """
    return np.clip(lab2xyz(np.asarray(lab, float)) @ np.linalg.inv(TO_XYZ).T, 0, 1)


def srgb_to_linear(value: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1, 0 to 255 into 0 to 1.

    >>> float(srgb_to_linear(np.array(119)).round(6))
    0.184475
    """
    v = np.asarray(value, float) / 255
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(value: np.ndarray) -> np.ndarray:
    """The way back, 0 to 1 into 0 to 255, clipped."""
    v = np.clip(np.asarray(value, float), 0, 1)
    return 255 * np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055)


# Of every 8-bit value.
LIGHT_OF = srgb_to_linear(np.arange(256)).astype(np.float32)


def grey_light(rgb: np.ndarray) -> np.ndarray:
    """Linear light of an sRGB picture without its colour, (H, W) float32 in 0 to 1.

    >>> float(grey_light(np.full((1, 1, 3), 255, np.uint8))[0, 0])
    1.0
    """
    return LIGHT_OF[cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)]

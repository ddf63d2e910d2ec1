"""The straightened surroundings of a traced path, freed of uneven light."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d

from assay.contracts import Picture

# Half the width of the strip that is looked at: wide enough for bar stitches (about 5 mm) and a wobbly path.
HALF_STRIP_MM = 3.6
HALF_STRIP_PX = 28


@dataclass(frozen=True, slots=True)
class Strip:
    """The straightened surroundings of a path."""

    path: np.ndarray
    """(T, 2) pixels of the picture, one pixel apart, run on past both ends."""
    normal: np.ndarray
    """(T, 2) unit vectors across."""
    values: np.ndarray
    """(C, Y, T) light-corrected channels."""
    tones: np.ndarray
    """(C, Y, T) the same before the light was evened."""
    grey: np.ndarray
    """(Y, T) as photographed."""
    start: int
    stop: int
    """The drawn path's part of T."""


def straighten(picture: Picture, points: np.ndarray, past_px: float = 0.0) -> Strip:
    """Straighten the surroundings of a path (N, 2), past both ends by a strip's half width or ``past_px``, which is
    more."""
    path = smooth_path(points)
    half = HALF_STRIP_PX if picture.mm_per_px is None else int(np.clip(HALF_STRIP_MM / picture.mm_per_px, 10, 80))
    margin = max(half, round(past_px))
    tangent = np.gradient(gaussian_filter1d(path, 3, axis=0, mode="nearest"), axis=0)
    tangent /= np.hypot(*tangent.T)[:, None] + 1e-12
    before = path[0] - tangent[0] * np.arange(margin, 0, -1)[:, None]
    after = path[-1] + tangent[-1] * np.arange(1, margin + 1)[:, None]
    path = np.vstack([before, path, after])
    tangent = np.vstack([np.repeat(tangent[:1], margin, 0), tangent, np.repeat(tangent[-1:], margin, 0)])
    normal = np.stack([-tangent[:, 1], tangent[:, 0]], 1)
    across = np.arange(-half, half + 1, dtype=float)
    grid = path[None] + normal[None] * across[:, None, None]
    strip = cv2.remap(
        picture.rgb,
        grid[..., 0].astype(np.float32),
        grid[..., 1].astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    ).astype(np.float32)
    tones = _tones(strip)
    return Strip(path, normal, _evened(tones, margin), tones, strip.mean(-1), margin, len(path) - margin)


def smooth_path(points: np.ndarray) -> np.ndarray:
    """Points (T, 2), one a pixel, along a smooth line through the drawn points."""
    steps = np.hypot(*np.diff(points, axis=0).T)
    points = points[np.concatenate([[True], steps > 1e-6])]
    chord = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    fine = np.linspace(0, chord[-1], max(2, int(2 * chord[-1])))
    if len(points) > 2:
        dense = CubicSpline(chord, points)(fine)
    else:
        dense = np.stack([np.interp(fine, chord, points[:, k]) for k in (0, 1)], 1)
    length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(dense, axis=0).T))])
    even = np.arange(0, length[-1], 1.0)
    return np.stack([np.interp(even, length, dense[:, k]) for k in (0, 1)], 1)


def _tones(strip: np.ndarray) -> np.ndarray:
    """Log of light, and two colour differences."""
    logs = np.log(strip + 12.0)
    return _denoised(
        np.stack([logs.mean(-1), 0.7 * (logs[..., 0] - logs[..., 2]), 0.7 * (logs[..., 1] - logs.mean(-1))])
    )


def _evened(tones: np.ndarray, margin: int) -> np.ndarray:
    """Freed of its slow run along the path.

    The drawn path and what lies past its ends are freed apart: bare panel is another ground than a row of thread.
    """
    length = tones.shape[2]
    sigma = max(12.0, length / 14)
    parts = np.split(tones, (margin, length - margin), axis=2)
    return np.concatenate([part - smooth_along(part, sigma, cv2.BORDER_REFLECT) for part in parts], axis=2)


def _denoised(channels: np.ndarray) -> np.ndarray:
    """A light blur against sensor noise."""
    return np.stack([cv2.GaussianBlur(channel, (0, 0), 0.8) for channel in channels])


def smooth_along(values: np.ndarray, sigma: float, border: int = cv2.BORDER_REPLICATE) -> np.ndarray:
    """Smooth along the path, the last axis."""
    width = values.shape[-1]
    flat = np.ascontiguousarray(values, dtype=np.float32).reshape(-1, width)
    size = 2 * int(3.5 * sigma + 1) + 1
    return cv2.GaussianBlur(flat, (size, 1), sigma, borderType=border).reshape(values.shape)

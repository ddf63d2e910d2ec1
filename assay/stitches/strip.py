"""The straightened surroundings of a traced path, and freed of uneven light."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d

from assay.contracts import Picture
from assay.errors import CannotMeasure

# Half the width of the strip that is looked at: wide enough for bar stitches (about 5 mm) and a wobbly path.
HALF_STRIP_MM = 3.6
HALF_STRIP_PX = 28
# A shorter path has no direction, px.
SHORTEST_PATH_PX = 3
# Steps a standard deviation in which a strip's slow run is seen.
STEPS = 4


@dataclass(frozen=True, slots=True)
class Straight:
    """The straightened surroundings of a path, as photographed."""

    path: np.ndarray
    """(T, 2) pixels of the picture, one pixel apart, run on past both ends."""
    normal: np.ndarray
    """(T, 2) unit vectors across."""
    rgb: np.ndarray
    """(Y, T, 3) float32."""
    start: int
    stop: int
    """The drawn path's part of T."""

    @property
    def grey(self) -> np.ndarray:
        """(Y, T)."""
        return self.rgb.mean(-1)


@dataclass(frozen=True, slots=True)
class Strip:
    """The same freed of uneven light."""

    path: np.ndarray
    normal: np.ndarray
    values: np.ndarray
    """(C, Y, T) light-corrected channels."""
    tones: np.ndarray
    """(C, Y, T) the same before the light was evened."""
    start: int
    stop: int


def straighten(picture: Picture, points: np.ndarray, past_px: float = 0.0) -> Straight:
    """Straighten the surroundings of a path (N, 2), past both ends by a strip's half width or ``past_px``, which is
    more."""
    path = smooth_path(points)
    if len(path) < SHORTEST_PATH_PX:
        raise CannotMeasure("path_too_short", points=len(points))
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
    return Straight(path, normal, strip, margin, len(path) - margin)


def freed(straight: Straight) -> Strip:
    """Freed of uneven light."""
    tones = _tones(straight.rgb)
    values = _evened(tones, straight.start)
    return Strip(straight.path, straight.normal, values, tones, straight.start, straight.stop)


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
    return np.concatenate([part - _slow_run(part, sigma) for part in parts], axis=2)


def _slow_run(part: np.ndarray, sigma: float) -> np.ndarray:
    """A strip (C, Y, T) smoothed along the path so far that a few means of it, in steps, tell as much."""
    channels, across, length = part.shape
    few = min(length, max(2, round(STEPS * length / sigma)))
    step = length / few
    means = cv2.resize(part.reshape(-1, length), (few, channels * across), interpolation=cv2.INTER_AREA)
    # What means and the way between two of them smooth already (their variance) is left out.
    means = smooth_along(means, np.sqrt(max(sigma**2 - step**2 / 4, 0.0)) / step, cv2.BORDER_REFLECT)
    return cv2.resize(means, (length, channels * across), interpolation=cv2.INTER_LINEAR).reshape(part.shape)


def _denoised(channels: np.ndarray) -> np.ndarray:
    """A light blur against sensor noise."""
    return np.stack([cv2.GaussianBlur(channel, (0, 0), 0.8) for channel in channels])


def smooth_along(values: np.ndarray, sigma: float, border: int = cv2.BORDER_REPLICATE) -> np.ndarray:
    """Smooth along the path, the last axis."""
    width = values.shape[-1]
    flat = np.ascontiguousarray(values, dtype=np.float32).reshape(-1, width)
    size = 2 * int(3.5 * sigma + 1) + 1
    return cv2.GaussianBlur(flat, (size, 1), sigma, borderType=border).reshape(values.shape)

"""How rough a surface is at each size of grain: the strength and the form of what is left in octave bands.

The luminance is made even (divided by its slow run), so that light, exposure and the panel's own tone drop out; bands
are differences of Gaussians at fixed sizes in mm, the same on both pictures. Strength is the log of a band's standard
deviation, form its kurtosis and skewness: pits are not bumps, threads are not grain. Source: the usual filter-bank
account of texture (Portilla & Simoncelli, Int. J. Computer Vision 40(1), 2000, marginal statistics of subbands).
"""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.surface.region import Region, evened

SIZES_MM = (0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4)
"""Standard deviations of the inner Gaussian of each band; the outer one is ``RATIO`` times as wide."""
RATIO = 1.6
FINEST_PX = 0.9
"""A band whose inner Gaussian is narrower than this, px, shows the camera, not the surface: left out."""
FEWEST_TILES = 2
FEWEST_BANDS = 3
DIRECTIONS = 4
"""Ways in which a band's slopes are summed: 0, 45, 90 and 135° to the region's first side."""
TILES = 3
"""A region is read in so many tiles a side, to tell how even it is."""
LEAST_SIDE_SIGMAS = 9.0
"""A band is read only where the region is so many times as wide as its inner Gaussian."""


@dataclass(frozen=True, slots=True)
class Bands:
    """Statistics of a surface, band by band; left-out bands are nan."""

    strength: np.ndarray
    """(B,) log standard deviation of the evened luminance."""
    skewness: np.ndarray
    """(B,)"""
    kurtosis: np.ndarray
    """(B,) less 3, softened: log(1 + max(k, −0.9))."""
    direction: np.ndarray
    """(B, 2) cosine and sine of twice the ridges' direction, to the region's first side, as long as they are
    one-sided."""
    unevenness: float
    """Scatter (log) of the strengths between tiles."""
    noise: float
    """Log strength of the camera's own noise, in the finest band."""


def bands_of(region: Region, mm_per_px: float, first_side: np.ndarray) -> Bands:
    """Read the bands of a region; ``first_side`` (2,): the direction that angles are told from.

    Raises CannotMeasure ``too_few_pixels_for_texture``.
    """
    inside = cv2.erode(region.usable.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    side = float(np.sqrt(inside.sum()))
    sigmas = np.array(SIZES_MM) / mm_per_px
    read = (sigmas >= FINEST_PX) & (sigmas * LEAST_SIDE_SIGMAS <= side)
    if read.sum() < FEWEST_BANDS:
        raise CannotMeasure("too_few_pixels_for_texture", bands=int(read.sum()), needed=FEWEST_BANDS)
    even = np.log(np.maximum(evened(region.luminance + 1e-4, inside, 2.5 * sigmas[read].max()), 1e-3))
    noise = _noise(even, inside)
    shape = (len(SIZES_MM),)
    strength, skewness, kurtosis = (np.full(shape, np.nan) for _ in range(3))
    direction, tiles = np.full((*shape, 2), np.nan), []
    for n in np.flatnonzero(read):
        band, core = _band(even, inside, sigmas[n])
        values = band[core]
        # What the camera's noise adds to this band is taken off.
        own = noise**2 * _noise_left(sigmas[n])
        variance = max(float(values.var()) - own, 0.04 * own, 1e-8)
        strength[n] = 0.5 * np.log(variance)
        z = (values - values.mean()) / (values.std() + 1e-9)
        z = np.clip(z, -6, 6)
        skewness[n] = float((z**3).mean())
        kurtosis[n] = float(np.log1p(max((z**4).mean() - 3, -0.9)))
        direction[n] = _direction(band, core, first_side)
        tiles.append(_tiles(band, core))
    told = [one[np.isfinite(one)] for one in np.array(tiles)]
    if min(map(len, told)) < FEWEST_TILES:
        raise CannotMeasure("too_few_pixels_for_texture", bands=int(read.sum()), needed=FEWEST_BANDS)
    spread = [float(one.std()) for one in told]
    return Bands(strength, skewness, kurtosis, direction, float(np.median(spread)), float(np.log(noise + 1e-6)))


def _band(even: np.ndarray, inside: np.ndarray, sigma: float) -> tuple[np.ndarray, np.ndarray]:
    """A difference of Gaussians, normalised by what of it lies inside; and where it is to be trusted."""
    seen, weight = np.where(inside, even, 0).astype(np.float32), inside.astype(np.float32)
    sigmas = (sigma, RATIO * sigma)
    shares = [_soft(weight, s) for s in sigmas]
    smooth = [_soft(seen, s) / np.maximum(share, 0.05) for s, share in zip(sigmas, shares, strict=True)]
    core = inside & (shares[1] > 0.8)
    return smooth[0] - smooth[1], core if core.sum() > 50 else inside


def _soft(values: np.ndarray, sigma: float) -> np.ndarray:
    return cv2.GaussianBlur(values, (0, 0), float(sigma), borderType=cv2.BORDER_REFLECT)


def _noise(even: np.ndarray, inside: np.ndarray) -> float:
    """Standard deviation of pixel noise by a kernel blind to slopes and curvature (Immerkær, CVIU 64(2), 1996)."""
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    seen = cv2.filter2D(even.astype(np.float32), -1, kernel)[cv2.erode(inside.astype(np.uint8), np.ones((5, 5))) > 0]
    return float(1.4826 * np.median(np.abs(seen)) / 6) if len(seen) else 0.0


def _noise_left(sigma: float) -> float:
    """Share of white noise's variance that a band keeps (Gaussians of unit sum, their squares and product summed)."""
    a, b = sigma, RATIO * sigma
    return float((1 / a**2 + 1 / b**2 - 4 / (a**2 + b**2)) / (4 * np.pi))


def _direction(band: np.ndarray, core: np.ndarray, first_side: np.ndarray) -> np.ndarray:
    """Of the ridges: structure tensor over the whole band (Bigün & Granlund, ICCV 1987), twice the angle."""
    dy, dx = np.gradient(band)
    xx, yy, xy = (float((one * other)[core].mean()) for one, other in ((dx, dx), (dy, dy), (dx, dy)))
    both = np.array([xx - yy, 2 * xy]) / (xx + yy + 1e-12)
    # Ridges run across the slopes: half a turn of the doubled angle.
    turn = 2 * np.arctan2(first_side[1], first_side[0])
    spin = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    return -(spin @ both)


def _tiles(band: np.ndarray, core: np.ndarray) -> list[float]:
    height, width = band.shape
    found = []
    for i in range(TILES):
        for k in range(TILES):
            part = np.s_[i * height // TILES : (i + 1) * height // TILES, k * width // TILES : (k + 1) * width // TILES]
            here = band[part][core[part]]
            found.append(float(np.log(here.std() + 1e-6)) if len(here) > 60 else np.nan)
    return found

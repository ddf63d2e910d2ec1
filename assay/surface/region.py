"""The part of a picture inside a marked region, and which of its pixels can be used."""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.contracts import Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import LIGHT_OF, linear_to_lab
from assay.imaging.white_balance import CLIPPED

FEWEST_PX = 150
"""Pixels that a region must hold to be said anything of."""
GLARE_REFUSED = 0.35
"""Share of clipped pixels from which nothing is said."""
GLARE_DOUBT = 0.03
"""Share of clipped pixels from which it is doubted."""
SHADOWED = 12
"""Pixels whose brightest channel is below this, of 255, are lost in the dark."""
COPY_SIGMA = 6.0
"""Beyond this softening, px, it is done on a smaller copy."""


@dataclass(frozen=True, slots=True)
class Region:
    """The smallest upright rectangle of a picture that holds a marked region."""

    rgb: np.ndarray
    """(h, w, 3) uint8."""
    inside: np.ndarray
    """(h, w) bool: in the region."""
    corner: np.ndarray
    """(2,) where its top left pixel lies in the picture, x, y."""
    doubts: tuple[str, ...]

    @property
    def usable(self) -> np.ndarray:
        """(h, w) bool: in the region, neither clipped nor lost in the dark."""
        brightest = self.rgb.max(2)
        return self.inside & (brightest < CLIPPED) & (brightest >= SHADOWED)

    @property
    def linear(self) -> np.ndarray:
        """(h, w, 3) float32 linear light."""
        return cv2.LUT(self.rgb, LIGHT_OF)

    @property
    def luminance(self) -> np.ndarray:
        """(h, w) float32 linear luminance, 0 to 1 (Rec. 709 weights)."""
        return self.linear @ np.array([0.2126, 0.7152, 0.0722], np.float32)

    @property
    def lab(self) -> np.ndarray:
        """(h, w, 3) CIELAB."""
        return linear_to_lab(self.linear)


def region_of(picture: Picture, marks: Marks, *, room: int = 0) -> Region:
    """Cut the region out, with ``room`` pixels around it.

    Raises CannotMeasure ``region_too_small``, ``glare_on_region`` or what the marks raise.
    """
    polygon = marks.checked(picture.size)
    return region_within(picture, polygon, room=room)


def region_within(picture: Picture, polygon: np.ndarray, *, room: int = 0) -> Region:
    """The same for a polygon (N, 2) that was checked."""
    width, height = picture.size
    x0, y0 = np.maximum(0, np.floor(polygon.min(0)).astype(int) - room)
    x1, y1 = np.minimum([width, height], np.ceil(polygon.max(0)).astype(int) + 1 + room)
    rgb = picture.rgb[y0:y1, x0:x1]
    mask = np.zeros(rgb.shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.round(polygon - [x0, y0]).astype(np.int32)], 1)
    inside = mask > 0
    if inside.sum() < FEWEST_PX:
        raise CannotMeasure("region_too_small", points=len(polygon), pixels=int(inside.sum()))
    clipped = float((rgb[inside].max(1) >= CLIPPED).mean())
    if clipped > GLARE_REFUSED:
        raise CannotMeasure("glare_on_region", percent=round(100 * clipped))
    return Region(rgb, inside, np.array([x0, y0], float), ("glare",) if clipped > GLARE_DOUBT else ())


def evened(values: np.ndarray, inside: np.ndarray, sigma: float) -> np.ndarray:
    """Values (h, w) freed of what varies more slowly than ``sigma`` px: divided by their own slow run inside."""
    known, weight = np.where(inside, values, 0).astype(np.float32), inside.astype(np.float32)
    # What varies slowly is known from a small copy.
    small = max(1.0, sigma / COPY_SIGMA)
    size = tuple(max(1, round(side / small)) for side in values.shape[::-1])
    blurred = [
        cv2.GaussianBlur(cv2.resize(one, size, interpolation=cv2.INTER_AREA), (0, 0), sigma / small)
        for one in (known, weight)
    ]
    slow = cv2.resize(blurred[0] / np.maximum(blurred[1], 1e-6), values.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.where(inside, values / np.maximum(slow, 1e-6), 1.0).astype(np.float32)

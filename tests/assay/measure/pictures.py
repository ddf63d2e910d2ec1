"""Pictures drawn without the simulator, for the measures' tests."""

import numpy as np
from scipy.ndimage import gaussian_filter

from assay.contracts import MarkKind, Marks, Picture


def dashes(count: int, pitch: float, *, duty: float = 0.7, seed: int = 3, slant: float = 0.0) -> tuple[Picture, Marks]:
    """A row of dashes on grey with blur 1.2 px and noise 8, slanted by ``slant`` px a px; marks trace it."""
    rng = np.random.default_rng(seed)
    width, height = int(count * pitch + 80), 90 + int(abs(slant) * count * pitch)
    image = np.full((height, width), 120.0)
    y0 = 45.0
    for n in range(count):
        x = 40 + n * pitch
        for column in range(round(x), round(x + duty * pitch)):
            y = round(y0 + slant * (column - 40))
            image[y - 2 : y + 3, column] = 205
    image = gaussian_filter(image, 1.2) + rng.normal(0, 8, image.shape)
    rgb = np.repeat(image.clip(0, 255).astype(np.uint8)[..., None], 3, 2)
    rgb.setflags(write=False)
    end = 40 + (count - 1) * pitch + duty * pitch
    return Picture(rgb, 0.1), Marks(MarkKind.PATH, ((38, y0), (end + 2, y0 + slant * (end - 38))))


def discs(centres, radius: float, *, size=(300, 400), noise: float = 6, seed: int = 4) -> Picture:
    """Dark discs on lighter ground under uneven light."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0 : size[0], 0 : size[1]].astype(float)
    image = 150 + 60 * x / size[1]
    for cx, cy in centres:
        cover = np.clip(radius - np.hypot(x - cx, y - cy) + 0.5, 0, 1)
        image = image * (1 - cover) + 45 * cover
    image += rng.normal(0, noise, image.shape)
    return Picture(np.repeat(image.clip(0, 255).astype(np.uint8)[..., None], 3, 2), 0.1)

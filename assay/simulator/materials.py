"""What a surface is made of. Made-up figures, chosen by eye."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from assay.simulator import noise

Rgb = tuple[float, float, float]
"""sRGB, 0 to 255."""


def linear(colour: ArrayLike) -> np.ndarray:
    """Linear light of sRGB colours (IEC 61966-2-1), (…, 3), float32 in 0 to 1."""
    c = np.asarray(colour, dtype=np.float32) / 255
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4).astype(np.float32)


@dataclass(frozen=True, slots=True)
class Material:
    """Grain, relief and sheen of a surface."""

    kind: str
    """``leather``, ``suede``, ``rubber`` or ``weave``."""
    colour: Rgb
    grain_mm: float
    """Size of a cell, hair, dot or thread."""
    depth_mm: float
    """Height of the grain, valley to top about 2.5 times this."""
    gloss: float
    """Strength of the highlight, 0 to 1."""
    shininess: float
    """Exponent of the highlight: larger is narrower."""
    mottle: float = 0.03
    """How much the tone wanders."""

    def coloured(self, colour: Sequence[float]) -> "Material":
        """The same in another colour."""
        red, green, blue = colour
        return replace(self, colour=(red, green, blue))

    def tile(self, mm_per_px: float, seed: int) -> np.ndarray:
        """Seamless grain tile at this resolution."""
        size_px = max(1.2, self.grain_mm / mm_per_px)
        make = {"leather": noise.leather, "suede": noise.fibre, "rubber": noise.stipple, "weave": noise.weave}
        return make[self.kind](round(size_px, 2), seed % 3)


LEATHER = Material("leather", (226, 221, 209), grain_mm=1.15, depth_mm=0.045, gloss=0.16, shininess=22)
SUEDE = Material("suede", (96, 108, 116), grain_mm=0.55, depth_mm=0.05, gloss=0.0, shininess=4, mottle=0.16)
RUBBER = Material("rubber", (233, 229, 218), grain_mm=0.3, depth_mm=0.008, gloss=0.10, shininess=14, mottle=0.01)
TEXTILE = Material("weave", (206, 200, 188), grain_mm=0.8, depth_mm=0.09, gloss=0.0, shininess=4)

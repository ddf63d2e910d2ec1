"""Two textures: how far apart band by band, in units of what one material differs from itself by."""

from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor
from assay.errors import CannotJudge

KIND = "texture"
"""``values`` (B, 5): strength, skewness, kurtosis, and twice the ridges' direction as cosine and sine; nan where a band
was not read."""
SELF = (0.16, 0.22, 0.20, 0.16, 0.16)
"""What these differ by on one material (standard, two pieces, other light and camera): bench, textures, 29 Nov."""
SHARED_BANDS = 3
FREE = 3.0
"""A difference larger than so many of those counts no more: one odd band must not decide."""


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """Root mean square over the bands that both show, of the differences against ``SELF``.

    Parts: ``distance``; ``coarser``, ``deeper`` (log ratios, ours against theirs). Raises CannotJudge ``no_scale`` or
    ``too_few_bands``.
    """
    if theirs.unit != "mm" or ours.unit != "mm":
        raise CannotJudge("no_scale")
    one, other = theirs.values, ours.values
    shared = np.isfinite(one[:, 0]) & np.isfinite(other[:, 0])
    if shared.sum() < SHARED_BANDS:
        raise CannotJudge("too_few_bands")
    apart = (other - one)[shared] / SELF
    apart = FREE * np.tanh(apart / FREE)
    size = np.flatnonzero(shared)
    slope = float(np.polyfit(size - size.mean(), (other - one)[shared, 0], 1)[0])
    parts = {
        "distance": float(np.sqrt((apart**2).mean())),
        "deeper": float(np.median((other - one)[shared, 0])),
        "coarser": slope,
    }
    return Comparison(MappingProxyType(parts))


def mirrored(descriptor: Descriptor) -> Descriptor:
    """As a mirror shows it: ridges lean the other way."""
    values = descriptor.values.copy()
    values[:, 4] *= -1
    return replace(descriptor, values=values)


COMPARING = Comparing(KIND, compare, mirrored, {"distance": "ratio"})

"""Two colours: how far apart, and which way."""

from types import MappingProxyType

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Light
from assay.errors import CannotJudge
from assay.imaging.colour import de00

KIND = "tone"
"""``values`` (1, 4): L*, a*, b* and the standard uncertainty, dE00."""


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """CIEDE2000 between two typical colours, and the differences along each axis, ours less theirs.

    Raises CannotJudge ``no_true_colour`` where the light of one picture is not known.
    """
    if Light.NONE in (theirs.light, ours.light):
        raise CannotJudge("no_true_colour")
    one, other = theirs.values[0, :3], ours.values[0, :3]
    u = float(np.hypot(theirs.values[0, 3], ours.values[0, 3]))
    chroma = float(np.hypot(*other[1:]) - np.hypot(*one[1:]))
    lighter, redder, yellower = (other - one).tolist()
    return Comparison(
        MappingProxyType(
            {
                "apart_dE00": de00(one, other),
                "apart_dE00_uncertainty": u,
                "lighter": lighter,
                "redder": redder,
                "yellower": yellower,
                "stronger": chroma,
            }
        )
    )


def mirrored(descriptor: Descriptor) -> Descriptor:
    """A mirror changes no colour."""
    return descriptor


COMPARING = Comparing(KIND, compare, mirrored, {"apart_dE00": "dE00"})

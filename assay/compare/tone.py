"""Two colours: how far apart, and which way, beyond what the exposure of the two photographs explains.

A colour is judged as a vector. Under the bench card its lightness is known as well as its hue; beside a neutral part
only the light's colour is known, not how long the camera exposed. Exposure moves a colour along one line: L* + 16, a*
and b* all grow by the cube root of the light (CIE 15). What lies along that line is put down to the exposure as far as
the exposure is unsure; what lies across it, a redder or stronger colour, counts in full.
"""

from types import MappingProxyType

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Light, Picture
from assay.errors import CannotJudge
from assay.imaging.colour import de00

KIND = "tone"
"""``values`` (1, 6): L*, a*, b*; their standard uncertainty, dE00; that of what no exposure explains, dE00; and that of
the exposure, natural logarithm of the light."""
MOST_EXPOSURES = 2.0
"""So many standard uncertainties of the exposure are put down to it at most."""
LAB_SCATTER = 2.0
"""What two readings of one colour differ by besides, CIELAB units: weighs against an exposure. Assumed."""


def values_of(lab: np.ndarray, u_tone_de: float, picture: Picture) -> np.ndarray:
    """What a measure keeps of a colour (3,) for comparing; ``u_tone_de``: its own standard uncertainty, dE00."""
    u, u_hue = (float(np.hypot(u_tone_de, light)) for light in (picture.u_light_de00, picture.u_hue_de00))
    return np.array([[*lab.tolist(), u, u_hue, picture.u_exposure]])


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """CIEDE2000 between two typical colours beyond their exposures, and the differences along each axis, ours less
    theirs, as they were read.

    Raises CannotJudge ``no_true_colour`` where the light of one picture is not known.
    """
    if Light.NONE in (theirs.light, ours.light):
        raise CannotJudge("no_true_colour")
    one, other = theirs.values[0, :3], ours.values[0, :3]
    u_hue, u_exposure = _unsure(theirs, ours)
    chroma = float(np.hypot(*other[1:]) - np.hypot(*one[1:]))
    lighter, redder, yellower = (other - one).tolist()
    return Comparison(
        MappingProxyType(
            {
                "apart_dE00": de00(exposed_alike(one, other, u_exposure), other),
                "apart_dE00_uncertainty": u_hue,
                "lighter": lighter,
                "redder": redder,
                "yellower": yellower,
                "stronger": chroma,
            }
        )
    )


def _unsure(theirs: Descriptor, ours: Descriptor) -> tuple[float, float]:
    """Joint standard uncertainties of the hue, dE00, and of the exposure; colours that were kept before exposure was
    told apart have one of both."""
    hue, exposure = [], []
    for values in (theirs.values[0], ours.values[0]):
        hue.append(values[4] if len(values) > 4 else values[3])
        exposure.append(values[5] if len(values) > 4 else 0.0)
    return float(np.linalg.norm(hue)), float(np.linalg.norm(exposure))


def exposed_alike(one: np.ndarray, other: np.ndarray, u_exposure: float) -> np.ndarray:
    """``one`` (3,) as it would look at the exposure that brings it nearest to ``other``, as far as that is likely.

    >>> exposed_alike(np.array([50.0, 0, 0]), np.array([60.0, 0, 0]), 0.0).tolist()
    [50.0, 0.0, 0.0]
    """
    if not u_exposure:
        return one
    way = np.array([one[0] + 16, one[1], one[2]]) / 3
    longer = float((other - one) @ way / (way @ way + (LAB_SCATTER / u_exposure) ** 2))
    longer = float(np.clip(longer, -MOST_EXPOSURES * u_exposure, MOST_EXPOSURES * u_exposure))
    grown = np.exp(longer / 3)
    return np.array([(one[0] + 16) * grown - 16, one[1] * grown, one[2] * grown])


def mirrored(descriptor: Descriptor) -> Descriptor:
    """A mirror changes no colour."""
    return descriptor


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {"apart_dE00": "dE00"},
    magnitudes=frozenset({"apart_dE00"}),
    # Dye lots of one material: about what an eye just sees. Common practice, no source.
    floors={"apart_dE00": 0.8},
    typical={"apart_dE00": 1.0},
)

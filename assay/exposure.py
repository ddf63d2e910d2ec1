"""How long eyes may be under an ultraviolet lamp, as orientation only: the lamp's own sheet and local rules go first.

ICNIRP guidelines 2004 (Health Phys. 87(2), 171 to 186): UV-A on the unprotected eye at most 10⁴ J/m² in 8 hours. The
irradiance is that at the eye; away from a small lamp it falls with the square of the distance. Not for lamps below
350 nm: a second, weighted limit governs there.
"""

import math

from assay.errors import CannotMeasure

LIMIT_J_M2 = 1e4
LONGEST_S = 8 * 3600.0
"""The limit is one of a working day."""


def seconds_allowed(w_m2: float, *, stated_at_mm: float = 0.0, eye_at_mm: float = 0.0) -> float:
    """Time to the limit, s. ``w_m2``: UV-A irradiance at the eye, or at ``stated_at_mm`` from a small lamp that is
    ``eye_at_mm`` from the eye.

    Raises CannotMeasure ``bad_irradiance``.

    >>> seconds_allowed(10.0), round(seconds_allowed(50.0, stated_at_mm=200, eye_at_mm=500))
    (1000.0, 1250)
    """
    distances = (stated_at_mm, eye_at_mm)
    if not all(map(math.isfinite, (w_m2, *distances))) or w_m2 <= 0 or min(distances) < 0:
        raise CannotMeasure("bad_irradiance")
    at_eye = w_m2 * (stated_at_mm / eye_at_mm) ** 2 if stated_at_mm and eye_at_mm else w_m2
    return min(LONGEST_S, LIMIT_J_M2 / at_eye)

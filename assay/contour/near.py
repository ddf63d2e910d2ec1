"""A closed contour, and the one near a rough curve."""

from dataclasses import dataclass

import numpy as np

from assay.compare.contour import even
from assay.contour.boundary import STEP_PX, follow_step, outermost

# How far off a rough outline the contour is looked for, as a share of the picture's longer side.
REACH_SHARE = 0.012
# It is followed so many times at most, until less than such a share of it moves by so many pixels or more.
ROUNDS = 3
STAYS_PX = 4.0
STAYS_BUT = 0.01


@dataclass(frozen=True, slots=True)
class Contour:
    """A closed contour."""

    points: np.ndarray
    """(N, 2) picture pixels, evenly stepped, clockwise as seen."""
    clear: np.ndarray
    """(N,) how far the step stands out from the ground's own scatter there; under 1 it is a guess."""
    more: bool = False
    """Whether a faint line beyond it begins and ends at it: more may belong to the thing."""

    @property
    def guessed(self) -> float:
        """Share of it that cannot be told from the ground."""
        return float((self.clear < 1).mean())


def around(roots: np.ndarray, outline: np.ndarray, beaten_by: float) -> Contour:
    """The contour near a rough outline: far around it, then near what was found, until it stays, or does not look like
    one of which less than ``beaten_by`` is a guess."""
    reach = REACH_SHARE * max(roots.shape[:2])
    points, _ = follow_step(roots, even(outline, STEP_PX), reach)
    for _ in range(ROUNDS):
        curve = even(outermost(points), STEP_PX)
        contour = Contour(*follow_step(roots, curve, reach / 2))
        if contour.guessed >= beaten_by or (np.hypot(*(contour.points - curve).T) >= STAYS_PX).mean() < STAYS_BUT:
            break
        points = contour.points
    return contour


def near(roots: np.ndarray, curve: np.ndarray) -> Contour:
    """The contour near a curve, followed once."""
    return Contour(*follow_step(roots, even(outermost(curve), STEP_PX), REACH_SHARE / 2 * max(roots.shape[:2])))

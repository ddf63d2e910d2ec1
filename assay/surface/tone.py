"""The colour of a region: typical, how it scatters, and whether it is one tone at all."""

from dataclasses import dataclass

import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.colour import de00
from assay.surface.region import Region

MOST_SAMPLES = 20_000
"""So many pixels are looked at, at most."""
TWO_TONES_DE = 9.0
"""Two halves of a region's pixels whose middles lie further apart than this are two materials, if each is of a size."""
SMALLER_SHARE = 0.15
DRIFT = 6.0
"""Colour that drifts by more than this from one side of a region to the other, a* b* units, lies under two lamps."""
DRIFT_OVER_SCATTER = 1.5
"""And by so many times the scatter about that drift: two materials step, lamps drift."""
LEAST_U_DE = 0.15
"""Standard uncertainty of a typical colour that more pixels do not make smaller: quantising, sharpening, JPEG."""
INDEPENDENT = 0.02
"""Share of pixels that are independent of their neighbours: grain and JPEG blocks make them alike."""


@dataclass(frozen=True, slots=True)
class Tone:
    """A region's colour."""

    lab: np.ndarray
    """(3,) median CIELAB."""
    scatter_de: float
    """Robust scatter of single pixels, CIELAB units."""
    u_de: float
    """Standard uncertainty of the median by that scatter and, as a rectangular distribution, by the hue's drift."""
    two_tones: bool
    drifts: bool
    """Its hue runs from one side to the other, as under two lamps of different colour."""

    @property
    def doubts(self) -> tuple[str, ...]:
        """``two_tones``, ``mixed_light``; two materials are not two lamps as well."""
        return ("two_tones",) if self.two_tones else ("mixed_light",) if self.drifts else ()


def tone_of(region: Region) -> Tone:
    """The tone of what is usable. Raises CannotMeasure ``nothing_usable``."""
    usable = region.usable
    if usable.sum() < 0.3 * region.inside.sum():
        raise CannotMeasure("nothing_usable", percent=round(100 * float(usable.sum() / region.inside.sum())))
    step = max(1, int(usable.sum()) // MOST_SAMPLES)
    lab, places = region.lab[usable][::step], np.argwhere(usable)[::step]
    middle = np.median(lab, axis=0)
    scatter = float(1.4826 * np.median(np.linalg.norm(lab - middle, axis=1)))
    u = float(np.hypot(LEAST_U_DE, 1.25 * scatter / np.sqrt(max(1.0, INDEPENDENT * len(lab)))))
    drift = _drift(lab, places)
    return Tone(middle, scatter, float(np.hypot(u, drift / np.sqrt(12))), _two_tones(lab), drift > 0)


def _drift(lab: np.ndarray, places: np.ndarray) -> float:
    """By how much a* and b* run from one side of the region to the other; 0 where no more than materials do."""
    ground = np.column_stack([places - places.mean(0), np.ones(len(places))])
    plane, *_ = np.linalg.lstsq(ground, lab[:, 1:], rcond=None)
    drift = float(np.hypot(*(plane[:2].T @ np.ptp(places, axis=0))))
    scatter = float(np.linalg.norm((lab[:, 1:] - ground @ plane).std(0)))
    return drift if drift > max(DRIFT, DRIFT_OVER_SCATTER * scatter) else 0.0


def _two_tones(lab: np.ndarray) -> bool:
    """Whether pixels fall into two groups (two means along the longest axis), far apart against their own scatter."""
    centred = lab - lab.mean(0)
    _, _, axes = np.linalg.svd(centred, full_matrices=False)
    along = centred @ axes[0]
    cut = 0.0
    for _ in range(12):
        low, high = along[along <= cut], along[along > cut]
        if not len(low) or not len(high):
            return False
        cut = (low.mean() + high.mean()) / 2
    share = min(len(low), len(high)) / len(along)
    own = float(np.hypot(low.std(), high.std()))
    apart = de00(np.median(lab[along <= cut], axis=0), np.median(lab[along > cut], axis=0))
    return share > SMALLER_SHARE and apart > TWO_TONES_DE and high.mean() - low.mean() > 3.2 * own

"""Two patterns of holes: which are missing, which are extra, by how much the rest is scattered."""

from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Stroke, StrokeKind
from assay.errors import CannotAlign, CannotJudge
from assay.register.affine import similarity
from assay.register.point_pattern import match_pattern

KIND = "point_pattern"
MISSING = "missing"
EXTRA = "extra"
"""Labels of the rings that mark a hole that is not there, and one that should not be."""
# An extra hole's ring is so much wider than the hole, so that both can be seen.
WIDER = 1.7
U_COUNT = 0.1
"""Least standard uncertainty of how many are missing or extra: partners are chosen by place. Assumed."""


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """Lay their pattern on ours, roughly by the marks round both, then by a proper rotation.

    Parts: ``missing`` and ``extra`` (holes), ``scatter_mm`` (``_px``), root mean square of what the rest is apart.
    ``values``: (N, 1) radii. Raises CannotJudge ``other_marks`` where the marks do not correspond, CannotAlign
    ``patterns_too_unlike`` where fewer than three holes have a partner.
    """
    if len(theirs.marks) != len(ours.marks) or theirs.unit != ours.unit:
        raise CannotJudge("other_marks")
    onto = similarity(theirs.marks, ours.marks)
    found = match_pattern(theirs.points @ onto[:, :2].T + onto[:, 2], ours.points)
    if found is None:
        raise CannotAlign("patterns_too_unlike")
    radius = float(np.median(ours.values)) if ours.values.size else 1.0
    rings = [_ring(place, radius, MISSING) for place in found.missing]
    rings += [_ring(ours.points[n], WIDER * radius, EXTRA) for n in found.extra]
    unsure = max(float(np.hypot(theirs.count_uncertainty, ours.count_uncertainty)), U_COUNT)
    parts = {
        "missing": float(len(found.missing)),
        "missing_uncertainty": unsure,
        "extra": float(len(found.extra)),
        "extra_uncertainty": unsure,
        f"scatter_{ours.unit}": found.rms_residual,
        f"scatter_{ours.unit}_uncertainty": found.rms_residual / float(np.sqrt(2 * len(ours.points))),
    }
    return Comparison(MappingProxyType(parts), tuple(rings))


def mirrored(descriptor: Descriptor) -> Descriptor:
    """As a mirror shows it; marks keep their order, so that they still correspond."""
    return replace(descriptor, points=descriptor.points * [-1, 1], marks=descriptor.marks * [-1, 1])


def _ring(at: np.ndarray, radius: float, label: str) -> Stroke:
    return Stroke(StrokeKind.RING, ((float(at[0]), float(at[1])),), label, radius)


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {"missing": "count", "extra": "count", "scatter_mm": "mm"},
    magnitudes=frozenset({"scatter_mm"}),
    # A die's holes are punched by hand along a stay. Assumed.
    floors={"scatter_mm": 0.1},
    typical={"scatter_mm": 0.2},
)

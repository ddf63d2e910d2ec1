"""What glows on one pair against what glows on another: what lies beyond the other's places, what is lacking."""

from dataclasses import replace
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np
from scipy.spatial import cKDTree

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Stroke, StrokeKind
from assay.errors import CannotJudge
from assay.register.affine import similarity
from assay.surface.glow_forms import FORMS, GlowForm

KIND = "glow"
"""``points``: places along or on everything that glows; ``values`` (N, 5) of each: which thing it belongs to, its
form's place in ``FORMS``, brightness over the dark ground, length of the thing in mm (0: no scale), 1 where it is
unsure."""
NEAR_MM = 7.0
NEAR_SHARE = 0.045
"""Without a scale: as a share of the longer side of what is marked."""
EXPECTED = 0.5
"""A thing glows there as well where so much of it lies near such a thing on the other."""
ALIKE = {GlowForm.LINE: 0, GlowForm.STAMP: 0, GlowForm.SMEAR: 1, GlowForm.PANEL: 2}
"""A stamp in its control's place may pass for a line and the other way round."""
DRAWN = (GlowForm.LINE, GlowForm.STAMP)
U_SURE, U_UNSURE = 0.1, 0.5
"""Standard uncertainty of a count of what lies beyond."""
BEYOND = "beyond retail’s"


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """Lay theirs on ours by the marks round both.

    Parts: ``lines_beyond``, ``stamps_beyond``, ``drawn_beyond`` (both), ``smears_beyond``, ``panels_beyond``,
    ``panels_lacking`` (counted); ``smear_beyond_mm`` where there is a scale. Raises CannotJudge ``other_lamp``: only
    like is compared with like; ``other_marks``.
    """
    if not ours.lamp or ours.lamp != theirs.lamp:
        raise CannotJudge("other_lamp")
    if len(theirs.marks) != len(ours.marks) or theirs.unit != ours.unit:
        raise CannotJudge("other_marks")
    onto = similarity(theirs.marks, ours.marks)
    theirs_here = theirs.points @ onto[:, :2].T + onto[:, 2]
    near = NEAR_MM if ours.unit == "mm" else NEAR_SHARE * float(np.ptp(ours.marks, axis=0).max())
    beyond = _without(ours.points, ours.values, theirs_here, theirs.values, near)
    lacking = _without(theirs_here, theirs.values, ours.points, ours.values, near)
    counts = {form: sum(one[0] is form for one in beyond) for form in FORMS}
    parts = {
        "lines_beyond": float(counts[GlowForm.LINE]),
        "stamps_beyond": float(counts[GlowForm.STAMP]),
        "drawn_beyond": float(counts[GlowForm.LINE] + counts[GlowForm.STAMP]),
        "smears_beyond": float(counts[GlowForm.SMEAR]),
        "panels_beyond": float(counts[GlowForm.PANEL]),
        "panels_lacking": float(sum(one[0] is GlowForm.PANEL for one in lacking)),
    }
    for name, forms in (("drawn", DRAWN), ("lines", DRAWN[:1]), ("stamps", DRAWN[1:])):
        unsure = any(one[0] in forms and one[3] for one in beyond)
        parts[f"{name}_beyond_uncertainty"] = U_UNSURE if unsure else U_SURE
    # Smears are taken for lines and the other way round too often for a count of them to be sure: bench.
    parts["smears_beyond_uncertainty"] = U_UNSURE
    parts |= {f"panels_{where}_uncertainty": U_SURE for where in ("beyond", "lacking")}
    if ours.unit == "mm":
        parts["smear_beyond_mm"] = float(sum(one[2] for one in beyond if one[0] is GlowForm.SMEAR))
        parts["smear_beyond_mm_uncertainty"] = 3.0
    strokes = tuple(_round(places, near / 3, BEYOND if n == 0 else "") for n, (_, places, *_) in enumerate(beyond))
    return Comparison(MappingProxyType(parts), strokes)


def _without(
    points: np.ndarray, values: np.ndarray, other: np.ndarray, known: np.ndarray, near: float
) -> list[tuple[Any, ...]]:
    """(form, places, length, whether unsure) of what has nothing alike near it on the other."""
    found: list[tuple[Any, ...]] = []
    if not len(points):
        return found
    for n in np.unique(values[:, 0]):
        mine = values[:, 0] == n
        form = FORMS[round(values[mine][0, 1])]
        alike = [ALIKE[FORMS[round(one)]] == ALIKE[form] for one in known[:, 1]] if len(other) else []
        places = other[np.array(alike, bool)] if any(alike) else np.zeros((0, 2))
        share = 0.0
        if len(places):
            share = float((cKDTree(places).query(points[mine])[0] <= near).mean())
        if share < EXPECTED:
            found.append((form, points[mine], *values[mine][0, 3:5].tolist()))
    return found


def _round(places: np.ndarray, room: float, label: str) -> Stroke:
    """A line round a thing, with some room."""
    t = np.linspace(0, 2 * np.pi, 12, endpoint=False)
    wide = (places[:, None] + room * np.stack([np.cos(t), np.sin(t)], 1)[None]).reshape(-1, 2)
    hull = cv2.convexHull(wide.astype(np.float32))[:, 0]
    closed = np.vstack([hull, hull[:1]])
    return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in closed), label)


def mirrored(descriptor: Descriptor) -> Descriptor:
    """As a mirror shows it."""
    return replace(descriptor, points=descriptor.points * [-1, 1], marks=descriptor.marks * [-1, 1])


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {
        "drawn_beyond": "count",
        "lines_beyond": "count",
        "stamps_beyond": "count",
        "smears_beyond": "count",
        "smear_beyond_mm": "mm",
        "panels_beyond": "count",
        "panels_lacking": "count",
    },
    frozenset({"smear_beyond_mm"}),
    magnitudes=frozenset({"smear_beyond_mm"}),
    # Adhesive shows on some pairs and not on others. Assumed.
    floors={"smear_beyond_mm": 10.0},
    typical={"smear_beyond_mm": 10.0},
)

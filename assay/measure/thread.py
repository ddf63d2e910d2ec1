"""The thread of a sewn row: how thick, its colour against the panel, how much it shines.

What: the row is found (``stitches.find``); across every stitch's middle the light is looked at square to the row, and
the mean of these profiles gives the thread's width at half its height and its colour at its crest. Valid: running
stitches whose thread differs from the panel; a bar's thread lies across its row and is told along it. Refuses what a
row refuses and ``thread_not_told`` where thread and panel differ by less than their scatter.
"""

from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.imaging.colour import LIGHT_OF, de00, linear_to_lab
from assay.measure.entry import Measure
from assay.measure.sample import stitches as sample_row
from assay.stitches.find import Stitched, find_stitches
from assay.stitches.shape import form_of

REACH_PITCHES = 0.7
"""How far beside the row the panel is looked at, in pitches."""
STEP_PX = 0.25
CLEAR_DE = 3.0
U_WIDTH_PX = 0.5
"""Standard uncertainty of a thread's width, px: blur widens what is thin."""
ALONG = 5
"""Profiles a stitch, in its middle third."""


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Value: ``thick_mm`` (px without a scale). Parts: ``apart_dE00`` of thread and panel, ``lighter`` (L*, thread less
    panel), ``shine_ratio`` (the thread's brightest part over its own tone)."""
    points = marks.checked(picture.size)
    found = find_stitches(picture, points)
    profiles, spots = _profiles(picture, found)
    mean = np.median(profiles, axis=0)
    panel = np.median(np.vstack([profiles[:, :6].reshape(-1, 3), profiles[:, -6:].reshape(-1, 3)]), axis=0)
    away = np.linalg.norm(linear_to_lab(mean) - linear_to_lab(panel), axis=1)
    middle = len(away) // 2
    near = np.s_[middle - len(away) // 5 : middle + len(away) // 5 + 1]
    crest = int(away[near].argmax()) + near.start
    if away[crest] < CLEAR_DE:
        raise CannotMeasure("thread_not_told", apart_dE=round(float(away[crest]), 1))
    width = _width(away, crest) * STEP_PX
    thread = np.median(profiles[:, max(0, crest - 1) : crest + 2], axis=(0, 1))
    lab = linear_to_lab(np.array([thread, panel]))
    luminance = profiles[:, max(0, crest - 2) : crest + 3] @ np.array([0.2126, 0.7152, 0.0722])
    unit, name = picture.mm_per_px or 1.0, "mm" if picture.mm_per_px else "px"
    u = U_WIDTH_PX * unit
    parts = {
        f"thick_{name}": width * unit,
        f"thick_{name}_uncertainty": u,
        "apart_dE00": de00(lab[0], lab[1]),
        "apart_dE00_uncertainty": 0.8,
        "lighter": float(lab[0, 0] - lab[1, 0]),
        "lighter_uncertainty": 0.8,
        "shine_ratio": float(np.percentile(luminance, 95) / max(np.median(luminance), 1e-4)),
        "shine_ratio_uncertainty": 0.06,
    }
    doubts = (*picture.doubts, *(["weak_row"] if found.weak else []))
    overlay = tuple(Stroke(StrokeKind.TICK, ends) for ends in _ticks(found, spots, width, crest - middle))
    return Measurement(width * unit, name, u, MappingProxyType(parts), overlay, tuple(dict.fromkeys(doubts)))


def _profiles(picture: Picture, stitched: Stitched) -> tuple[np.ndarray, np.ndarray]:
    """(N, T, 3) linear light across the thread in the middle of every stitch, and where (N, 2) they cross it."""
    places = stitched.along(stitched.row.places)
    period, form = stitched.row.period, form_of(stitched.row)
    third = 0.16 * min(form.length or period, period)
    t = (places[:, None] + np.linspace(-third, third, ALONG)).ravel()
    spots = stitched.at(t)
    normal = _normals(stitched, t)
    if form.slant is not None:
        # A bar lies across the row: its thread is looked at along it.
        normal = np.stack([-normal[:, 1], normal[:, 0]], 1)
    reach = REACH_PITCHES * period if form.slant is None else 0.5 * period
    across = np.arange(-reach, reach + STEP_PX / 2, STEP_PX)
    at = spots[:, None] + across[None, :, None] * normal[:, None]
    x, y = at[..., 0].astype(np.float32), at[..., 1].astype(np.float32)
    light = cv2.remap(picture.rgb, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return cv2.LUT(light, LIGHT_OF).astype(float), spots


def _normals(stitched: Stitched, t: np.ndarray) -> np.ndarray:
    step = stitched.at(t + 1.0) - stitched.at(t - 1.0)
    return np.stack([-step[:, 1], step[:, 0]], 1) / (np.hypot(*step.T)[:, None] + 1e-9)


def _width(away: np.ndarray, crest: int) -> float:
    """Full width at half the height of the crest, in steps, to a fraction of one."""
    half = away[crest] / 2
    left = right = crest
    while left > 0 and away[left - 1] > half:
        left -= 1
    while right < len(away) - 1 and away[right + 1] > half:
        right += 1

    def edge(inner: int, outer: int) -> float:
        if not 0 <= outer < len(away):
            return 0.5
        return float((away[inner] - half) / max(away[inner] - away[outer], 1e-6))

    return right - left + edge(left, left - 1) + edge(right, right + 1)


def _ticks(stitched: Stitched, spots: np.ndarray, width: float, shift: int) -> list[tuple[Any, ...]]:
    places = stitched.along(stitched.row.places)
    middles, normal = stitched.at(places), _normals(stitched, places)
    middles = middles + shift * STEP_PX * normal
    return [
        tuple((float(x), float(y)) for x, y in (at - width / 2 * way, at + width / 2 * way))
        for at, way in zip(middles, normal, strict=True)
    ]


MEASURE = Measure(
    name="thread",
    version=1,
    marks=MarkKind.PATH,
    measure=measure,
    unit="mm",
    parts={"thick_mm": "mm", "apart_dE00": "dE00", "lighter": "L*", "shine_ratio": "ratio"},
    drill="shade",
    coarsest_mm_per_px=0.16,
    true_light=True,
    refuses=frozenset({"thread_not_told", "no_row_found", "too_few_pixels", "path_too_short"}),
    sample=sample_row,
)

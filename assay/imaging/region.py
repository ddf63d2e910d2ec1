"""Measure on a flat piece: the region around marks, straightened to the object's plane, and the reading brought back.

Only the region is warped, never the whole picture; where it is to be much coarser than the picture, from the picture at
half size, which averages what would else be left out. Lengths in mm get the scale's uncertainty added (JCGM 100:2008,
5.1.2).
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from itertools import islice
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np

from assay.contracts import Descriptor, Marks, Measurement, Picture, Point, Stroke
from assay.imaging.plane import Plane, through
from assay.imaging.pyramid import half_of
from assay.imaging.white_balance import Correction
from assay.memory import Memory
from assay.units import Quantity, Unit

# Room around the marks, mm: measures look a little beyond what was drawn.
ROOM_MM = 9.0
MOST_PX = 2600
# So much coarser than the picture, and it is cut from half of it.
HALVED_FROM = 1.5


def measure_region(  # noqa: PLR0913 - a picture, where, and how
    measure: Callable[..., Any],
    picture: Picture,
    plane: Plane,
    marks: Marks,
    points: Sequence[Point] | None = None,
    *,
    units: Mapping[str, str],
    most_px: int = MOST_PX,
    light: Correction | None = None,
) -> Measurement:
    """Run ``measure(picture, marks[, points])`` on the straightened region around the marks, its longest side at most
    ``most_px``; with ``light`` on its true colours.

    ``units``: of the value ("") and of every part, as ``Measure.units`` has them: what follows the scale carries its
    uncertainty.
    """
    drawn = marks.checked(picture.size)
    flat = plane.to_mm(drawn)
    low, high = flat.min(0) - ROOM_MM, flat.max(0) + ROOM_MM
    middle = drawn.mean(0)
    own = plane.mm_per_px((float(middle[0]), float(middle[1])))
    # Two pixels to spare for rounding outwards.
    step = max(own, float((high - low).max()) / (most_px - 2))
    # Whole pixels where the surface is square to the camera: such a region is cut out, not resampled.
    low = np.floor(low / step) * step
    # Pixel (u, v) of the region lies at low + (u, v) · step.
    onto = plane.matrix @ np.array([[step, 0, low[0]], [0, step, low[1]], [0, 0, 1]])
    wide, tall = (int(n) for n in np.ceil((high - low) / step) + 1)
    size = (wide, tall)
    name = onto.tobytes() + bytes(str(size), "ascii")
    part, memory = picture.memory.of(("region", name), lambda: (_cut(picture, onto, size, step / own), Memory()))
    back = np.linalg.inv(onto)
    lit = in_true_light(replace(picture, rgb=part), light, onto)
    region = replace(lit, mm_per_px=step, card=tuple(_points(through(back, np.array(picture.card).reshape(-1, 2)))))
    if light is None:
        region = region.sharing(memory)
    given: list[Any] = [Marks(marks.kind, tuple(_points(through(back, drawn))))]
    if points is not None:
        given.append(_points(through(back, np.asarray(points, float))))
    found = measure(region, *given)
    relative = plane.relative_at(drawn)
    if found.descriptor is not None:
        found = replace(found, descriptor=_in_mm(found.descriptor, step, low, relative))
    return _widened(_brought_back(found, onto), units, relative)


def in_true_light(picture: Picture, light: Correction | None, onto: np.ndarray | None = None) -> Picture:
    """The picture as it would look in even daylight, if the light is known; ``onto``: see ``Correction.corrected``."""
    if light is None:
        return picture
    return replace(
        picture,
        rgb=light.corrected(picture.rgb, np.eye(3) if onto is None else onto),
        light=light.light,
        u_light_de00=light.uncertainty_de00,
        u_hue_de00=light.hue_uncertainty_de00,
        u_exposure=light.exposure_uncertainty,
        doubts=tuple(dict.fromkeys((*picture.doubts, *light.doubts))),
    )


def _in_mm(descriptor: Descriptor, step: float, low: np.ndarray, relative: float) -> Descriptor:
    """What is kept for comparing, on the object's plane; ``relative``: the scale's standard uncertainty there."""
    places = {
        name: getattr(descriptor, name) * step + low for name in ("points", "marks") if len(getattr(descriptor, name))
    }
    if descriptor.values_unit == Unit.PX:
        places |= {"values": descriptor.values * step, "values_unit": Unit.MM}
    if descriptor.image is not None:
        places |= {"image_step": descriptor.image_step * step, "image_at": tuple(n * step for n in descriptor.image_at)}
    off = float(np.hypot(descriptor.relative_uncertainty, relative))
    return replace(descriptor, **places, unit="mm", relative_uncertainty=off)


def _cut(picture: Picture, onto: np.ndarray, size: tuple[int, int], coarser: float) -> np.ndarray:
    """The region (h, w, 3), straightened, its pixels so much ``coarser`` than the picture's.

    Sampled linearly: by cubic interpolation nothing was read better, down to 0.2 mm a pixel.
    """
    rgb = picture.rgb
    if coarser >= HALVED_FROM:
        rgb = picture.memory.of("half", lambda: half_of(picture.rgb))
        onto = np.array([[0.5, 0, -0.25], [0, 0.5, -0.25], [0, 0, 1]]) @ onto
    x0, y0, x1, y1 = _source(onto, size, np.array(rgb.shape[1::-1]))
    piece = rgb[y0:y1, x0:x1]
    onto = np.array([[1, 0, -x0], [0, 1, -y0], [0, 0, 1]]) @ onto
    how = cv2.WARP_INVERSE_MAP | cv2.INTER_LINEAR
    return cv2.warpPerspective(piece, onto, size, flags=how, borderMode=cv2.BORDER_REPLICATE)


def _source(onto: np.ndarray, size: tuple[int, int], limit: np.ndarray) -> tuple[int, int, int, int]:
    """Left, top, right, low (past the last) of what a region comes from in a picture of ``limit`` pixels, and a little
    more."""
    right, low = size[0] - 1, size[1] - 1
    corners = through(onto, np.array([[0, 0], [right, 0], [right, low], [0, low]]))
    first = np.clip(np.floor(corners.min(0)) - 2, 0, limit - 1).astype(int)
    last = np.clip(np.ceil(corners.max(0)) + 3, first + 1, limit).astype(int)
    return (*first.tolist(), *last.tolist())


def _points(array: np.ndarray) -> list[Point]:
    return [(float(x), float(y)) for x, y in array]


def _brought_back(measurement: Measurement, onto: np.ndarray) -> Measurement:
    """Strokes in the picture's own pixels again."""
    spots = [spot for stroke in measurement.overlay for spot in (*stroke.points, _on_rim(stroke))]
    moved, overlay = iter(through(onto, np.array(spots, float).reshape(-1, 2)).tolist()), []
    for stroke in measurement.overlay:
        points, rim = tuple(map(tuple, islice(moved, len(stroke.points)))), next(moved)
        radius = math.dist(rim, points[0]) if stroke.radius_px else 0.0
        overlay.append(replace(stroke, points=points, radius_px=radius))
    return replace(measurement, overlay=tuple(overlay))


def _on_rim(stroke: Stroke) -> Point:
    """A place as far from the first one as the stroke reaches."""
    x, y = stroke.points[0]
    return x + stroke.radius_px, y


def _widened(measurement: Measurement, units: Mapping[str, str], relative: float) -> Measurement:
    """With the scale's uncertainty in every number that follows the scale."""
    parts = dict(measurement.parts)
    for name in [name for name in parts if not name.endswith("_uncertainty")]:
        own = Quantity(parts[name], parts.get(f"{name}_uncertainty", 0.0), Unit(units[name]))
        if own.unit.length_power:
            parts[f"{name}_uncertainty"] = own.at_scale(relative).uncertainty
    uncertainty = measurement.uncertainty
    if not isinstance(measurement.value, str):
        uncertainty = (
            Quantity(float(measurement.value), uncertainty, Unit(measurement.unit)).at_scale(relative).uncertainty
        )
    return replace(measurement, parts=MappingProxyType(parts), uncertainty=uncertainty)

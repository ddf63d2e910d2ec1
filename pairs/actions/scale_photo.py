"""Give a photograph a scale by hand, or say how high the measured side lies over the card. Nothing is saved here."""

from dataclasses import replace

import numpy as np

from assay.errors import AssayError, CannotMeasure
from assay.imaging.plane import Plane
from assay.imaging.pyramid import pyramid_of
from assay.imaging.scale import ID1_MM, find_id1, from_rectangle, from_two_points
from assay.imaging.white_balance import correction_from_neutral
from assay.pipeline.facts import PhotoLight, scale_of
from pairs.models import Photo
from pairs.pictures import camera, pixels

MOST_ABOVE_MM = 200


def scale_by_points(*, photo: Photo, points: list, lengths_mm: list[float]) -> Plane:
    """Two points and their distance, or four corners of a rectangle and its sides. Raises CannotMeasure."""
    if len(points) == 2 and len(lengths_mm) == 1:
        return _scaled(photo, from_two_points(np.array(points), lengths_mm[0]))
    if len(points) == 4 and len(lengths_mm) == 2:
        source = "id1" if tuple(lengths_mm) == ID1_MM else "rectangle"
        size = {"source": source, "picture_px": (photo.width, photo.height)}
        return _scaled(photo, from_rectangle(np.array(points), (lengths_mm[0], lengths_mm[1]), **size), points)
    raise CannotMeasure("scale_needs_points", got=len(points))


def scale_by_id1(*, photo: Photo) -> Plane:
    """A bank card in the picture. Raises CannotMeasure ``no_id1_card``."""
    found, corners = find_id1(pyramid_of(pixels(photo.full.path)))
    return _scaled(photo, found, corners)


def set_height(*, photo: Photo, above_mm: float, unknown_mm: float) -> None:
    """How far the measured side lies above the card's surface. Raises CannotMeasure."""
    if not photo.scale.is_known:
        raise CannotMeasure("no_scale_yet")
    if not (abs(above_mm) <= MOST_ABOVE_MM and 0 <= unknown_mm <= MOST_ABOVE_MM):
        raise CannotMeasure("height_not_usable", most=MOST_ABOVE_MM)
    photo.scale = replace(photo.scale, height_mm=above_mm, height_uncertainty_mm=unknown_mm)


def set_neutral(*, photo: Photo, at: tuple[float, float], tile: bool = False) -> None:
    """One place is neutral: colours are true against it; ``tile``: it is the shop's grey tile, and lightness counts as
    well. Raises CannotMeasure ``neutral_not_usable``, AssayError ``no_grey_tile``."""
    known = photo.pair.organisation.tile_reflectance if tile else None
    if tile and known is None:
        raise AssayError("no_grey_tile")
    found = correction_from_neutral(pixels(photo.full.path), at, known)
    photo.light = PhotoLight.of(found, neutral_px=at)


def _scaled(photo: Photo, plane: Plane, corners=()) -> Plane:
    photo.mm_per_px = plane.mm_per_px(((photo.width - 1) / 2, (photo.height - 1) / 2))
    photo.scale = scale_of(plane, camera(photo), corners)
    return plane

"""From what is stored to what the core works on, and back."""

import io
from functools import lru_cache
from mmap import ACCESS_READ, mmap

import cv2
import numpy as np
from django.core.files.base import ContentFile

from assay.contracts import MarkKind, Marks, Stroke
from assay.errors import CannotOpen
from assay.imaging.opening import decode
from assay.imaging.plane import CameraModel, Plane, camera_model_of
from assay.imaging.white_balance import Correction
from assay.measure.registry import MEASURES
from assay.pipeline.measure import PhotoFacts
from assay.register.features import Features
from library.models import Foot
from library.photo_kinds import kinds_by_key
from pairs.models import Photo, Reading

# Pages and other workers want the other cores: no call takes them all.
cv2.setNumThreads(1)


# The one that is measured, and a reference.
@lru_cache(maxsize=2)
def pixels(path: str) -> np.ndarray:
    """The stored photograph, decoded. The last few are kept: files never change. Raises CannotOpen."""
    with open(path, "rb") as stored:  # noqa: PTH123 - a plain local file
        try:
            data = mmap(stored.fileno(), 0, access=ACCESS_READ)
        except ValueError as error:  # nothing in it
            raise CannotOpen("truncated") from error
        with data:
            return decode(data)


def facts(photo: Photo) -> PhotoFacts:
    """What a measure must know of a photograph besides its pixels."""
    doubts = (*photo.fitness.reasons, *(photo.scale.doubts or ()))
    return PhotoFacts(photo.mm_per_px, doubts, photo.scale.card_px, plane(photo), correction(photo))


def camera(photo: Photo) -> CameraModel:
    """The camera it was taken with."""
    return camera_model_of((photo.width, photo.height), photo.focal_35mm)


# Of a photograph that nobody has sorted: a card beside a shoe, mm, standard.
CARD_GAP_MM = 4.0
# What else gives a scale, a tile or a bank card laid onto a part or a ruler held to it, lies nearer to the camera than
# what is measured, mm, standard. Assumed.
LAID_ON_MM = 6.0
HELD_TO_MM = 3.0


def card_off_mm(photo: Photo) -> float:
    """How far what gives the scale may lie from the measured surface, mm, standard, where nobody has said."""
    source = photo.scale.source
    gap = kinds_by_key()[photo.view].card_gap_mm if photo.view in kinds_by_key() else CARD_GAP_MM
    least = {"id1": LAID_ON_MM, "rectangle": LAID_ON_MM, "two_points": HELD_TO_MM, "card": 0.0}
    return max(gap, least[source]) if source in least else 0.0


def surface(photo: Photo) -> Plane | None:
    """The surface that is measured: the scale's own, moved by what is known of its height; None without a scale."""
    return photo.scale.surface(camera(photo), card_off_mm(photo))


def plane(photo: Photo) -> Plane | None:
    """The same, as unsure as it is where it makes the shoe another size than retail's."""
    return photo.scale.measuring_surface(camera(photo), card_off_mm(photo))


def height_of_card(photo: Photo) -> float | None:
    """How far the measured side lies above the card, mm, if that is why the scale disagrees with retail's."""
    return photo.scale.height_that_agrees(camera(photo))


def correction(photo: Photo) -> Correction | None:
    """How its colours become true; None where they do not."""
    return photo.light.correction((photo.width, photo.height))


def features(photo: Photo) -> Features | None:
    """What it offers for recognition; None where it has not been read."""
    return _offered(photo.features.path, (photo.width, photo.height)) if photo.features else None


# As many as the views of a few releases: files never change.
@lru_cache(maxsize=96)
def _offered(path: str, size: tuple[int, int]) -> Features:
    with np.load(path) as kept:
        small = (kept["small"],) if "small" in kept else ()
        return Features(kept["points"], kept["descriptors"], kept["outline"], size, *small)


def features_file(found: Features) -> ContentFile:
    """The same as a file."""
    target = io.BytesIO()
    np.savez(target, points=found.points, descriptors=found.descriptors, outline=found.outline, small=found.small)
    return ContentFile(target.getvalue())


def stroke_on_photo(stroke: Stroke, reading: Reading) -> dict:
    """A stroke in a descriptor's unit as it is drawn on the reading's photograph."""
    measured = plane(reading.photo) if reading.photo else None
    points, radius = np.array(stroke.points, float), stroke.radius_px
    if measured is not None:
        points = measured.to_px(points)
        radius = radius / measured.mm_per_px((float(points[0, 0]), float(points[0, 1])))
    return {
        "kind": stroke.kind,
        "points": np.round(points, 2).tolist(),
        "label": stroke.label,
        "radius_px": round(float(radius), 2),
    }


def facing(photo: Photo) -> int:
    """Which way a shoe's side looks in it: 1 with the toe at the left, −1 at the right, 0 where it is no side."""
    if photo.view not in kinds_by_key() or not kinds_by_key()[photo.view].one_sided:
        return 0
    return 1 if photo.foot == Foot.LEFT else -1


def mark_kind(checkpoint) -> MarkKind:
    """What is drawn for a checkpoint; what is only looked at is shown by a region."""
    return MEASURES[checkpoint.measure].marks if checkpoint.measure else MarkKind.REGION


def marks(checkpoint, points) -> Marks:
    """Stored points as the core's marks."""
    return Marks(mark_kind(checkpoint), tuple((float(x), float(y)) for x, y in points))

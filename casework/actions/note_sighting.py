"""What a checker sees that no checkpoint names: kept as a finding of this case, with a pin or a box where it is."""

from collections.abc import Mapping

from django.core.files.base import ContentFile
from django.db import transaction

from assay.errors import AssayError
from casework.actions.pin_note import crop_of
from casework.ledger import note
from casework.models import Case, Sighting
from pairs.models import Photo

MOST = 40


def note_sighting(*, case: Case, user, photo: Photo | None, given: Mapping) -> Sighting:
    """Keep it. ``given``: name, words, points (none, a pin or a box's two corners), group, sure, like.

    Raises AssayError ``no_name``, ``off_the_picture``, ``too_many_sightings``.
    """
    if not given["name"].strip():
        raise AssayError("no_name")
    points = given["points"] if photo else []
    if len(points) > 2 or not all(0 <= x < photo.width and 0 <= y < photo.height for x, y in points):
        raise AssayError("off_the_picture")
    if case.sightings.count() >= MOST:
        raise AssayError("too_many_sightings", most=MOST)
    seen = Sighting(
        case=case,
        photo=photo,
        points=points,
        name=given["name"].strip(),
        words=given["words"].strip(),
        group=given["group"] or Sighting.OF_NO_PART,
        sure=given["sure"],
        like=given["like"],
        made_by=user,
    )
    crop = crop_of(photo, points) if points else None
    with transaction.atomic():
        if crop:
            seen.crop.save("crop.jpg", ContentFile(crop), save=False)
        seen.save()
        note(case, user, "seen", name=seen.name, sure=seen.sure, like=seen.like)
    return seen


def take_back_sighting(*, case: Case, user, sighting: Sighting) -> None:
    """It no longer counts; that it was noted stays on record."""
    with transaction.atomic():
        sighting.taken_back = True
        sighting.save(update_fields=["taken_back"])
        note(case, user, "seen_taken_back", name=sighting.name)

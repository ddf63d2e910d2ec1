"""Keep a value taken with the stage's tools, with the piece of the photograph it was taken on."""

import io

import numpy as np
from django.core.files.base import ContentFile
from django.db import transaction
from PIL import Image

from assay.imaging.gauge import Gauged
from casework.ledger import note
from casework.models import Case, Note
from library.models import Checkpoint
from pairs.models import Photo
from pairs.pictures import pixels

ROOM_SHARE = 0.35
LEAST_PX = 120
CROP_SIDE = 640


def pin_note(*, case: Case, user, checkpoint: Checkpoint, photo: Photo, given: dict, gauged: Gauged) -> Note:
    """Keep it beside a checkpoint. The number stands as the core gave it; ``given``: tool, points, words."""
    pinned = Note(
        case=case,
        checkpoint=checkpoint,
        photo=photo,
        tool=given["tool"],
        points=given["points"],
        value=gauged.value,
        unit=gauged.unit,
        uncertainty=gauged.uncertainty,
        parts=dict(gauged.parts),
        words=given["words"].strip()[:300],
        made_by=user,
    )
    with transaction.atomic():
        pinned.crop.save("crop.jpg", ContentFile(crop_of(photo, given["points"])), save=False)
        pinned.save()
        note(
            case, user, "note_pinned", checkpoint=checkpoint.key, tool=pinned.tool, value=gauged.value, unit=gauged.unit
        )
    return pinned


def crop_of(photo: Photo, points: list) -> bytes:
    """The piece of a photograph around some points, as JPEG."""
    low, high = np.min(points, axis=0), np.max(points, axis=0)
    room = max(LEAST_PX, ROOM_SHARE * float((high - low).max()))
    box = (*np.maximum(0, low - room), *np.minimum((photo.width, photo.height), high + room))
    piece = Image.fromarray(pixels(photo.full.path)).crop(tuple(int(n) for n in box))
    piece.thumbnail((CROP_SIDE, CROP_SIDE))
    target = io.BytesIO()
    piece.save(target, "JPEG", quality=85)
    return target.getvalue()

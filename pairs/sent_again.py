"""Whether a suspect's photograph is a verified pair's own, sent again."""

from functools import lru_cache

import cv2
import numpy as np

from assay.imaging.same_picture import LIKE_SHAPE, alike, fine
from pairs.models import Pair, Photo, Standing

SENT_AGAIN = "retails_own_photo"
"""The reason to take a photograph again."""


def refuse_if_retails_own(photo: Photo) -> None:
    """Say of a photograph whose view is known that it must be taken again, where it is; nothing is saved."""
    if photo.view and SENT_AGAIN not in (photo.fitness.retake or ()) and is_retails_own(photo):
        photo.fitness = photo.fitness.to_retake(SENT_AGAIN)


def is_retails_own(photo: Photo) -> bool:
    """Whether it is, stored anew perhaps, a photograph of a verified pair of the release or its siblings. One query;
    small pictures of the verified pairs' are kept."""
    if photo.pair.standing == Standing.RETAIL:
        return False
    theirs = Pair.objects.filter(release__in=photo.pair.release.siblings, standing=Standing.RETAIL)
    known = Photo.objects.filter(pair__in=theirs, view=photo.view, set_aside=False, state=Photo.State.READ)
    return any(_is_one(photo, other) for other in known.only("full", "sha256", "width", "height"))


def _is_one(photo: Photo, other: Photo) -> bool:
    if photo.sha256 == other.sha256:
        return True
    ratio = (photo.width / photo.height) / (other.width / other.height)
    return abs(ratio - 1) < LIKE_SHAPE and alike(_fine_of(photo.full.path), _fine_of(other.full.path))


# Files never change.
@lru_cache(maxsize=64)
def _fine_of(path: str) -> np.ndarray:
    # Grey alone: a third of the work of decoding it for measuring.
    grey = cv2.imread(path, cv2.IMREAD_GRAYSCALE)
    return fine(np.zeros((2, 2), np.uint8) if grey is None else grey)

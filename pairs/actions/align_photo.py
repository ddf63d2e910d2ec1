"""Lay a reference photograph onto another one, once."""

from assay.photo.align import Alignment, align
from pairs.models import Photo, PhotoAlignment
from pairs.pictures import picture
from pairs.queries import alignment_of


def align_photo(*, reference: Photo, photo: Photo) -> Alignment:
    """The alignment, kept from before or found now. Raises CannotAlign."""
    known = alignment_of(reference, photo)
    if known:
        return known
    found = align(picture(reference), picture(photo))
    PhotoAlignment.objects.create(
        reference=reference, photo=photo, matrix=found.matrix.tolist(), matches=found.matches, error_px=found.error_px
    )
    return found

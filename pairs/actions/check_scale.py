"""Compare a photograph's scale with the verified pair's that it is aligned with: one shoe cannot have two sizes."""

from assay.paperwork.size_rule import carried
from assay.paperwork.sizes import Group
from assay.pipeline.scale import hold_against_retail
from assay.register.affine import Alignment
from library.photo_kinds import kinds_by_key
from pairs.known import size_of
from pairs.models import Photo
from pairs.pictures import surface


def hold_scale_against(photo: Photo, reference: Photo, alignment: Alignment) -> None:
    """Note on ``photo``, which is not saved, where its scale says that the shoe is not as large as retail's: the card
    lay nearer or further than the measured side, on one of the two photographs.

    Called whenever a photograph is aligned or one of the two scales changes.
    """
    box = reference.guess.box or (0, 0, reference.width, reference.height)
    grown = _grown(reference, photo) if photo.foot else None
    photo.scale = hold_against_retail(photo.scale, (surface(reference), surface(photo)), alignment, box, grown)


def _grown(reference: Photo, photo: Photo) -> float | None:
    """How many times as long as the reference's shoe this one should be by its size; None where sizes are not known, or
    where a part fills the picture that may keep its size."""
    sizes, release = (size_of(reference.pair.size_us), size_of(photo.pair.size_us)), photo.pair.release
    known = kinds_by_key().get(photo.view)
    if known is not None and known.close_up:
        return 1.0 if sizes[0] == sizes[1] and sizes[0] is not None else None
    return carried(1.0, {"rule": "length"}, *sizes, Group(release.group))

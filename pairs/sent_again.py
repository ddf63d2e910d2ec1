"""Whether a suspect's photograph is a verified pair's own, sent again."""

from assay.imaging.same_picture import are_one
from pairs.models import Pair, Photo, Standing
from pairs.pictures import pixels

SENT_AGAIN = "retails_own_photo"
"""The reason to take a photograph again."""


def is_retails_own(photo: Photo) -> bool:
    """Whether it is, stored anew perhaps, a photograph of a verified pair of the release or its siblings. One query,
    and a photograph decoded for each verified pair that shows that view."""
    if photo.pair.standing == Standing.RETAIL:
        return False
    theirs = Pair.objects.filter(release__in=photo.pair.release.siblings, standing=Standing.RETAIL)
    known = Photo.objects.filter(pair__in=theirs, view=photo.view, set_aside=False, state=Photo.State.READ)
    own = pixels(photo.full.path)
    return any(
        other.sha256 == photo.sha256 or are_one(own, pixels(other.full.path)) for other in known.only("full", "sha256")
    )

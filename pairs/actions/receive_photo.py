"""Take in one file as a photograph of a pair: checked and stripped, not yet looked at."""

from hashlib import sha256

from django.core.files.base import ContentFile

from assay.errors import CannotOpen
from assay.imaging.opening import Received, receive
from pairs.models import Pair, Photo


def receive_photo(
    *, pair: Pair, data: bytes | Received, by, name: str = "", view: str = "", foot: str = "",
    mm_per_px: float | None = None,
) -> Photo:  # fmt: skip
    """Keep the file. ``data``: as it came, or received already. ``mm_per_px``: of a fixed stand.

    Decoding takes long: within a transaction give what was received before it. Raises CannotOpen; ``same_file`` where
    it is there already.
    """
    received = data if isinstance(data, Received) else receive(data)
    already = pair.photos.filter(sha256=received.sha256).first()
    if already:
        raise CannotOpen("same_file", showing=already.showing)
    photo = Photo(
        pair=pair,
        view=view,
        foot=foot,
        sorted_by=Photo.SortedBy.PERSON if view else Photo.SortedBy.NOBODY,
        width=received.size[0],
        height=received.size[1],
        sha256=received.sha256,
        stored_sha256=sha256(received.stored).hexdigest(),
        name_given=name[:120],
        mm_per_px=mm_per_px,
        focal_35mm=received.focal_35mm,
        fitness={"doubts": list(received.doubts)},
        taken_at=received.taken_at.isoformat() if received.taken_at else "",
        added_by=by,
    )
    photo.full.save("full.jpg", ContentFile(received.stored), save=False)
    try:
        photo.save()
    except BaseException:
        # No file without a row: the database was busy, or the disk full.
        photo.full.delete(save=False)
        raise
    return photo

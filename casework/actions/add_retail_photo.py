"""Add a photograph to a verified pair: what checks of a view are drawn on, and what suspects are laid beside."""

from assay.errors import AssayError
from assay.imaging.opening import check_bytes
from casework.actions.analyse_case import needs_of
from casework.ledger import note_of_organisation
from library.models import Foot
from library.photo_kinds import kinds_by_key
from library.writers import MAY_CHECK, must
from pairs.actions.receive_photo import receive_photo
from pairs.models import Pair, Photo
from pairs.pipeline import read_photo
from pairs.queries import photos_in_use, retail_pairs


def add_retail_photo(*, pair: Pair, user, upload, view: str, foot: str) -> Photo:
    """Take it in and read it at once. Raises AssayError ``not_allowed``, ``no_such_view``, or CannotOpen."""
    must(user, MAY_CHECK)
    if view not in kinds_by_key() or (kinds_by_key()[view].feet and foot not in Foot.values):
        raise AssayError("no_such_view")
    check_bytes(upload.size)
    foot = foot if kinds_by_key()[view].feet else ""
    photo = receive_photo(pair=pair, data=upload.read(), view=view, foot=foot, by=user, name=upload.name)
    others = retail_pairs(pair)
    known = photos_in_use(others[0]) if others else {}
    read_photo(photo=photo, references=known, needs=needs_of(pair.release.checkpoints.exclude(measure="")))
    note_of_organisation(pair.organisation, user, "retail_photo_added", pair=pair.label, view=view, foot=foot)
    return photo

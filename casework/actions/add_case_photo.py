"""Add a photograph to a case and have it read and measured."""

from django.db import transaction

from assay.imaging.opening import check_bytes, receive
from casework.actions.analyse_case import request_analysis
from casework.ledger import note
from casework.models import Case
from pairs.actions.receive_photo import receive_photo
from pairs.models import Photo


def add_case_photo(
    *, case: Case, user, upload, view: str = "", foot: str = "", mm_per_px: float | None = None, how: str = "counter"
) -> Photo:
    """Take in one uploaded file; without a view it is sorted by what it shows. Raises CannotOpen; a file too large is
    turned away before it is read."""
    check_bytes(upload.size)
    # Before anything is written: nobody else waits for the decoding.
    received = receive(upload.read())
    with transaction.atomic():
        photo = receive_photo(
            pair=case.pair, data=received, view=view, foot=foot, by=user, name=upload.name, mm_per_px=mm_per_px
        )
        note(case, user, "photo_added", photo=photo.pk, view=view, foot=foot, name=photo.name_given, how=how)
    request_analysis(case=case, user=user)
    return photo

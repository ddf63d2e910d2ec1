"""A case from photographs alone: they are read for their release, and move into the case once that is known."""

from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from pathlib import Path
from uuid import UUID

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from assay.errors import AssayError, CannotOpen
from assay.imaging.opening import Received, check_bytes, receive
from assay.paperwork import style_code
from assay.paperwork.gtin import gtin14
from assay.paperwork.print_fields import SURE
from assay.paperwork.print_reader import is_installed, read_print
from assay.pipeline.sort import codes_of
from casework.actions.analyse_case import request_analysis
from casework.actions.analyse_pair import request_reading
from casework.actions.keep_pair import add_pair
from casework.actions.start_case import release_of, start_case
from casework.ledger import note, note_of_organisation
from casework.models import Case, DroppedPhoto, UploadLink
from library.models import Maker
from library.writers import visible_to
from pairs.actions.receive_photo import receive_photo
from pairs.models import Organisation, Pair, Photo
from pairs.pictures import pixels

MOST = 60
"""Photographs of one drop."""
KEPT = timedelta(days=14)
"""As long a drop waits for its case, a client's as well."""


def take_dropped(*, organisation: Organisation, user, token: UUID, upload, for_case: bool = True) -> DroppedPhoto:
    """Keep one photograph of a drop; ``for_case``: and have its release read off it. Raises CannotOpen, AssayError
    ``drop_too_large``."""
    _forget(DroppedPhoto.objects.filter(organisation=organisation, added_at__lt=timezone.now() - KEPT))
    if DroppedPhoto.objects.filter(organisation=organisation, token=token).count() >= MOST:
        raise AssayError("drop_too_large", most=MOST)
    check_bytes(upload.size)
    received = receive(upload.read())
    known = {"size": received.size, "sha256": received.sha256, "focal_35mm": received.focal_35mm}
    known |= {"doubts": list(received.doubts), "taken_at": received.taken_at and received.taken_at.isoformat()}
    dropped = DroppedPhoto(
        organisation=organisation, token=token, by=user, name_given=upload.name[:120], received=known
    )
    dropped.is_read = not for_case
    dropped.file.save("photo.jpg", ContentFile(received.stored), save=False)
    try:
        dropped.save()
    except BaseException:
        # No file without a row, as of every photograph.
        dropped.file.delete(save=False)
        raise
    if for_case:
        transaction.on_commit(lambda: read_in_background.enqueue(dropped.pk))
    return dropped


@task()
def read_in_background(dropped_id: int) -> None:
    """The queue's way in. A drop whose release is known already is left alone."""
    dropped = DroppedPhoto.objects.filter(pk=dropped_id, is_read=False).first()
    if dropped is None:
        return
    if not release_codes(DroppedPhoto.objects.filter(organisation=dropped.organisation, token=dropped.token)):
        dropped.codes = _codes_on(dropped)
    dropped.is_read = True
    # It may have moved into a case meanwhile.
    DroppedPhoto.objects.filter(pk=dropped.pk).update(codes=dropped.codes, is_read=True)


def _codes_on(dropped: DroppedPhoto) -> list[str]:
    """Style codes of the shop's releases that stand on the photograph, in print or as a barcode's number."""
    try:
        rgb = pixels(dropped.file.path)
    except CannotOpen:
        return []
    releases = list(visible_to(dropped.organisation).select_related("shoe_model__maker"))
    found = [code.text for code in codes_of(rgb)]
    numbers = {gtin14(text) for text in found if text.isdigit() and len(text) in (8, 12, 13, 14)}
    named = {release.style_code for release in releases if numbers & set(release.barcodes.values())}
    if is_installed():
        masks = Maker.objects.values_list("style_code_mask", flat=True).distinct()
        known = {release.style_code for release in releases}
        lines = [line.text for line in read_print(rgb) if line.confidence >= SURE]
        named |= known & {code for text in lines for mask in masks if (code := _normalised(text, mask))}
    return sorted(named)


def _normalised(text: str, mask: str) -> str:
    try:
        return style_code.normalise(text, mask)
    except AssayError:
        return ""


def release_codes(dropped: Iterable[DroppedPhoto]) -> list[str]:
    """Style codes that were read on a drop, the most often read first."""
    return [code for code, _ in Counter(code for photo in dropped for code in photo.codes).most_common()]


def start_from_photos(*, user, token: UUID, typed_code: str) -> Case:
    """Open the case of a drop and move its photographs there. Raises what starting a case raises; nothing is lost
    then."""
    with transaction.atomic():
        case = start_case(user=user, typed_code=typed_code, token=token)
        # What a client still sends goes to the case.
        UploadLink.objects.filter(organisation=case.organisation, drop=token).update(case=case, drop=None)
        for photo in _move_into(case.pair, token):
            note(case, user, "photo_added", photo=photo.pk, view="", foot="", name=photo.name_given, how="counter")
    request_analysis(case=case, user=user)
    return case


def pair_from_photos(*, organisation: Organisation, user, token: UUID, typed_code: str, **given: str) -> Pair:
    """A pair to be verified as retail, from a drop: its photographs move to it. ``given``: condition, verified_how.
    Raises what finding a release and adding a pair raise; nothing is lost then."""
    release, _size, _number = release_of(typed_code, organisation)
    with transaction.atomic():
        pair = add_pair(organisation=organisation, user=user, release=release, given=given)
        for photo in _move_into(pair, token):
            note_of_organisation(
                organisation, user, "retail_photo_added", pair=pair.label, view="", foot="", name=photo.name_given
            )
    request_reading(pair=pair, user=user)
    return pair


def _move_into(pair: Pair, token: UUID) -> Iterator[Photo]:
    """The photographs of a drop, now the pair's; the same file twice comes once."""
    moved = list(DroppedPhoto.objects.filter(organisation=pair.organisation, token=token))
    for dropped in moved:
        try:
            yield receive_photo(pair=pair, data=received_of(dropped), by=dropped.by, name=dropped.name_given)
        except CannotOpen:
            continue
    _forget(DroppedPhoto.objects.filter(pk__in=[one.pk for one in moved]))


def received_of(dropped: DroppedPhoto) -> Received:
    """The file as it came in."""
    known = dropped.received
    return Received(
        stored=Path(dropped.file.path).read_bytes(),
        sha256=known["sha256"],
        size=tuple(known["size"]),
        focal_35mm=known["focal_35mm"],
        doubts=tuple(known["doubts"]),
        taken_at=datetime.fromisoformat(known["taken_at"]) if known["taken_at"] else None,
    )


def _forget(kept) -> None:
    """Take rows away, and their files once that is sure."""
    rows = list(kept)
    kept.delete()
    transaction.on_commit(lambda: [row.file.storage.delete(row.file.name) for row in rows])

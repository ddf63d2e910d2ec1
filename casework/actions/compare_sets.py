"""Lay two drops of photographs side by side, in the background; nothing of it enters library or case."""

from collections.abc import Iterable
from dataclasses import asdict
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone
from django_tasks import task

from assay.errors import AssayError, CannotOpen
from assay.pipeline.two_sets import ComparedPhotos, OpenedForSet, compare_photos, match_sets, open_for_set
from assay.register.affine import Alignment
from casework.actions.start_from_photos import KEPT, received_of
from casework.models import DroppedPhoto, SetComparison
from pairs.models import Organisation
from pairs.pictures import pixels

SIDES = ("first", "second")


def drop_of(token: UUID, side: str) -> UUID:
    """The drop that a side's photographs lie in."""
    return uuid5(token, side)


def photos_of(organisation: Organisation, token: UUID, side: str) -> list[DroppedPhoto]:
    """In the order they came."""
    return list(DroppedPhoto.objects.filter(organisation=organisation, token=drop_of(token, side)))


def request_comparison(*, organisation: Organisation, user, token: UUID) -> SetComparison:
    """Queue it; one that was cut off is gone on with, and one that is done is done anew where photographs came since.
    Raises AssayError ``set_is_empty``."""
    if not all(photos_of(organisation, token, side) for side in SIDES):
        raise AssayError("set_is_empty")
    SetComparison.objects.filter(organisation=organisation, asked_at__lt=timezone.now() - KEPT).delete()
    with transaction.atomic():
        known = SetComparison.objects.filter(organisation=organisation, token=token).first()
        if known and known.runs and not known.stalled:
            return known
        if known is None or not known.runs:
            SetComparison.objects.filter(organisation=organisation, token=token).delete()
            known = SetComparison.objects.create(organisation=organisation, token=token, asked_by=user)
        else:
            known.save(update_fields=["touched_at"])
        transaction.on_commit(lambda: compare_in_background.enqueue(known.pk))
    return known


@task()
def compare_in_background(comparison_id: int) -> None:
    """The queue's way in."""
    comparison = SetComparison.objects.select_related("organisation").filter(pk=comparison_id).first()
    if comparison:
        compare(comparison)


def compare(comparison: SetComparison) -> None:
    """Every matched couple of photographs that is left. Cut off, it goes on with the next."""
    first, second = (_opened(comparison, side) for side in SIDES)
    matches = match_sets([opened for _, opened in first], [opened for _, opened in second])
    comparison.to_do, comparison.is_matched = len(matches), True
    comparison.save(update_fields=["to_do", "is_matched", "touched_at"])
    for m, n, alignment in matches[len(comparison.found) :]:
        comparison.found.append(_compared(first[m], second[n], alignment))
        comparison.save(update_fields=["found", "touched_at"])


def _opened(comparison: SetComparison, side: str) -> list[tuple[DroppedPhoto, OpenedForSet]]:
    """The photographs of a side that can be opened."""
    found = []
    for dropped in photos_of(comparison.organisation, comparison.token, side):
        try:
            rgb = pixels(dropped.file.path)
        except CannotOpen:
            continue
        bar_mm = comparison.organisation.card_bar_mm
        found.append((dropped, open_for_set(received_of(dropped), rgb, bar_mm=bar_mm)))
        comparison.save(update_fields=["touched_at"])
    return found


def _compared(
    first: tuple[DroppedPhoto, OpenedForSet], second: tuple[DroppedPhoto, OpenedForSet], alignment: Alignment
) -> dict:
    pictures = [(pixels(dropped.file.path), opened) for dropped, opened in (first, second)]
    try:
        told = compare_photos(pictures[0], pictures[1], alignment)
    except AssayError:
        told = ComparedPhotos((), (), 0)
    return {
        "first": first[0].pk,
        "second": second[0].pk,
        "mm_per_px": first[1].facts.mm_per_px,
        "unread": told.unread,
        "readings": list(_as_data(told.readings)),
        "regions": [asdict(region) for region in told.regions],
    }


def _as_data(readings: Iterable) -> Iterable[dict]:
    for reading in readings:
        yield asdict(reading) | {"differs": reading.differs}

"""Read and measure a verified pair's or a known copy's photographs, in the background."""

from contextlib import suppress

from django.contrib.auth import get_user_model
from django.db import transaction
from django_tasks import task

from assay.errors import AssayError, CannotAlign
from casework.actions.analyse_case import needs_of
from casework.actions.know_copy import know_copy
from library import known_views
from pairs.actions.align_photo import align_photo
from pairs.actions.compare_feet import compare_feet
from pairs.actions.mark_photo import carry_markings
from pairs.actions.read_photo import read_photo
from pairs.actions.take_reading import measure_photo
from pairs.models import Marking, Pair, Photo, Standing
from pairs.queries import photos_in_use, retail_pairs, teaching_pairs


def request_reading(*, pair: Pair, user) -> None:
    """Queue it."""
    transaction.on_commit(lambda: read_in_background.enqueue(pair.pk, user.pk))


@task()
def read_in_background(pair_id: int, user_id: int) -> None:
    """The queue's way in."""
    known_views.forget()
    pair = Pair.objects.select_related("release", "house").get(pk=pair_id)
    analyse_pair(pair=pair, user=get_user_model().objects.get(pk=user_id))


def analyse_pair(*, pair: Pair, user) -> None:
    """Read what arrived, carry the guide's marks over from the verified pairs, measure. A photograph is read by one run
    only; what was measured off the one in use stands."""
    known = models_of(pair)
    checkpoints = list(pair.release.checkpoints.exclude(measure=""))
    needs = needs_of(checkpoints)
    while photo := pair.photos.filter(state=Photo.State.ARRIVED).order_by("pk").first():
        if pair.photos.filter(pk=photo.pk, state=Photo.State.ARRIVED).update(state=Photo.State.READING):
            read_photo(photo=photo, references=known, needs=needs)
    _measure(pair, checkpoints, user)
    compare_feet(pair=pair)
    if pair.standing == Standing.COPY:
        know_copy(pair=pair)


def models_of(pair: Pair) -> dict:
    """Photographs that its own are recognised by: of every verified pair the first that shows a view."""
    found: dict = {}
    for other in retail_pairs(pair):
        for place, photo in photos_in_use(other).items():
            found.setdefault(place, photo)
    return found


def _measure(pair: Pair, checkpoints: list, user) -> None:
    done: dict = {}
    read = set(pair.readings.exclude(photo=None).values_list("checkpoint", "photo"))
    used = photos_in_use(pair)
    for checkpoint in checkpoints:
        photo = used.get((checkpoint.view, checkpoint.foot))
        if photo is None or (checkpoint.pk, photo.pk) in read:
            continue
        marking = Marking.objects.filter(checkpoint=checkpoint, photo=photo).first() or _carried(
            pair, checkpoint, photo
        )
        if marking is not None:
            with suppress(AssayError):
                measure_photo(marking=marking, by=user, done=done)


def _carried(pair: Pair, checkpoint, photo: Photo) -> Marking | None:
    drawn = Marking.objects.filter(checkpoint=checkpoint, photo__pair__in=teaching_pairs(pair)).exclude(photo=photo)
    first = drawn.filter(origin=Marking.Origin.DRAWN).select_related("photo").first()
    first = first or drawn.select_related("photo").first()
    if first is None:
        return None
    with suppress(CannotAlign):
        laid = align_photo(reference=first.photo, photo=photo)
        (carried,) = carry_markings(drawn=[first], photo=photo, alignment=laid)
        return carried if isinstance(carried, Marking) else None
    return None

"""Read and measure a verified pair's or a known copy's photographs, in the background."""

from collections import defaultdict

from django.contrib.auth import get_user_model
from django.db import transaction
from django_tasks import task

from casework.actions.analyse_case import needs_of
from casework.actions.know_copy import know_copy
from library import photo_kinds
from pairs.actions.compare_feet import compare_feet
from pairs.models import Marking, Pair, Photo, Standing
from pairs.pipeline import carry_markings, measure_markings, read_photo
from pairs.print import read_print_on, size_read, unread_print
from pairs.queries import markings_on, photos_in_use, retail_pairs, teaching_pairs


def request_reading(*, pair: Pair, user) -> None:
    """Queue it."""
    transaction.on_commit(lambda: read_in_background.enqueue(pair.pk, user.pk))


@task()
def read_in_background(pair_id: int, user_id: int) -> None:
    """The queue's way in."""
    photo_kinds.forget()
    pair = Pair.objects.select_related("release", "organisation").get(pk=pair_id)
    analyse_pair(pair=pair, user=get_user_model().objects.get(pk=user_id))


def analyse_pair(*, pair: Pair, user) -> None:
    """Read what arrived, carry the guide's marks over from the verified pairs, measure. A photograph is read by one run
    only; what was measured off the one in use stands."""
    known = models_of(pair)
    checkpoints = list(pair.release.checkpoints.exclude(view=""))
    needs = needs_of(checkpoint for checkpoint in checkpoints if checkpoint.measure)
    while photo := pair.photos.filter(state=Photo.State.ARRIVED).order_by("pk").first():
        if pair.photos.filter(pk=photo.pk, state=Photo.State.ARRIVED).update(state=Photo.State.READING):
            read_photo(photo=photo, references=known, needs=needs)
    _measure(pair, checkpoints, user)
    for photo in unread_print(pair):
        read_print_on(photo)
    # Whoever verifies it has its size before them.
    if pair.standing == Standing.CANDIDATE and not pair.size_us and (size := size_read(pair)):
        Pair.objects.filter(pk=pair.pk, size_us="").update(size_us=size)
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
    """Measure what was not read yet on the photographs in use; a check whose marks cannot be carried over is left."""
    read = set(pair.readings.exclude(photo=None).values_list("checkpoint", "photo"))
    used = photos_in_use(pair)
    places = ((one, used.get((one.view, one.foot))) for one in checkpoints)
    waiting = [(one, photo) for one, photo in places if photo and (one.pk, photo.pk) not in read]
    known, drawn = markings_on({photo for _, photo in waiting}), _drawn(pair, [one for one, _ in waiting])
    to_carry, to_measure = defaultdict(list), []
    for checkpoint, photo in sorted(waiting, key=lambda one: one[1].pk):
        if marking := known.get((photo.pk, checkpoint.pk)):
            marking.checkpoint, marking.photo = checkpoint, photo
            to_measure.append(marking)
        elif there := drawn.get(checkpoint.pk):
            there.checkpoint = checkpoint
            to_carry[there.photo, photo].append(there)
    for (reference, photo), some in to_carry.items():
        carried = carry_markings(drawn=some, reference=reference, photo=photo)
        to_measure += [one for one in carried if isinstance(one, Marking)]
    for reading in measure_markings([one for one in to_measure if one.checkpoint.measure], user):
        reading.save()


def _drawn(pair: Pair, checkpoints: list) -> dict[int, Marking]:
    """By checkpoint the annotation on a verified pair that is carried over: as it was drawn, else any. A query."""
    rows = Marking.objects.filter(checkpoint__in=checkpoints, photo__pair__in=teaching_pairs(pair))
    rows = rows.select_related("photo__pair").order_by("pk")
    found: dict[int, Marking] = {}
    for row in sorted(rows, key=lambda one: one.origin != Marking.Origin.DRAWN):
        found.setdefault(row.checkpoint_id, row)
    return found

"""Read every photograph of a case and measure everything it can tell, in the background, with progress.

One photograph at a time, from reading to the last measure, while it is decoded; the next one is looked at meanwhile, in
a thread of its own that asks no database.
"""

from collections import defaultdict
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from datetime import timedelta
from time import monotonic

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import Max
from django.utils import timezone
from django_tasks import task

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import AssayError, CannotAlign
from assay.measure.registry import MEASURES
from assay.photo.fitness import Needs
from casework.grading import Ground, ground_of, regrade, regrade_these
from casework.ledger import note
from casework.models import Case
from library.models import View
from pairs.actions.align_photo import align_photo
from pairs.actions.mark_photo import carry_markings
from pairs.actions.read_photo import Look, look_at, read_photo
from pairs.actions.take_paper import inscribe
from pairs.actions.take_reading import read_photo_at, refused
from pairs.models import Inscription, Marking, Photo, Reading
from pairs.queries import beside, in_use, markings_on, photos_in_use

# A run that has not moved for this long was stopped from outside and may be started again.
STALLED_AFTER = timedelta(minutes=3)
# What was read is kept, and shown, at least so often, s; and whenever a photograph is done with.
TOLD_EVERY_S = 0.7


def request_analysis(*, case: Case, user) -> None:
    """Queue a run. What a run that was cut off was reading is read anew."""
    if stalled(case):
        case.pair.photos.filter(state=Photo.State.READING).update(state=Photo.State.ARRIVED)
    waiting = _waiting(case)
    if not waiting:
        return
    Case.objects.filter(pk=case.pk).update(analysed=0, to_analyse=waiting, analysis_began=timezone.now())
    transaction.on_commit(lambda: analyse_in_background.enqueue(case.pk, user.pk))


@task()
def analyse_in_background(case_id: int, user_id: int) -> None:
    """The queue's way in. A case signed meanwhile is left alone."""
    case = Case.objects.select_related("pair__release", "pair__house", "reference").get(pk=case_id)
    if not case.signed_at:
        analyse_case(case=case, user=get_user_model().objects.get(pk=user_id))


def analyse_case(*, case: Case, user) -> None:
    """Do the run: photographs are read, marks carried over, measures taken, findings graded as they come."""
    done, ground = 0, ground_of(case)
    references, needs = photos_in_use(case.reference), needs_of(case.pair.release.checkpoints.exclude(measure=""))
    looks: dict[int, Future[Look]] = {}
    with ThreadPoolExecutor(max_workers=1) as ahead:
        while claimed := _claimed(case):
            photo, *following = claimed
            look = looks.pop(photo.pk, None)
            looks = {
                one.pk: looks.get(one.pk) or ahead.submit(look_at, one.full.path, one.pair.house.card_bar_mm)
                for one in following
            }
            read_photo(photo=photo, references=references, needs=needs, looked=look and look.result)
            _inscribe_codes(case, photo, user)
            _carry_to_show(photo, references)
            done = _measure(case, user, ground, references, done + 1, only=photo)
    done = _measure(case, user, ground, references, done)
    # Whatever arrived while the last measure ran has a run of its own in the queue.
    Case.objects.filter(pk=case.pk).update(to_analyse=0, analysis_began=None)
    with transaction.atomic():
        regrade(case)
        note(case, user, "measured")


def stalled(case: Case) -> bool:
    """Whether a run was begun and has been given up by the machine."""
    return bool(case.to_analyse and case.analysis_began and timezone.now() - case.analysis_began > STALLED_AFTER)


def needs_of(checkpoints) -> dict[str, Needs]:
    """What the checks of each view ask of its photograph."""
    coarsest: dict[str, float] = {}
    for checkpoint in checkpoints:
        wanted = MEASURES[checkpoint.measure].coarsest_mm_per_px
        coarsest[checkpoint.view] = min(wanted, coarsest.get(checkpoint.view, wanted))
    return {view: Needs(mm_per_px=step) for view, step in coarsest.items()}


def _measure(case: Case, user, ground: Ground, references: dict, done: int, only: Photo | None = None) -> int:
    measured: dict = {}
    before = Reading.objects.aggregate(newest=Max("pk"))["newest"] or 0
    waiting, arrived = _to_measure(case, references, only), _arrived(case).count()
    _tell(case, done, arrived + len(waiting))
    if not {checkpoint.pk for checkpoint, *_ in waiting} <= set(ground.retail):
        ground = ground_of(case)  # a check was drawn since
    markings, read, told = _markings(waiting), [], monotonic()
    for left, (checkpoint, photo, _) in zip(range(len(waiting) - 1, -1, -1), waiting, strict=True):
        marking = markings[checkpoint.pk]
        if isinstance(marking, AssayError):
            read.append(refused(checkpoint=checkpoint, pair=case.pair, photo=photo, refusal=marking, by=user))
        else:
            marking.checkpoint, marking.photo = checkpoint, photo
            read.append(read_photo_at(marking=marking, by=user, done=measured))
        if not left or monotonic() - told > TOLD_EVERY_S:
            done += len(read)
            _keep(case, ground, read, since=before)
            _tell(case, done, arrived + left)
            read, told = [], monotonic()
    return done


@transaction.atomic
def _keep(case: Case, ground: Ground, read: list[Reading], *, since: int) -> None:
    """Keep readings and grade them, but for checks that a person has read ``since`` that reading: they were faster."""
    meanwhile = set(Reading.objects.filter(pair=case.pair, pk__gt=since).values_list("checkpoint_id", flat=True))
    kept = [reading for reading in read if reading.checkpoint_id not in meanwhile]
    Reading.objects.bulk_create(kept)
    regrade_these(case, ground, {reading.checkpoint_id: reading for reading in kept})


def _tell(case: Case, done: int, waiting: int) -> None:
    """Show how far the run is: ``waiting`` to measure and to be read."""
    Case.objects.filter(pk=case.pk).update(analysed=done, to_analyse=done + waiting, analysis_began=timezone.now())


def _carry_to_show(photo: Photo, references: dict[tuple[str, str], Photo]) -> None:
    """Marks of checks that nothing measures: they say where to look. Where they cannot be carried, all is shown."""
    reference = references.get((photo.view, photo.foot))
    if reference is None or photo.state != Photo.State.READ:
        return
    shown = list(reference.markings.filter(checkpoint__measure="").select_related("checkpoint"))
    with suppress(CannotAlign):
        if shown:
            carry_markings(drawn=shown, photo=photo, alignment=align_photo(reference=reference, photo=photo))


def _inscribe_codes(case: Case, photo: Photo, user) -> None:
    """What the bars of the box label say, next to whatever a person types."""
    numbers = [code["text"] for code in photo.codes if code["gtin14"]]
    if numbers and photo.view == View.BOX_LABEL and not photo.set_aside:
        scanned = {"box.scanned": " ".join(sorted(numbers))}
        inscribe(pair=case.pair, places=scanned, by=user, source=Inscription.Source.SCANNED, photo=photo)


def _claimed(case: Case) -> list[Photo]:
    """The next photograph to read, taken so that no other run reads it too, and the one after it."""
    while waiting := list(_arrived(case).order_by("id")[:2]):
        if case.pair.photos.filter(pk=waiting[0].pk, state=Photo.State.ARRIVED).update(state=Photo.State.READING):
            break
    return waiting


def _arrived(case: Case):
    return case.pair.photos.filter(state=Photo.State.ARRIVED).select_related("pair__house")


def _waiting(case: Case) -> int:
    return _arrived(case).count() + len(_to_measure(case, photos_in_use(case.reference)))


def _to_measure(case: Case, theirs: dict, only: Photo | None = None) -> list[tuple]:
    """(checkpoint, photograph, reference photograph) still to be read, or read off this photograph ``only``:
    corrections by hand and done work stand."""
    checkpoints = case.pair.release.checkpoints.exclude(measure="")
    if only:
        checkpoints = checkpoints.filter(view=only.view, foot=only.foot)
    if only and not (checkpoints and in_use(only)):
        return []
    ours = {(only.view, only.foot): only} if only else photos_in_use(case.pair)
    readings, waiting = _last_read(case, checkpoints), []
    marked = set(Marking.objects.filter(photo__pair=case.pair_id).values_list("photo_id", "checkpoint_id"))
    for checkpoint in checkpoints:
        photo = ours.get((checkpoint.view, checkpoint.foot))
        if photo and _to_read(
            checkpoint, readings.get(checkpoint.pk), photo, marked=(photo.pk, checkpoint.pk) in marked
        ):
            waiting.append((checkpoint, photo, beside(theirs, checkpoint.view, checkpoint.foot)))
    return waiting


def _last_read(case: Case, checkpoints) -> dict[int, dict]:
    """What a run must know of the latest reading of these checkpoints. One query."""
    wanted = ("checkpoint_id", "photo_id", "method", "doubts", "refusal", "marks")
    read = Reading.objects.filter(pair=case.pair, checkpoint__in=list(checkpoints)).order_by("pk")
    return {row["checkpoint_id"]: row for row in read.values(*wanted)}


def _to_read(checkpoint, reading: dict | None, photo: Photo, *, marked: bool) -> bool:
    """Not read yet, read off another photograph, by marks that were taken away since, or by an older version of the
    method; a person's word stands."""
    if reading is None or reading["photo_id"] != photo.pk:
        return True
    by_hand = CORRECTED_BY_HAND in reading["doubts"] or (reading["refusal"] or {}).get("reason") == "could_not_tell"
    outdated = reading["method"] != MEASURES[checkpoint.measure].method or (reading["marks"] and not marked)
    return bool(outdated and not by_hand)


def _markings(waiting: list[tuple]) -> dict[int, Marking | AssayError]:
    """By checkpoint its marks on the photograph, as put by hand before or carried over; else why there are none."""
    known = markings_on({photo for _, *photos in waiting for photo in photos if photo})
    found, to_carry = {}, defaultdict(list)
    for checkpoint, photo, reference in waiting:
        drawn = known.get((reference.pk, checkpoint.pk)) if reference else None
        if (photo.pk, checkpoint.pk) in known:
            found[checkpoint.pk] = known[photo.pk, checkpoint.pk]
        elif drawn is None:
            found[checkpoint.pk] = CannotAlign("nothing_drawn")
        else:
            drawn.checkpoint = checkpoint  # known: not to be asked for
            to_carry[reference, photo].append(drawn)
    for (reference, photo), drawn in to_carry.items():
        try:
            alignment = align_photo(reference=reference, photo=photo)
            carried = carry_markings(drawn=drawn, photo=photo, alignment=alignment)
        except CannotAlign as refusal:
            carried = [refusal] * len(drawn)
        found |= {one.checkpoint_id: marking for one, marking in zip(drawn, carried, strict=True)}
    return found

"""Measure everything on a case that photographs can tell, in the background, with progress."""

from datetime import timedelta

from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from assay.errors import AssayError, CannotAlign
from assay.photo.align import Alignment
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case
from pairs.actions.align_photo import align_photo
from pairs.actions.mark_photo import carry_marking
from pairs.actions.take_reading import measure_photo, refuse
from pairs.models import Marking, Photo
from pairs.queries import latest_readings, markings_on, photos_in_use

# A run that has not moved for this long was stopped from outside and may be started again.
STALLED_AFTER = timedelta(minutes=3)


def request_analysis(*, case: Case, user) -> None:
    """Queue a run."""
    waiting = len(_to_measure(case))
    if not waiting:
        return
    Case.objects.filter(pk=case.pk).update(analysed=0, to_analyse=waiting, analysis_began=timezone.now())
    transaction.on_commit(lambda: analyse_in_background.enqueue(case.pk, user.pk))


@task()
def analyse_in_background(case_id: int, user_id: int) -> None:
    """The queue's way in. A case signed meanwhile is left alone."""
    case = Case.objects.select_related("pair__release", "reference").get(pk=case_id)
    if not case.signed_at:
        analyse_case(case=case, user=get_user_model().objects.get(pk=user_id))


def analyse_case(*, case: Case, user) -> None:
    """Do the run: marks are carried over, measures taken, findings graded as they come."""
    failed: dict[tuple[int, int], CannotAlign] = {}
    for done, (checkpoint, photo, reference) in enumerate(_to_measure(case), start=1):
        with transaction.atomic():
            marking = _marking(checkpoint, photo, reference, failed, user)
            if marking:
                measure_photo(marking=marking, by=user)
            regrade(case)
            Case.objects.filter(pk=case.pk).update(analysed=done)
    Case.objects.filter(pk=case.pk).update(to_analyse=0, analysis_began=None)
    note(case, user, "measured")


def stalled(case: Case) -> bool:
    """Whether a run was begun and has been given up by the machine."""
    return bool(case.to_analyse and case.analysis_began and timezone.now() - case.analysis_began > STALLED_AFTER)


def _to_measure(case: Case) -> list[tuple]:
    """(checkpoint, photograph, reference photograph) still to be read: corrections by hand and done work stand."""
    ours, theirs = photos_in_use(case.pair), photos_in_use(case.reference)
    readings = latest_readings([case.pair])
    waiting = []
    for checkpoint in case.pair.release.checkpoints.exclude(measure=""):
        photo = ours.get((checkpoint.view, checkpoint.foot))
        reading = readings.get((case.pair_id, checkpoint.pk))
        if photo and (reading is None or reading.photo_id != photo.pk):
            waiting.append((checkpoint, photo, theirs.get((checkpoint.view, checkpoint.foot))))
    return waiting


def _marking(checkpoint, photo: Photo, reference: Photo | None, failed: dict, user) -> Marking | None:
    """Marks on this photograph: as put by hand before, or carried over. None where neither is possible, with the reason
    kept as a reading."""
    known = markings_on([photo, reference] if reference else [photo])
    if (photo.pk, checkpoint.pk) in known:
        return known[photo.pk, checkpoint.pk]
    drawn = known.get((reference.pk, checkpoint.pk)) if reference else None
    try:
        if drawn is None:
            raise CannotAlign("nothing_drawn")
        alignment = _alignment(reference, photo, failed)
        return carry_marking(drawn=drawn, photo=photo, alignment=alignment)
    except AssayError as refusal:
        refuse(checkpoint=checkpoint, pair=photo.pair, photo=photo, refusal=refusal, by=user)
        return None


def _alignment(reference: Photo, photo: Photo, failed: dict) -> Alignment:
    """Tried once a photograph and run: what failed at one checkpoint fails at the next."""
    key = (reference.pk, photo.pk)
    if key in failed:
        raise failed[key]
    try:
        return align_photo(reference=reference, photo=photo)
    except CannotAlign as error:
        failed[key] = error
        raise

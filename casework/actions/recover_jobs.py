"""Take up again what a worker had in hand when it was stopped from outside, and what nobody was asked to do."""

from collections.abc import Collection

from django.db import transaction
from django.db.models import F, Q
from django_tasks_db.models import DBTaskResult

from casework.actions.analyse_case import analyse_in_background, request_analysis
from casework.actions.analyse_pair import read_in_background, request_reading
from casework.models import Case
from casework.queue import stalled
from pairs.models import Pair, Photo

# Workers that died over one piece of work; after that its photograph is said to be the reason.
MOST_TRIES = 5


def recover_jobs(*, alive: Collection[str]) -> int:
    """Put back what workers other than those ``alive`` had begun, and queue what waits without being queued.

    Returns how many pieces of work were put back or queued.
    """
    gone = [one for one in DBTaskResult.objects.running() if not one.worker_ids or one.worker_ids[-1] not in alive]
    for one in gone:
        _put_back(one)
    return len(gone) + _queue_forgotten()


@transaction.atomic
def _put_back(result: DBTaskResult) -> None:
    subject = result.args_kwargs["args"][0] if result.args_kwargs["args"] else None
    given_up = len(result.worker_ids) >= MOST_TRIES
    pair = Pair.objects.filter(pk=subject)
    if result.task_path == analyse_in_background.module_path:
        pair = Pair.objects.filter(case=subject)
        if given_up:
            Case.objects.filter(pk=subject, runs__gt=0).update(runs=F("runs") - 1)
    elif result.task_path != read_in_background.module_path:
        pair = Pair.objects.none()
    # A signed case's photographs stay as they are: one set aside may have been left half read.
    in_hand = Photo.objects.filter(pair__in=pair, pair__case__signed_at=None, state=Photo.State.READING)
    in_hand.update(state=Photo.State.BROKEN if given_up else Photo.State.ARRIVED)
    if given_up:
        result.set_failed(RuntimeError(f"{MOST_TRIES} workers died over it"))
    else:
        result.status, result.started_at = "READY", None
        result.save(update_fields=["status", "started_at"])


def _queue_forgotten() -> int:
    """Photographs that arrived, with nothing in the queue that would read them."""
    open_cases = Case.objects.filter(signed_at=None, discarded_at=None)
    unfinished = Q(pair__photos__state=Photo.State.ARRIVED) | Q(to_analyse__gt=0)
    waiting = open_cases.filter(unfinished).select_related("opened_by", "reference", "pair__release").distinct()
    # A run that failed is tried again once it counts as stalled, not at once.
    idle = [case for case in waiting if stalled(case) or not (case.runs or case.to_analyse)]
    cases = [case for case in idle if not _queued(analyse_in_background, case)]
    for case in cases:
        request_analysis(case=case, user=case.opened_by)
    pairs = Pair.objects.filter(case=None, photos__state=Photo.State.ARRIVED).distinct()
    left = [pair for pair in pairs if not _queued(read_in_background, pair)]
    for pair in left:
        request_reading(pair=pair, user=pair.photos.exclude(added_by=None).latest("pk").added_by)
    return len(cases) + len(left)


def _queued(task, subject) -> bool:
    pending = DBTaskResult.objects.filter(status__in=("READY", "RUNNING"), task_path=task.module_path)
    return any(one["args"][:1] == [subject.pk] for one in pending.values_list("args_kwargs", flat=True))

"""Runs over a case in the background: claiming photographs, progress, and what a run that was cut off left behind.

Several workers share a case: each makes a run of its own over it, a photograph is claimed by one of them, and the last
run to leave does what is left. What a run does to a photograph is none of this module's business.
"""

from collections.abc import Callable, Iterator
from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from casework.models import Case
from pairs.models import Photo

STALLED_AFTER = timedelta(minutes=3)
"""A run that has not moved for this long was stopped from outside and may be started again."""


def stalled(case: Case) -> bool:
    """Whether a run was begun and has been given up by the machine."""
    return bool(case.to_analyse and case.analysis_began and timezone.now() - case.analysis_began > STALLED_AFTER)


def give_up_stalled(case: Case) -> None:
    """Put back what a run that was cut off had in hand, and forget the run."""
    if stalled(case):
        case.pair.photos.filter(state=Photo.State.READING).update(state=Photo.State.ARRIVED)
        Case.objects.filter(pk=case.pk).update(runs=0, to_analyse=0, analysed=0, analysis_began=None)


def start_runs(case: Case, to_do: int, enqueue: Callable[[], None]) -> None:
    """Start as many more runs as there are workers, and photographs for them; one where there is only
    something else ``to_do``: checks to measure, print to read."""
    arrived = _arrived(case).count()
    waiting = arrived + to_do
    if not waiting:
        return
    with transaction.atomic():
        kept = Case.objects.filter(pk=case.pk)
        going = kept.values_list("runs", flat=True).get()
        more = min(max(0, settings.WORKERS - going), arrived) if arrived else 1
        # Only runs show that they are alive: one that was given up must not seem so for what arrives meanwhile.
        anew = {} if going else {"analysed": 0, "analysis_began": timezone.now()}
        kept.update(to_analyse=(F("analysed") if going else 0) + waiting, runs=going + more, **anew)
        for _ in range(more):
            transaction.on_commit(enqueue)


def claimed(case: Case) -> Iterator[Photo]:
    """Photographs to read, one after the other, each taken so that no other run reads it too."""
    while photo := _arrived(case).order_by("-id").first():
        if _arrived(case).filter(pk=photo.pk).update(state=Photo.State.READING):
            yield photo


def report(case: Case, *, done: int, more: int = 0) -> None:
    """Show how far the run is: what is done with, and what else was found to do."""
    told = {"analysed": F("analysed") + done, "to_analyse": F("to_analyse") + more, "analysis_began": timezone.now()}
    Case.objects.filter(pk=case.pk).update(**told)


def report_total(case: Case, left: int) -> None:
    """Show how much is left to do, all photographs being read."""
    Case.objects.filter(pk=case.pk).update(to_analyse=F("analysed") + left, analysis_began=timezone.now())


def left_to_others(case: Case) -> bool:
    """Leave a case that other runs are still at; the last one stays."""
    return bool(Case.objects.filter(pk=case.pk, runs__gt=1).update(runs=F("runs") - 1))


def drop_run(case: Case) -> None:
    """A run broke off."""
    Case.objects.filter(pk=case.pk, runs__gt=0).update(runs=F("runs") - 1)


@transaction.atomic
def ended(case: Case, more_to_do: Callable[[], bool]) -> bool:
    """End the last run, unless a photograph arrived meanwhile or there is ``more_to_do``: another run that came for it
    has left it to this one."""
    if _arrived(case).exists() or more_to_do():
        return False
    Case.objects.filter(pk=case.pk).update(runs=0, to_analyse=0, analysis_began=None)
    return True


def _arrived(case: Case):
    return case.pair.photos.filter(state=Photo.State.ARRIVED)

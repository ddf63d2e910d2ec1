"""Keep a check that was drawn, put it on the rail of every open case of its release, and have it measured there."""

from collections.abc import Mapping

from django.db import transaction

from casework.actions.analyse_case import request_analysis
from casework.grading import regrade
from casework.models import Case
from library.models import Checkpoint
from library.writers import must_write
from pairs.actions.draw_checkpoint import Tried, draw_checkpoint, tried_well
from pairs.models import Organisation, Photo


def add_check(*, organisation: Organisation, photo: Photo, user, points: list, given: Mapping) -> Checkpoint:
    """Raises AssayError. Signed cases stay as they were signed."""
    must_write(user, photo.pair.release)
    # Before anything is written: nobody else waits for the measuring.
    tried = tried_well(photo=photo, measure=given["measure"], points=points)
    return keep_tried(organisation=organisation, tried=tried, user=user, given=given)


@transaction.atomic
def keep_tried(*, organisation: Organisation, tried: list[Tried], user, given: Mapping) -> Checkpoint:
    """The same of what was tried; its first is the photograph that was drawn on."""
    made = draw_checkpoint(photo=tried[0].photo, tried=tried, given=given, by=user)
    for case in Case.objects.filter(organisation=organisation, pair__release__in=made.release.siblings, signed_at=None):
        regrade(case)
        request_analysis(case=case, user=user)
    return made

"""Change a check's words, caps and marks; take it off the guide and back. What was signed stays as it was."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Q

from assay.errors import AssayError
from casework.actions.analyse_case import request_analysis
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case, Finding
from library.models import Checkpoint
from library.writers import must_write
from pairs.actions.draw_checkpoint import redraw_checkpoint, tried_well
from pairs.models import Marking, Organisation, Photo


@transaction.atomic
def change_check(*, checkpoint: Checkpoint, organisation: Organisation, user, given: Mapping) -> None:
    """Put ``given`` in place (as ``draw_checkpoint`` takes it) and grade the shop's open cases anew.

    Raises AssayError ``not_allowed``; where a signed case's words would change ``signed_with``, ``signed_elsewhere``.
    """
    must_write(user, checkpoint.release)
    _must_be_unsigned(checkpoint, organisation)
    for field, value in given.items():
        setattr(checkpoint, field, value)
    checkpoint.clean()
    checkpoint.save()
    for case in _cases(checkpoint, organisation):
        regrade(case)


def move_marks(*, checkpoint: Checkpoint, photo: Photo, points: list, organisation: Organisation, user) -> None:
    """Put its marks elsewhere on a verified pair's photograph; open cases have them carried over and measured anew.

    Marks and counts that a person put right stay. Raises AssayError as ``change_check`` does, or what the marks raise.
    """
    must_write(user, checkpoint.release)
    _must_be_unsigned(checkpoint, organisation)
    tried = tried_well(photo=photo, measure=checkpoint.measure, points=points)
    with transaction.atomic():
        _must_be_unsigned(checkpoint, organisation)
        redraw_checkpoint(checkpoint=checkpoint, tried=tried, by=user)
        for case in _cases(checkpoint, organisation):
            carried = Marking.objects.filter(checkpoint=checkpoint, photo__pair=case.pair_id)
            carried.filter(origin=Marking.Origin.CARRIED).delete()
            regrade(case)
            request_analysis(case=case, user=user)
            note(case, user, "moved_marks", check=checkpoint.name)


def _must_be_unsigned(checkpoint: Checkpoint, organisation: Organisation) -> None:
    """Raises AssayError where a signed case stands on the check."""
    if signed := _cases(checkpoint, organisation).exclude(signed_at=None).order_by("number").first():
        raise AssayError("signed_with", number=signed.number)
    if Case.objects.filter(findings__checkpoint=checkpoint).exclude(signed_at=None).exists():
        raise AssayError("signed_elsewhere")


@transaction.atomic
def withdraw_check(*, checkpoint: Checkpoint, organisation: Organisation, user) -> None:
    """Take it off the guide and the shop's open rails, with the left-against-right check that stands on it.

    Other shops' cases keep what they have. Raises AssayError ``not_allowed``.
    """
    must_write(user, checkpoint.release)
    for one in Checkpoint.objects.filter(Q(pk=checkpoint.pk) | Q(left=checkpoint) | Q(right=checkpoint)):
        one.withdrawn = True
        one.save(update_fields=["withdrawn"])
        for case in _cases(one, organisation).filter(signed_at=None):
            Finding.objects.filter(case=case, checkpoint=one).delete()
            note(case, user, "withdrew", check=one.name)


@transaction.atomic
def bring_back(*, checkpoint: Checkpoint, organisation: Organisation, user) -> None:
    """Put a check that was taken off on the guide and on the shop's open rails again, with what stands on it.

    Raises AssayError ``not_allowed``.
    """
    must_write(user, checkpoint.release)
    feet = Q(left=checkpoint, right__withdrawn=False) | Q(right=checkpoint, left__withdrawn=False)
    for one in Checkpoint.every.filter(Q(pk=checkpoint.pk) | feet, withdrawn=True):
        one.withdrawn = False
        one.save(update_fields=["withdrawn"])
    for case in Case.objects.filter(
        organisation=organisation, pair__release__in=checkpoint.release.siblings, signed_at=None
    ):
        regrade(case)
        request_analysis(case=case, user=user)
        note(case, user, "brought_back", check=checkpoint.name)


def _cases(checkpoint: Checkpoint, organisation: Organisation):
    return Case.objects.filter(organisation=organisation, findings__checkpoint=checkpoint)

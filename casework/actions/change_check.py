"""Change what a check is called and how it counts, take it off the guide and back; what was signed stays as it was."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Q

from assay.errors import AssayError
from casework.actions.analyse_case import request_analysis
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case, Finding
from library.models import Checkpoint

OWN = ("name", "instruction", "section", "group", "size_rule", "minutes", "decisive", "mandatory", "applies_when")


@transaction.atomic
def change_check(*, checkpoint: Checkpoint, user, given: Mapping) -> None:
    """Put ``given`` (any of ``OWN``) in place and grade open cases anew.

    Raises AssayError ``not_allowed``; ``signed_with``: a signed case's words would change with it.
    """
    _allowed(user)
    signed = _cases(checkpoint).exclude(signed_at=None).order_by("number").first()
    if signed:
        raise AssayError("signed_with", number=signed.number)
    for field in OWN:
        setattr(checkpoint, field, given[field])
    checkpoint.clean()
    checkpoint.save()
    for case in _cases(checkpoint):
        regrade(case)


@transaction.atomic
def withdraw_check(*, checkpoint: Checkpoint, user) -> None:
    """Take it off the guide and off every open case's rail, with the left-against-right check that stands on it.

    Raises AssayError ``not_allowed``.
    """
    _allowed(user)
    for one in Checkpoint.objects.filter(Q(pk=checkpoint.pk) | Q(left=checkpoint) | Q(right=checkpoint)):
        one.withdrawn = True
        one.save(update_fields=["withdrawn"])
        for case in _cases(one).filter(signed_at=None):
            Finding.objects.filter(case=case, checkpoint=one).delete()
            note(case, user, "withdrew", check=one.name)


@transaction.atomic
def bring_back(*, checkpoint: Checkpoint, user) -> None:
    """Put a check that was taken off on the guide and on open cases' rails again, with what it stands on.

    Raises AssayError ``not_allowed``.
    """
    _allowed(user)
    feet = Q(left=checkpoint, right__withdrawn=False) | Q(right=checkpoint, left__withdrawn=False)
    for one in Checkpoint.every.filter(Q(pk=checkpoint.pk) | feet, release=checkpoint.release, withdrawn=True):
        one.withdrawn = False
        one.save(update_fields=["withdrawn"])
    for case in Case.objects.filter(pair__release=checkpoint.release, signed_at=None).select_related("pair__release"):
        regrade(case)
        request_analysis(case=case, user=user)
        note(case, user, "brought_back", check=checkpoint.name)


def _allowed(user) -> None:
    if not user.has_perm("library.add_checkpoint"):
        raise AssayError("not_allowed")


def _cases(checkpoint: Checkpoint):
    return Case.objects.filter(findings__checkpoint=checkpoint).select_related("pair__release")

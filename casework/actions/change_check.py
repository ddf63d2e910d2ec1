"""Change what a check is called and how it counts, or take it off the guide; what was signed stays as it was."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Q

from assay.errors import AssayError
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


def _allowed(user) -> None:
    if not user.has_perm("library.add_checkpoint"):
        raise AssayError("not_allowed")


def _cases(checkpoint: Checkpoint):
    return Case.objects.filter(findings__checkpoint=checkpoint).select_related("pair__release")

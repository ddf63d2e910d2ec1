"""Checks that one model lends to another which shares a part: the high version's heel for the low one's, a re-release's
insole. A lent check speaks with the lender's spread beside the borrower's own pairs."""

from django.db import transaction

from assay.errors import AssayError
from casework.actions.analyse_case import request_analysis
from casework.grading import regrade
from casework.ledger import note_of_organisation
from casework.models import Case, Finding
from library.models import Checkpoint, Release
from library.writers import must_write
from pairs.models import Organisation


def lendable(*, lender: Release, release: Release) -> list[Checkpoint]:
    """Checks of another model's guide that a release may borrow: not of pairs of checks, not of print and packing,
    which are a release's own. Two queries."""
    taken = release.checkpoints.values("key")
    found = lender.checkpoints.filter(left=None, paper="", of_shoe=True).exclude(key__in=taken)
    return list(found.order_by("position"))


@transaction.atomic
def borrow_check(*, checkpoint: Checkpoint, release: Release, organisation: Organisation, user) -> None:
    """Put another model's check on a release's guide, and on its generation's.

    Raises AssayError ``not_allowed``, ``others_release``, ``same_moulds``, ``not_lendable``.
    """
    must_write(user, release)
    if release.siblings.filter(pk=checkpoint.release_id).exists():
        raise AssayError("same_moulds", name=checkpoint.name)
    if checkpoint not in lendable(lender=checkpoint.release, release=release):
        raise AssayError("not_lendable", name=checkpoint.name)
    checkpoint.lent_to.add(release)
    note_of_organisation(organisation, user, "check_borrowed", check=checkpoint.key, code=release.style_code)
    for case in _open_cases(release, organisation):
        regrade(case)
        request_analysis(case=case, user=user)


@transaction.atomic
def give_back(*, checkpoint: Checkpoint, release: Release, organisation: Organisation, user) -> None:
    """Take a borrowed check off the guide again; signed cases keep it. Raises AssayError ``not_allowed``,
    ``others_release``."""
    must_write(user, release)
    loans = Checkpoint.lent_to.through.objects.filter(checkpoint=checkpoint, release__in=release.siblings)
    if not loans.delete()[0]:
        return
    note_of_organisation(organisation, user, "check_given_back", check=checkpoint.key, code=release.style_code)
    for case in _open_cases(release, organisation):
        Finding.objects.filter(case=case, checkpoint=checkpoint).delete()
        regrade(case)


def _open_cases(release: Release, organisation: Organisation):
    return Case.objects.filter(organisation=organisation, pair__release__in=release.siblings, signed_at=None)

"""Who may see and change what: members of a shop, its cases; nobody, a signed case."""

from django.db.models import OuterRef, Subquery
from django.http import Http404
from django.shortcuts import get_object_or_404

from casework.models import Case
from casework.visibility import hides
from pairs.models import Organisation


def key_in(text: str) -> int:
    """The row's number in what was sent; 0, which no row has, where that is none."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 12 else 0


class CaseSignedError(Exception):
    """The case is signed: nothing in it changes any more."""


def organisation_of(user) -> Organisation:
    """The shop a person works for. Raises Http404 where there is none."""
    organisation = user.organisations.order_by("id").first()
    if organisation is None:
        raise Http404("no shop")
    return organisation


class CaseHiddenError(Exception):
    """Two people look without knowing of each other: the other's case is hidden until both are signed."""

    def __init__(self, mine: int | None):
        super().__init__()
        self.mine = mine


def case_for(user, number: int) -> Case:
    """A case of the person's own shop; anything else does not exist for them. Two queries at most, and those of
    ``hides``.

    Raises CaseHiddenError where it is the other side of a blind second look that is not signed yet, or waits for one
    that its person may give.
    """
    mine = Case.objects.filter(second_of=OuterRef("pk"), opened_by=user, signed_at=None, round=False, discarded_at=None)
    cases = Case.objects.select_related("pair__release__shoe_model__maker", "reference", "organisation", "opened_by")
    cases = cases.annotate(my_look=Subquery(mine.values("number")[:1]))
    case = get_object_or_404(cases, organisation=organisation_of(user), number=number, discarded_at=None)
    if case.my_look:
        raise CaseHiddenError(case.my_look)
    another_s_look = case.second_of_id and not case.round and not case.signed_at and case.opened_by_id != user.pk
    if another_s_look or hides(case, user):
        raise CaseHiddenError(None)
    return case


def open_case_for(user, number: int) -> Case:
    """The same, for changing it. Raises CaseSignedError."""
    case = case_for(user, number)
    if case.signed_at:
        raise CaseSignedError
    return case

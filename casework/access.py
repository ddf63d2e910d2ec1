"""Who may see and change what: members of a house, its cases; nobody, a signed case."""

from django.http import Http404
from django.shortcuts import get_object_or_404

from casework.models import Case
from pairs.models import House


class CaseSignedError(Exception):
    """The case is signed: nothing in it changes any more."""


def house_of(user) -> House:
    """The house a person works for. Raises Http404 where there is none."""
    house = user.houses.order_by("id").first()
    if house is None:
        raise Http404("no house")
    return house


def case_for(user, number: int) -> Case:
    """A case of the person's own house; anything else does not exist for them. Two queries at most."""
    cases = Case.objects.select_related("pair__release__shoe_model__maker", "reference", "house", "opened_by")
    return get_object_or_404(cases, house=house_of(user), number=number, discarded_at=None)


def open_case_for(user, number: int) -> Case:
    """The same, for changing it. Raises CaseSignedError."""
    case = case_for(user, number)
    if case.signed_at:
        raise CaseSignedError
    return case

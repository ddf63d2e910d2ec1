"""The counter: parse, one action or query, render."""

from uuid import uuid4

from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import house_of
from casework.actions.start_case import start_case
from casework.counter import queries
from casework.counter.forms import StartForm
from library.writers import MAY_MAKER

UNKNOWN = ("unknown_code", "unknown_name", "no_reference", "no_checkpoints")
"""What the library can answer: add it."""


@require_GET
def counter(request):
    house = house_of(request.user)
    asked = request.GET.get("q", "").strip()[:100]
    page = {**queries.counter(house, asked, request.user), "asked": asked, "house": house, "token": uuid4()}
    return render(request, "casework/counter/list.html", page)


@require_POST
def start(request):
    form = StartForm(request.POST)
    problem, unknown = next(iter(form.errors.values()))[0] if form.errors else "", False
    if not problem:
        try:
            case = start_case(
                user=request.user, typed_code=form.cleaned_data["style_code"], token=form.cleaned_data["token"]
            )
            return redirect("intake", number=case.number)
        except AssayError as error:
            problem = wording.of_error(error)
            unknown = error.reason in UNKNOWN
    house = house_of(request.user)
    page = queries.counter(house, user=request.user)
    extra = {"house": house, "problem": problem, "typed": request.POST.get("style_code", ""), "token": uuid4()}
    extra |= {"unknown": unknown, "may_maker": request.user.has_perm(MAY_MAKER)}
    return render(request, "casework/counter/list.html", {**page, **extra}, status=422)

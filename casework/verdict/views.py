"""The verdict: parse, one action or query, render."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import case_for, organisation_of
from casework.actions.open_second_opinion import ask_second_opinion, next_round, open_second_opinion
from casework.actions.sign_opinion import sign_opinion
from casework.models import Case
from casework.signed_document import differences
from casework.verdict import queries, second_opinion
from casework.verdict.forms import OpinionForm


@require_http_methods(["GET", "POST"])
def verdict(request, number):
    case = case_for(request.user, number)
    form = OpinionForm(request.POST or None)
    problem = ""
    if request.method == "POST":
        problem = "Choose a verdict: legit, fake or undecided." if not form.is_valid() else _sign(request, case, form)
        if not problem:
            return redirect("verdict", number=number)
    page = queries.verdict(case)
    page |= {"problem": problem, "form": form}
    return render(request, "casework/verdict/show.html", page, status=422 if problem else 200)


def _sign(request, case, form) -> str:
    try:
        sign_opinion(case=case, user=request.user, **form.cleaned_data)
    except AssayError as error:
        return wording.of_error(error)
    return ""


@require_GET
def differs(request, number):
    """In what a signed case reads otherwise today; asked for by itself, as it works the whole case out anew."""
    case = case_for(request.user, number)
    return render(request, "casework/verdict/_differs.html", {"case": case, "differs": differences(case)})


@require_POST
def second(request, number):
    """Begin a blind second look."""
    seen = Case.objects.select_related("pair__release", "organisation", "reference")
    case = get_object_or_404(seen, organisation=organisation_of(request.user), number=number, discarded_at=None)
    try:
        made = open_second_opinion(case=case, user=request.user)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        return redirect("counter")
    return redirect("bench", number=made.number)


@require_POST
def ask_second(request, number):
    """Ask for a second opinion on this one case."""
    case = case_for(request.user, number)
    try:
        ask_second_opinion(case=case, user=request.user)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    return redirect("verdict", number=number)


@require_GET
def beside(request, number):
    """Two people's looks at one pair, check by check."""
    case = case_for(request.user, number)
    return render(request, "casework/verdict/beside.html", second_opinion.beside(case))


@require_POST
def round_(request, number):
    """Ask a client for closer photographs of what parts two looks."""
    case = case_for(request.user, number)
    page = second_opinion.beside(case)
    problem = link = ""
    try:
        made, secret = next_round(case=page["first"], user=request.user, wanted=page["wanted"])
        link = request.build_absolute_uri(reverse("phone", args=[secret]))
        page |= {"made": made, "link": link}
    except AssayError as error:
        problem = wording.of_error(error)
    return render(request, "casework/verdict/beside.html", page | {"problem": problem}, status=422 if problem else 200)

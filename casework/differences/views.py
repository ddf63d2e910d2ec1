"""Differences that no check names: parse, one action or query, render."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import case_for, open_case_for
from casework.actions.analyse_case import request_differences
from casework.actions.note_sighting import note_sighting
from casework.bench.forms import SightingForm
from casework.differences import queries


@require_http_methods(["GET", "POST"])
def differences(request, number):
    """The strongest first; the one that is looked at is large. Posted to, what was not compared yet is."""
    if request.method == "POST":
        request_differences(open_case_for(request.user, number))
        return redirect("differences", number=number)
    case = case_for(request.user, number)
    page = queries.differences(case)
    at = request.GET.get("at", "1")
    at = int(at) if at.isascii() and at.isdigit() and len(at) < 4 else 0
    if page["rows"]:
        at = min(max(at, 1), len(page["rows"]))
        page |= {"row": page["rows"][at - 1], "before": at - 1, "after": at + 1 if at < len(page["rows"]) else 0}
    return render(request, "casework/differences/show.html", page)


@require_POST
def sighting(request, number, pk):
    """A person stands by one: it is noted as seen."""
    case, form = open_case_for(request.user, number), SightingForm(request.POST)
    photo = get_object_or_404(case.pair.photos, pk=pk)
    try:
        if not form.is_valid():
            raise AssayError("no_name")
        note_sighting(case=case, user=request.user, photo=photo, given=form.as_given())
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    else:
        messages.success(request, "Noted as seen. It counts like the other sightings.")
    return redirect("differences", number=number)

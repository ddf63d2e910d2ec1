"""The logbook: closed cases, what was learned later, what the shop knows of itself. Parse, act or query, render."""

import csv
from urllib.parse import urlencode

from django import forms
from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import case_for, organisation_of
from casework.actions.learn_outcome import learn_outcome
from casework.actions.use_learned import note_habit, use_recalibration, use_suggestion
from casework.logbook import queries
from casework.models import Outcome
from casework.visibility import hidden_cases
from library.models import Checkpoint
from library.writers import visible_to

FILTERS = ("verdict", "outcome", "checker", "q")


class OutcomeForm(forms.Form):
    """What was learned."""

    so = forms.ChoiceField(choices=Outcome.So.choices, error_messages={"required": "Say whether it was legit or fake."})
    how = forms.ChoiceField(choices=Outcome.How.choices)
    source = forms.CharField(max_length=200, error_messages={"required": "Say who told, and where it is written."})
    learned_on = forms.DateField(
        error_messages={"invalid": "Write the day as 2026-03-21.", "required": "Say on which day."}
    )


def _wanted(request) -> dict:
    return {name: request.GET.get(name, "")[:60] for name in FILTERS}


@require_GET
def logbook(request):
    """Closed cases."""
    organisation, wanted = organisation_of(request.user), _wanted(request)
    paginator = Paginator(queries.closed(organisation, wanted, hidden_cases(request.user, organisation)), queries.PAGE)
    page = paginator.get_page(request.GET.get("page"))
    kept = urlencode({name: value for name, value in wanted.items() if value})
    people = organisation.members.order_by("username")
    given = {
        "organisation": organisation,
        "page": page,
        "wanted": wanted,
        "kept": kept,
        "people": people,
        "today": timezone.localdate(),
    }
    return render(request, "casework/logbook/list.html", given | {"hows": Outcome.How.choices})


@require_GET
def learned(request):
    """What the shop learns from them."""
    organisation = organisation_of(request.user)
    return render(
        request, "casework/logbook/learned.html", {"organisation": organisation, **queries.learned(organisation)}
    )


@require_POST
def outcome(request, number):
    """What was learned of one case."""
    case, form = case_for(request.user, number), OutcomeForm(request.POST)
    problem = "" if form.is_valid() else next(iter(form.errors.values()))[0]
    if not problem:
        try:
            learn_outcome(case=case, user=request.user, given=form.cleaned_data)
        except AssayError as error:
            problem = wording.of_error(error)
    if problem:
        messages.error(request, f"Case {case}: {problem}")
    else:
        messages.success(request, f"Case {case}: kept. What was signed stays as it was.")
    return redirect("logbook")


@require_POST
def suggestion(request, pk):
    """A suggestion taken up: a check retired, a cap raised, a habit noted."""
    organisation = organisation_of(request.user)
    known = get_object_or_404(
        Checkpoint.objects.select_related("release__organisation"), pk=pk, release__in=visible_to(organisation)
    )
    action = request.POST.get("action", "")
    try:
        if action == "habit":
            note_habit(
                checkpoint=known, batch=request.POST.get("batch", ""), organisation=organisation, user=request.user
            )
        else:
            use_suggestion(checkpoint=known, action=action, organisation=organisation, user=request.user)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    else:
        messages.success(request, f"Done: {known.name}.")
    return redirect("learned")


@require_POST
def recalibrate(request):
    """The thresholds moved to where they mean what they say."""
    try:
        use_recalibration(organisation=organisation_of(request.user), user=request.user)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    else:
        messages.success(request, "A new policy is in force. Opinions already signed keep theirs.")
    return redirect("learned")


@require_GET
def export(request, kind):
    """The cases that are shown, all pages of them, as CSV or JSON."""
    organisation = organisation_of(request.user)
    cases = queries.closed(organisation, _wanted(request), hidden_cases(request.user, organisation))
    rows = queries.outcome_rows(cases.iterator(chunk_size=500))
    if kind == "json":
        response = JsonResponse({"format": "wahrheit-logbook/1", "cases": rows}, json_dumps_params={"indent": 1})
    else:
        response = HttpResponse(content_type="text/csv; charset=utf-8")
        writer = csv.DictWriter(response, queries.COLUMNS)
        writer.writeheader()
        writer.writerows(rows)
    response["Content-Disposition"] = f'attachment; filename="logbook.{kind}"'
    return response

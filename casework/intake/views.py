"""The intake: parse, one action or query, render."""

from django.conf import settings
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods
from django.views.decorators.vary import vary_on_headers

from casework.access import case_for, open_case_for
from casework.actions.save_intake import OF_CASE, OF_PAIR, save_intake
from casework.intake import queries
from casework.intake.forms import IntakeForm


@require_http_methods(["GET", "POST"])
@vary_on_headers("HX-Request")
def intake(request, number):
    case = (open_case_for if request.method == "POST" else case_for)(request.user, number)
    form = _intake_form(case, request.POST or None)
    if request.method == "POST":
        form.is_valid()
        # Only what was sent: a field saved on its own must not empty the others.
        facts = {name: value for name, value in form.cleaned_data.items() if name in request.POST}
        save_intake(case=case, user=request.user, facts=facts)
        if not request.htmx and not form.errors:
            return redirect("bench", number=number)
    template = "casework/intake/_applies.html" if request.htmx else "casework/intake/show.html"
    page = {**queries.intake(case), "form": form, "demo": settings.DEMO}
    return render(request, template, page, status=422 if form.errors and not request.htmx else 200)


def _intake_form(case, data):
    said = lambda answer: {True: "yes", False: "no", None: ""}[answer]  # noqa: E731
    facts = {name: getattr(case.pair, name) for name in OF_PAIR} | {name: getattr(case, name) for name in OF_CASE}
    facts = {name: "" if value is None else value for name, value in facts.items()}
    facts |= {"in_hand": said(case.in_hand), "reference_in_hand": said(case.reference_in_hand)}
    return IntakeForm(data, initial=facts, release=case.pair.release)

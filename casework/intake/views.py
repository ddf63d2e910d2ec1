"""The intake: parse, one action or query, render."""

from django.conf import settings
from django.contrib import messages
from django.http import Http404
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST
from django.views.decorators.vary import vary_on_headers

from assay.errors import AssayError
from assay.judge.levels import Level
from casework import wording
from casework.access import case_for, open_case_for
from casework.actions.amend_case import change_release, choose_reference, discard_case
from casework.actions.keep_desk_notes import keep_desk_notes
from casework.actions.save_intake import OF_CASE, OF_PAIR, save_intake
from casework.intake import queries
from casework.intake.forms import DeskForm, IntakeForm
from casework.models import DeskNotes


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
            # What was read is only confirmed here: the page goes on.
            return redirect("intake" if "read" in request.POST else "bench", number=number)
    template = "casework/intake/_applies.html" if request.htmx else "casework/intake/show.html"
    page = {**_page(case), "form": form}
    return render(request, template, page, status=422 if form.errors and not request.htmx else 200)


@require_POST
def desk(request, number):
    """What is written beside the case; also once it is signed."""
    case = case_for(request.user, number)
    form = DeskForm(request.POST, instance=DeskNotes.objects.filter(case=case).first())
    if form.is_valid():
        given = {name: value for name, value in form.cleaned_data.items() if name in request.POST}
        keep_desk_notes(case=case, user=request.user, given=given)
    if request.htmx:
        return render(request, "casework/intake/_desk_said.html", {"desk": form})
    for problem in (error for errors in form.errors.values() for error in errors):
        messages.error(request, problem)
    return redirect("intake", number=number)


@require_POST
def amend(request, number, action):
    """It is another release, another pair is laid beside it, or it is given up."""
    case, problem = open_case_for(request.user, number), ""
    try:
        if action == "release":
            change_release(case=case, user=request.user, typed_code=request.POST.get("typed", ""))
        elif action == "reference":
            choose_reference(case=case, user=request.user, label=request.POST.get("label", ""))
        elif action == "level":
            if request.POST.get("level") not in set(Level):
                raise Http404
            save_intake(case=case, user=request.user, facts={"level": request.POST["level"]})
            return redirect("bench", number=number)
        elif action == "discard":
            discard_case(case=case, user=request.user, why=request.POST.get("why", ""))
            messages.success(request, f"Case {case} is discarded. The ledger keeps why.")
            return redirect("counter")
    except AssayError as error:
        problem = wording.of_error(error)
    if not problem:
        return redirect("intake", number=number)
    page = {**_page(case), "form": _intake_form(case, None), "amend_problem": problem}
    return render(request, "casework/intake/show.html", page, status=422)


def _page(case) -> dict:
    notes = DeskNotes.objects.filter(case=case).first()
    return {**queries.intake(case), "desk": DeskForm(instance=notes), "notes": notes, "demo": settings.DEMO}


def _intake_form(case, data):
    said = lambda answer: {True: "yes", False: "no", None: ""}[answer]  # noqa: E731
    facts = {name: getattr(case.pair, name) for name in OF_PAIR} | {name: getattr(case, name) for name in OF_CASE}
    facts = {name: "" if value is None else value for name, value in facts.items()}
    facts |= {"in_hand": said(case.in_hand), "reference_in_hand": said(case.reference_in_hand)}
    return IntakeForm(data, initial=facts, release=case.pair.release)

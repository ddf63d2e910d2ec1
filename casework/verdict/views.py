"""The verdict: parse, one action or query, render."""

from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import case_for
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion
from casework.grading import policy_in_force
from casework.verdict import queries
from casework.verdict.forms import OpinionForm, PolicyForm


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
    page |= {"problem": problem, "form": form, "policy_form": PolicyForm(initial=queries.policy_said(page["policy"]))}
    return render(request, "casework/verdict/show.html", page, status=422 if problem else 200)


def _sign(request, case, form) -> str:
    try:
        sign_opinion(case=case, user=request.user, **form.cleaned_data)
    except AssayError as error:
        return wording.of_error(error)
    return ""


@require_POST
def policy(request, number):
    case = case_for(request.user, number)
    form = PolicyForm(request.POST)
    problem = ""
    if form.is_valid():
        kept = policy_in_force(case.house)
        ultraviolet = form.cleaned_data["ultraviolet"] or kept.ultraviolet
        try:
            set_policy(house=case.house, user=request.user, rules=form.rules(), ultraviolet=ultraviolet)
        except AssayError as error:
            problem = wording.of_error(error)
    else:
        problem = (
            "Red flags go from 1 to 9, coverage from 0 to 100 percent, thresholds are numbers of decibans from -100 to "
            "100. Nothing was changed."
        )
    if problem:
        page = {**queries.verdict(case), "form": OpinionForm(), "policy_form": form, "policy_problem": problem}
        return render(request, "casework/verdict/show.html", page, status=422)
    return redirect("verdict", number=number)

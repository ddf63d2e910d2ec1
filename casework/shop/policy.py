"""How the shop decides: one page, one form, and what other thresholds would have made of the last year's cases."""

from django import forms
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from assay.errors import AssayError, CannotJudge
from assay.judge.copy_model import agreeing_brings
from assay.judge.costs import LEAST_COST, costs_at, thresholds_at
from assay.judge.rules import (
    FURTHEST_DECIBANS,
    LEAST_NEAR_PERFECT,
    MOST_FLAGS,
    MOST_NEAR_PERFECT,
    RULES,
    Policy,
    Ultraviolet,
)
from casework import wording
from casework.access import organisation_of
from casework.actions.set_policy import MAY_SET, set_policy
from casework.grading import policy_in_force
from casework.models import NearBasis, OrganisationPolicy, Second
from casework.outcomes import decided_at, good_copies

ULTRAVIOLET = (
    (Ultraviolet.FOUND_COUNTS.value, "what glows counts, a clean photograph says nothing"),
    (Ultraviolet.DIRTY_IS_FAKE.value, "what glows is fake, a clean photograph is a good sign"),
)
OWN = ("red_flags", "decision_rule", "legit_from", "fake_from")
"""Fields that are called alike in the form, the policy and the core."""


class PolicyForm(forms.Form):
    """How the shop decides. Shares are asked for in 100."""

    number = forms.IntegerField(required=False, min_value=0, widget=forms.HiddenInput)
    """Of the policy that the page showed."""
    decision_rule = forms.ChoiceField(choices=[(rule, wording.rule_words(rule)[0]) for rule in RULES])
    legit_from = forms.FloatField(
        label="Legit from, deciban",
        min_value=-FURTHEST_DECIBANS,
        max_value=FURTHEST_DECIBANS,
        help_text="Evidence for retail. +13 is 20 to 1.",
    )
    fake_from = forms.FloatField(
        label="Fake from, deciban",
        min_value=-FURTHEST_DECIBANS,
        max_value=FURTHEST_DECIBANS,
        help_text="Evidence for a copy. −20 is 100 to 1.",
    )
    red_flags = forms.IntegerField(
        label="Red flags for fake",
        min_value=1,
        max_value=MOST_FLAGS,
        help_text="For the tally, from 1 to 9.",
    )
    coverage = forms.IntegerField(
        label="Compared for legit, %", min_value=0, max_value=100, help_text="Share of what applies, from 0 to 100."
    )
    near_perfect = forms.FloatField(
        label="Nearly perfect, of 100 copies",
        min_value=100 * LEAST_NEAR_PERFECT,
        max_value=100 * MOST_NEAR_PERFECT,
        required=False,
        help_text="From 0.1 to 30.",
    )
    near_basis = forms.ChoiceField(label="Based on", choices=NearBasis.choices, required=False)
    second_opinion = forms.ChoiceField(label="Two people look", choices=Second.choices, required=False)
    second_from = forms.DecimalField(
        label="From price", max_digits=8, decimal_places=2, min_value=0, required=False, widget=forms.TextInput
    )
    level = forms.ChoiceField(label="New cases are checked", choices=wording.LEVELS, required=False)
    full_from = forms.DecimalField(
        label="Fully from price", max_digits=8, decimal_places=2, min_value=0, required=False, widget=forms.TextInput
    )
    ultraviolet = forms.ChoiceField(label="UV", choices=ULTRAVIOLET, required=False)

    @classmethod
    def of(cls, policy: OrganisationPolicy) -> "PolicyForm":
        """The policy in force as the form shows it."""
        said = {name: getattr(policy, name) for name in (*OWN, "number", "near_basis", "ultraviolet")}
        said |= {"coverage": round(100 * policy.coverage), "near_perfect": round(100 * policy.near_perfect, 3)}
        said |= {"second_opinion": policy.second, "second_from": policy.second_from}
        return cls(initial=said | {"level": policy.level, "full_from": policy.full_from})

    def given(self, policy: OrganisationPolicy) -> dict:
        """What was said, as the action takes it; whatever nobody said stays as the policy in force has it."""
        said = self.cleaned_data
        near = policy.near_perfect if said["near_perfect"] is None else said["near_perfect"] / 100
        second = (said["second_opinion"], said["second_from"]) if said["second_opinion"] else None
        levels = (said["level"], said["full_from"]) if said["level"] else None
        return {
            "rules": Policy(coverage=said["coverage"] / 100, near_perfect=near, **{name: said[name] for name in OWN}),
            "ultraviolet": said["ultraviolet"] or policy.ultraviolet,
            "second": second or (policy.second, policy.second_from),
            "levels": levels or (policy.level, policy.full_from),
            "near_basis": said["near_basis"],
            "after": said["number"],
        }


@require_http_methods(["GET", "POST"])
def policy(request):
    """The policy in force; an owner may set another."""
    own = organisation_of(request.user)
    now = policy_in_force(own)
    form, problem = PolicyForm.of(now), ""
    if request.method == "POST":
        form = PolicyForm(request.POST)
        problem = "" if form.is_valid() else "Mend what is marked. Nothing was changed."
        if not problem:
            try:
                set_policy(organisation=own, user=request.user, **form.given(now))
                return redirect("policy")
            except AssayError as error:
                problem = wording.of_error(error)
    page = {
        "organisation": own,
        "policy": now,
        "form": form,
        "problem": problem,
        "owns": request.user.has_perm(MAY_SET),
    }
    page |= {"copies": _good_copies(own, now), **_thresholds(own, now, (now.legit_from, now.fake_from))}
    return render(request, "casework/shop/policy.html", page, status=422 if problem else 200)


@require_GET
def thresholds(request):
    """The thresholds that such costs mean, and what they would have made of the last year's cases."""
    own = organisation_of(request.user)
    now = policy_in_force(own)
    try:
        meant = thresholds_at(*(float(request.GET.get(name, "")) for name in ("passed_copy", "false_accusation")))
        page = _thresholds(own, now, tuple(round(threshold, 1) for threshold in meant))
    except (ValueError, CannotJudge):
        page = _thresholds(own, now, (now.legit_from, now.fake_from))
        page["cost_problem"] = f"Type numbers above {LEAST_COST:g}."
    form = PolicyForm.of(now)
    form.initial |= dict(zip(("legit_from", "fake_from"), page["meant"], strict=True))
    return render(request, "casework/shop/_thresholds.html", page | {"form": form})


def _thresholds(organisation, policy: OrganisationPolicy, meant: tuple[float, float]) -> dict:
    """What the page says of thresholds: their costs, and last year's cases by these and by those in force."""
    passed, accused = costs_at(*meant)
    in_force = (policy.legit_from, policy.fake_from)
    did = decided_at(organisation, *in_force)
    would = did if meant == in_force else decided_at(organisation, *meant)
    return {
        "meant": meant,
        "passed_copy": round(passed),
        "false_accusation": round(accused),
        "would": would,
        "did": did,
    }


def _good_copies(organisation, policy: OrganisationPolicy) -> dict:
    """What the shop's own outcomes say of nearly perfect copies, and what agreeing checks can bring by the belief."""
    seen = good_copies(organisation)
    low, high = seen.interval if seen.of else (0.0, 1.0)
    brings = agreeing_brings(policy.near_perfect)
    return {
        "seen": seen,
        "low": round(100 * low),
        "high": round(100 * high),
        "learned": round(100 * seen.learned, 1),
        "brings": brings,
        "out_of_reach": brings < policy.legit_from,
    }

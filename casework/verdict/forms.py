"""An opinion and the shop's rule, checked before they go anywhere."""

from django import forms

from assay.judge.rules import RULES, Policy, Ultraviolet, Verdict
from casework import wording
from casework.models import Second

FURTHEST = 100


class OpinionForm(forms.Form):
    verdict = forms.ChoiceField(choices=[(v.value, v.value) for v in Verdict])
    words = forms.CharField(max_length=2000, required=False)
    anyway = forms.CharField(max_length=500, required=False)
    after = forms.IntegerField(required=False)


class PolicyForm(forms.Form):
    number = forms.IntegerField(required=False, min_value=0)
    """Of the policy that the page showed."""
    red_flags = forms.IntegerField(min_value=1, max_value=9)
    coverage = forms.IntegerField(min_value=0, max_value=100)
    school = forms.ChoiceField(choices=[(one, one) for one in RULES])
    legit_from = forms.FloatField(min_value=-FURTHEST, max_value=FURTHEST)
    fake_from = forms.FloatField(min_value=-FURTHEST, max_value=FURTHEST)
    ultraviolet = forms.ChoiceField(
        choices=[(one.value, one.value) for one in Ultraviolet], required=False, initial=Ultraviolet.FOUND_COUNTS
    )

    second_opinion = forms.ChoiceField(choices=Second.choices, required=False)
    second_from = forms.DecimalField(max_digits=8, decimal_places=2, min_value=0, required=False)

    level = forms.ChoiceField(choices=wording.LEVELS, required=False)
    full_from = forms.DecimalField(max_digits=8, decimal_places=2, min_value=0, required=False)

    def levels(self, kept) -> tuple:
        """The level of a new case, and from which price it is full; as it was where nothing was said."""
        if not self.cleaned_data["level"]:
            return kept.level, kept.full_from
        return self.cleaned_data["level"], self.cleaned_data["full_from"]

    def second(self, kept) -> tuple:
        """When two must look, and from which price; as it was where nothing was said."""
        if not self.cleaned_data["second_opinion"]:
            return (kept.second, kept.second_from) if kept else (Second.NEVER, None)
        return self.cleaned_data["second_opinion"], self.cleaned_data["second_from"]

    def rules(self) -> Policy:
        """What was said, as the core takes it."""
        own = ("number", "ultraviolet", "second_opinion", "second_from", "level", "full_from")
        said = {name: value for name, value in self.cleaned_data.items() if name not in own}
        return Policy(**said | {"coverage": said["coverage"] / 100})

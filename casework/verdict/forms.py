"""An opinion and the house's rule, checked before they go anywhere."""

from django import forms

from assay.judge.schools import Ultraviolet, Verdict


class OpinionForm(forms.Form):
    verdict = forms.ChoiceField(choices=[(v.value, v.value) for v in Verdict])
    words = forms.CharField(max_length=2000, required=False)
    after = forms.IntegerField(required=False)


class PolicyForm(forms.Form):
    red_flags = forms.IntegerField(min_value=1, max_value=9)
    coverage = forms.IntegerField(min_value=0, max_value=100)
    ultraviolet = forms.ChoiceField(
        choices=[(one.value, one.value) for one in Ultraviolet], required=False, initial=Ultraviolet.FOUND_COUNTS
    )

"""An opinion and the shop's rule, checked before they go anywhere."""

from django import forms

from assay.judge.rules import Verdict

FURTHEST = 100


class OpinionForm(forms.Form):
    verdict = forms.ChoiceField(choices=[(v.value, v.value) for v in Verdict])
    words = forms.CharField(max_length=2000, required=False)
    anyway = forms.CharField(max_length=500, required=False)
    after = forms.IntegerField(required=False)

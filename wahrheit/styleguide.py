"""The design system on one page, for developers: shown in debug only."""

from django import forms
from django.shortcuts import render
from django.views.decorators.http import require_GET

COLOURS = (
    *("ink", "soft", "line", "paper", "sheet", "stage"),
    *("agrees", "drifts", "departs", "rules-out"),
)
GRADES = ("agrees", "drifts", "departs", "rules_out", "not_compared", "void")


class SampleForm(forms.Form):
    """One field of each kind."""

    code = forms.CharField(label="Style code", help_text="As on the label", initial="VQ-44127-B")
    size = forms.ChoiceField(label="US size", choices=[("9", "9"), ("9.5", "9.5")])
    price = forms.DecimalField(label="Asked price", min_value=0)


@require_GET
def styleguide(request):
    """Colours, grades, buttons, words, fields and progress; one field shows an error."""
    form = SampleForm({"code": "VQ-44127-B", "size": "9", "price": "-1"})
    return render(request, "wahrheit/styleguide.html", {"colours": COLOURS, "grades": GRADES, "form": form})

"""A check as a person draws and names it, checked before it goes anywhere."""

from django import forms
from django.utils.text import slugify

from casework.forms import points_from
from casework.guide_wording import CHOICES

FIXED, LENGTH, SLOPE, SAME = "fixed", "length", "slope", "same"
UNWORN = {"fact": "condition", "is": ["deadstock", "tried_on"]}


class CheckForm(forms.Form):
    choice = forms.ChoiceField(
        choices=[(key, choice.name) for key, choice in CHOICES.items()],
        error_messages={"required": "Choose what to measure.", "invalid_choice": "Choose what to measure."},
    )
    points = forms.CharField(
        max_length=20_000, error_messages={"required": "Nothing is drawn yet: click on the photograph."}
    )
    name = forms.CharField(max_length=80, error_messages={"required": "Give it a name, as it shall stand on the rail."})
    instruction = forms.CharField(max_length=200, required=False)
    section = forms.CharField(max_length=60, error_messages={"required": "Say under which heading it stands."})
    group = forms.CharField(max_length=60, required=False)
    size_rule = forms.ChoiceField(
        choices=[
            (FIXED, "stays the same"),
            (LENGTH, "grows with the length"),
            (SLOPE, "grows by so many mm a size"),
            (SAME, "only within one size"),
        ],
        required=False,
    )
    mm_per_size = forms.FloatField(
        required=False,
        min_value=-20,
        max_value=20,
        error_messages={"invalid": "Write mm a size as a number, such as 0.4."},
    )
    minutes = forms.FloatField(
        required=False,
        min_value=0.05,
        max_value=60,
        error_messages={
            "invalid": "Write the minutes as a number, such as 0.5.",
            "min_value": "At least 0.05 minutes.",
        },
    )
    decisive = forms.BooleanField(required=False)
    mandatory = forms.BooleanField(required=False)
    unworn = forms.BooleanField(required=False)

    def clean_points(self):
        try:
            points = points_from(self.cleaned_data["points"])
        except forms.ValidationError as error:
            raise forms.ValidationError("The drawing did not arrive whole. Draw it again.") from error
        if not points:
            raise forms.ValidationError("Nothing is drawn yet: click on the photograph.")
        return points

    def clean(self):
        given = super().clean()
        if given.get("size_rule") == SLOPE and given.get("mm_per_size") is None and "mm_per_size" not in self.errors:
            self.add_error("mm_per_size", "Say by how many mm it grows a size.")
        return given

    def as_given(self) -> dict:
        """What the action takes."""
        clean = self.cleaned_data
        choice = CHOICES[clean["choice"]]
        rules = {
            LENGTH: {"rule": "length"},
            SLOPE: {"rule": "slope", "mm_per_size": clean["mm_per_size"]},
            SAME: {"rule": "bands", "bands": []},
        }
        given = {
            "name": clean["name"],
            "instruction": clean["instruction"] or f"{choice.name}.",
            "measure": choice.measure,
            "quantity": choice.quantity,
            "unit": choice.unit,
            "section": clean["section"],
            "group": _slug(clean["group"] or clean["name"]),
            "size_rule": rules.get(clean["size_rule"], {}),
            "minutes": clean["minutes"] or 0.5,
            "decisive": clean["decisive"],
            "mandatory": clean["mandatory"],
            "applies_when": [UNWORN] if clean["unworn"] else [],
        }
        return {"points": clean["points"], "given": given}


def _slug(text: str) -> str:
    return slugify(text)[:60] or "check"

"""The facts of a case, checked before they go anywhere."""

from django import forms
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.levels import Level
from assay.paperwork.sizes import us_size, written
from casework import wording
from casework.models import Arrival, DeskNotes, Tool
from pairs.known import charts_of
from pairs.models import Condition, Feet, Region


def yes_no(yes: str, no: str, *, unsaid: str = "") -> forms.TypedChoiceField:
    """A closed question; ``unsaid``: what the empty answer says, where there is one."""
    choices = [("yes", yes), ("no", no)]
    return forms.TypedChoiceField(
        choices=[("", unsaid), *choices] if unsaid else choices,
        coerce=lambda value: value == "yes",
        required=False,
        empty_value=None if unsaid else True,
    )


class DeskForm(forms.ModelForm):
    """What a counter writes on a slip of paper."""

    class Meta:
        model = DeskNotes
        fields = ("ticket", "shelf", "due_on", "promised", "to_ask")
        labels = {
            "ticket": "Ticket or seller",
            "shelf": "Where the pair stands",
            "due_on": "Answer due",
            "promised": "What was promised",
            "to_ask": "To ask the seller",
        }
        widgets = {"due_on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")}
        error_messages = {"due_on": {"invalid": "Write the day as year-month-day, such as 2026-03-14."}}


class IntakeForm(forms.Form):
    """Every field may stay empty: an intake can be left and come back to."""

    size_us = forms.CharField(max_length=12, required=False)
    box_size_us = forms.CharField(max_length=12, required=False)
    region = forms.ChoiceField(choices=[("", "not known"), *Region.choices], required=False)
    generation = forms.TypedChoiceField(choices=[], coerce=int, required=False, empty_value=None)
    condition = forms.ChoiceField(choices=[("", "not said yet"), *Condition.choices], required=False)
    feet = forms.ChoiceField(choices=Feet.choices, required=False)
    arrival = forms.ChoiceField(choices=[("", "not said yet"), *Arrival.choices], required=False)
    in_hand = yes_no("the pair is in hand", "photographs only")
    reference_in_hand = yes_no("a retail pair lies beside it", "recorded pairs only", unsaid="not said yet")
    # The empty one says "nothing is on the table"; without it, nothing ticked could not be told from nothing sent.
    tools = forms.MultipleChoiceField(choices=[("", ""), *Tool.choices], required=False)
    source = forms.CharField(max_length=120, required=False)
    level = forms.ChoiceField(choices=wording.LEVELS, required=False)
    asked_price = forms.DecimalField(
        max_digits=8,
        decimal_places=2,
        min_value=0,
        required=False,
        error_messages={"invalid": "Write the price as a number, such as 120 or 119.50."},
    )
    bought_on = forms.DateField(
        required=False, error_messages={"invalid": "Write the day it was bought as year-month-day, such as 2026-03-14."}
    )

    def __init__(self, *args, release=None, **kwargs):
        super().__init__(*args, **kwargs)
        self.sizes = list(release.sizes_us)
        self.charts = charts_of(release)
        made = sorted(set(release.shoe_model.releases.values_list("generation", flat=True)))
        own = [("", f"as this release: {release.generation}")]
        self.fields["generation"].choices = own + [(n, str(n)) for n in made if n != release.generation]

    def clean_size_us(self):
        return self._size("size_us")

    def clean_box_size_us(self):
        return self._size("box_size_us")

    def clean_level(self):
        return self.cleaned_data["level"] or Level.STANDARD.value

    def clean_feet(self):
        return self.cleaned_data["feet"] or Feet.BOTH.value

    def clean_tools(self):
        return [tool for tool in self.cleaned_data["tools"] if tool]

    def clean_bought_on(self):
        bought = self.cleaned_data["bought_on"]
        if bought and bought > timezone.localdate():
            raise forms.ValidationError("The day it was bought lies ahead of us. Look again.")
        return bought

    def _size(self, name):
        typed = self.cleaned_data[name].strip()
        if not typed:
            return ""
        try:
            size = written(us_size(typed, next(iter(self.charts), None)))
        except AssayError as error:
            raise forms.ValidationError(wording.of_error(error)) from error
        if self.sizes and size not in self.sizes:
            raise forms.ValidationError(
                f"This release was never made in US {size}. It was made from {self.sizes[0]} to {self.sizes[-1]}, "
                "half sizes included. Look at the tag again."
            )
        return size

"""What people type, checked before it goes anywhere."""

import json
import math

from django import forms
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.schools import Verdict
from assay.paperwork.fields import FIELDS
from assay.paperwork.sizes import us_size, written
from casework import wording
from casework.models import Arrival, Tool
from library.known_views import views
from library.models import Foot
from pairs.known import charts_of
from pairs.models import Condition, Feet, Region


class StartForm(forms.Form):
    style_code = forms.CharField(
        max_length=60, error_messages={"required": "Type the style code, the barcode’s number or the name."}
    )
    token = forms.UUIDField()


def yes_no(yes: str, no: str, *, unsaid: str = "") -> forms.TypedChoiceField:
    """A closed question; ``unsaid``: what the empty answer says, where there is one."""
    choices = [("yes", yes), ("no", no)]
    return forms.TypedChoiceField(
        choices=[("", unsaid), *choices] if unsaid else choices,
        coerce=lambda value: value == "yes",
        required=False,
        empty_value=None if unsaid else True,
    )


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


class PhotoForm(forms.Form):
    """Where a photograph belongs, if that is known, and a fixed stand's scale."""

    view = forms.ChoiceField(
        choices=lambda: [("", ""), *((key, view.name) for key, view in views().items())], required=False
    )
    foot = forms.ChoiceField(choices=[("", ""), *Foot.choices], required=False)
    mm_per_px = forms.FloatField(
        required=False,
        min_value=0.005,
        max_value=2,
        error_messages={
            "invalid": "Write the scale as a number of mm a pixel, such as 0.13, or leave it empty.",
            "min_value": "A scale under 0.005 mm a pixel is not a photograph of a shoe. Leave it empty if not known.",
            "max_value": "A scale over 2 mm a pixel is too coarse for any check. Leave it empty if not known.",
        },
    )

    def clean(self):
        given = super().clean()
        if given.get("foot") and not given.get("view"):
            raise forms.ValidationError("Choose the view as well as the foot.")
        return given


class LengthsForm(forms.Form):
    """Lengths in mm, written by a person: one or two, or a height and how sure it is."""

    lengths = forms.CharField(max_length=60, required=False)

    def clean_lengths(self):
        words = self.cleaned_data["lengths"].replace("×", " ").replace("x", " ").replace(",", ".").replace("mm", " ")
        try:
            numbers = [float(word) for word in words.split()]
        except ValueError as error:
            raise forms.ValidationError("Write millimetres as numbers, such as 85.6 or 85.6 × 53.98.") from error
        if not all(math.isfinite(number) for number in numbers):
            raise forms.ValidationError("Write millimetres as numbers, such as 85.6 or 85.6 × 53.98.")
        return numbers


class GaugeForm(forms.Form):
    """A tool of the stage and where it was put."""

    tool = forms.CharField(max_length=12)
    side = forms.ChoiceField(choices=[("retail", ""), ("suspect", "")])
    pixel = forms.FloatField(min_value=0, max_value=1000)
    points = forms.CharField()
    others = forms.CharField(required=False)
    words = forms.CharField(required=False, max_length=300)

    def clean_points(self):
        return points_from(self.cleaned_data["points"])

    def clean_others(self):
        return points_from(self.cleaned_data["others"] or "[]")


def points_from(text):
    """Points [[x, y], …] from JSON. Raises ValidationError ``bad_points``."""
    try:
        points = [[float(x), float(y)] for x, y in json.loads(text)]
    except (TypeError, ValueError) as error:
        raise forms.ValidationError("bad_points") from error
    if len(points) > 2000 or not all(math.isfinite(number) for point in points for number in point):
        raise forms.ValidationError("bad_points")
    return points


class PointsForm(forms.Form):
    """Points drawn on a photograph, as JSON [[x, y], …]."""

    points = forms.CharField()

    def clean_points(self):
        return points_from(self.cleaned_data["points"])


class OpinionForm(forms.Form):
    verdict = forms.ChoiceField(choices=[(v.value, v.value) for v in Verdict])
    words = forms.CharField(max_length=2000, required=False)
    after = forms.IntegerField(required=False)


class PolicyForm(forms.Form):
    red_flags = forms.IntegerField(min_value=1, max_value=9)
    coverage = forms.IntegerField(min_value=0, max_value=100)


class BarForm(forms.Form):
    card_bar_mm = forms.FloatField(
        min_value=80,
        max_value=120,
        error_messages={
            "invalid": "Write millimetres as a number, such as 99.6.",
            "required": "Write what the bar measures, in millimetres.",
            "min_value": "Under 80 mm the card was printed much too small. Print it again at 100 %.",
            "max_value": "Over 120 mm the card was printed much too large. Print it again at 100 %.",
        },
    )


class PlacesForm(forms.Form):
    """What stands at the places of a check; every other field is refused."""

    def __init__(self, *args, places=(), **kwargs):
        super().__init__(*args, **kwargs)
        for place in places:
            longest = 4000 if FIELDS[place].entry == "packing" else 200
            self.fields[place] = forms.CharField(max_length=longest, required=False, strip=True)


class ChartForm(forms.Form):
    maker = forms.IntegerField(error_messages={"required": "Choose a maker.", "invalid": "Choose a maker."})
    chart = forms.FileField(error_messages={"required": "Choose a CSV file first."})

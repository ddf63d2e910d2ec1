"""What people type, checked before it goes anywhere."""

import json
import math

from django import forms

from assay.judge.schools import Verdict
from casework.models import Arrival
from library.models import Foot, View
from pairs.models import Condition, Region


class StartForm(forms.Form):
    style_code = forms.CharField(
        max_length=40, error_messages={"required": "Type the style code from the size tag or box."}
    )
    token = forms.UUIDField()


class IntakeForm(forms.Form):
    """Every field may stay empty: an intake can be left and come back to."""

    size_us = forms.CharField(max_length=6, required=False)
    region = forms.ChoiceField(choices=[("", "not known"), *Region.choices], required=False)
    condition = forms.ChoiceField(choices=[("", "not said yet"), *Condition.choices], required=False)
    arrival = forms.ChoiceField(choices=[("", "not said yet"), *Arrival.choices], required=False)
    in_hand = forms.TypedChoiceField(
        choices=[("yes", "the pair is in hand"), ("no", "photographs only")],
        coerce=lambda v: v == "yes",
        required=False,
        empty_value=True,
    )
    source = forms.CharField(max_length=120, required=False)
    asked_price = forms.DecimalField(
        max_digits=8,
        decimal_places=2,
        min_value=0,
        required=False,
        error_messages={"invalid": "Write the price as a number, such as 120 or 119.50."},
    )

    def __init__(self, *args, sizes=(), **kwargs):
        super().__init__(*args, **kwargs)
        self.sizes = list(sizes)

    def clean_size_us(self):
        size = self.cleaned_data["size_us"].strip().replace(",", ".").removeprefix("US").strip()
        if size and self.sizes and size not in self.sizes:
            raise forms.ValidationError(
                f"This release was never made in US {size}. It was made from {self.sizes[0]} to {self.sizes[-1]}, "
                "half sizes included. Look at the tag again."
            )
        return size


class PhotoForm(forms.Form):
    view = forms.ChoiceField(choices=View.choices)
    foot = forms.ChoiceField(choices=Foot.choices)
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


class PointsForm(forms.Form):
    """Points drawn on a photograph, as JSON [[x, y], …]."""

    points = forms.CharField()

    def clean_points(self):
        try:
            points = [[float(x), float(y)] for x, y in json.loads(self.cleaned_data["points"])]
        except (TypeError, ValueError) as error:
            raise forms.ValidationError("bad_points") from error
        if len(points) > 2000 or not all(math.isfinite(number) for point in points for number in point):
            raise forms.ValidationError("bad_points")
        return points


class OpinionForm(forms.Form):
    verdict = forms.ChoiceField(choices=[(v.value, v.value) for v in Verdict])
    words = forms.CharField(max_length=2000, required=False)
    after = forms.IntegerField(required=False)


class PolicyForm(forms.Form):
    red_flags = forms.IntegerField(min_value=1, max_value=9)
    coverage = forms.IntegerField(min_value=0, max_value=100)

"""What is said of a photograph, checked before it goes anywhere."""

import json

from django import forms

from library.models import Foot
from library.photo_kinds import kinds_by_key
from pairs.models import Lamp

MOST_POINTS, FURTHEST_PX = 2000, 1_000_000
MOST_MM = 100_000


class PhotoForm(forms.Form):
    """Where a photograph belongs, if that is known, and a fixed stand's scale."""

    view = forms.ChoiceField(
        choices=lambda: [("", ""), *((key, view.name) for key, view in kinds_by_key().items())], required=False
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


class LampForm(forms.Form):
    """Which lamp a photograph under UV was taken by, and from how far away."""

    lamp = forms.ChoiceField(choices=[("", "not known"), *Lamp.choices], required=False)
    away_mm = forms.IntegerField(required=False, min_value=10, max_value=3000)


class LengthsForm(forms.Form):
    """Lengths in mm, written by a person: one or two, or a height and how sure it is."""

    lengths = forms.CharField(max_length=60, required=False)

    def clean_lengths(self):
        words = self.cleaned_data["lengths"].replace("×", " ").replace("x", " ").replace(",", ".").replace("mm", " ")
        try:
            numbers = [float(word) for word in words.split()]
        except ValueError as error:
            raise forms.ValidationError("Write millimetres as numbers, such as 85.6 or 85.6 × 53.98.") from error
        if not all(abs(number) <= MOST_MM for number in numbers):
            raise forms.ValidationError("Write millimetres as numbers, such as 85.6 or 85.6 × 53.98.")
        return numbers


def points_from(text):
    """Points [[x, y], …] from JSON. Raises ValidationError ``bad_points``."""
    try:
        points = [[float(x), float(y)] for x, y in json.loads(text)]
    except (TypeError, ValueError, OverflowError, RecursionError) as error:
        raise forms.ValidationError("bad_points") from error
    # No photograph is so large; what lies further out is no place, and overflows where it is reckoned with.
    if len(points) > MOST_POINTS or not all(abs(number) <= FURTHEST_PX for point in points for number in point):
        raise forms.ValidationError("bad_points")
    return points


class PointsForm(forms.Form):
    """Points drawn on a photograph, as JSON [[x, y], …]."""

    points = forms.CharField()
    tile = forms.BooleanField(required=False)

    def clean_points(self):
        return points_from(self.cleaned_data["points"])

"""What is pointed at and typed on the bench, checked before it goes anywhere."""

from django import forms

from assay.paperwork.fields import FIELDS
from casework.models import Sighting
from casework.photos.forms import points_from


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


class SightingForm(forms.Form):
    """Something seen that no check names."""

    name = forms.CharField(max_length=80, error_messages={"required": "Give it a name, such as “glue on the toe”."})
    words = forms.CharField(max_length=300, required=False)
    group = forms.SlugField(max_length=60, required=False)
    sure = forms.ChoiceField(choices=Sighting.Sure.choices, required=False)
    like = forms.ChoiceField(choices=Sighting.Like.choices, required=False)
    points = forms.CharField(required=False)

    def clean_points(self):
        return points_from(self.cleaned_data["points"] or "[]")

    def as_given(self) -> dict:
        """What the action takes: the careful answers where nothing was chosen."""
        clean = self.cleaned_data
        return {**clean, "sure": clean["sure"] or Sighting.Sure.UNSURE, "like": clean["like"] or Sighting.Like.ODD}


class PlacesForm(forms.Form):
    """What stands at the places of a check; every other field is refused."""

    def __init__(self, *args, places=(), **kwargs):
        super().__init__(*args, **kwargs)
        for place in places:
            longest = 4000 if FIELDS[place].entry == "packing" else 200
            self.fields[place] = forms.CharField(max_length=longest, required=False, strip=True)

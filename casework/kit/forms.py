"""The bench card and size charts, checked before they go anywhere."""

from django import forms


class BarForm(forms.Form):
    card_bar_mm = forms.FloatField(
        min_value=80,
        max_value=120,
        error_messages={
            "invalid": "Write millimetres as a number, such as 99.6.",
            "required": "Write what the bar measures, in millimetres.",
            "min_value": "Under 80 mm the card was printed much too small. Print it again at 100 %%.",
            "max_value": "Over 120 mm the card was printed much too large. Print it again at 100 %%.",
        },
    )


class TileForm(forms.Form):
    tile_percent = forms.FloatField(
        min_value=5,
        max_value=95,
        required=False,
        error_messages={
            "invalid": "Write the tile's reflectance in per cent, such as 18.",
            "min_value": "A tile of under 5 %% is too dark to tell the light by.",
            "max_value": "A tile of over 95 %% burns out. Use a grey one.",
        },
    )


class ExposureForm(forms.Form):
    """A lamp's UV-A irradiance, and where it was stated for."""

    w_m2 = forms.FloatField(min_value=0.01, max_value=10_000)
    stated_at_mm = forms.FloatField(min_value=0, max_value=5000, required=False)
    eye_at_mm = forms.FloatField(min_value=0, max_value=5000, required=False)


class ChartForm(forms.Form):
    maker = forms.IntegerField(error_messages={"required": "Choose a maker.", "invalid": "Choose a maker."})
    chart = forms.FileField(error_messages={"required": "Choose a CSV file first."})

"""How a case is started, checked before it goes anywhere."""

from django import forms


class StartForm(forms.Form):
    style_code = forms.CharField(
        max_length=60, error_messages={"required": "Type the style code, the barcode’s number or the name."}
    )
    token = forms.UUIDField()
    arrivals = forms.UUIDField(required=False)
    """Of photographs that were dropped before."""

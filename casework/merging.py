"""Forms on a page that may be old by the time they are sent: what somebody else changed meanwhile is not put back."""

import json

from django import forms

SHOWN = "was"
"""Name of the field that carries what the page showed."""


class MergingForm(forms.Form):
    """Fields that its person left alone follow what stands now. One that both have changed is a conflict: both values
    are shown, and sending it again takes the person's own."""

    def __init__(self, data=None, *args, initial=None, **more):
        self.now = {name: _text(value) for name, value in (initial or {}).items() if name in self.base_fields}
        self.taken: dict[str, str] = {}
        super().__init__(self._merged(data), *args, initial=initial, **more)

    @property
    def was(self) -> str:
        """What the page shows, to be sent along with it."""
        return json.dumps(self.now, ensure_ascii=False)

    def clean(self):
        for name, now in self.taken.items():
            words = f"Somebody has changed this to “{now}” meanwhile. Keep again to put yours in its place."
            self.add_error(name, words if now else words.replace(" to “”", " to nothing"))
        return super().clean()

    def _merged(self, data):
        was = _read(data.get(SHOWN, "")) if data else {}
        if not was:
            return data
        data = data.copy()
        for name, now in self.now.items():
            mine, shown = _text(data.get(name)), was.get(name, now)
            if now == shown:
                continue
            if mine == shown:
                data[name] = now
            elif mine != now:
                self.taken[name] = now
        return data


def _read(text: str) -> dict:
    try:
        was = json.loads(text)
    except ValueError:
        return {}
    return {str(name): _text(value) for name, value in was.items()} if isinstance(was, dict) else {}


def _text(value) -> str:
    """As a form sends it; what is not known is empty."""
    if isinstance(value, bool):
        return str(value).lower()
    return "" if value in (None, "unknown") else str(value).replace("\r\n", "\n").strip()

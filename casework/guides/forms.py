"""A check as a person draws and names it, checked before it goes anywhere."""

from django import forms
from django.utils.text import slugify

from casework.guides.wording import choices
from casework.photos.forms import points_from
from library.models import Checkpoint

# Kinds of size rules, as the core names them.
FIXED = "fixed"
LENGTH = "length"
SLOPE = "slope"
SAME = "bands"
UV_CAUTION = "UV lamp: never into eyes or on skin; UV-blocking glasses; shortest time; follow the lamp’s own sheet."
UNWORN = {"fact": "condition", "is": ["deadstock", "tried_on"]}


SKETCHES = [
    ("side", "a shoe from the side"),
    ("top", "from above"),
    ("rear", "from behind"),
    ("sole", "a sole"),
    ("tag", "a tag or label"),
    ("box", "a box"),
    ("close", "a part, close"),
]


class ViewForm(forms.Form):
    """A kind of photograph, as a guide writer describes it."""

    name = forms.CharField(max_length=60, error_messages={"required": "Give it a name, such as “emblem, close”."})
    how = forms.CharField(max_length=300, required=False)
    feet = forms.ChoiceField(choices=[("yes", "one of either foot"), ("no", "one a pair")], required=False)
    sketch = forms.ChoiceField(choices=SKETCHES, required=False)
    close_up = forms.BooleanField(required=False)
    ultraviolet = forms.BooleanField(required=False)

    def as_given(self) -> dict:
        """What the action takes."""
        clean = self.cleaned_data
        return {
            "name": clean["name"].strip(),
            "how": clean["how"],
            "feet": clean["feet"] != "no",
            "sketch": clean["sketch"] or "close",
            "close_up": clean["close_up"],
            "ultraviolet": clean["ultraviolet"],
            "caution": UV_CAUTION if clean["ultraviolet"] else "",
        }


class QuestionForm(forms.Form):
    """A closed question as a guide writer words it; answers one a line, rare ones with a ! before them."""

    name = forms.CharField(max_length=80, error_messages={"required": "Give it a name, as it shall stand on the rail."})
    instruction = forms.CharField(max_length=200, error_messages={"required": "Write what is asked."})
    section = forms.CharField(max_length=60, required=False)
    group = forms.CharField(max_length=60, required=False)
    caution = forms.CharField(max_length=300, required=False)
    answers = forms.CharField(max_length=2000, error_messages={"required": "Write its answers, one a line."})
    in_hand = forms.BooleanField(required=False)
    unworn = forms.BooleanField(required=False)

    def as_given(self) -> dict:
        """What the action takes."""
        lines = [line.strip() for line in self.cleaned_data["answers"].splitlines() if line.strip(" !")]
        answers = [(line.lstrip("! ").strip(), line.startswith("!")) for line in lines]
        return {**self.cleaned_data, "section": self.cleaned_data["section"] or "Hands", "answers": answers}


class RetailPhotoForm(forms.Form):
    """A photograph of a verified pair."""

    place = forms.CharField(max_length=60, error_messages={"required": "Say what it shows."})
    file = forms.FileField(error_messages={"required": "No file was chosen. Pick a photograph."})


class WordsForm(forms.Form):
    """How a check is called and how it counts."""

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

    def clean(self):
        given = super().clean()
        if given.get("size_rule") == SLOPE and given.get("mm_per_size") is None and "mm_per_size" not in self.errors:
            self.add_error("mm_per_size", "Say by how many mm it grows a size.")
        return given

    def words(self) -> dict:
        """What the actions take."""
        clean = self.cleaned_data
        return {
            "name": clean["name"],
            "instruction": clean["instruction"],
            "section": clean["section"],
            "group": _slug(clean["group"] or clean["name"]),
            "size_rule": _rule(clean["size_rule"], clean["mm_per_size"]),
            "minutes": clean["minutes"] or 0.5,
            "decisive": clean["decisive"],
            "mandatory": clean["mandatory"],
            "applies_when": [UNWORN] if clean["unworn"] else [],
        }


class CheckForm(WordsForm):
    """A check as it is drawn."""

    choice = forms.ChoiceField(
        choices=lambda: [(key, choice.name) for key, choice in choices().items()],
        error_messages={"required": "Choose what to measure.", "invalid_choice": "Choose what to measure."},
    )
    points = forms.CharField(
        max_length=20_000, error_messages={"required": "Nothing is drawn yet: click on the photograph."}
    )

    def clean_points(self):
        try:
            points = points_from(self.cleaned_data["points"])
        except forms.ValidationError as error:
            raise forms.ValidationError("The drawing did not arrive whole. Draw it again.") from error
        if not points:
            raise forms.ValidationError("Nothing is drawn yet: click on the photograph.")
        return points

    def as_given(self) -> dict:
        """What drawing a check takes."""
        choice, words = choices()[self.cleaned_data["choice"]], self.words()
        words["instruction"] = words["instruction"] or f"{choice.name}."
        given = words | {"measure": choice.measure, "quantity": choice.quantity, "unit": choice.unit}
        return {"points": self.cleaned_data["points"], "given": given}


class ChangeForm(WordsForm):
    """A check as it is, to be changed. A size rule or a condition that the form cannot say stays as it is."""

    def __init__(self, checkpoint: Checkpoint, sent=None):
        rule, conditions = checkpoint.size_rule, checkpoint.applies_when
        kind, mm_per_size = rule.get("rule", FIXED), rule.get("mm_per_size")
        self.own_rule = rule != _rule(kind, mm_per_size)
        self.own_conditions = conditions not in ([], [UNWORN])
        self.checkpoint = checkpoint
        had = {field: getattr(checkpoint, field) for field in ("name", "instruction", "section", "group", "minutes")}
        had |= {"size_rule": kind, "mm_per_size": mm_per_size}
        had |= {"decisive": checkpoint.decisive, "mandatory": checkpoint.mandatory, "unworn": bool(conditions)}
        super().__init__(sent, initial=had)

    def words(self) -> dict:
        """What the action takes."""
        words = super().words()
        words["instruction"] = words["instruction"] or self.checkpoint.instruction
        if self.own_rule:
            words["size_rule"] = self.checkpoint.size_rule
        if self.own_conditions:
            words["applies_when"] = self.checkpoint.applies_when
        return words


def _rule(kind: str, mm_per_size: float | None) -> dict:
    """The size rule that the form's two fields say."""
    given = {LENGTH: {}, SLOPE: {"mm_per_size": mm_per_size}, SAME: {"bands": []}}.get(kind)
    return {} if given is None else {"rule": kind} | given


def _slug(text: str) -> str:
    return slugify(text)[:60] or "check"

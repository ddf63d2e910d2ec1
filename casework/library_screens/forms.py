"""What is written down of makers, releases and pairs, checked before it goes anywhere."""

import csv
import io
import re

from django import forms
from django.utils.text import slugify

from assay.errors import AssayError
from assay.paperwork.accessories import items_from
from assay.paperwork.gtin import check_digit, gtin14
from assay.paperwork.sizes import System
from assay.paperwork.style_code import normalise
from casework import wording
from casework.library_screens.conditions import CHOICES, chosen, clauses_of
from casework.merging import MergingForm
from casework.wording import of_error
from library.models import GROUPS, MOST_CAP, MOST_MINUTES, Maker
from pairs.models import Condition, Region

REGIONS = ("eu", "us", "asia")
BOX_CLASS = re.compile(r"^(\d+(?:\.5)?)\s*(?:-|–|to)\s*(\d+(?:\.5)?)\s+(\S.{0,19})$")
MASK = re.compile(r"^[A9\W_]*$")


class MakerForm(MergingForm):
    """A maker's facts."""

    name = forms.CharField(label="Name", max_length=80, error_messages={"required": "Give the maker’s name."})
    style_code_mask = forms.CharField(
        label="Pattern of its style codes",
        help_text="A for a letter, 9 for a figure, all else itself: AA-99999-A",
        max_length=40,
        error_messages={"required": "Write its pattern: A for a letter, 9 for a figure."},
    )
    examples = forms.CharField(
        label="Try it on codes you know", help_text="Separated by spaces. Not kept.", max_length=400, required=False
    )
    date_order = forms.ChoiceField(label="Dates on its tags", choices=Maker.ORDERS)
    layout_eu = forms.CharField(
        label="Sizes on its label, Europe", help_text="In their order: US UK EU CM", max_length=40, required=False
    )
    layout_us = forms.CharField(label="North America", max_length=40, required=False)
    layout_asia = forms.CharField(label="Asia", max_length=40, required=False)
    box_classes = forms.CharField(
        label="Boxes by size",
        help_text="One a line, US sizes: 6–8.5 S",
        max_length=400,
        required=False,
        widget=forms.Textarea(attrs={"rows": 3}),
    )
    inlay_from_year = forms.IntegerField(
        label="Radio inlay in the label since",
        help_text="A year; empty where there is none",
        required=False,
        min_value=1990,
        max_value=2100,
    )

    @staticmethod
    def of(maker: Maker) -> dict:
        """A maker as the form shows it."""
        layouts = {f"layout_{region}": " ".join(maker.label_layouts.get(region, ())) for region in REGIONS}
        classes = "\n".join(f"{low:g}–{high:g} {name}" for low, high, name in maker.box_classes)
        same = ("name", "style_code_mask", "date_order", "inlay_from_year")
        return {name: getattr(maker, name) for name in same} | layouts | {"box_classes": classes}

    def clean_style_code_mask(self):
        mask = self.cleaned_data["style_code_mask"].strip()
        if not MASK.match(mask) or not re.search("[A9]", mask):
            raise forms.ValidationError("A pattern has only A, 9 and signs between them, such as AA-99999-A.")
        return mask

    def clean_box_classes(self):
        found = []
        for line in filter(None, map(str.strip, re.split(r"[\n;]", self.cleaned_data["box_classes"]))):
            read = BOX_CLASS.match(line)
            if not read or float(read[1]) > float(read[2]):
                raise forms.ValidationError(f"“{line[:40]}”: write one box a line, such as 6–8.5 S.")
            found.append([float(read[1]), float(read[2]), read[3]])
        return found

    def clean(self):
        given = super().clean()
        known = {system.value for system in System}
        for region in REGIONS:
            words = given.get(f"layout_{region}", "").upper().split()
            if wrong := [word for word in words if word not in known]:
                self.add_error(f"layout_{region}", f"{wrong[0]} is no size system: {', '.join(sorted(known))} are.")
        mask = given.get("style_code_mask")
        for code in given.get("examples", "").split() if mask else ():
            try:
                normalise(code, mask)
            except AssayError:
                self.add_error("examples", f"{code} does not fit the pattern {mask}.")
        return given

    def as_given(self) -> dict:
        """What the action takes."""
        clean = self.cleaned_data
        layouts = {region: clean[f"layout_{region}"].upper().split() for region in REGIONS}
        same = ("name", "style_code_mask", "date_order", "box_classes", "inlay_from_year")
        kept = {name: clean[name] for name in same}
        return kept | {"label_layouts": {region: words for region, words in layouts.items() if words}}


class ReleaseForm(MergingForm):
    """A release's facts."""

    maker = forms.ModelChoiceField(
        Maker.objects.order_by("name"), label="Maker", error_messages={"required": "Choose the maker."}
    )
    model = forms.CharField(
        label="Model",
        help_text="Type a known one to share its checks, or a new one",
        max_length=80,
        error_messages={"required": "Name the model."},
        widget=forms.TextInput(attrs={"list": "models", "autocomplete": "off"}),
    )
    colourway = forms.CharField(label="Colourway", max_length=80, error_messages={"required": "Name the colourway."})
    style_code = forms.CharField(label="Style code", max_length=40, error_messages={"required": "Type the style code."})
    year = forms.IntegerField(
        label="Year", min_value=1970, max_value=2100, error_messages={"required": "Say from which year it is."}
    )
    generation = forms.IntegerField(
        label="Tooling generation",
        help_text="Same moulds, same generation: they share checks. Count up when the moulds changed",
        min_value=1,
        max_value=99,
        required=False,
    )
    group = forms.ChoiceField(label="Sizes are", choices=GROUPS, required=False)
    sizes_us = forms.CharField(
        label="US sizes it was made in", help_text="6 6.5 7 …; empty: not known", max_length=400, required=False
    )
    retail_price = forms.DecimalField(label="Retail price", max_digits=8, decimal_places=2, min_value=0, required=False)
    released_on = forms.DateField(label="Released on", help_text="2024-05-18", required=False)
    colour_wording = forms.CharField(label="Colour as the box label words it", max_length=80, required=False)
    factory_codes = forms.CharField(label="Factory codes", max_length=200, required=False)
    stamp_mask = forms.CharField(
        label="Stamp in the lid",
        help_text="A9 9999 as a pattern; NONE: never one; empty: not known",
        max_length=20,
        required=False,
    )
    serials_differ = forms.NullBooleanField(label="Serials of left and right differ", required=False)
    barcodes = forms.CharField(
        label="Barcodes by size",
        help_text="CSV: US size, number; one a line",
        max_length=8000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 4}),
    )

    @staticmethod
    def of(release) -> dict:
        """A release as the form shows it."""
        same = ("colourway", "style_code", "year", "generation", "group", "retail_price", "released_on")
        kept = {name: getattr(release, name) for name in (*same, "colour_wording", "stamp_mask", "serials_differ")}
        return kept | {
            "maker": release.shoe_model.maker_id,
            "model": release.shoe_model.name,
            "sizes_us": " ".join(release.sizes_us),
            "factory_codes": " ".join(release.factory_codes),
            "barcodes": "\n".join(f"{size},{code}" for size, code in release.barcodes.items()),
        }

    def clean_sizes_us(self):
        words = self.cleaned_data["sizes_us"].replace(",", " ").split()
        for word in words:
            if not re.fullmatch(r"\d{1,2}(\.5)?", word):
                raise forms.ValidationError(f"“{word[:10]}” is no US size. Write them as 6 6.5 7 …")
        return sorted(dict.fromkeys(words), key=float)

    def clean_barcodes(self):
        found = {}
        rows = csv.reader(io.StringIO(self.cleaned_data["barcodes"].strip()))
        for n, row in enumerate(filter(None, rows), start=1):
            if len(row) != 2 or not re.fullmatch(r"\d{1,2}(\.5)?", row[0].strip()):
                if n == 1 and not row[0][:1].isdecimal():
                    continue  # a header line
                raise forms.ValidationError(f"Line {n}: write a US size, a comma and its number, such as 9.5,2004…")
            try:
                number = gtin14(row[1])
            except AssayError as error:
                raise forms.ValidationError(f"Line {n}: {of_error(error)}") from error
            is_one, should = check_digit(number)
            if is_one != should:
                raise forms.ValidationError(f"Line {n}: its last figure is {is_one} and should be {should}.")
            found[f"{float(row[0]):g}"] = number
        return found

    def as_given(self) -> dict:
        """What the action takes."""
        clean = dict(self.cleaned_data)
        clean["generation"] = clean["generation"] or 1
        clean["group"] = clean["group"] or "men"
        clean["factory_codes"] = clean["factory_codes"].replace(",", " ").split()
        clean["colour_wording"] = clean["colour_wording"].upper()
        return clean


ROWS = 5
"""Empty rows that the packing list ends with."""


class PackingForm(forms.Form):
    """A packing list, a row a thing: what it looks like, its name, how many, what it is like (retail's first)."""

    def __init__(self, sent=None, items=()):
        super().__init__(sent)
        rows = list(items) + [{}] * ROWS if sent is None else [{}] * min(60, len(sent.getlist("name")))
        self.rows = [self._row(n, item, sent) for n, item in enumerate(rows)]

    @staticmethod
    def _row(n: int, item: dict, sent) -> dict:
        if sent is not None:
            names = ("token", "name", "count", "like")
            lists = {name: sent.getlist(name) for name in names}
            return {name: lists[name][n] if n < len(lists[name]) else "" for name in names}
        like = "; ".join(
            f"{name}: {' / '.join([value, *(one for one in item['choices'][name] if one != value)])}"
            for name, value in item.get("attributes", {}).items()
        )
        shown = {"token": item.get("token", ""), "name": item.get("name", ""), "count": item.get("count", 1)}
        return shown | {"like": like}

    def as_given(self, before: list) -> list[dict]:
        """The list as it is kept; what the form does not ask stays as it was. Raises AssayError ``bad_packing``."""
        known = {item["name"]: item for item in before}
        kept, keys = [], set()
        for row in self.rows:
            name = row["name"].strip()[:80]
            if not name:
                continue
            old = known.get(name, {})
            key = old.get("key") or slugify(name)[:40] or f"thing-{len(kept) + 1}"
            if key in keys:
                raise AssayError("bad_packing", what=f"{name} stands there twice")
            keys.add(key)
            attributes, choices = self._like(name, row["like"])
            if not str(row["count"]).isdecimal():
                raise AssayError(
                    "bad_packing", what=f"{name}: write how many as a number, 0 where it must not be there"
                )
            extra = {field: old[field] for field in ("goes_missing", "retail_rate") if field in old}
            kept.append(
                {"key": key, "name": name, "token": row["token"], "count": int(row["count"]), **extra}
                | ({"attributes": attributes, "choices": choices} if attributes else {})
            )
        try:
            items_from(kept)
        except AssayError as error:
            raise AssayError("bad_packing", what=str(error.numbers.get("item", "a thing"))) from error
        return kept

    @staticmethod
    def _like(name: str, text: str) -> tuple[dict, dict]:
        attributes, choices = {}, {}
        for part in filter(None, map(str.strip, text.split(";"))):
            what, colon, values = part.partition(":")
            options = [one.strip() for one in values.split("/") if one.strip()]
            if not colon or not options:
                raise AssayError("bad_packing", what=f"{name}: write what it is like as colour: grey / white")
            attributes[what.strip()], choices[what.strip()] = options[0], options
        return attributes, choices


class CheckFactsForm(forms.Form):
    """A check's facts, whatever kind it is."""

    name = forms.CharField(
        label="Name", max_length=80, error_messages={"required": "Give it a name, as it shall stand on the rail."}
    )
    instruction = forms.CharField(
        label="What the checker is told", max_length=200, error_messages={"required": "Say what the checker does."}
    )
    section = forms.CharField(
        label="Heading", max_length=60, error_messages={"required": "Say under which heading it stands."}
    )
    group = forms.CharField(
        label="Part or cause", help_text="Checks of one part raise one flag together", max_length=60, required=False
    )
    caution = forms.CharField(label="Caution", max_length=300, required=False)
    minutes = forms.FloatField(label="Minutes it takes", min_value=0.05, max_value=MOST_MINUTES)
    cap_for = forms.FloatField(
        label="At most for retail, deciban",
        help_text="Empty: as its kind. What is cheap to copy says little",
        min_value=0,
        max_value=MOST_CAP,
        required=False,
    )
    cap_against = forms.FloatField(
        label="At most for a copy, deciban",
        help_text="Empty: as its kind",
        min_value=0,
        max_value=MOST_CAP,
        required=False,
    )
    scatter = forms.FloatField(
        label="Believed scatter among retail pairs",
        help_text="A standard deviation in the check’s own unit, worth a few pairs",
        min_value=0.0001,
        max_value=1000,
        required=False,
    )
    decisive = forms.BooleanField(required=False)
    mandatory = forms.BooleanField(required=False)
    level = forms.ChoiceField(
        label="Level that asks for it",
        help_text="Triage takes about five minutes",
        choices=[("", "by what it tells a minute"), *wording.LEVELS],
        required=False,
    )
    shared = forms.BooleanField(required=False)
    when = forms.MultipleChoiceField(choices=[(key, words) for key, (words, _) in CHOICES.items()], required=False)

    def __init__(self, checkpoint, sent=None):
        self.checkpoint = checkpoint
        same = ("name", "instruction", "section", "group", "caution", "minutes", "cap_for", "cap_against")
        had = {name: getattr(checkpoint, name) for name in (*same, "decisive", "mandatory", "level", "shared")}
        had |= {"scatter": checkpoint.prior.get("scatter"), "when": chosen(checkpoint.applies_when)}
        super().__init__(sent, initial=had)

    def as_given(self) -> dict:
        """What the action takes."""
        clean = dict(self.cleaned_data)
        when, scatter = clean.pop("when"), clean.pop("scatter")
        clean["group"] = slugify(clean["group"] or clean["name"])[:60] or "check"
        clean["applies_when"] = clauses_of(when, self.checkpoint.applies_when)
        if scatter and "scatter" in self.checkpoint.prior:
            clean["prior"] = {**self.checkpoint.prior, "scatter": scatter}
        return clean


HOW_KNOWN = "Say how you know: bought from the maker, with which receipt, by whom."


class KnownPairForm(forms.Form):
    """How a pair came, and how it is known what it is."""

    condition = forms.ChoiceField(label="Condition", choices=Condition.choices)
    verified_how = forms.CharField(
        label="How you know",
        help_text="Bought where, with which receipt, by whom",
        max_length=200,
        error_messages={"required": HOW_KNOWN},
    )


class FromPhotosForm(KnownPairForm):
    """A pair to be verified whose photographs were dropped before."""

    typed_code = forms.CharField(
        label="Style code",
        help_text="Only where no label or tag is in the pictures",
        max_length=60,
        error_messages={"required": "No release was read on them. Type its style code or name."},
    )
    token = forms.UUIDField(error_messages={"required": "Drop its photographs first."})


class PairForm(KnownPairForm):
    """A pair to be verified, or a known copy."""

    size_us = forms.RegexField(
        r"^\d{1,2}(\.5)?$",
        label="US size",
        error_messages={"required": "Say its US size.", "invalid": "Write its US size, such as 9.5."},
    )
    region = forms.ChoiceField(label="Made for", choices=[("", "not known"), *Region.choices], required=False)
    batch = forms.CharField(max_length=80, required=False)

    def as_given(self) -> dict:
        """What the action takes."""
        return {name: self.cleaned_data[name] for name in ("size_us", "region", "condition", "verified_how")}

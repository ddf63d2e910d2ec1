"""What stands on box, label and tag, place by place: how it is read, and how it is written down."""

import json
from collections.abc import Callable
from dataclasses import dataclass

from assay.errors import AssayError
from assay.paperwork import accessories, dates, gtin, inlay, lengths, sizes, style_code, words
from assay.paperwork.found import Known
from assay.paperwork.signs import squeezed

SIDES = ("length", "width", "height")
# Shoe boxes from a child's to a boot's, mm. Common practice, no source.
LIKELY_BOX_MM = ((180, 520), (110, 400), (70, 250))
MOST_SIGNS = 4000
TEXTS = ("insole.words", "sole.words", "card.words", "tab.words")
"""Places that carry words, a line or several."""


class NothingTyped(AssayError):
    """An empty field is no statement."""


@dataclass(frozen=True, slots=True)
class Field:
    """One place where something stands."""

    key: str
    clean: Callable[[str, Known], str]
    """From what was typed to how it is kept; raises a kind of AssayError that says what is wrong."""
    entry: str = "text"
    """How it is entered: ``text``, ``lengths`` (caliper), ``inlay`` (tag reader), ``packing`` or ``scan`` (camera)."""


def cleaned(key: str, typed: str, known: Known) -> str:
    """What was typed at a place, as it is kept. Raises NothingTyped or the field's own errors."""
    if not typed.strip():
        raise NothingTyped("nothing_typed")
    return FIELDS[key].clean(typed[:MOST_SIGNS], known)


def box_sides(kept: str) -> list[tuple[float, float]]:
    """Length, width and height of a box with their standard uncertainties, mm."""
    return lengths.sides(kept, SIDES, LIKELY_BOX_MM)


def _style_code(typed: str, known: Known) -> str:
    return style_code.normalise(typed, known.style_code_mask)


def _words(typed: str, _known: Known) -> str:
    return squeezed(typed)[:80]


def _text(typed: str, _known: Known) -> str:
    return words.kept(typed)[:400]


def _digits(typed: str, _known: Known) -> str:
    return gtin.digits(typed)


def _scanned(typed: str, _known: Known) -> str:
    return " ".join(gtin.digits(one) for one in typed.split())


def _size_row(typed: str, _known: Known) -> str:
    return sizes.row_words(sizes.parse_row(typed))


def _window(typed: str, known: Known) -> str:
    dates.window(typed, known.date_order or "DMY")
    return squeezed(typed)


def _serial(typed: str, _known: Known) -> str:
    return squeezed(typed).replace(" ", "")[:40]


def _inlay(typed: str, _known: Known) -> str:
    return inlay.cleaned(typed)


def _box(typed: str, _known: Known) -> str:
    box_sides(typed)
    return " ".join(typed.split())


def _packing(typed: str, known: Known) -> str:
    try:
        ticked = json.loads(typed)
    except ValueError as error:
        raise accessories.BadTicks("ticks_broken") from error
    if not isinstance(ticked, dict) or not all(isinstance(seen, dict) for seen in ticked.values()):
        raise accessories.BadTicks("ticks_broken")
    accessories.compare(known.packing, ticked, second_hand=False)
    return json.dumps(ticked, sort_keys=True)


FIELDS = {
    field.key: field
    for field in (
        Field("box.style_code", _style_code),
        Field("tag.style_code", _style_code),
        Field("box.colour", _words),
        Field("box.barcode", _digits),
        Field("box.scanned", _scanned, "scan"),
        Field("box.sizes", _size_row),
        Field("tag.sizes", _size_row),
        Field("tag.made", _window),
        Field("tag.serial_left", _serial),
        Field("tag.serial_right", _serial),
        Field("tag.factory", _serial),
        Field("box.stamp", _words),
        Field("box.outer", _box, "lengths"),
        Field("box.inlay", _inlay, "inlay"),
        Field("packing", _packing, "packing"),
        *(Field(place, _text) for place in TEXTS),
    )
}

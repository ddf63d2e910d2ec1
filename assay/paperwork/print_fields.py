"""From lines of print to what stands at each place of a label or tag, by the maker's own formats.

A line fits a place by its form: the style code by the maker's mask, the size row by its systems' names, the production
window by its two dates, the barcode's number by its check digit, factory and serial by the forms of known ones. What
fits nothing is left alone. Not offered, but left to be typed, is what two lines fit or what was not surely read: a code
that differs from the release's in signs easily misread, sizes that are in no chart, a factory nobody knows.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

from assay.errors import AssayError
from assay.paperwork import dates, gtin, sizes, style_code
from assay.paperwork.fields import cleaned
from assay.paperwork.found import Known
from assay.paperwork.print_reader import PrintLine
from assay.paperwork.signs import squeezed

SURE = 0.85
"""Read with less confidence, a line is not offered."""
LEAST_SIGNS = 3
"""An unsure line with fewer letters and figures is taken for texture."""
LIKE = 0.75
"""A line is the colour's wording if it is so alike (Ratcliff & Obershelp's ratio)."""
BOX, TAG_LEFT, TAG_RIGHT = "box", "tag left", "tag right"
WINDOW_WORDS = re.compile(r"^(MADE|PROD(UCTION)?|MFG)[.: ]*", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class PrintField:
    """What stands at one place, as it was read."""

    place: str
    text: str
    """As it is kept: signs that look alike are taken as the maker's format has them."""
    printed: str
    """As it was read."""
    confidence: float
    lines: tuple[PrintLine, ...]

    @property
    def resolved(self) -> bool:
        """Whether the format decided between signs that look alike."""
        plain = lambda text: "".join(sign for sign in text.upper() if sign.isalnum())  # noqa: E731
        return plain(self.text) != plain(self.printed)


def fields_of(lines: Sequence[PrintLine], thing: str, known: Known) -> tuple[PrintField, ...]:
    """The places of a box label (``BOX``) or of a shoe's size tag that are surely read.

    >>> line = PrintLine("VQ-44127-B", 1.0, ((0, 0), (9, 0), (9, 2), (0, 2)))
    >>> known = Known("VQ-44127-B", style_code_mask="AA-99999-A")
    >>> [(one.place, one.text) for one in fields_of([line], TAG_LEFT, known)]
    [('tag.style_code', 'VQ-44127-B')]
    """
    box = thing == BOX
    start = "box" if box else "tag"
    found = [*_codes(lines, f"{start}.style_code", known), *_rows(lines, f"{start}.sizes", known)]
    if box:
        found += [*_numbers(lines, known), *_colours(lines, known)]
    else:
        found += [*_windows(lines, known), *_serials(lines, thing, known)]
    places = [one.place for one in found]
    return tuple(one for one in found if places.count(one.place) == 1 and one.confidence >= SURE)


def text_of(lines: Sequence[PrintLine]) -> str:
    """All that stands there, line by line; nothing where a line of letters is not surely read, or is not Latin."""
    if not all(line.text.isascii() for line in lines if line.confidence >= SURE):
        return ""
    letters = [line for line in lines if sum(sign.isalnum() for sign in line.text) >= LEAST_SIGNS]
    if any(line.confidence < SURE for line in letters):
        return ""
    return "\n".join(line.text for line in lines if line.confidence >= SURE)


def words_field(lines: Sequence[PrintLine], place: str, known: Known) -> tuple[PrintField, ...]:
    """All that stands on a thing that carries words alone."""
    sure = [line for line in lines if line.confidence >= SURE]
    return tuple(_offered(place, text, sure, known)) if (text := text_of(lines)) else ()


def _offered(place: str, text: str, lines: Sequence[PrintLine], known: Known) -> Iterable[PrintField]:
    """The field, if its place takes the text."""
    try:
        kept = cleaned(place, text, known)
    except AssayError:
        return
    yield PrintField(place, kept, text, min(line.confidence for line in lines), tuple(lines))


def _codes(lines: Sequence[PrintLine], place: str, known: Known) -> Iterable[PrintField]:
    for line in lines:
        try:
            code = style_code.normalise(line.text, known.style_code_mask)
        except AssayError:
            continue
        differing = style_code.compare(known.style_code, code).differences
        if not differing or not all(one.lookalike for one in differing):
            yield from _offered(place, line.text, [line], known)


def _rows(lines: Sequence[PrintLine], place: str, known: Known) -> Iterable[PrintField]:
    """A row of sizes, which may come in several pieces on one level."""
    pieces = [line for line in lines if _is_sizes(line.text)]
    while pieces:
        level = [piece for piece in pieces if is_on_level(piece, pieces[0])]
        pieces = [piece for piece in pieces if piece not in level]
        level.sort(key=lambda one: one.corners[0][0])
        row = _offered(place, " ".join(_spaced(one.text) for one in level), level, known)
        yield from (one for one in row if _is_in_a_chart(one.text, known))


def _is_in_a_chart(text: str, known: Known) -> bool:
    """Whether every figure stands in one row of a chart of the maker's, or there are no charts."""
    row = sizes.parse_row(text)
    rows = [one for chart in known.charts for one in chart.rows]
    return not rows or any(all(one.get(system) == size for system, size in row.items()) for one in rows)


def _spaced(text: str) -> str:
    """``US8.5`` with its blank."""
    return re.sub(r"(?<=[A-Za-z])(?=\d)", " ", text)


def _is_sizes(text: str) -> bool:
    try:
        return bool(sizes.parse_row(_spaced(text))) and bool(re.search(r"[A-Za-z]{2}", text))
    except AssayError:
        return False


def is_on_level(one: PrintLine, other: PrintLine) -> bool:
    """Whether two lines stand beside each other."""
    tall = other.corners[3][1] - other.corners[0][1]
    return abs(one.corners[0][1] - other.corners[0][1]) < 0.6 * max(tall, 1.0)


def _numbers(lines: Sequence[PrintLine], known: Known) -> Iterable[PrintField]:
    for line in lines:
        digits = re.sub(r"\s", "", line.text)
        if re.fullmatch(r"\d{12,14}", digits):
            is_one, should = gtin.check_digit(gtin.gtin14(digits))
            # A wrong check digit is a finding; it is for a person to read.
            if is_one == should:
                yield from _offered("box.barcode", digits, [line], known)


def _colours(lines: Sequence[PrintLine], known: Known) -> Iterable[PrintField]:
    if known.colour_wording:
        alike = [(SequenceMatcher(None, one.text.upper(), known.colour_wording.upper()).ratio(), one) for one in lines]
        for likeness, line in sorted(alike, key=lambda one: one[0], reverse=True)[:1]:
            if likeness >= LIKE:
                yield from _offered("box.colour", squeezed(line.text), [line], known)


def _windows(lines: Sequence[PrintLine], known: Known) -> Iterable[PrintField]:
    for line in lines:
        text = WINDOW_WORDS.sub("", line.text.strip())
        try:
            dates.window(text, known.date_order or "DMY")
        except AssayError:
            continue
        yield from _offered("tag.made", text, [line], known)


def _serials(lines: Sequence[PrintLine], thing: str, known: Known) -> Iterable[PrintField]:
    """Factory and serial on one line."""
    forms = [re.escape(code) for code in known.factory_codes]
    serial = "tag.serial_left" if thing == TAG_LEFT else "tag.serial_right"
    for line in lines:
        for form in forms:
            match = re.fullmatch(rf"({form})\s*([A-Z]?\d{{4,12}})", line.text.strip().upper())
            if match:
                yield from _offered("tag.factory", match[1], [line], known)
                yield from _offered(serial, match[2], [line], known)

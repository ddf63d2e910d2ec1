"""The checks of printed and packed things that exist, by name.

A check is a function ``(said, known) -> Found``: ``said`` is what stands at the check's places, already cleaned. A
check is added by writing one function and one line in ``PAPERS``.
"""

import json
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from assay.errors import AssayError
from assay.paperwork import accessories, dates, gtin, inlay, sizes, style_code
from assay.paperwork.accessories import State
from assay.paperwork.fields import SIDES, TEXTS, box_sides
from assay.paperwork.found import Found, Known, Line, Outcome, Slip
from assay.paperwork.inlay import ABSENT
from assay.paperwork.words import words_at

Said = Mapping[str, str]
SEPARATORS = re.compile(r"[\s/,;·–-]+")
# How often a retail pair's print is like this. Common practice, no source: codes do not vary; dates and factories do.
RATES = {Outcome.UNUSUAL: 0.02, Outcome.OFF: 1e-4}


@dataclass(frozen=True, slots=True)
class PaperCheck:
    """How a check is called and what it wants read."""

    name: str
    fields: tuple[str, ...]
    """Places that must be read."""
    check: Callable[[Said, Known], Found]
    also: tuple[str, ...] = ()
    """Places that are used where they are read."""
    rates: Mapping[Outcome, float] = field(default_factory=lambda: RATES)
    parts: tuple[str, ...] = ()
    """Numbers a checkpoint may judge instead."""


def code_on(place: str) -> Callable[[Said, Known], Found]:
    """The style code at one place against the release, and against the other place where that is read."""

    def check(said: Said, known: Known) -> Found:
        found = said[place]
        slips = [_code_slip(found, known.style_code, "code_differs", "the release")]
        other = next((key for key in CODES if key != place and key in said), None)
        if other:
            slips.append(_code_slip(found, said[other], "codes_disagree", other))
        return Found(found, tuple(slip for slip in slips if slip))

    return check


def _code_slip(found: str, expected: str, reason: str, other: str) -> Slip | None:
    compared = style_code.compare(expected, found)
    if compared.same:
        return None
    first = compared.differences[0]
    alike = all(difference.lookalike for difference in compared.differences)
    return Slip(
        f"{reason}_alike" if alike else reason,
        {
            "found": found,
            "wanted": expected,
            "other": other,
            "place": first.position,
            "is": first.found,
            "should": first.expected,
        },
    )


def barcode(said: Said, known: Known) -> Found:
    """Printed digits, decoded digits and the release's own number for this size, as GTIN-14."""
    printed = gtin.gtin14(said["box.barcode"])
    is_one, should = gtin.check_digit(printed)
    slips = []
    if is_one != should:
        slips.append(Slip("check_digit_wrong", {"is": is_one, "should": should}))
    scanned = said.get("box.scanned", "").split()
    if len(scanned) == 1 and gtin.gtin14(scanned[0]) != printed:
        slips.append(Slip("print_and_bars_differ", {"printed": said["box.barcode"], "bars": scanned[0]}))
    slips += _owner_slips(printed, known)
    size = _size_words(known)
    lines = [Line("digits under the bars", known.barcodes.get(size, "").lstrip("0") or "–", said["box.barcode"])]
    if scanned:
        lines.append(Line("what the bars say", "", ", ".join(scanned), is_wrong=len(scanned) == 1 and len(slips) > 0))
    known_here = size in known.barcodes or bool(slips)
    return Found(said["box.barcode"], tuple(slips), tuple(lines), contradictable=known_here)


def _owner_slips(number: str, known: Known) -> list[Slip]:
    """Whose number it is, where the library knows."""
    size = _size_words(known)
    own = next((of for of, code in known.barcodes.items() if code == number), None)
    if own is not None and size and own != size:
        return [Slip("barcode_other_size", {"of": own, "size": size})]
    if number in known.barcodes_elsewhere:
        return [Slip("barcode_other_release", {"release": known.barcodes_elsewhere[number]})]
    if own is None and size in known.barcodes:
        return [Slip("barcode_differs", {"wanted": known.barcodes[size].lstrip("0"), "size": size})]
    return []


def size_row(place: str, *, whole: bool) -> Callable[[Said, Known], Found]:
    """A size row against its own maker's chart, cell by cell; ``whole``: also against the layout of box labels in its
    region. A tag may carry fewer systems."""

    def check(said: Said, known: Known) -> Found:
        row = sizes.parse_row(said[place])
        if not known.charts:
            return Found(said[place], contradictable=False)
        try:
            cells, group = _best_cells(row, known, known.layout if whole else ())
        except sizes.BadSize:
            return Found(said[place], (Slip("row_in_no_chart"),))
        slips = [
            Slip("cell_off", {"system": cell.system.value, "is": _shown(cell.found), "should": _shown(cell.expected)})
            for cell in cells
            if cell.is_wrong
        ]
        if group != known.charts[0].group:
            slips.append(Slip("other_group", {"group": group.value, "usual": known.charts[0].group.value}))
        us = row.get(sizes.System.US)
        if known.size_us is not None and us is not None and us != known.size_us and not slips:
            numbers = {"is": sizes.written(us), "should": sizes.written(known.size_us)}
            slips.append(Slip("size_not_the_pair_s", numbers, Outcome.UNUSUAL))
        lines = [Line(c.system.value, _shown(c.expected), _shown(c.found), c.is_wrong) for c in cells]
        return Found(said[place], tuple(slips), tuple(lines))

    return check


def _best_cells(row: sizes.Row, known: Known, layout: tuple[sizes.System, ...]) -> tuple[list[sizes.Cell], sizes.Group]:
    """The chart, men's, women's or children's, that fits best. Raises BadSize ``size_never_made``."""
    tried: list[tuple[int, int, list[sizes.Cell], sizes.Group]] = []
    failed = None
    for chart in known.charts:
        try:
            cells = sizes.against_chart(row, chart, layout)
        except sizes.BadSize as error:
            failed = error
            continue
        tried.append((sum(cell.is_wrong for cell in cells), len(tried), cells, chart.group))
    if not tried and failed:
        raise failed
    _, _, cells, group = min(tried)
    return cells, group


def production(said: Said, known: Known) -> Found:
    """The tag's production window against when the pair was bought and when the release came out."""
    made = dates.window(said["tag.made"], known.date_order or "DMY")
    slips = []
    if known.bought_on and made.start > known.bought_on:
        slips.append(Slip("made_after_bought", {"start": f"{made.start:%b %Y}", "bought": f"{known.bought_on:%b %Y}"}))
    if known.released_on:
        months = round((known.released_on - made.end).days / 30.4)
        if not MADE_MONTHS_BEFORE[0] <= months <= MADE_MONTHS_BEFORE[1]:
            numbers = {"months": abs(months), "side": "before" if months > 0 else "after"}
            slips.append(Slip("made_far_from_release", numbers, Outcome.UNUSUAL))
    dated = bool(known.bought_on or known.released_on)
    return Found(f"{made.start:%b %Y} to {made.end:%b %Y}", tuple(slips), contradictable=dated)


# Months from the end of making to the release: restocks come later. Common practice, no source; weak by default.
MADE_MONTHS_BEFORE = (-14, 14)


def serials(said: Said, known: Known) -> Found:
    """Serials of the two tags: different where the release has them different."""
    left, right = said["tag.serial_left"], said["tag.serial_right"]
    lines = (Line("left", "", left), Line("right", "", right))
    if known.serials_differ is None:
        return Found(f"{left} / {right}", lines=lines, contradictable=False)
    slips = []
    if known.serials_differ and left == right:
        slips.append(Slip("serials_equal", {"serial": left}))
    if not known.serials_differ and left != right:
        slips.append(Slip("serials_unequal", {"left": left, "right": right}))
    return Found(f"{left} / {right}", tuple(slips), lines)


def factory(said: Said, known: Known) -> Found:
    """The factory code against those the release is known from."""
    code = said["tag.factory"]
    slips: tuple[Slip, ...] = ()
    if known.factory_codes and code not in known.factory_codes:
        slips = (Slip("factory_unknown", {"known": ", ".join(known.factory_codes)}, Outcome.UNUSUAL),)
    lines = (Line("factory", ", ".join(known.factory_codes), code, bool(slips)),)
    return Found(code, slips, lines, contradictable=bool(known.factory_codes))


def colour_wording(said: Said, known: Known) -> Found:
    """The colour as the label words it: short and odd, and always the same."""
    words = said["box.colour"]
    # A slash, a dash or a space between the words is easily typed for another.
    same = SEPARATORS.sub(" ", words).strip() == SEPARATORS.sub(" ", known.colour_wording).strip()
    slips = () if same or not known.colour_wording else (Slip("wording_differs", {"wanted": known.colour_wording}),)
    lines = (Line("colour", known.colour_wording, words, bool(slips)),)
    return Found(words, slips, lines, contradictable=bool(known.colour_wording))


def radio_inlay(said: Said, known: Known) -> Found:
    """What the inlay behind the label says. That there is one says nothing."""
    epc = said["box.inlay"]
    if epc == ABSENT:
        missing = (Slip("inlay_missing", outcome=Outcome.UNUSUAL),) if known.inlay_expected else ()
        return Found("no inlay answers", missing, contradictable=known.inlay_expected is not None)
    slips = []
    if known.inlay_expected is False:
        slips.append(Slip("inlay_too_early"))
    read = None if inlay.is_blank(epc) else inlay.decoded(epc)
    if inlay.is_blank(epc):
        slips.append(Slip("inlay_blank"))
    elif read is None:
        slips.append(Slip("inlay_coding"))
    else:
        slips += _owner_slips(read.gtin14, known)
    if epc in known.inlays_seen and not inlay.is_blank(epc):
        slips.append(Slip("inlay_seen", {"pair": known.inlays_seen[epc]}))
    size = _size_words(known)
    lines = (
        [Line("trade number", known.barcodes.get(size, "").lstrip("0") or "–", read.gtin14.lstrip("0"))] if read else []
    )
    lines += [Line("serial", "", str(read.serial))] if read else []
    return Found(epc, tuple(slips), tuple(lines), contradictable=bool(slips) or size in known.barcodes)


def stamp(said: Said, known: Known) -> Found:
    """The ink stamp inside the lid: whether there is one, and whether it has the release's form."""
    read = said["box.stamp"]
    if not known.stamp_mask:
        return Found(read, contradictable=False)
    if ABSENT in (read, known.stamp_mask):
        slips = () if read == known.stamp_mask else (Slip(STAMP_SLIPS[read == ABSENT], outcome=Outcome.UNUSUAL),)
        return Found(read.lower() if read == ABSENT else read, slips)
    try:
        style_code.normalise(read, known.stamp_mask)
    except AssayError:
        return Found(read, (Slip("stamp_form", {"mask": known.stamp_mask}),))
    return Found(read)


def box_size(said: Said, _known: Known) -> Found:
    """The box's outer sides, mm, with their uncertainties."""
    measured = box_sides(said["box.outer"])
    parts = {}
    for name, (value, uncertainty) in zip(SIDES, measured, strict=True):
        parts[f"{name}_mm"], parts[f"{name}_mm_uncertainty"] = value, uncertainty
    return Found(" × ".join(f"{value:.1f}" for value, _ in measured) + " mm", parts=parts)


def packing(said: Said, known: Known) -> Found:
    """Sheets, cards and extras against the release's list."""
    compared = accessories.compare(known.packing, json.loads(said["packing"]), second_hand=known.second_hand)
    slips, lines = [], []
    for one in compared:
        if one.state in (State.MISSING, State.UNEXPECTED, State.WRONG):
            differing = ", ".join(f"{name} {value}" for name, value in one.differing.items())
            numbers: dict[str, str | int | float] = {
                "item": one.item.name,
                "count": one.count or 0,
                "wanted": one.item.count,
                "how": differing,
            }
            slips.append(Slip(f"item_{one.state.value}", numbers, rate=one.rate))
        lines.append(Line(one.item.name, _listed(one.item), f"{one.state.value}", is_wrong=one.rate < 1))
    looked = [one for one in compared if one.state is not State.NOT_LOOKED]
    unlike = sum(one.rate < 1 for one in looked)
    words = f"{len(looked)} of {len(compared)} looked at, {unlike} not as listed"
    gone = [one.item.name for one in compared if one.state is State.VOID]
    words += f"; missing, as usual once opened: {', '.join(gone)}" if gone else ""
    return Found(words, tuple(slips), tuple(lines), contradictable=bool(looked))


def _listed(item: accessories.Item) -> str:
    if item.count == 0:
        return "must not be there"
    like = ", ".join(item.attributes.values())
    return f"{item.count} ×, {like}" if like else f"{item.count} ×"


def _size_words(known: Known) -> str:
    return "" if known.size_us is None else sizes.written(known.size_us)


def _shown(size: Fraction | None) -> str:
    return "–" if size is None else sizes.written(size)


STAMP_SLIPS = {True: "stamp_missing", False: "stamp_surplus"}
CODES = ("box.style_code", "tag.style_code")
WEAK = {Outcome.UNUSUAL: 0.06, Outcome.OFF: 1e-4}
PAPERS = {
    entry.name: entry
    for entry in (
        PaperCheck("code_on_box", ("box.style_code",), code_on("box.style_code"), ("tag.style_code",)),
        PaperCheck("code_on_tag", ("tag.style_code",), code_on("tag.style_code"), ("box.style_code",)),
        PaperCheck("colour_wording", ("box.colour",), colour_wording),
        PaperCheck("barcode", ("box.barcode",), barcode, ("box.scanned",)),
        PaperCheck("sizes_on_box", ("box.sizes",), size_row("box.sizes", whole=True)),
        PaperCheck("sizes_on_tag", ("tag.sizes",), size_row("tag.sizes", whole=False)),
        PaperCheck("production", ("tag.made",), production, rates=WEAK),
        PaperCheck("serials", ("tag.serial_left", "tag.serial_right"), serials),
        PaperCheck("factory", ("tag.factory",), factory, rates=WEAK),
        PaperCheck("stamp", ("box.stamp",), stamp, rates={Outcome.UNUSUAL: 0.02, Outcome.OFF: 0.002}),
        PaperCheck("box_size", ("box.outer",), box_size, parts=tuple(f"{side}_mm" for side in SIDES)),
        PaperCheck("radio_inlay", ("box.inlay",), radio_inlay),
        PaperCheck("packing", ("packing",), packing),
        *(PaperCheck(f"words_on_{place.removesuffix('.words')}", (place,), words_at(place)) for place in TEXTS),
    )
}

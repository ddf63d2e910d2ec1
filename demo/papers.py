"""What the demo's library knows of boxes, labels, tags and packing, as plain data."""

from collections.abc import Callable
from datetime import date
from fractions import Fraction

from stdnum import ean

from assay.paperwork.sizes import Chart, Group, System, chart_to_csv

SIZES = [Fraction(twice, 2) for twice in range(12, 27)]


def gtin13(model: str, size: str) -> str:
    """A number of the range kept for use inside a house: invented, and nobody's."""
    body = f"2{model}{round(float(size) * 10):03d}".ljust(12, "0")
    return body + ean.calc_check_digit(body)


def _barcodes(model: str) -> dict[str, str]:
    return {f"{float(size):g}": gtin13(model, str(float(size))).zfill(14) for size in SIZES}


def _chart(group: Group, uk: Callable, eu: Callable, cm: Callable) -> str:
    rows = tuple({System.US: us, System.UK: uk(us), System.EU: eu(us), System.CM: cm(us)} for us in SIZES)
    return chart_to_csv(Chart(group, (System.US, System.UK, System.EU, System.CM), rows))


HALF = Fraction(1, 2)
CHARTS = {
    "Veltrane": [
        ("men", _chart(Group.MEN, lambda us: us - 1, lambda us: us + 33 + HALF, lambda us: us + 18)),
        ("women", _chart(Group.WOMEN, lambda us: us - 2 - HALF, lambda us: us + 32, lambda us: us + 16 + HALF)),
    ],
    "Oskpell": [
        ("men", _chart(Group.MEN, lambda us: us - HALF, lambda us: Fraction(4, 3) * us + 30 + Fraction(2, 3),
                       lambda us: us + 18)),
    ],
}  # fmt: skip
MAKERS = {
    "Veltrane": {
        "date_order": "MDY",
        "label_layouts": {"eu": ["US", "UK", "EU", "CM"], "us": ["US", "UK", "CM"], "asia": ["CM", "US", "EU"]},
        "box_classes": [[6, 8.5, "S"], [9, 11, "M"], [11.5, 13, "L"]],
        "inlay_from_year": 2023,
    },
    "Oskpell": {
        "date_order": "DMY",
        "label_layouts": {"eu": ["EU", "UK", "US", "CM"], "us": ["US", "EU", "CM"], "asia": ["CM", "EU"]},
        "box_classes": [[6, 9.5, "1"], [10, 13, "2"]],
        "inlay_from_year": 2026,
    },
}

_LOOKS = {
    "colour": ["fog grey", "white", "brown"],
    "weight": ["see-through", "opaque"],
    "sheet": ["one piece", "two halves"],
    "lies": ["folded over the shoes", "flat under them"],
}
PACKING = [
    {
        "key": "tissue",
        "name": "Tissue sheet",
        "token": "sheet",
        "attributes": {
            "colour": "fog grey",
            "weight": "see-through",
            "sheet": "one piece",
            "lies": "folded over the shoes",
        },
        "choices": _LOOKS,
    },
    {
        "key": "stuffing",
        "name": "Paper stuffing",
        "token": "stuffing",
        "count": 2,
        "attributes": {"feel": "soft", "size": "fills the toe"},
        "choices": {"feel": ["soft", "stiff"], "size": ["fills the toe", "small", "up to the heel"]},
    },
    {
        "key": "laces",
        "name": "Spare laces, sets",
        "token": "lace",
        "count": 2,
        "attributes": {"colour": "chalk", "wound": "figure of eight", "tied to": "right shoe, outer"},
        "choices": {
            "colour": ["chalk", "white", "black"],
            "wound": ["figure of eight", "ring"],
            "tied to": ["right shoe, outer", "right shoe, inner", "left shoe", "neither"],
        },
    },
    {
        "key": "lace-bag",
        "name": "Bag of the laces",
        "token": "bag",
        "attributes": {"line": "blue", "hole": "left", "mark": "none"},
        "choices": {"line": ["blue", "none", "black"], "hole": ["left", "middle"], "mark": ["none", "pennant"]},
    },
    {
        "key": "hang-tag",
        "name": "Hang tag, right shoe",
        "token": "tag",
        "attributes": {"cord": "paper"},
        "choices": {"cord": ["paper", "plastic"]},
    },
    {"key": "film", "name": "Film on the pennants", "token": "film", "count": 2},
    {
        "key": "lacing",
        "name": "Laced at the factory",
        "token": "lacing",
        "attributes": {"pattern": "crossed", "up to": "hole 5"},
        "choices": {"pattern": ["crossed", "straight"], "up to": ["hole 5", "the top", "hole 3"]},
    },
    {
        "key": "dry-sticker",
        "name": "Dry sticker in the lid",
        "token": "sticker",
        "attributes": {"place": "lid"},
        "choices": {"place": ["lid", "base"]},
        "goes_missing": False,
    },
    {"key": "card", "name": "Certificate card", "token": "card", "count": 0},
    {"key": "covers", "name": "Cloth shoe covers", "token": "cover", "count": 0},
    {"key": "marketplace-tag", "name": "Plastic tie tag", "token": "tag", "count": 0, "retail_rate": 0.3},
]
RUNNER_PACKING = [
    {**PACKING[0], "attributes": {"colour": "white", "weight": "opaque", "lies": "flat under them"}},
    PACKING[1],
    {**PACKING[4], "name": "Hang tag, left shoe"},
    {"key": "card", "name": "Care card", "token": "card"},
    {"key": "spare", "name": "Spare laces", "token": "lace", "count": 0},
]
RELEASES = {
    "VQ-44127-B": {
        "released_on": date(2024, 5, 18),
        "colour_wording": "BRACKISH/BUOY-CHALK",
        "barcodes": _barcodes("004412"),
        "stamp_mask": "A9 9999",
        "factory_codes": ["QL-7", "QL-9"],
        "serials_differ": True,
        "packing": PACKING,
    },
    "VQ-44127-L": {
        "released_on": date(2024, 9, 7),
        "colour_wording": "LAMP OIL/WICK-SAIL",
        "barcodes": _barcodes("004413"),
        "stamp_mask": "A9 9999",
        "factory_codes": ["QL-7"],
        "serials_differ": True,
        "packing": PACKING,
    },
    "VQ-20731-S": {
        "released_on": date(2021, 3, 12),
        "colour_wording": "SLATE HERON/REED",
        "barcodes": _barcodes("002073"),
        "stamp_mask": "A9 9999",
        "factory_codes": ["QK-2"],
        "serials_differ": False,
        "packing": PACKING[:2] + PACKING[4:5] + PACKING[8:],
    },
    "305518-402": {
        "released_on": date(2025, 2, 1),
        "colour_wording": "FERRY RUST",
        "barcodes": _barcodes("305518"),
        "stamp_mask": "NONE",
        "factory_codes": ["DR-1", "DR-4"],
        "serials_differ": True,
        "packing": RUNNER_PACKING,
    },
}

OWN_BOX = [{"fact": "arrival", "is": ["own_box"]}]
RIGHT_BOX = [*OWN_BOX, {"fact": "box_size_us", "same_as": "size_us"}]
UNWORN = {"fact": "condition", "is": ["deadstock", "tried_on"]}
IN_HAND = {"fact": "in_hand", "is": [True]}
LABEL = {"section": "Box label", "view": "box_label", "applies_when": OWN_BOX, "of_shoe": False}
PRINT = {**LABEL, "group": "label", "kind": "continuous", "unit": "mm", "minutes": 0.2}
TYPED = {"kind": "paper", "unit": "text", "minutes": 0.2}
TAG = {"section": "Size tag", "view": "size_tag", "foot": "left", "of_shoe": False, **TYPED}
TAG_PRINT = {**TAG, "group": "tag", "kind": "continuous", "unit": "mm"}
LOOK_ONLY = "Look at it where it sits. Do not peel it: that damages the pair and the evidence."


def _box_side(side: str, position: int) -> dict:
    return {
        "key": f"box-{side}",
        "name": f"Box {side}",
        "instruction": "Caliper or tape over the closed box, lid on: length, width and height in one go.",
        "section": "Box",
        "position": position,
        "group": "box",
        "kind": "continuous",
        "paper": "box_size",
        "quantity": f"{side}_mm",
        "unit": "mm",
        "of_shoe": False,
        "minutes": 0.2,
        "applies_when": RIGHT_BOX,
        "size_rule": {"rule": "box_class"},
        "prior": {"pairs": 4, "scatter": 1.2},
    }


CHECKPOINTS = [
    _box_side("length", 2),
    _box_side("width", 3),
    _box_side("height", 4),
    {
        "key": "lid-gloss",
        "name": "Gloss of the lid",
        "instruction": "Tilt the lid under the lamp. How does it shine?",
        "section": "Box",
        "position": 5,
        "group": "box",
        "kind": "answer",
        "unit": "answer",
        "of_shoe": False,
        "minutes": 0.1,
        "applies_when": [*OWN_BOX, IN_HAND],
        "prior": {"pairs": 2, "rare": {"glossy": 0.01}},
        "answers": [["matt", "Matt all over", "matt"], ["glossy", "Glossy streaks run over it", "gloss"]],
    },
    {
        **TYPED,
        "key": "lid-stamp", "name": "Stamp in the lid", "paper": "stamp", "section": "Box", "view": "box_lid",
        "position": 6, "group": "box", "of_shoe": False, "applies_when": OWN_BOX,
        "instruction": "Read the ink stamp inside the lid, lower right. Where there is none, write NONE.",
    },
    {
        **LABEL, **TYPED,
        "key": "label-code", "name": "Style code, label", "paper": "code_on_box", "position": 10, "group": "codes",
        "instruction": "Type the style code as the label has it.", "decisive": True,
    },
    {
        **LABEL, **TYPED,
        "key": "label-colour", "name": "Colour wording", "paper": "colour_wording", "position": 11, "group": "codes",
        "instruction": "Type the colour as the label words it. Retail wording is short and odd.",
    },
    {
        **LABEL, **TYPED,
        "key": "label-sizes", "name": "Size row, label", "paper": "sizes_on_box", "position": 12, "group": "sizes",
        "instruction": "Type the row: it is checked cell by cell against the maker’s own chart.",
    },
    {
        **LABEL, **TYPED,
        "key": "barcode", "name": "Barcode", "paper": "barcode", "position": 13, "group": "codes",
        "instruction": "Type the figures printed under the bars. The bars themselves are read off the photograph.",
    },
    {
        **PRINT,
        "key": "label-stroke", "name": "Weight of print", "measure": "lettering", "quantity": "stroke_mm",
        "position": 14, "prior": {"pairs": 4, "scatter": 0.035},
        "instruction": "How thick the strokes of the style code are.",
    },
    {
        **PRINT,
        "key": "label-pitch", "name": "Letter spacing", "measure": "lettering", "quantity": "pitch_mm",
        "position": 15, "prior": {"pairs": 4, "scatter": 0.04},
        "instruction": "From letter to letter in the style code.",
    },
    {
        **PRINT,
        "key": "label-letters", "name": "Letter height", "measure": "lettering", "quantity": "height_mm",
        "position": 16, "prior": {"pairs": 4, "scatter": 0.05},
        "instruction": "How high the style code’s letters stand.",
    },
    {
        **PRINT,
        "key": "label-width", "name": "Label width", "measure": "edge_distance", "quantity": "span_mm",
        "position": 17, "prior": {"pairs": 4, "scatter": 0.3},
        "instruction": "From the left edge to the perforation, or to the right edge where there is no tab.",
    },
    {
        **PRINT,
        "key": "label-place", "name": "Place of the label", "measure": "edge_distance", "quantity": "span_mm",
        "position": 18, "prior": {"pairs": 4, "scatter": 0.8},
        "instruction": "From the box’s left edge to the label’s.",
    },
    {
        **LABEL,
        "key": "label-tab", "name": "Price tab", "position": 19, "group": "label", "kind": "answer", "unit": "answer",
        "minutes": 0.1, "applies_when": [*OWN_BOX, {"fact": "region", "is": ["us"]}],
        "instruction": "Right of the perforation: does the tab hang free of the box?",
        "prior": {"pairs": 2, "rare": {"stuck": 0.01, "none": 0.002}},
        "answers": [["free", "Hangs free", "tab-free"], ["stuck", "Stuck down", "tab-stuck"],
                    ["none", "There is no tab", "tab-none"]],
        "caution": "Lift it with a fingertip only. A torn tab is evidence gone.",
    },
    {
        **LABEL,
        "key": "label-border", "name": "Border on the label", "position": 20, "group": "label", "kind": "answer",
        "unit": "answer", "minutes": 0.1,
        "instruction": "Is a frame printed round the label’s rim?",
        "prior": {"pairs": 2, "rare": {"border": 0.002}},
        "answers": [["none", "No frame", "no-border"], ["border", "A printed frame", "border"]],
    },
    {
        **LABEL,
        "key": "inlay-look", "name": "Shape behind the label", "position": 22, "group": "inlay", "kind": "answer",
        "unit": "answer", "minutes": 0.1,
        "instruction": "Light from the side: does a faint shape show behind the label, below right of the code?",
        "prior": {"pairs": 2, "rare": {"other": 0.004}},
        "answers": [["coil", "A faint upright block, as on retail", "block"], ["none", "Nothing shows", "no-border"],
                    ["other", "Another shape", "smeared"]],
        "caution": LOOK_ONLY,
    },
    {
        **TYPED,
        "key": "inlay", "name": "Radio inlay", "section": "Box label", "paper": "radio_inlay", "position": 21,
        "group": "inlay", "of_shoe": False, "decisive": True,
        "applies_when": [*OWN_BOX, IN_HAND, {"fact": "tools", "has": "tag_reader"}],
        "instruction": "Hold the reader to the label. That something answers says nothing: what it says does.",
    },
    {
        **TYPED,
        "key": "packing", "name": "Sheets, cards, extras", "section": "Packing", "paper": "packing", "position": 30,
        "group": "packing", "of_shoe": False, "minutes": 0.5, "applies_when": [*OWN_BOX, IN_HAND],
        "instruction": "Lay everything out. What is there, and what is it like?",
    },
    {
        "key": "tissue-sheen", "name": "Sheen of the tissue", "section": "Packing", "position": 31, "group": "packing",
        "kind": "answer", "unit": "answer", "of_shoe": False, "minutes": 0.1, "applies_when": [*OWN_BOX, IN_HAND],
        "instruction": "Hold the tissue to the lamp. How does it shine?",
        "prior": {"pairs": 2, "rare": {"glossy": 0.01}},
        "answers": [["matt", "Matt", "matt"], ["glossy", "Glossy", "gloss"]],
    },
    {
        "key": "tissue-print", "name": "Print on the tissue", "section": "Packing", "position": 32, "group": "packing",
        "kind": "answer", "unit": "answer", "of_shoe": False, "minutes": 0.1, "applies_when": [*OWN_BOX, IN_HAND],
        "instruction": "How do the printed pennants on the tissue look?",
        "prior": {"pairs": 2, "rare": {"smeared": 0.01, "none": 0.002}},
        "answers": [["crisp", "Crisp to the rim", "crisp"], ["smeared", "Smeared or soft", "smeared"],
                    ["none", "No print", "matt"]],
    },
    {
        "key": "tag-sheen", "name": "Sheen of the tag", "section": "Size tag", "position": 45, "group": "tag",
        "kind": "answer", "unit": "answer", "of_shoe": False, "minutes": 0.1, "applies_when": [IN_HAND],
        "instruction": "Tilt the shoe: how does the size tag shine?",
        "prior": {"pairs": 2, "rare": {"glossy": 0.01}},
        "answers": [["matt", "Matt cloth", "matt"], ["glossy", "Glossy film", "gloss"]],
        "caution": LOOK_ONLY,
    },
    {
        **TAG,
        "key": "style-code", "name": "Style code, tag", "paper": "code_on_tag", "position": 40, "group": "codes",
        "instruction": "Read the code off the size tag inside the left shoe and type it.", "decisive": True,
        "mandatory": True, "minutes": 0.3, "caution": LOOK_ONLY,
    },
    {
        **TAG,
        "key": "tag-sizes", "name": "Size row, tag", "paper": "sizes_on_tag", "position": 41, "group": "sizes",
        "instruction": "Type the tag’s size row.", "caution": LOOK_ONLY,
    },
    {
        **TAG,
        "key": "tag-made", "name": "Made between", "paper": "production", "position": 42, "group": "tag",
        "instruction": "Type both dates of the tag, in the order in which they stand.", "caution": LOOK_ONLY,
    },
    {
        **TAG,
        "key": "tag-serials", "name": "Serials, left and right", "paper": "serials", "position": 43, "group": "tag",
        "instruction": "Type the serial of both tags; the right one is shown.", "caution": LOOK_ONLY, "foot": "right",
        "applies_when": [{"fact": "feet", "is": ["both"]}],
    },
    {
        **TAG,
        "key": "tag-factory", "name": "Factory code", "paper": "factory", "position": 44, "group": "tag",
        "instruction": "Type the factory code of the tag.", "caution": LOOK_ONLY,
    },
    {
        **TAG_PRINT,
        "key": "tag-stroke", "name": "Weight of the tag’s print", "measure": "lettering", "quantity": "stroke_mm",
        "position": 46, "prior": {"pairs": 4, "scatter": 0.03},
        "instruction": "How thick the strokes of the tag’s style code are.",
    },
    {
        **TAG_PRINT,
        "key": "tag-pitch", "name": "Letter spacing on the tag", "measure": "lettering", "quantity": "pitch_mm",
        "position": 47, "prior": {"pairs": 4, "scatter": 0.04},
        "instruction": "From letter to letter in the tag’s style code.",
    },
    {
        **TAG_PRINT,
        "key": "tag-high", "name": "Place of the tag", "measure": "edge_distance", "quantity": "span_mm",
        "position": 48, "prior": {"pairs": 4, "scatter": 0.5},
        "instruction": "From the collar’s edge to the tag’s upper edge.", "caution": LOOK_ONLY,
    },
]  # fmt: skip

"""What the demo knows of boxes, labels, tags and packing, as plain data."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from fractions import Fraction

from stdnum import ean

from assay.paperwork.inlay import encoded
from assay.paperwork.sizes import Chart, Group, System, chart_to_csv
from assay.simulator.box import STAIR, Box, Label
from assay.simulator.labels import Tag
from assay.simulator.printing import Type

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

_LOOKS = {"colour": ["fog grey", "white", "brown"], "sheen": ["matt", "glossy"], "print": ["crisp", "smeared", "none"]}
PACKING = [
    {
        "key": "tissue",
        "name": "Tissue sheet",
        "token": "sheet",
        "attributes": {"colour": "fog grey", "sheen": "matt", "print": "crisp"},
        "choices": _LOOKS,
    },
    {
        "key": "stuffing",
        "name": "Paper stuffing",
        "token": "stuffing",
        "count": 2,
        "attributes": {"feel": "soft"},
        "choices": {"feel": ["soft", "stiff"]},
    },
    {
        "key": "laces",
        "name": "Spare laces, sets",
        "token": "lace",
        "attributes": {"colour": "chalk", "wound": "figure of eight"},
        "choices": {"colour": ["chalk", "white", "black"], "wound": ["figure of eight", "ring"]},
    },
    {
        "key": "lace-bag",
        "name": "Bag of the laces",
        "token": "bag",
        "attributes": {"line": "blue", "hole": "left"},
        "choices": {"line": ["blue", "none", "black"], "hole": ["left", "middle"]},
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
    {**PACKING[0], "attributes": {"colour": "white", "sheen": "matt", "print": "none"}},
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
        "factory_codes": ["QL-7", "QL-9"],
        "serials_differ": True,
        "packing": PACKING,
    },
    "VQ-44127-L": {
        "released_on": date(2024, 9, 7),
        "colour_wording": "LAMP OIL/WICK-SAIL",
        "barcodes": _barcodes("004413"),
        "factory_codes": ["QL-7"],
        "serials_differ": True,
        "packing": PACKING,
    },
    "VQ-20731-S": {
        "released_on": date(2021, 3, 12),
        "colour_wording": "SLATE HERON/REED",
        "barcodes": _barcodes("002073"),
        "factory_codes": ["QK-2"],
        "serials_differ": False,
        "packing": PACKING[:2] + PACKING[4:5] + PACKING[8:],
    },
    "305518-402": {
        "released_on": date(2025, 2, 1),
        "colour_wording": "FERRY RUST",
        "barcodes": _barcodes("305518"),
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
TAG = {"section": "Size tag", "of_shoe": False, **TYPED}
LOOK_ONLY = "Read it where it sits. Do not peel it: that damages the pair and the evidence."


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
        "key": "lid-stamp",
        "name": "Stamp in the lid",
        "instruction": "Is there an ink stamp inside the lid, lower right: a letter, a figure, four figures?",
        "section": "Box",
        "view": "box_lid",
        "position": 6,
        "group": "box",
        "kind": "answer",
        "unit": "answer",
        "of_shoe": False,
        "minutes": 0.1,
        "applies_when": OWN_BOX,
        "prior": {"pairs": 2, "rare": {"none": 0.02, "other": 0.002}},
        "answers": [
            ["stamp", "A stamp of that form", "stamp"],
            ["none", "No stamp", "no-stamp"],
            ["other", "Another form", "smeared"],
        ],
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
        "key": "label-width", "name": "Label width", "measure": "span", "quantity": "span_mm",
        "position": 17, "prior": {"pairs": 4, "scatter": 0.3},
        "instruction": "From the left edge to the perforation, or to the right edge where there is no tab.",
    },
    {
        **PRINT,
        "key": "label-place", "name": "Place of the label", "measure": "span", "quantity": "span_mm",
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
        "instruction": "Type the serial of both tags.", "caution": LOOK_ONLY,
        "applies_when": [{"fact": "feet", "is": ["both"]}],
    },
    {
        **TAG,
        "key": "tag-factory", "name": "Factory code", "paper": "factory", "position": 44, "group": "tag",
        "instruction": "Type the factory code of the tag.", "caution": LOOK_ONLY,
    },
]  # fmt: skip

# Marks on the label as a guide writer drew them, in mm from the label's top left corner.
_LINES = {
    "label-code": (3.5, 15.5, 67, 25.5),
    "label-colour": (3.5, 9.6, 70, 15.6),
    "label-sizes": (3.5, 25.8, 98, 32.6),
    "barcode": (6, 32.8, 57, 57.6),
    "label-stroke": (3.5, 15.5, 67, 25.5),
    "label-pitch": (3.5, 15.5, 67, 25.5),
    "label-letters": (3.5, 15.5, 67, 25.5),
    "label-tab": (70, 2, 118, 58),
    "label-border": (-3, -3, 107, 63),
}
LABEL_AT = (22 + 118, 62)
"""Where the label's corner lies on the box end's own canvas, mm."""


def label_marks() -> dict[str, list[tuple[float, float]]]:
    """Marks on the box end's canvas, mm."""
    x, y = LABEL_AT
    marks = {
        key: [(x + a, y + b), (x + c, y + b), (x + c, y + d), (x + a, y + d)] for key, (a, b, c, d) in _LINES.items()
    }
    level = y + 57.5
    return marks | {
        "label-width": [(x, level), (x + 104, level)],
        "label-place": [(22, y + 55), (x, y + 55)],
    }


LID_MARKS = {"lid-stamp": [(188, 122), (236, 122), (236, 138), (188, 138)]}

LABEL_LETTERS = Type(6.2)


def label(size: str = "9.5", region: str = "eu", **changes) -> Label:
    """A retail label of the court shoe for a size and region."""
    us = Fraction(size)
    cells = {"US": f"{float(us):g}", "UK": f"{float(us - 1):g}", "EU": f"{float(us + 33 + HALF):g}",
             "CM": f"{float(us + 18):g}"}  # fmt: skip
    row = " ".join(f"{system} {cells[system]}" for system in MAKERS["Veltrane"]["label_layouts"][region])
    tab = {"tab_mm": 11.0, "price": "$130"} if region == "us" else {}
    return replace(Label(sizes=row, gtin=gtin13("004412", size), letters=LABEL_LETTERS, **tab), **changes)


RUNNER_LABEL = Label(
    model="DRIFT 2", colour="FERRY RUST", style_code="305518-402", sizes="US 9.5 EU 43⅓ CM 27.5",
    gtin=gtin13("305518", "9.5"), letters=Type(5.8, 500), width_mm=98.0, tab_mm=9.0, price="$145",
)  # fmt: skip
HERON_LABEL = Label(
    colour="SLATE HERON/REED", style_code="VQ-20731-S", sizes="CM 27.5 US 9.5 EU 43", gtin=gtin13("002073", "9.5"),
    letters=Type(6.0, 500), width_mm=100.0,
)  # fmt: skip

BOXES = {
    "R1": Box(label(), seed=1),
    "R2": Box(label(region="us", letters=Type(6.22, 572)), seed=12, emblem_shift_mm=(0.6, -0.4)),
    "R3": Box(label(region="asia", letters=Type(6.17, 552), left_mm=118.7), seed=13, stamp="L2 1108"),
    "O1": Box(RUNNER_LABEL, board=(148, 92, 66), lid=(136, 84, 60), emblem=STAIR, seed=71, sheet=False),
    "H1": Box(HERON_LABEL, board=(106, 110, 118), lid=(106, 110, 118), seed=81, stamp="K1 0909"),
    "crude": Box(
        label("10", style_code="VQ-44172-B", letters=Type(6.5, 690, 0.25), width_mm=109.0, border_mm=1.3,
              sizes="US 10 UK 9 EU 44 CM 28"),
        board=(88, 108, 118), lid=(80, 100, 112), gloss=0.3, seed=31, stamp="",
    ),
    "sloppy": Box(label(letters=Type(6.24, 575), left_mm=117.2), seed=21, stamp="L4 0311", emblem_shift_mm=(1.4, 0.8)),
    "papers": Box(label("10.5", "us", letters=Type(6.19, 556)), seed=61, stamp="L2 0402"),
    "posh": Box(label("9", "us", letters=Type(6.2, 650), width_mm=104.9), seed=62, stamp="L4 0217"),
}  # fmt: skip
TAGS = {"R1": Tag(gtin=gtin13("004412", "9.5")), "spare": Tag(gtin=gtin13("004412", "9.5"), serial="204998", seed=4)}

RETAIL_BOX_MM = {"M": (351.0, 246.0, 128.0), "S": (328.0, 232.0, 121.0), "L": (374.0, 262.0, 134.0)}
BOX_SIDES = {"R1": "351.2 × 246.4 × 128.1", "R2": "350.6 × 245.7 × 128.6", "R3": "351.9 × 246.2 × 127.5"}

_GOOD_TICKS = {item["key"]: {"count": item.get("count", 1), **item.get("attributes", {})} for item in PACKING}
READ = {
    "crude": {
        "box.outer": "338 × 236 × 121",
        "box.style_code": "VQ-44172-B",
        "tag.style_code": "VQ-44172-B",
        "box.sizes": "US 10 UK 9 EU 44 CM 28",
        "box.barcode": gtin13("004412", "10"),
        "packing": {
            **_GOOD_TICKS,
            "card": {"count": 1},
            "hang-tag": {"count": 1, "cord": "plastic"},
            "stuffing": {"count": 2, "feel": "stiff"},
        },
    },
    "sloppy": {
        "box.outer": "351.5 × 245.2 × 127.2",
        "box.style_code": "VQ-44127-B",
        "box.sizes": "US 9.5 UK 8.5 EU 43 CM 27.5",
        "packing": {**_GOOD_TICKS, "lace-bag": {"count": 0}, "laces": {"count": 0}, "lacing": {"count": 0}},
    },
    "good": {"tag.style_code": "VQ-44127-B"},
    "papers": {"box.outer": "350.4 × 246.1 × 127.8", "box.style_code": "VQ-44127-B"},
    "posh": {
        "box.outer": "351 × 246.3 × 128.2",
        "box.style_code": "VQ-44127-B",
        "box.colour": "BRACKISH/BUOY-CHALK",
        "box.sizes": "US 9 UK 8 CM 27",
        "box.barcode": gtin13("004412", "9"),
        "packing": {**_GOOD_TICKS, "card": {"count": 1}},
    },
}
PAPER_CASES = [
    ("papers", {"size_us": "10.5", "region": "us", "condition": "deadstock", "source": "boxes of a closed shop"}),
    ("posh", {"size_us": "9", "region": "us", "condition": "deadstock", "source": "online, box shown first"}),
]
ON_TABLE = {"arrival": "own_box", "in_hand": True, "tools": ["caliper", "tag_reader", "card"]}


def _lengths(sides: tuple[float, float, float]) -> dict[str, float]:
    return dict(zip(("box.length", "box.width", "box.height"), sides, strict=True))


def _inlay(size: str, serial: int) -> list[str]:
    return [encoded(gtin13("004412", size).zfill(14), serial)]


# What lies on the table with a pair, for the simulated caliper and tag reader.
THINGS = {
    "crude": {"lengths_mm": _lengths((338.2, 235.8, 121.3)), "inlays": []},
    "sloppy": {"lengths_mm": _lengths((351.4, 245.3, 127.4)), "inlays": _inlay("9.5", 720311)},
    "papers": {"lengths_mm": _lengths((350.5, 246.0, 127.9)), "inlays": _inlay("10.5", 720402)},
    "posh": {"lengths_mm": _lengths((351.0, 246.2, 128.0)), "inlays": ["0" * 24]},
    "spare": {"lengths_mm": _lengths((350.8, 246.1, 128.3)), "inlays": _inlay("9.5", 720998)},
}

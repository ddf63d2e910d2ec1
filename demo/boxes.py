"""The boxes, labels and tags of the demo's pairs, what was read off them, and what lies on the table, as plain data."""

from dataclasses import replace
from fractions import Fraction

from assay.paperwork.inlay import encoded
from assay.simulator.box import STAIR, Box, Label
from assay.simulator.labels import Tag
from assay.simulator.printing import Type
from demo.papers import HALF, MAKERS, PACKING, gtin13

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
    "inlay-look": (50, 30, 106, 62),
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
    return replace(Label(sizes=row, gtin=gtin13("004412", size), letters=LABEL_LETTERS, inlay=True, **tab), **changes)


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
              sizes="US 10 UK 9 EU 44 CM 28", inlay=False),
        board=(88, 108, 118), lid=(80, 100, 112), gloss=0.3, seed=31, stamp="",
    ),
    "sloppy": Box(label(letters=Type(6.24, 575), left_mm=117.2), seed=21, stamp="L4 0311", emblem_shift_mm=(1.4, 0.8)),
    "papers": Box(label("10.5", "us", letters=Type(6.19, 556)), seed=61, stamp="L2 0402"),
    "posh": Box(label("9", "us", letters=Type(6.2, 650), width_mm=104.9), seed=62, stamp="L4 0217"),
}  # fmt: skip
_TAG = Tag(gtin=gtin13("004412", "9.5"))
_CRUDE_TAG = replace(
    _TAG, style_code="VQ-44172-B", sizes="US 10  EU 44", weight=740, letter_mm=3.05, down_mm=0.7, seed=31
)
# By pair, the left tag and the right one.
TAGS = {
    "R1": (_TAG, replace(_TAG, serial="204418", seed=2)),
    "R2": (replace(_TAG, serial="204731", weight=565, seed=12), replace(_TAG, serial="204732", seed=13)),
    "R3": (replace(_TAG, serial="208011", weight=552, seed=14), replace(_TAG, serial="208012", seed=15)),
    "crude": (_CRUDE_TAG, replace(_CRUDE_TAG, seed=32)),
    "sloppy": (
        replace(_TAG, serial="205120", weight=570, seed=21), replace(_TAG, serial="205121", down_mm=0.4, seed=22)
    ),
    "good": (
        replace(_TAG, sizes="US 8.5  EU 42", serial="209340", seed=41),
        replace(_TAG, sizes="US 8.5  EU 42", serial="209340", seed=42),
    ),
    "spare": (replace(_TAG, serial="204998", seed=4),),
}  # fmt: skip
# Whose right tag is photographed as well.
BOTH_TAGS = ("R1", "crude", "sloppy")
TAG_MM_PER_PX = 0.045
_CODE_LINE = [(18.5, 21.5), (56, 21.5), (56, 28.5), (18.5, 28.5)]
# Marks on the tag's own photograph, mm.
TAG_MARKS = {
    "style-code": _CODE_LINE,
    "tag-sizes": [(18.5, 15), (66, 15), (66, 20.8), (18.5, 20.8)],
    "tag-made": [(18.5, 30.5), (58, 30.5), (58, 35.5), (18.5, 35.5)],
    "tag-factory": [(18.5, 36.5), (58, 36.5), (58, 42.5), (18.5, 42.5)],
    "tag-serials": [(18.5, 36.5), (58, 36.5), (58, 42.5), (18.5, 42.5)],
    "tag-stroke": _CODE_LINE,
    "tag-pitch": _CODE_LINE,
    "tag-high": [(42, 7.6), (42, 12.0)],
}

RETAIL_BOX_MM = {"M": (351.0, 246.0, 128.0), "S": (328.0, 232.0, 121.0), "L": (374.0, 262.0, 134.0)}
BOX_SIDES = {"R1": "351.2 × 246.4 × 128.1", "R2": "350.6 × 245.7 × 128.6", "R3": "351.9 × 246.2 × 127.5"}

_GOOD_TICKS = {item["key"]: {"count": item.get("count", 1), **item.get("attributes", {})} for item in PACKING}
READ = {
    "crude": {
        "box.outer": "338 × 236 × 121",
        "box.style_code": "VQ-44172-B",
        "box.stamp": "NONE",
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

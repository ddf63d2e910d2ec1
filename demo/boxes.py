"""The boxes, labels and tags of the demo's pairs, as they are drawn."""

from dataclasses import replace
from fractions import Fraction

from stdnum import ean

from assay.simulator.box import STAIR, Box, Label
from assay.simulator.labels import Tag
from assay.simulator.printing import Type
from demo.scenario import LIBRARY

LAYOUTS = next(one["label_layouts"] for one in LIBRARY["makers"] if one["name"] == "Veltrane")


def gtin13(model: str, size: str) -> str:
    """A number of the range kept for use inside a shop: invented, and nobody's."""
    body = f"2{model}{round(float(size) * 10):03d}".ljust(12, "0")
    return body + ean.calc_check_digit(body)


LABEL_LETTERS = Type(6.2)


def label(size: str = "9.5", region: str = "eu", **changes) -> Label:
    """A retail label of the court shoe for a size and region."""
    us = Fraction(size)
    cells = {"US": f"{float(us):g}", "UK": f"{float(us - 1):g}", "EU": f"{float(us + 33 + Fraction(1, 2)):g}",
             "CM": f"{float(us + 18):g}"}  # fmt: skip
    row = " ".join(f"{system} {cells[system]}" for system in LAYOUTS[region])
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

"""The bench card to print: one list of shapes from the core's layout, drawn as SVG and as PDF to true size."""

import io
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape

from reportlab.lib.colors import Color
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from assay.imaging import card

INK = (20, 20, 21)
WHITE = (255, 255, 255)
RULE_FROM = 40
RULE_MM = 130
WORDS = [
    (55.0, 100.5, 3.2, "This bar is 100 mm. Measure what your printer made of it and write it down under Kit."),
    (
        34.0,
        94.0,
        2.6,
        "Print at 100 %, not fitted to the page. Matt paper. Keep it flat, in the plane of what is measured.",
    ),
]


@dataclass(frozen=True, slots=True)
class Block:
    """A filled rectangle, mm from the card's top left corner."""

    x: float
    y: float
    width: float
    height: float
    colour: tuple[int, int, int]


def blocks() -> Iterator[Block]:
    """Everything on the card but its words."""
    cell = card.MARKER_MM / 6
    for number, (x, y) in card.MARKERS.items():
        yield Block(x, y, card.MARKER_MM, card.MARKER_MM, INK)
        for row, cells in enumerate(card.marker_cells(number)):
            for column, black in enumerate(cells):
                if not black:
                    yield Block(x + column * cell, y + row * cell, cell, cell, WHITE)
    for (x, y), colour in (*card.GREY_PATCHES, *card.COLOUR_PATCHES):
        yield Block(x, y, card.PATCH_MM, card.PATCH_MM, colour)
    (x, y), (end, _) = card.BAR_FROM, card.BAR_TO
    yield Block(x, y - 0.4, end - x, 0.8, INK)
    for tip in (x, end):
        yield Block(tip - 0.1, y - 2.5, 0.2, 5.0, INK)
    for step in range(RULE_MM + 1):
        height = 6 if step % 10 == 0 else 4.5 if step % 5 == 0 else 3
        yield Block(RULE_FROM + step - 0.1, 140 - height, 0.2, height, INK)


def as_svg() -> str:
    """The card, true to size."""
    shapes = "".join(
        f'<rect x="{b.x:.3f}" y="{b.y:.3f}" width="{b.width:.3f}" height="{b.height:.3f}" fill="rgb{b.colour}"/>'
        for b in blocks()
    )
    words = "".join(
        f'<text x="{x}" y="{y}" font-size="{size}" font-family="sans-serif" fill="rgb{INK}">{escape(text)}</text>'
        for x, y, size, text in WORDS
    )
    width, height = card.WIDTH_MM, card.HEIGHT_MM
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">'
        f'<rect width="{width}" height="{height}" fill="#fff"/>{shapes}{words}</svg>'
    )


def as_pdf() -> bytes:
    """The card on an A4 sheet, with marks to cut along."""
    target = io.BytesIO()
    page = Canvas(target, pagesize=A4)
    page.setTitle("Bench card")
    left, top = (A4[0] - card.WIDTH_MM * mm) / 2, A4[1] - 30 * mm

    def rectangle(block: Block) -> None:
        page.setFillColor(Color(*(value / 255 for value in block.colour)))
        page.rect(left + block.x * mm, top - (block.y + block.height) * mm, block.width * mm, block.height * mm, 0, 1)

    for block in blocks():
        rectangle(block)
    page.setFillColor(Color(*(value / 255 for value in INK)))
    for x, y, size, text in WORDS:
        page.setFont("Helvetica", size * mm)
        page.drawString(left + x * mm, top - y * mm, text)
    page.setLineWidth(0.2 * mm)
    for y in (0, card.HEIGHT_MM):
        page.line(left, top - y * mm, left + 6 * mm, top - y * mm)
        page.line(left + card.WIDTH_MM * mm - 6 * mm, top - y * mm, left + card.WIDTH_MM * mm, top - y * mm)
    page.save()
    return target.getvalue()

"""A guide sheet for checks at home, without a reference beside it: what to look at, retail and copy side by side."""

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw

from assay.contracts import MarkKind
from assay.judge.judgement import Kind
from casework.bench.panel import answer_names, written
from casework.retail import quantity_of
from library.models import Checkpoint, Release
from pairs.models import Marking, Organisation, Pair, Standing
from pairs.pictures import mark_kind
from pairs.queries import latest_numbers, of_generation

NOT_A_VERDICT = "A guide, not a verdict: what agrees can still be a copy, and one thing that differs proves nothing."
CROP_PX = 420
PAD = 0.6
DOT_PX = 5
MOST = 24
COMPARES = "retail"
"""An answer that says this compares with a pair that nobody at home has."""


@dataclass
class Entry:
    """One thing to look at."""

    check: Checkpoint
    retail: str
    varies: str
    copies: str
    retail_crop: bytes | None
    copy_crop: bytes | None


def entries(release: Release, organisation: Organisation) -> list[Entry]:
    """Checks that need no tool first, then what can be counted; retail's value, what varies, what copies have. A few
    queries, and a read for each crop."""
    pairs = of_generation(release, organisation=organisation)
    verified = list(pairs.filter(standing=Standing.RETAIL).order_by("label"))
    copies = list(pairs.filter(standing=Standing.COPY).order_by("label"))
    read = latest_numbers([*verified, *copies])
    found = []
    for check in sorted(
        release.checkpoints.all(), key=lambda checkpoint: (checkpoint.kind != Kind.ANSWER, checkpoint.position)
    ):
        if check.kind not in (Kind.ANSWER, Kind.COUNT) or check.left_id or check.group == "provenance":
            continue
        names = answer_names(check)
        values, theirs = (
            [value for one in side if (value := quantity_of(check, read.get((one.pk, check.pk)))) is not None]
            for side in (verified, copies)
        )
        if not values:
            continue
        usual = max(sorted(set(values), key=str), key=values.count)
        retail, crop = written(check, usual, names), _crop(check, verified)
        if COMPARES in retail.lower():
            # Whoever has no retail pair at hand needs to see what it has.
            if crop is None:
                continue
            retail = "as in the picture"
        off = sorted({written(check, value, names) for value in theirs if value != usual})
        others = sorted({written(check, value, names) for value in values if value != usual})
        found.append(
            Entry(
                check,
                retail,
                f"seen on retail as well: {', '.join(others)}" if others else "",
                f"copies have {', '.join(off)}" if off else "",
                crop,
                _crop(check, [copy for copy in copies if read.get((copy.pk, check.pk)) is not None]) if off else None,
            )
        )
    # What is known to tell a copy comes first within its kind.
    return sorted(found, key=lambda one: (not one.copies, one.check.kind != Kind.ANSWER, one.check.position))[:MOST]


def _crop(check: Checkpoint, pairs: list[Pair]) -> bytes | None:
    """The place, cut out of the first pair's photograph that has the marks, as JPEG."""
    marks = Marking.objects.filter(checkpoint=check, photo__pair__in=pairs).select_related("photo")
    marking = marks.order_by("photo").first()
    if marking is None or not marking.points or not marking.photo.full:
        return None
    low, high = np.min(marking.points, axis=0), np.max(marking.points, axis=0)
    middle, half = (low + high) / 2, np.maximum((high - low) * (0.5 + PAD / 2), 60)
    with Image.open(marking.photo.full.path) as whole:
        corner = np.round(np.maximum(middle - half, 0))
        box = [*corner, *np.minimum(middle + half, whole.size)]
        cut = whole.crop([round(float(n)) for n in box]).convert("RGB")
    full = max(cut.size)
    cut.thumbnail((CROP_PX, CROP_PX))
    _mark(
        cut,
        (np.array(marking.points) - corner) * max(cut.size) / full,
        mark_kind(check) if check.measure else MarkKind.REGION,
    )
    target = io.BytesIO()
    cut.save(target, "JPEG", quality=85)
    return target.getvalue()


def _mark(picture: Image.Image, points: np.ndarray, kind: MarkKind) -> None:
    """Show the place on a picture, black and white so that it prints: a line round a region, dots at places and at a
    path's ends, so that what lies along it stays to be seen."""
    draw, put = ImageDraw.Draw(picture), [tuple(point) for point in points]
    if kind is MarkKind.REGION:
        draw.line([*put, put[0]], fill="white", width=5)
        draw.line([*put, put[0]], fill="black", width=2)
        return
    for x, y in put if kind is MarkKind.PLACES else (put[0], put[-1]):
        draw.ellipse((x - DOT_PX, y - DOT_PX, x + DOT_PX, y + DOT_PX), fill="black", outline="white", width=2)


def codes(release: Release) -> list[tuple[str, str]]:
    """What is printed on the box and the tag of this release, by name."""
    known = {
        "Style code": release.style_code,
        "Colour": release.colour_wording,
        "Factories": ", ".join(release.factory_codes),
    }
    return [(name, value) for name, value in known.items() if value]


def as_pdf(release: Release, organisation: Organisation) -> bytes:
    """The sheet, A4."""
    from xml.sax.saxutils import escape  # noqa: PLC0415

    from reportlab.lib.pagesizes import A4  # noqa: PLC0415
    from reportlab.lib.styles import ParagraphStyle  # noqa: PLC0415
    from reportlab.lib.units import mm  # noqa: PLC0415
    from reportlab.platypus import Image as Picture  # noqa: PLC0415
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table  # noqa: PLC0415

    plain = ParagraphStyle("plain", fontName="Helvetica", fontSize=9.5, leading=12)
    head = ParagraphStyle("head", parent=plain, fontName="Helvetica-Bold", fontSize=16, leading=20)
    bold = ParagraphStyle("bold", parent=plain, fontName="Helvetica-Bold", fontSize=10.5, leading=13)
    story = [Paragraph(escape(str(release)), head), Paragraph(escape(NOT_A_VERDICT), plain)]
    story += [Paragraph(escape(f"{name}: {value}"), plain) for name, value in codes(release)]
    for entry in entries(release, organisation):
        words = [Paragraph(escape(entry.check.name), bold), Paragraph(escape(entry.check.instruction), plain)]
        words.append(Paragraph(escape(f"Retail: {entry.retail}"), plain))
        words += [Paragraph(escape(text), plain) for text in (entry.varies, entry.copies) if text]
        if entry.check.caution:
            words.append(Paragraph(escape(f"Caution: {entry.check.caution}"), plain))
        crops = [
            [Picture(io.BytesIO(data), 38 * mm, 38 * mm, kind="proportional"), Paragraph(name, plain)] if data else ""
            for name, data in (("retail", entry.retail_crop), ("copy", entry.copy_crop))
        ]
        story += [Spacer(1, 4 * mm), Table([[words, *crops]], colWidths=[96 * mm, 42 * mm, 42 * mm])]
    target = io.BytesIO()
    SimpleDocTemplate(target, pagesize=A4, margins=15 * mm, title=f"Guide sheet, {release}").build(story)
    return target.getvalue()

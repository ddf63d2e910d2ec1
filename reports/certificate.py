"""A certificate as PDF: A4, one page and an annex, fonts embedded, with a link to whether it still stands."""

import io
from hashlib import sha256
from pathlib import Path
from xml.sax.saxutils import escape

import segno
from django.core.files.base import ContentFile
from django.db import transaction
from PIL import Image as Pillow
from reportlab.lib.colors import Color
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Image, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table

from assay.judge.grade import Grade
from assay.judge.verbal import propositions
from casework.findings import findings_of
from casework.ledger import note
from casework.models import Certificate, CertificateFile
from casework.verdict.queries import rows_of
from casework.wording import against_words
from library.photo_kinds import kinds_by_key
from pairs.queries import photos_in_use

FONTS = Path(__file__).parent / "fonts"
LEGAL = (
    "This is the opinion of the person named on what was examined on the day named. It is no legal finding and no "
    "warranty. Accusing a seller, refusing goods, seizure and refunds follow local law; the brand owner and the "
    "authorities have the last word."
)
WEIGHT_LIMITS = (
    "That is a weight of evidence, not the probability that the pair is a copy. It rests on the verified pairs and the "
    "copies that this shop knows, and on assumptions that the exported case lists."
)
PHOTO_MM, QR_MM = 78, 30
SOFT, LINE = Color(0.35, 0.36, 0.38), Color(0.75, 0.76, 0.77)
WORDS = {
    "legit": "Legit: what was examined is as on verified retail pairs.",
    "fake": "Not as retail: what was examined departs from verified retail pairs.",
    "undecided": "Undecided: what was examined does not settle it.",
}


def _style(name: str, size: float, *, bold: bool = False, soft: bool = False) -> ParagraphStyle:
    font = "Next-Bold" if bold else "Next"
    return ParagraphStyle(
        name, fontName=font, fontSize=size, leading=size * 1.32, textColor=SOFT if soft else Color(0, 0, 0)
    )


def given_pdf(certificate: Certificate, address: str) -> bytes:
    """The certificate as it was first given out, under the shop's signature; its digest is in the ledger."""
    kept = CertificateFile.objects.filter(certificate=certificate).first()
    if kept:
        with kept.file.open("rb") as stored:
            return stored.read()
    from reports.signed_pdf import fingerprint, signed  # noqa: PLC0415  loads for half a second, where it is wanted

    case = certificate.opinion.case
    pdf = signed(as_pdf(certificate, address), case.organisation)
    made = CertificateFile(
        certificate=certificate, sha256=sha256(pdf).hexdigest(), signed_by=fingerprint(case.organisation)
    )
    with transaction.atomic():
        made.file.save("certificate.pdf", ContentFile(pdf), save=False)
        made.save()
        note(case, certificate.issued_by, "certificate_given", number=certificate.number, sha256=made.sha256)
    return pdf


def as_pdf(certificate: Certificate, address: str) -> bytes:
    """The certificate. ``address``: of its page that says whether it still stands."""
    for name, file in (("Next", "regular"), ("Next-Bold", "bold")):
        pdfmetrics.registerFont(TTFont(name, FONTS / f"atkinson-hyperlegible-next-{file}.ttf"))
    head, big, plain, small, bold = (
        _style("head", 11, soft=True), _style("big", 21, bold=True), _style("plain", 10), _style("small", 8, soft=True),
        _style("bold", 10, bold=True),
    )  # fmt: skip
    opinion, case = certificate.opinion, certificate.opinion.case
    release = case.pair.release
    rows = rows_of(findings_of(case))
    done = [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED]
    say = lambda text, style=plain: Paragraph(escape(text).replace("\n", "<br/>"), style)  # noqa: E731
    checker = opinion.checker.get_full_name() or opinion.checker.first_name or opinion.checker.username
    facts = [
        say(f"{release}", bold),
        say(f"Style code {release.style_code}, US {case.pair.size_us or 'not known'}"),
        say(f"Examined by {checker} for {case.organisation.name}, signed {opinion.signed_at:%d %B %Y}"),
        say(f"Certificate {certificate.number}"),
        Spacer(1, 3 * mm),
        Table(
            [[_qr(address), [say("Does it still stand?", bold), say(address, small)]]], colWidths=[QR_MM * mm + 4, None]
        ),
    ]
    photo, left = _photo(case.pair), len(rows) - len(done)
    counted = f"{len(done)} checks were compared with verified retail pairs, {left} were not: see the annex."
    photographs = " It was judged from photographs; nobody held the pair." if not case.in_hand else ""
    assumed = f"Compared with {_most_pairs(done)} under the rule “{opinion.policy.rule_name}”.{photographs}"
    weight = "" if opinion.decibans is None else f"{propositions(opinion.decibans)} {WEIGHT_LIMITS}"
    anyway = [say(f"Signed although {against_words(opinion.against)}. Reason: {opinion.anyway}", bold)]
    anyway = [*anyway, Spacer(1, 3 * mm)] if opinion.anyway else []
    story = [
        say(f"{case.organisation.name}: verdict on a pair of sneakers", head),
        Spacer(1, 2 * mm),
        say(WORDS[opinion.verdict], big),
        Spacer(1, 5 * mm),
        Table(
            [[photo or "", facts]], colWidths=[(PHOTO_MM + 6) * mm, None], style=[("VALIGN", (0, 0), (-1, -1), "TOP")]
        ),
        Spacer(1, 5 * mm),
        say(opinion.words),
        Spacer(1, 5 * mm),
        *anyway,
        say(counted),
        say(assumed),
        say(weight),
        Spacer(1, 5 * mm),
        say(LEGAL, small),
        say(f"What was signed: {certificate.sealed}. Ledger when issued: {certificate.head}.", small),
        PageBreak(),
        say("Annex: what was compared", bold),
        Spacer(1, 2 * mm),
    ]
    table = [[say(name, small) for name in ("Check", "This pair", "Retail", "")]]
    for row in done:
        usual, range_ = row["retail"]
        retail = f"{usual} ({range_})" if range_ else usual
        table.append([say(text, small) for text in (row["checkpoint"].name, row["value"], retail, row["words"])])
    story.append(
        Table(
            table, colWidths=[62 * mm, 42 * mm, 52 * mm, 24 * mm], repeatRows=1,
            style=[("LINEBELOW", (0, 0), (-1, -1), 0.3, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP"),
                   ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5)],
        )
    )  # fmt: skip
    missing = ", ".join(row["checkpoint"].name.lower() for row in rows if row["finding"].grade == Grade.NOT_COMPARED)
    story += [Spacer(1, 4 * mm), say("Not compared", bold), say(f"{missing or 'nothing'}.", small)]
    target = io.BytesIO()
    margin = 15 * mm
    SimpleDocTemplate(
        target, pagesize=A4, leftMargin=margin, rightMargin=margin, topMargin=margin, bottomMargin=margin,
        title=f"Certificate {certificate.number}", author=case.organisation.name,
    ).build(story)  # fmt: skip
    return target.getvalue()


def _most_pairs(rows: list[dict]) -> str:
    """How many verified pairs stood beside it at most."""
    pairs = max((len(row["finding"].retail) for row in rows), default=0)
    return f"{pairs} verified retail pair{'' if pairs == 1 else 's'}" if pairs else "what is written down of retail"


def _qr(address: str) -> Image:
    target = io.BytesIO()
    segno.make(address, error="m").save(target, kind="png", scale=6, border=2)
    target.seek(0)
    return Image(target, QR_MM * mm, QR_MM * mm)


def _photo(pair) -> Image | None:
    """The first view of the pair, in working order."""
    order = {key: n for n, key in enumerate(kinds_by_key())}
    used = sorted(photos_in_use(pair).values(), key=lambda photo: (order.get(photo.view, len(order)), photo.foot))
    for photo in used:
        try:
            with Pillow.open(photo.full.path) as whole:
                small = whole.convert("RGB")
                small.thumbnail((1000, 1000))
        except (OSError, ValueError):
            continue
        target = io.BytesIO()
        small.save(target, "JPEG", quality=85)
        target.seek(0)
        return Image(target, PHOTO_MM * mm, PHOTO_MM * mm * small.height / small.width)
    return None

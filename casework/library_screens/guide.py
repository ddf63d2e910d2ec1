"""Reads for a release's whole guide: what every check separates, on one axis, and what went stale."""

from collections import Counter

from assay.errors import AssayError, CannotJudge
from assay.judge.copy_model import by_level, even_shares, learned
from assay.judge.evidence import EvidenceItem, caps
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import Kind, Prior, judge
from assay.judge.planner import worth
from casework.bench.panel import answer_names, written
from casework.library_screens.size_plot import by_size
from casework.models import Case, Finding
from casework.paper_wording import condition_words
from casework.retail import compares, prior_of, quantity_of
from casework.weighing import caps_of
from library.models import Release
from pairs.comparisons import kept_beside
from pairs.models import Marking, Organisation, Standing
from pairs.queries import DRAWN_OF_READING, latest_numbers, lending_pairs, of_generation

WIDE, HIGH, MARGIN = 320, 44, 10
NOTHING = 0.01
"""Bits below which a check is said to separate nothing."""
DRAWN_CASES, LOOKED_THROUGH = 60, 1500
"""Of past cases the last ones: so many are drawn, and among so many it is looked when a check last raised a flag."""
LANES = {"retail": 10, "copy": 24, "suspect": 38}


def guide_page(release: Release, organisation: Organisation) -> dict:
    """Every check: its spread, what it is worth, when it last told a copy, which copies get it right now. A query for
    readings each of verified pairs, known copies and past cases."""
    checks = list(release.checkpoints.select_related("release__shoe_model__maker"))
    pairs = of_generation(release, organisation=organisation).select_related("batch")
    verified = list(pairs.filter(standing=Standing.RETAIL).order_by("label"))
    verified += lending_pairs(release, organisation.pk)
    copies = list(pairs.filter(standing=Standing.COPY).order_by("label"))
    read = latest_numbers([*verified, *copies])
    beside = kept_beside([row.pk for (pair, _), row in read.items() if pair in {copy.pk for copy in copies}])
    past, told = _past(release, organisation)
    drawn = _drawn(checks, organisation)
    of_moulds = set(release.siblings.values_list("pk", flat=True))
    rows = [
        _row(check, (verified, copies), read, beside, past.get(check.pk, []))
        | {
            "photo": drawn.get(check.pk),
            "told": told.get(check.pk),
            "lent": check.release_id not in of_moulds and check.release,
        }
        | {"sizes": by_size(check, release, verified, copies, read)}
        for check in checks
    ]
    signs = learned([row["sign"] for row in rows])
    for row, sign in zip(rows, signs, strict=True):
        row.update(_worth(sign))
    sections: dict[str, list] = {}
    for row in rows:
        sections.setdefault(row["check"].section, []).append(row)
    return {"release": release, "sections": sections.items(), "stale": [row for row in rows if row["stale"]]}


def _past(release: Release, organisation: Organisation) -> tuple[dict[int, list], dict[int, Finding]]:
    """Findings of the last signed cases by check, the latest first; and by check the last that raised a flag. Three
    queries, however many cases there are."""
    signed = Case.objects.filter(organisation=organisation, signed_at__isnull=False, pair__release__in=release.siblings)
    last = signed.order_by("-signed_at").values("pk")
    heavy = [f"reading__{name}" for name in DRAWN_OF_READING]
    found = Finding.objects.filter(case__in=last[:DRAWN_CASES]).select_related("case", "reading").defer(*heavy)
    past: dict[int, list] = {}
    for one in found.order_by("-case__signed_at"):
        past.setdefault(one.checkpoint_id, []).append(one)
    flagged = Finding.objects.filter(case__in=last[:LOOKED_THROUGH], grade__in=[one.value for one in RED_FLAGS])
    # The oldest first: of every check the last one stays.
    latest = dict(flagged.order_by("case__signed_at").values_list("checkpoint", "pk"))
    told = Finding.objects.select_related("case").in_bulk(latest.values())
    return past, {check: told[key] for check, key in latest.items()}


def _drawn(checks: list, organisation: Organisation) -> dict[int, int]:
    """By check the photograph that its marks were drawn on."""
    marked = Marking.objects.filter(
        checkpoint__in=checks, origin=Marking.Origin.DRAWN, photo__pair__organisation=organisation
    )
    return dict(marked.values_list("checkpoint_id", "photo_id"))


def _row(check, pairs: tuple[list, list], read, beside, past) -> dict:
    verified, copies = pairs
    retail = [value for one in verified if (value := quantity_of(check, read.get((one.pk, check.pk)))) is not None]
    if compares(check) and past:
        retail = [value for _, value in past[0].retail]
    batches: dict[str, list] = {}
    for copy in copies:
        row = read.get((copy.pk, check.pk))
        parts = {"parts": beside.get(row.pk, {})} if row is not None and compares(check) else None
        value = None if check.kind == Kind.PAPER else quantity_of(check, row, parts)
        if value is not None:
            batches.setdefault(copy.batch.name if copy.batch else copy.label, []).append(value)
    suspects = [one for one in past if one.grade != Grade.NOT_COMPARED and check.kind != Kind.PAPER]
    values = [quantity_of(check, suspect.reading, suspect.compared) for suspect in suspects]
    kind = Kind(check.kind)
    up, down = caps_of(check, kind)
    names = answer_names(check)
    sign = EvidenceItem(
        key=check.key, group=check.group, kind=kind, value=None, retail=retail, prior=prior_of(check),
        batches=batches, copies=check.prior.get("copies", {}), cap_for=up, cap_against=down, minutes=check.minutes,
    )  # fmt: skip
    return {
        "check": check,
        "own": check.release_id,
        "applies": condition_words(check.applies_when),
        "retail": ", ".join(
            f"{often} × {words}" if often > 1 else words
            for words, often in Counter(written(check, value, names) for value in retail).items()
        ),
        "plot": _plot(kind, sign.prior, retail, batches, values),
        "right": [name for name, given in batches.items() if _gets_right(sign, given)],
        "stale": bool(batches) and all(_gets_right(sign, given) for given in batches.values()),
        "basis": _basis(kind, len(retail), len(batches)),
        "sign": sign,
    }


def _basis(kind: Kind, pairs: int, batches: int) -> str:
    """What its frequencies rest on: of retail, and of copies."""
    if kind is Kind.PAPER:
        return "retail and copies: believed"
    retail = f"measured on {pairs} pair{'s' * (pairs != 1)}" if pairs else "believed"
    copies = f"measured on {batches} batch{'es' * (batches != 1)}" if batches else "believed"
    return f"retail: {retail}; copies: {copies}"


def _gets_right(sign: EvidenceItem, values: list) -> bool:
    """Whether copies read there as retail does."""
    try:
        return all(judge(sign.kind, sign.retail, value, sign.prior).grade is Grade.AGREES for value in values)
    except AssayError:
        return False


def _worth(sign: EvidenceItem) -> dict:
    """What it brings on average, at even odds."""
    try:
        found = worth(sign, by_level(even_shares(sorted(sign.batches))), 0.5)
    except CannotJudge:
        return {"bits": None, "nothing": False}
    up, down = caps(sign)
    told = {"bits": found.bits, "if_retail": found.if_retail, "if_copy": found.if_copy}
    return told | {"nothing": found.bits < NOTHING, "cap_for": up, "cap_against": down}


def _plot(kind: Kind, prior: Prior, retail: list, batches: dict[str, list], suspects: list) -> dict | None:
    """Retail pairs, known copies and past suspects on one axis; closed answers have none."""
    if kind not in (Kind.CONTINUOUS, Kind.COUNT):
        return None
    lanes = {
        "retail": retail,
        "copy": [value for values in batches.values() for value in values],
        "suspect": [value for value in suspects if value is not None],
    }
    every = [float(value) for values in lanes.values() for value in values]
    if not every:
        return None
    room = 2 * prior.scatter if kind is Kind.CONTINUOUS else 1.0
    low, high = min(every) - room, max(every) + room
    wide = (high - low) or 1.0
    place = lambda value: round(MARGIN + (float(value) - low) / wide * (WIDE - 2 * MARGIN), 1)  # noqa: E731
    dots = [{"x": place(value), "y": LANES[lane], "lane": lane} for lane, values in lanes.items() for value in values]
    band = {"x": place(min(retail)), "width": max(2.0, place(max(retail)) - place(min(retail)))} if retail else None
    return {"dots": dots, "band": band, "low": f"{low:.4g}", "high": f"{high:.4g}"}

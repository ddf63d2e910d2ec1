"""Reads for the library's pages."""

from collections import Counter

from django.db.models import Count, Q
from django.urls import reverse

from assay.contracts import CONFIRMED_BY_EYE, CORRECTED_BY_HAND
from assay.errors import AssayError
from assay.judge.grade import Grade
from assay.judge.judgement import UNSURE_COUNT, Kind, judge
from assay.paperwork.style_code import compare, normalise
from casework import wording
from casework.actions.keep_maker import other_shops
from casework.bench.drawings import marks_drawn
from casework.bench.panel import answer_names, written
from casework.models import Case
from casework.photos.queries import photo_facts, place_name
from casework.retail import compares, number_uncertainty, prior_of, quantity_of
from casework.waiting import waiting_words
from library.models import Batch, Foot, Maker, Release
from library.photo_kinds import kinds_by_key
from library.writers import visible_to
from pairs.models import Organisation, Pair, Photo, Standing
from pairs.queries import latest_numbers, latest_readings, of_generation

KEYS = "123456789qwertzuop"


MAKER_FACTS = {
    "name": "name",
    "style_code_mask": "pattern of its codes",
    "date_order": "dates on its tags",
    "label_layouts": "sizes on its label",
    "chart": "a size chart:",
    "box_classes": "boxes by size",
    "inlay_from_year": "radio inlay since",
}


def library(organisation: Organisation) -> list[dict]:
    """Makers with their releases and how much is known of each. Three queries."""
    of_organisation = Q(pairs__organisation=organisation)
    releases = (
        visible_to(organisation)
        .select_related("shoe_model__maker")
        .annotate(
            retail=Count("pairs", filter=of_organisation & Q(pairs__standing=Standing.RETAIL), distinct=True),
            candidates=Count("pairs", filter=of_organisation & Q(pairs__standing=Standing.CANDIDATE), distinct=True),
            copies=Count("pairs", filter=of_organisation & Q(pairs__standing=Standing.COPY), distinct=True),
            checks=Count("own_checkpoints", filter=Q(own_checkpoints__withdrawn=False), distinct=True),
        )
    )
    by_maker: dict[int, list] = {}
    for release in releases.order_by("shoe_model__name", "year", "colourway"):
        by_maker.setdefault(release.shoe_model.maker_id, []).append(release)
    return [{"maker": maker, "releases": by_maker.get(maker.pk, [])} for maker in Maker.objects.order_by("name")]


def proposed(maker: Maker, organisation: Organisation) -> list[dict]:
    """Changes of a maker that wait for another shop's word. Two queries."""
    waiting = maker.proposed.filter(agreed=None).select_related("organisation", "by")
    concerned = (
        other_shops(maker, organisation).exists()
        or maker.shoe_models.filter(releases__organisation=organisation).exists()
    )
    return [
        {
            "change": one,
            "own": one.organisation_id == organisation.pk,
            "told": [f"{MAKER_FACTS[name]} {value}".strip() for name, value in one.given.items()],
        }
        for one in waiting
        if one.organisation_id == organisation.pk or concerned
    ]


def nearest_release(code: str, organisation: Organisation) -> Release | None:
    """The release whose style code differs least from this one, where it fits that one's maker's pattern. Few
    queries."""
    found = []
    for maker in Maker.objects.all():
        try:
            written = normalise(code, maker.style_code_mask)
        except AssayError:
            continue
        known = visible_to(organisation).filter(shoe_model__maker=maker).select_related("shoe_model").order_by("-year")
        found += [(len(compare(one.style_code, written).differences), one) for one in known]
    return min(found, key=lambda one: one[0], default=(0, None))[1]


def release_page(release: Release, organisation: Organisation) -> dict:
    """One release: its pairs, batches, siblings, and what its guide holds. About eight queries."""
    known = of_generation(release, organisation=organisation).exclude(standing=Standing.SUSPECT)
    pairs = list(known.select_related("release", "batch").prefetch_related("photos", "verified_by").order_by("label"))
    checks = list(release.checkpoints.all())
    sections = Counter(check.section for check in checks)
    own = [pair for pair in pairs if pair.release_id == release.pk]
    return {
        "release": release,
        "verified": [pair for pair in own if pair.standing == Standing.RETAIL],
        "lent": [pair for pair in pairs if pair.standing == Standing.RETAIL and pair.release_id != release.pk],
        "candidates": [pair for pair in own if pair.standing == Standing.CANDIDATE],
        "retired": [pair for pair in own if pair.standing == Standing.RETIRED],
        "batches": [
            {"batch": batch, "pairs": [pair for pair in pairs if pair.batch_id == batch.pk]}
            for batch in Batch.objects.filter(release__in=release.siblings).order_by("name")
        ],
        "siblings": list(release.siblings.exclude(pk=release.pk)),
        "checks": len(checks),
        "shared": sum(check.release_id != release.pk for check in checks),
        "sections": sections.items(),
        "packing": release.packing,
    }


def pair_page(pair: Pair) -> dict:
    """One pair of the library: its photographs, and its numbers beside the verified pairs'. About eight queries."""
    return {
        "pair": pair,
        "tray": tray(pair),
        "verifiers": [user.first_name or user.username for user in pair.verified_by.all()],
        "wanted": 2 if pair.organisation.two_verify else 1,
        **numbers(pair),
    }


def retail_photo(photo: Photo, asked: str) -> dict:
    """One photograph of a library pair, its counts, the unsure ones first, and what one check saw. About eight queries.

    ``asked``: key of the check to show; else the first unsure count's.
    """
    readings = latest_readings([photo.pair], checkpoints=photo.pair.release.checkpoints.filter(kind=Kind.COUNT))
    here = [reading for reading in readings.values() if reading.photo_id == photo.pk and reading.value is not None]
    checks = photo.pair.release.checkpoints.in_bulk([one.checkpoint_id for one in here])
    rows = [row for one in here if one.checkpoint_id in checks and (row := _count_row(checks[one.checkpoint_id], one))]
    rows.sort(key=lambda row: (not row["unsure"], row["checkpoint"].position))
    shown = next((row for row in rows if row["checkpoint"].key == asked), rows[0] if rows else None)
    return {
        "pair": photo.pair,
        "counts": rows,
        "marks": marks_drawn(shown["reading"].overlay) if shown else [],
        "focus": " ".join(f"{x:.0f},{y:.0f}" for x, y in shown["reading"].marks) if shown else "",
        "work": reverse("library-photo", args=[photo.pair_id, photo.pk]),
        **photo_facts(photo),
    }


def _count_row(checkpoint, reading) -> dict | None:
    value = quantity_of(checkpoint, reading)
    if value is None or compares(checkpoint):
        return None
    unsure, confirmed = number_uncertainty(checkpoint, reading), CONFIRMED_BY_EYE in reading.doubts
    return {
        "checkpoint": checkpoint,
        "reading": reading,
        "value": value,
        "uncertainty": f"{unsure:.1f}",
        "unsure": unsure >= UNSURE_COUNT,
        "confirmed": confirmed or CORRECTED_BY_HAND in reading.doubts,
    }


def unsure_counts(release: Release, organisation: Organisation) -> list[dict]:
    """Counts of verified pairs that are unsure and that nobody has confirmed: they support no flag. Three queries."""
    verified = list(of_generation(release, organisation=organisation, standing=Standing.RETAIL))
    checks = {
        checkpoint.pk: checkpoint for checkpoint in release.checkpoints.filter(kind=Kind.COUNT).exclude(measure="")
    }
    readings = latest_readings(verified, drawn=False, checkpoints=checks.values())
    rows = [
        (reading, _count_row(checks[reading.checkpoint_id], reading))
        for reading in readings.values()
        if reading.photo_id and reading.value
    ]
    return [{"pair": one.pair, "photo": one.photo_id, **row} for one, row in rows if row and row["unsure"]]


def tray(pair: Pair) -> dict:
    """Its photographs, those nobody could sort first, with what is wrong with them; and places to put them. Three
    queries, and one a photograph."""
    photos = list(pair.photos.all())
    in_mm = Counter(pair.release.checkpoints.filter(unit__startswith="mm").values_list("view", "foot"))
    places = [
        (f"{key} {foot}".strip(), place_name(key, foot))
        for key, view in kinds_by_key().items()
        for foot in (Foot.values if view.feet else ("",))
    ]
    unsorted = [photo for photo in photos if photo.state == Photo.State.READ and not photo.view and not photo.set_aside]
    return {
        "reading": [p for p in photos if p.state in (Photo.State.ARRIVED, Photo.State.READING)],
        "waits": waiting_words(pair),
        "broken": [(p, wording.sentence(p.guess.refusal)) for p in photos if p.state == Photo.State.BROKEN],
        "unsorted": unsorted,
        "sorted": [
            {
                "photo": photo,
                "drawn": photo.markings.count(),
                "retake": wording.fitness_words(photo.fitness) if photo.fitness.retake else "",
                "lacks_mm": 0 if photo.mm_per_px else in_mm[photo.view, photo.foot],
            }
            for photo in photos
            if photo.view and photo.preview
        ],
        "places": [
            {"value": value, "name": name, "key": KEYS[n] if n < len(KEYS) else ""}
            for n, (value, name) in enumerate(places)
        ],
    }


def numbers(pair: Pair) -> dict:
    """Every number of a pair beside the verified pairs', with how it would be graded as a suspect's: what stands out is
    asked about before it counts."""
    known = [
        one
        for one in of_generation(pair.release, organisation=pair.organisation, standing=Standing.RETAIL)
        if one.pk != pair.pk
    ]
    read = latest_numbers([pair, *known])
    rows = []
    for checkpoint in pair.release.checkpoints.all():
        ours = read.get((pair.pk, checkpoint.pk))
        theirs = [quantity_of(checkpoint, read.get((one.pk, checkpoint.pk))) for one in known]
        theirs = [value for value in theirs if value is not None]
        value = quantity_of(checkpoint, ours)
        if value is None or checkpoint.kind == Kind.PAPER:
            continue
        names = answer_names(checkpoint)
        rows.append(
            {
                "checkpoint": checkpoint,
                "value": written(checkpoint, value, names),
                "theirs": ", ".join(written(checkpoint, their, names) for their in theirs),
                "grade": _grade(checkpoint, theirs, value),
            }
        )
    odd = [row for row in rows if row["grade"] in (Grade.DEPARTS, Grade.DRIFTS)]
    return {"numbers": rows, "odd": odd, "departs": [row for row in odd if row["grade"] == Grade.DEPARTS]}


def _grade(checkpoint, theirs: list, value) -> str:
    try:
        return judge(Kind(checkpoint.kind), theirs, value, prior_of(checkpoint)).grade.value
    except AssayError:
        return Grade.NOT_COMPARED.value


def batch_page(batch: Batch, organisation: Organisation, hidden: frozenset[int] = frozenset()) -> dict:
    """One batch: its pairs, and what tells it: checks whose readings part from retail's, the surest first."""
    pairs = list(batch.pairs.filter(organisation=organisation, standing=Standing.COPY).order_by("label"))
    known = list(of_generation(batch.release, organisation=organisation, standing=Standing.RETAIL))
    read = latest_numbers([*pairs, *known])
    rows = []
    for checkpoint in batch.release.checkpoints.all():
        sides = [
            [quantity_of(checkpoint, read.get((one.pk, checkpoint.pk))) for one in side] for side in (pairs, known)
        ]
        copies, retail = ([value for value in side if value is not None] for side in sides)
        if not copies or not retail or checkpoint.kind == Kind.PAPER:
            continue
        names = answer_names(checkpoint)
        grades = [_grade(checkpoint, retail, value) for value in copies]
        off = sum(grade in (Grade.DEPARTS, Grade.DRIFTS) for grade in grades)
        rows.append(
            {
                "checkpoint": checkpoint,
                "copies": ", ".join(written(checkpoint, copy, names) for copy in copies),
                "retail": ", ".join(written(checkpoint, one, names) for one in retail),
                "tells": off == len(copies) and Grade.DEPARTS in grades,
                "right": off == 0,
                "share": off / len(copies),
            }
        )
    caught = (
        Case.objects.filter(organisation=organisation, pair__in=pairs).exclude(signed_at=None).exclude(pk__in=hidden)
    )
    return {
        "batch": batch,
        "pairs": pairs,
        "lists": [
            ("What tells it", [row for row in rows if row["tells"]]),
            ("Off in some of its pairs", [row for row in rows if not row["tells"] and not row["right"]]),
            ("What it gets right now", [row for row in rows if row["right"]]),
        ],
        "last": caught.order_by("-signed_at").first(),
    }

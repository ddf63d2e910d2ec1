"""A view photographed twice: shape and counts are read off both photographs, and a reading that the other photograph
contradicts says so and is less sure.

The second photograph's reading is kept first and the used one's again after it, so that the latest stays the one of the
photograph in use; neither is changed.
"""

from collections.abc import Iterator

import numpy as np
from django.db import transaction
from django.db.models import Max

from assay.compare import contour
from assay.contracts import CORRECTED_BY_HAND
from assay.errors import AssayError
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.measure.registry import MEASURES
from casework.grading import GradingContext, regrade_these
from casework.models import Case
from casework.retail import ahead_of_keeping, compares, quantity_of, uncertainty_of
from pairs.actions.take_reading import refused
from pairs.comparisons import compared, descriptor_of, keep
from pairs.models import Photo, Reading
from pairs.pipeline import measure_marking

DOUBT, BESIDE = "photographs_disagree", "beside"
SURE_TIMES = 3.0
"""Lengths that differ by more than so many of their joint standard uncertainties disagree."""
OUTLINES_APART_MM = 0.8
"""Outlines of one shoe that lie further apart than this somewhere disagree: our bench's drawn ones rarely do."""
OUTLINE_UNSURE = 0.5
"""Then so much of a departure, as a share of it, is its standard uncertainty."""


def second_photos(case: Case, used: dict[tuple[str, str], Photo]) -> dict[tuple[str, str], Photo]:
    """Of every view and foot in use another photograph that would do, the latest. One query."""
    found: dict[tuple[str, str], Photo] = {}
    for photo in case.pair.photos.filter(state=Photo.State.READ, set_aside=False).order_by("pk"):
        place = photo.view, photo.foot
        if place in used and used[place] != photo and photo.fitness.verdict != "retake":
            found[place] = photo
    return found


def to_read_twice(case: Case, ground: GradingContext, used: dict) -> list[tuple]:
    """(checkpoint, its reading in use, the other photograph) that were not held beside it yet. Two queries."""
    others = second_photos(case, used)
    wanted = {
        checkpoint.pk: checkpoint
        for checkpoint in ground.checkpoints
        if _reads_the_same(checkpoint)
        and (checkpoint.view, checkpoint.foot) in others
        and checkpoint.pk in ground.retail
    }
    if not wanted:
        return []
    rows = Reading.objects.filter(pair=case.pair, checkpoint__in=wanted).order_by("pk")
    latest = {row.checkpoint_id: row for row in rows}
    return [
        (wanted[key], row, others[wanted[key].view, wanted[key].foot])
        for key, row in latest.items()
        if _to_hold_beside(row, used, others, (wanted[key].view, wanted[key].foot))
    ]


def _reads_the_same(checkpoint) -> bool:
    """Whether any photograph of the view must agree on what it reads."""
    return bool(checkpoint.measure) and MEASURES[checkpoint.measure].same_on_each_photo


def _to_hold_beside(row: Reading, used: dict, others: dict, place: tuple) -> bool:
    by_hand = row.refusal or CORRECTED_BY_HAND in row.doubts
    return row.photo_id == used[place].pk and not by_hand and row.details.get(BESIDE) != others[place].pk


def read_second_photos(case: Case, user, ground: GradingContext, waiting: list[tuple], marked: dict) -> Iterator[int]:
    """Read what ``to_read_twice`` told, one after the other; yields 1 for each. ``marked``: by checkpoint its marks on
    the other photograph, or why there are none."""
    for checkpoint, row, photo in waiting:
        marking = marked[checkpoint.pk]
        if isinstance(marking, AssayError):
            other = refused(checkpoint=checkpoint, pair=case.pair, photo=photo, refusal=marking, by=user)
        else:
            marking.checkpoint, marking.photo = checkpoint, photo
            other = measure_marking(marking, user)
        again = in_the_light_of(checkpoint, row, other)
        beside = ahead_of_keeping(checkpoint, ground.retail[checkpoint.pk], again)
        _keep(case, ground, row, (other, again), beside)
        yield 1


@transaction.atomic
def _keep(case: Case, ground: GradingContext, row: Reading, both: tuple[Reading, Reading], beside: dict) -> None:
    """Both are kept, unless the check was read anew meanwhile."""
    newest = Reading.objects.filter(pair=case.pair, checkpoint=row.checkpoint_id).aggregate(pk=Max("pk"))["pk"]
    if newest != row.pk:
        return
    for reading in both:
        reading.save()
    again = both[1]
    keep({(again.pk, theirs, False): found for theirs, found in beside.items()})
    regrade_these(case, ground, {row.checkpoint_id: again})


def in_the_light_of(checkpoint, row: Reading, other: Reading) -> Reading:
    """The same reading once more, not kept yet: where another photograph contradicts it, doubted and less sure."""
    names = [
        concrete_field.attname
        for concrete_field in Reading._meta.concrete_fields
        if concrete_field.name not in ("id", "taken_at")
    ]
    again = Reading(**{name: getattr(row, name) for name in names})
    again.details = {**row.details, BESIDE: other.photo_id}
    if (apart := _apart(checkpoint, row, other)) is None:
        return again
    again.doubts = [*dict.fromkeys([*row.doubts, DOUBT])]
    if compares(checkpoint):
        off = float(np.hypot(row.descriptor.get("departure_share", 0.0), OUTLINE_UNSURE))
        again.descriptor = {**row.descriptor, "departure_share": round(off, 6)}
        return again
    own = uncertainty_of(checkpoint, row)
    wider = max(own, UNSURE_COUNT) if checkpoint.kind == Kind.COUNT else float(np.hypot(own, apart / 2))
    if checkpoint.quantity:
        again.parts = {**row.parts, f"{checkpoint.quantity}_uncertainty": wider}
    else:
        again.uncertainty = wider
    return again


def _apart(checkpoint, row: Reading, other: Reading) -> float | None:
    """By how much two photographs' readings of one thing contradict each other; None where they do not."""
    if compares(checkpoint):
        return _outlines_apart(checkpoint, row, other)
    ours, theirs = (quantity_of(checkpoint, one) for one in (row, other))
    if ours is None or theirs is None or row.unit != other.unit:
        return None
    off = abs(ours - theirs)
    if checkpoint.kind == Kind.COUNT:
        return off or None
    joint = float(np.hypot(*(uncertainty_of(checkpoint, one) for one in (row, other))))
    return off if off > SURE_TIMES * joint else None


def _outlines_apart(checkpoint, row: Reading, other: Reading) -> float | None:
    entry = MEASURES[checkpoint.measure].comparing
    if entry.kind != contour.KIND or not row.descriptor or not other.descriptor:
        return None
    (found,) = compared(entry, descriptor_of(row.descriptor), [(descriptor_of(other.descriptor), False)])
    most = 0.0 if isinstance(found, AssayError) else found.parts["departure_mm"]
    return most if most > OUTLINES_APART_MM else None

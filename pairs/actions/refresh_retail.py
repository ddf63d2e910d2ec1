"""Bring readings of verified pairs up to date: what an older version of a method read is read anew beside it."""

from assay.contracts import CONFIRMED_BY_EYE, CORRECTED_BY_HAND
from assay.measure.registry import MEASURES
from pairs.models import Pair, Reading
from pairs.pipeline import measure_markings
from pairs.queries import markings_on, teaching_pairs

TELLING = ("checkpoint__measure", "method", "doubts", "refusal")
"""What of a reading tells whether it is outdated."""


def refresh_retail(*, pair: Pair, by) -> int:
    """Read anew, on the verified pairs that ``pair`` is judged against, what is outdated. Returns how many readings.

    A person's correction stands. Two queries where nothing is outdated.
    """
    measured = Reading.objects.filter(pair__in=teaching_pairs(pair)).exclude(photo=None).exclude(checkpoint__measure="")
    rows = measured.order_by("pk").values("pk", "pair_id", "checkpoint_id", *TELLING)
    latest = {(row["pair_id"], row["checkpoint_id"]): row for row in rows}
    outdated = [row["pk"] for row in latest.values() if is_outdated(row)]
    if not outdated:
        return 0
    known = list(Reading.objects.filter(pk__in=outdated).select_related("checkpoint", "photo__pair").order_by("photo"))
    marked, to_measure = markings_on({one.photo for one in known}), []
    for one in known:
        if marking := marked.get((one.photo_id, one.checkpoint_id)):
            marking.checkpoint, marking.photo = one.checkpoint, one.photo
            to_measure.append(marking)
    return len(Reading.objects.bulk_create(measure_markings(to_measure, by)))


def is_outdated(row: dict) -> bool:
    """Whether a newer method would read it anew; a person's word stands. ``row``: ``TELLING`` of a reading."""
    measure = MEASURES.get(row["checkpoint__measure"])
    return measure is not None and row["method"] != measure.method and not by_hand(row)


def by_hand(row: dict) -> bool:
    """Whether a person put it right, or could not tell. ``row``: ``doubts`` and ``refusal`` of a reading."""
    untold = (row["refusal"] or {}).get("reason") == "could_not_tell"
    return untold or bool({CORRECTED_BY_HAND, CONFIRMED_BY_EYE} & set(row["doubts"]))

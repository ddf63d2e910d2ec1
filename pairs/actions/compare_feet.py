"""A pair's own left and right against each other: derived anew whenever one of the two was read."""

import math

from assay.errors import AssayError
from library.models import Relation
from pairs.actions.take_reading import refuse
from pairs.models import PLACED, Pair, Reading
from pairs.queries import latest_readings

METHOD = "feet/1"
NEEDED = "both_feet_needed"


def compare_feet(*, pair: Pair) -> dict[int, Reading]:
    """Left less right at every check that asks for it; a person's "could not tell" stands. Two queries and the news.

    Returns the pair's latest readings by checkpoint, these included.
    """
    readings = {checkpoint: reading for (_, checkpoint), reading in latest_readings([pair], drawn=False).items()}
    for check in pair.release.checkpoints.exclude(left=None).select_related("left", "right"):
        known = readings.get(check.pk)
        if known and known.refusal and known.refusal["reason"] != NEEDED:
            continue
        feet = [readings.get(foot.pk) for foot in (check.left, check.right)]
        numbers = [_number(foot, reading) for foot, reading in zip((check.left, check.right), feet, strict=True)]
        if None in numbers or not _of_one_unit(check, feet):
            if known and known.value is not None:
                readings[check.pk] = refuse(checkpoint=check, pair=pair, refusal=AssayError(NEEDED), by=known.taken_by)
            continue
        related = _share(numbers) if check.relation == Relation.SHARE else _difference(numbers)
        if related is None:
            continue  # nothing to be a share of
        value, uncertainty = related
        if (
            known
            and (known.value, known.uncertainty) == (value, uncertainty)
            and _placed(feet).items() <= known.details.items()
        ):
            continue
        readings[check.pk] = Reading.objects.create(
            pair=pair,
            checkpoint=check,
            value=value,
            unit=check.unit,
            uncertainty=uncertainty,
            method=METHOD,
            details={"left": numbers[0][0], "right": numbers[1][0]} | _placed(feet),
            taken_by=max(feet, key=lambda reading: reading.pk).taken_by,
        )
    return readings


def _placed(feet: list[Reading]) -> dict:
    """Whether a person put the marks of both in place, or put right what was read there."""
    by_hand = all(reading.put_right or reading.photo_id is None for reading in feet)
    return {PLACED: True} if by_hand else {}


def _number(check, reading: Reading | None) -> tuple[float, float] | None:
    """What the check reads on one foot, and its standard uncertainty."""
    if reading is None or reading.value is None:
        return None
    if not check.quantity:
        return reading.value, reading.uncertainty
    if check.quantity not in reading.parts:
        return None
    return reading.parts[check.quantity], reading.parts.get(f"{check.quantity}_uncertainty", 0.0)


def _of_one_unit(check, feet: list[Reading]) -> bool:
    """Whether the two can be held against each other: pixels only of one photograph, and only as a share."""
    units = {reading.unit for reading, one in zip(feet, (check.left, check.right), strict=True) if not one.quantity}
    if "px" not in units:
        return True
    one_photo = feet[0].photo_id == feet[1].photo_id
    return len(units) == 1 and one_photo and check.relation == Relation.SHARE


def _share(numbers: list[tuple[float, float]]) -> tuple[float, float] | None:
    """One number as a share of another, and its standard uncertainty: relative ones add up as squares (JCGM 100:2008,
    5.1.6). None of a second one that is not told from nothing."""
    (first, off_first), (second, off_second) = numbers
    if abs(second) <= 2 * off_second or not second:
        return None
    share = first / second
    return round(share, 6), round(math.hypot(off_first, share * off_second) / abs(second), 6)


def _difference(numbers: list[tuple[float, float]]) -> tuple[float, float]:
    (left, off_left), (right, off_right) = numbers
    return (left - right if isinstance(left, int) else round(left - right, 6)), round(
        math.hypot(off_left, off_right), 6
    )

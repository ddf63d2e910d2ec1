"""Whatever else a reading saw, number by number, beside what verified pairs read."""

from statistics import mean

from assay.paperwork.sizes import Group, size_by_length
from casework.grading import carried_over
from casework.guide_wording import CHOICES, COUNT, LENGTH
from casework.models import Case
from pairs.known import size_of
from pairs.models import Reading
from pairs.queries import latest_readings, retail_pairs

# A number lies outside where it leaves retail's span by so many of its own standard uncertainties.
OUTSIDE = 2


def numbers(case: Case, finding) -> dict:
    """Numbers of this reading that the check does not judge, and how many lie outside retail. Two queries."""
    checkpoint, reading = finding.checkpoint, finding.reading
    choices = [one for one in CHOICES.values() if one.measure == checkpoint.measure and one.quantity]
    ours = reading.parts if reading and reading.value is not None and checkpoint.measure else {}
    if not any(one.quantity in ours for one in choices):
        return {"numbers": []}
    known = retail_pairs(case.pair)
    theirs = [
        one for one in latest_readings(known, drawn=False, checkpoints=[checkpoint]).values() if one.value is not None
    ]
    shown = [
        _row(case, checkpoint, one, ours, theirs)
        for one in choices
        if one.quantity in ours and one.quantity != checkpoint.quantity
    ]
    return {
        "numbers": [*shown, *_size(case, ours, theirs)],
        "outside": sum(row["outside"] for row in shown),
    }


def _row(case: Case, checkpoint, choice, ours: dict, theirs: list[Reading]) -> dict:
    found = [(reading.pair, reading.parts[choice.quantity]) for reading in theirs if choice.quantity in reading.parts]
    values = [value for _, value in (carried_over(case, checkpoint, found) if choice.unit == LENGTH else found)]
    here, off = ours[choice.quantity], ours.get(f"{choice.quantity}_uncertainty", 0.0)
    low, high = min(values, default=here), max(values, default=here)
    return {
        "name": choice.name,
        "here": _plain(here, choice.unit),
        "off": f"± {_plain(off, choice.unit)}" if off else "",
        "retail": _plain(mean(values), choice.unit) if values else "–",
        "span": f"{_plain(low, choice.unit)} to {_plain(high, choice.unit)}" if len(values) > 1 else "",
        "outside": off > 0 and not low - OUTSIDE * off <= here <= high + OUTSIDE * off,
    }


def _size(case: Case, ours: dict, theirs: list[Reading]) -> list[dict]:
    """The size that a shoe's length speaks of, by verified pairs of known size."""
    group = Group(case.pair.release.group)
    sized = [(reading.parts.get("length_mm"), size_of(reading.pair.size_us)) for reading in theirs]
    sized = [(length, size) for length, size in sized if length and size is not None]
    if "length_mm" not in ours or not sized:
        return []
    off = ours.get("length_mm_uncertainty", 0.0)
    found, more = (
        [size_by_length(ours["length_mm"] + extra, length, size, group) for length, size in sized]
        for extra in (0.0, off)
    )
    said = size_of(case.pair.size_us)
    return [
        {
            "name": "Size its length speaks of, US",
            "here": f"{mean(found):.1f}",
            "off": f"± {max(mean(more) - mean(found), 0.05):.1f}",
            "retail": f"{float(said):g}" if said is not None else "–",
            "span": "as stated" if said is not None else "",
            "outside": False,
        }
    ]


def _plain(value: float, unit: str) -> str:
    if unit == COUNT:
        return f"{value:.0f}"
    if unit == LENGTH:
        return f"{value:.1f}" if abs(value) >= 20 else f"{value:.2f}"
    return f"{value:.1f}°" if unit == "deg" else f"{value:.3f}"

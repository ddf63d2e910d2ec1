"""Whatever else a reading saw, number by number, beside what verified pairs read."""

from assay.judge.reference_comparison import compare_with_retail
from assay.paperwork.sizes import Group, size_spoken_of
from casework.figures import decimals, figure, usual_decimals
from casework.guides.wording import COUNT, LENGTH, choices_of
from casework.models import Case
from casework.retail import carried_over, numbers_of, retail_numbers
from pairs.known import size_of


def numbers(case: Case, finding) -> dict:
    """Numbers of this reading that the check does not judge, and how many lie outside retail. Few queries."""
    checkpoint, reading = finding.checkpoint, finding.reading
    ours = numbers_of(reading, finding.compared) if reading and reading.value is not None and checkpoint.measure else {}
    choices = [choice for choice in choices_of(checkpoint.measure) if choice.quantity in ours] if ours else []
    if not choices:
        return {"numbers": []}
    theirs = retail_numbers(case, checkpoint)
    shown = [
        _row(case, checkpoint, choice, ours, theirs) for choice in choices if choice.quantity != checkpoint.quantity
    ]
    return {
        "numbers": [*shown, *_size(case, ours, theirs)],
        "outside": sum(row["outside"] for row in shown),
    }


def _row(case: Case, checkpoint, choice, ours: dict, theirs: list[tuple]) -> dict:
    found = [(pair, parts[choice.quantity]) for pair, parts in theirs if choice.quantity in parts]
    values = [value for _, value in (carried_over(case, checkpoint, found) if choice.unit == LENGTH else found)]
    here, u = ours[choice.quantity], ours.get(f"{choice.quantity}_uncertainty", 0.0)
    beside = compare_with_retail(here, u, values)
    suffix = "°" if choice.unit == "deg" else ""
    places = 0 if choice.unit == COUNT else decimals(u, usual_decimals(here, choice.unit))
    return {
        "name": choice.name,
        "here": figure(here, places) + suffix,
        "off": f"± {figure(u, places)}{suffix}" if u else "",
        "retail": _plain(beside.mean, choice.unit) if values else "–",
        "span": f"{_plain(beside.low, choice.unit)} to {_plain(beside.high, choice.unit)}" if len(values) > 1 else "",
        "outside": beside.outside,
    }


def _size(case: Case, ours: dict, theirs: list[tuple]) -> list[dict]:
    """The size that a shoe's length speaks of, by verified pairs of known size."""
    group = Group(case.pair.release.group)
    sized = [(parts.get("length_mm"), size_of(pair.size_us)) for pair, parts in theirs]
    sized = [(length, size) for length, size in sized if length and size is not None]
    if "length_mm" not in ours or not sized:
        return []
    found, u = size_spoken_of(ours["length_mm"], ours.get("length_mm_uncertainty", 0.0), sized, group)
    said = size_of(case.pair.size_us)
    return [
        {
            "name": "Size its length speaks of, US",
            "here": f"{found:.1f}",
            "off": f"± {max(u, 0.05):.1f}",
            "retail": f"{float(said):g}" if said is not None else "–",
            "span": "as stated" if said is not None else "",
            "outside": False,
        }
    ]


def _plain(value: float, unit: str) -> str:
    if unit == LENGTH:
        return figure(value, 1 if abs(value) >= 20 else 2)
    return figure(value, 0 if unit == COUNT else usual_decimals(value, unit)) + ("°" if unit == "deg" else "")

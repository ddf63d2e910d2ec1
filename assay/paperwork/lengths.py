"""Lengths as people type them: millimetres unless a unit is said, and never guessed."""

import math
import re

from assay.errors import AssayError

UNITS_MM = {"MM": 1.0, "CM": 10.0, "M": 1000.0, "IN": 25.4, '"': 25.4, "''": 25.4, "″": 25.4, "INCH": 25.4}
# Board gives under the jaws, and no two people press alike. Common practice, no source.
BOARD_MM = 0.5


class BadLength(AssayError):
    """No length, or one that this thing cannot have."""


def sides(typed: str, names: tuple[str, ...], likely: tuple[tuple[float, float], ...]) -> list[tuple[float, float]]:
    """Lengths of a thing's sides with their standard uncertainties, mm, in the order of ``names``.

    ``likely``: what each side may be, mm. One unit behind the last number holds for all. Raises BadLength
    ``lengths_wanted`` (wanted, got), ``length_not_a_number`` or ``length_unlikely`` (name, got, low, high, maybe).

    >>> sides("350 x 240 × 120", ("length", "width", "height"), ((200, 450), (120, 350), (70, 200)))[1][0]
    240.0
    >>> round(sides("13.78 x 9.45 x 4.72 in", ("l", "w", "h"), ((200, 450), (120, 350), (70, 200)))[0][0], 1)
    350.0
    """
    text = typed.upper().replace(",", ".").replace("INCHES", "IN")
    found = re.findall(r"(\d+(?:\.\d+)?)\s*(INCH|MM|CM|IN|M|″|\"|'')?", text)
    rest = re.sub(r"(\d+(?:\.\d+)?)\s*(INCH|MM|CM|IN|M|″|\"|'')?", "", text)
    if re.sub(r"[\s×X*;/]", "", rest):
        raise BadLength("length_not_a_number", got=typed[:40])
    if len(found) != len(names):
        raise BadLength("lengths_wanted", wanted=len(names), got=len(found), names=", ".join(names))
    last = found[-1][1]
    measured = []
    for (figure, unit), name, (low, high) in zip(found, names, likely, strict=True):
        scale = UNITS_MM[unit or last or "MM"]
        value = float(figure) * scale
        if not low <= value <= high:
            raise BadLength("length_unlikely", name=name, got=figure, unit=(unit or last or "mm").lower(),
                            low=low, high=high, maybe=_maybe(float(figure), low, high))  # fmt: skip
        step = scale * 10.0 ** -len(figure.partition(".")[2])
        measured.append((value, math.hypot(step / math.sqrt(12), BOARD_MM)))
    return measured


def _maybe(figure: float, low: float, high: float) -> str:
    """The unit in which the number would make sense."""
    fits = [unit for unit in ("cm", "in", "m", "mm") if low <= figure * UNITS_MM[unit.upper()] <= high]
    return ", ".join(f"{figure:g} {unit}" for unit in fits)

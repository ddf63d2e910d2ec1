"""Units as a type: what kind of number a value is, and how it follows the scale of its photograph.

A measure declares the unit of every number that it gives. How a number converts from pixels to millimetres, and how
much of the scale's uncertainty it carries, follow from that declaration, never from its name or its array's shape
(JCGM 100:2008, 5.1.2: a length to the power k carries k times the scale's relative uncertainty).
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from assay.errors import CannotJudge


class Unit(StrEnum):
    """Units of everything that is read."""

    COUNT = "count"
    MM = "mm"
    MM2 = "mm²"
    PER_CM2 = "per cm²"
    PER_MM = "per mm"
    PX = "px"
    PX2 = "px²"
    DEGREE = "deg"
    RATIO = "ratio"
    PERCENT = "%"
    DE00 = "dE00"
    LIGHTNESS = "L*"
    TEXT = "text"
    ANSWER = "answer"

    @property
    def length_power(self) -> int:
        """The power of a length on the object in it: 1 for mm, −2 for a number per cm², 0 where scale plays no part.

        >>> Unit("per cm²").length_power
        -2
        """
        return _LENGTH_POWERS.get(self, 0)

    @property
    def is_exact(self) -> bool:
        """Whether a standard uncertainty of 0 is possible at all: counts, text and answers only."""
        return self in (Unit.COUNT, Unit.TEXT, Unit.ANSWER)


_LENGTH_POWERS = {Unit.MM: 1, Unit.MM2: 2, Unit.PER_CM2: -2, Unit.PER_MM: -1}


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number with its standard uncertainty and its unit."""

    value: float
    uncertainty: float
    """Standard, in ``unit``; 0 only where exact."""
    unit: Unit

    def at_scale(self, relative_uncertainty: float) -> "Quantity":
        """The same with the scale's relative standard uncertainty added, as far as its unit follows the scale.

        >>> Quantity(10.0, 0.3, Unit.PER_CM2).at_scale(0.02).uncertainty
        0.5
        """
        share = abs(self.value) * abs(self.unit.length_power) * relative_uncertainty
        return replace(self, uncertainty=math.hypot(self.uncertainty, share))


def must_be_one_unit(*units: str) -> None:
    """Raise CannotJudge where numbers of different units would be compared: ``no_scale`` where pixels stand against a
    length, ``other_unit`` otherwise. An empty unit is that of a record from before units were kept.

    >>> must_be_one_unit("mm", "mm", "")
    """
    known = {unit for unit in units if unit}
    if len(known) > 1:
        pixels = bool({unit for unit in known if unit.startswith("px")})
        raise CannotJudge("no_scale" if pixels else "other_unit")

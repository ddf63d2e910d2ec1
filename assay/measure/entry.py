"""What is known of a measure: everything that the rest of the shop asks, in one place."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeAlias

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import MarkKind, Marks, Measurement, Picture, Point
from assay.errors import CannotMeasure
from assay.imaging.region import MOST_PX
from assay.measure.sample import Sample

# Reasons that marks themselves may be refused for, by their kind.
OF_MARKS = {
    MarkKind.PATH: frozenset({"path_too_short", "marks_off_picture", "marks_cross", "beyond_horizon"}),
    MarkKind.PLACES: frozenset({"path_too_short", "marks_off_picture", "beyond_horizon"}),
    MarkKind.REGION: frozenset({"region_too_small", "marks_off_picture", "marks_cross", "beyond_horizon"}),
}
Reader: TypeAlias = Callable[[Sequence[Point]], Measurement]
"""Reads a measure at marks, picture pixels; raises CannotMeasure."""
Snap: TypeAlias = Callable[[Reader, Sequence[Point]], tuple[tuple[Point, ...], Measurement]]
NO_NUMBER = "no_number"
MOVE_THE_MARKS = "move_the_region"
"""The reason for readings that no point puts right: their marks must be moved."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """How a measure is called, what it wants drawn, and which numbers it gives."""

    name: str
    version: int
    """Of the method; counted up where readings change."""
    marks: MarkKind
    measure: Callable[[Picture, Marks], Measurement]
    rebuild: Callable[[Picture, Marks, Sequence[Point]], Measurement] | None = None
    """The same reading from points that a person has put right; None: its marks must be moved instead."""
    snap: Snap | None = None
    """Marks put where the measure itself finds what they are for, and what is read there; from a way to read at marks,
    and marks. None: they stay as drawn."""
    unit: str
    """Of the value, with a scale."""
    parts: Mapping[str, str] = field(default_factory=dict)
    """Numbers a checkpoint may judge instead of the value, and their units."""
    unjudged: Mapping[str, str] = field(default_factory=dict)
    """Further numbers that it gives, for people and for other numbers to rest on, and their units."""
    sometimes: frozenset[str] = frozenset()
    """Those of ``parts`` that are only there where there is such a thing: a second row, a bend."""
    comparing: Comparing | None = None
    coarsest_mm_per_px: float
    """Size of a pixel beyond which the photograph raises a doubt; from the bench's hard pictures."""
    most_px: int = MOST_PX
    """Longest side of the straightened piece it works on, px."""
    true_light: bool = False
    """Whether it wants the picture's colours corrected, where the light is known."""
    marks_are_measured: bool = False
    """Whether the marks themselves are what is measured: carried marks are then as unsure as carrying is."""
    follows_marks: bool = False
    """Whether what is found depends on where exactly the marks lie: lengths then carry what carrying may move them."""
    of_tooling: bool = False
    """What it reads is shaped by last and mould: another tooling generation has another."""
    same_on_each_photo: bool = False
    """Whether it reads shape and number, which any photograph of a view must agree on: a second one is held against
    the first."""
    misread: tuple[int, int] = (0, 0)
    """How many sure readings were wrong on independent test images, and of how many (docs/accuracy.md)."""
    drill: str = "shape"
    """Which kind of exercise its checks make: ``count``, ``shade``, ``texture``, ``mark``, ``uv`` or ``shape``."""
    one_way: frozenset[str] = frozenset()
    """Counts that speak only where something is found: what is not there was washed off, or is not on every copy."""
    usual: Mapping[str, int] = field(default_factory=dict)
    """What retail pairs read, by number, where none was photographed; such a check needs no control."""
    refuses: frozenset[str] = frozenset()
    """Reason codes of its own, besides those of its marks."""
    sample: Callable[[], Sample] = field(repr=False)
    """A small picture that it can read, for the contract that every measure owes."""

    @property
    def method(self) -> str:
        """Name and version as its readings are signed."""
        return f"{self.name}/{self.version}"

    @property
    def reasons(self) -> frozenset[str]:
        """Every reason code that it may refuse with."""
        return self.refuses | OF_MARKS[self.marks] | {NO_NUMBER}

    @property
    def numbers(self) -> Mapping[str, str]:
        """Every number that a checkpoint may judge, compared ones included, and their units; "" is the value."""
        return {"": self.unit, **self.parts, **(self.comparing.parts if self.comparing else {})}

    @property
    def units(self) -> Mapping[str, str]:
        """Units of every number that a reading of it holds; "" is the value."""
        return {"": self.unit, **self.parts, **self.unjudged}

    def compares(self, quantity: str) -> bool:
        """Whether this number is there only once two readings are compared."""
        return self.comparing is not None and quantity in self.comparing.parts

    def read(self, picture: Picture, marks: Marks) -> Measurement:
        """The reading, signed. Raises CannotMeasure."""
        return self._signed(lambda: self.measure(picture, marks))

    def read_again(self, picture: Picture, marks: Marks, points: Sequence[Point]) -> Measurement:
        """The reading from points put right by a person, signed. Raises CannotMeasure."""
        rebuild = self.rebuild
        if rebuild is None:
            raise CannotMeasure(MOVE_THE_MARKS, points=len(points))
        return self._signed(lambda: rebuild(picture, marks, points))

    def _signed(self, read: Callable[[], Measurement]) -> Measurement:
        """Raises CannotMeasure ``no_number`` where what comes out is none: it would be kept, and nothing reads it."""
        try:
            found = replace(read(), method=self.method)
        except np.linalg.LinAlgError as error:
            raise CannotMeasure(NO_NUMBER) from error
        if not np.isfinite([found.value, found.uncertainty, *found.parts.values()]).all():
            raise CannotMeasure(NO_NUMBER)
        return found

"""Two sets of photographs of two pairs, without a guide: which shows what the other shows, what can be read on both,
and where else they differ.

What is proposed on the first set's photograph (``draft.propose``) is read there and, carried over, on the second's; the
rest of the picture is compared by ``compare.anywhere``. Nobody vouches for either set: nothing here grades.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from assay.compare.anywhere import Difference, differences
from assay.contracts import Marks, Measurement, Point
from assay.draft.propose import propose
from assay.errors import AssayError, CannotAlign
from assay.measure.registry import MEASURES
from assay.pipeline.align import align_photos, place_marks
from assay.pipeline.measure import PhotoFacts, Session, Task
from assay.register.affine import Alignment
from assay.register.features import Features
from assay.units import Unit

SURELY = 3.0
"""Two numbers differ where they lie so many of their joint standard uncertainties apart."""
UNSURE_COUNT = 0.3
OUTLINE_ONLY = "sole"
"""Which way a shoe lies is not known here: of the whole shape only what holds of any thing is proposed."""
WHERE_FEATURES_AGREE = "features"


@dataclass(frozen=True, slots=True)
class SetPhoto:
    """A photograph of a set, opened and decoded."""

    rgb: np.ndarray
    """(H, W, 3) uint8."""
    facts: PhotoFacts
    features: Features
    outline: np.ndarray
    """(N, 2) px of the thing in it; empty: all of the picture."""


@dataclass(frozen=True, slots=True)
class ReadOnBoth:
    """One number, as it reads on either photograph."""

    measure: str
    quantity: str
    unit: str
    first: float
    first_uncertainty: float
    second: float
    second_uncertainty: float
    marks: tuple[Point, ...]
    """On the first photograph, px."""
    marks_second: tuple[Point, ...]

    @property
    def times(self) -> float:
        """How many joint standard uncertainties the two lie apart; of sure counts that differ without end."""
        apart = abs(self.second - self.first)
        joint = math.hypot(self.first_uncertainty, self.second_uncertainty)
        if Unit(self.unit) is Unit.COUNT:
            surely = max(self.first_uncertainty, self.second_uncertainty) < UNSURE_COUNT
            return math.inf if apart and surely else 0.0
        return apart / joint if joint else 0.0

    @property
    def differs(self) -> bool:
        """Whether they surely differ."""
        return self.times >= SURELY


@dataclass(frozen=True, slots=True)
class ComparedPhotos:
    """What two photographs of one view tell of each other."""

    readings: tuple[ReadOnBoth, ...]
    """What differs most first."""
    regions: tuple[Difference, ...]
    unread: int
    """Proposals that the second photograph refused."""


def match_sets(first: Sequence[Features], second: Sequence[Features]) -> list[tuple[int, int, Alignment]]:
    """Which photographs show the same, by place in either set, each at most once: those with most in common first.

    Only features count: two shoes' outlines fit each other from many sides.
    """
    found = []
    for m, ours in enumerate(first):
        for n, theirs in enumerate(second):
            try:
                alignment = align_photos(ours, theirs, close_up=False)
            except CannotAlign:
                continue
            if alignment.how == WHERE_FEATURES_AGREE:
                found.append((m, n, alignment))
    found.sort(key=lambda match: -match[2].matches)
    matched: list[tuple[int, int, Alignment]] = []
    for m, n, alignment in found:
        if all(m != known and n != other for known, other, _ in matched):
            matched.append((m, n, alignment))
    return sorted(matched, key=lambda match: match[:2])


def compare_photos(first: SetPhoto, second: SetPhoto, alignment: Alignment) -> ComparedPhotos:
    """Everything that reads on both, and the regions that differ. ``alignment``: how the first lies on the second."""
    own, other = Session(first.rgb, first.facts), Session(second.rgb, second.facts)
    height, width = first.rgb.shape[:2]
    whole = np.array([[0, 0], [width - 1, 0], [width - 1, height - 1], [0, height - 1]], float)
    outline = first.outline if len(first.outline) else whole
    found = propose(
        own.picture,
        outline,
        lambda measure, marks: own.measure(Task("proposed", measure, marks)),
        shows=OUTLINE_ONLY,
        ultraviolet=False,
    )
    # Pixels of two photographs are no common measure.
    scaled = first.facts.surface is not None and second.facts.surface is not None
    read: list[ReadOnBoth] = []
    unread = 0
    for one in found:
        proposal = one.proposal
        marks = Marks(proposal.kind, proposal.points)
        [placed] = place_marks([marks], alignment, other.picture.size)
        try:
            if isinstance(placed, AssayError):
                raise placed
            there, reading = other.snapped(Task("carried", proposal.measure, placed, carried=True))
        except AssayError:
            unread += 1
            continue
        if scaled or not Unit(MEASURES[proposal.measure].numbers[proposal.quantity]).length_power:
            read += _both(proposal.measure, proposal.quantity, (marks, one.reading), (there, reading))
    read.sort(key=lambda row: -row.times)
    regions = differences(first.rgb, outline, (second.rgb, alignment))
    return ComparedPhotos(tuple(read), tuple(regions), unread)


def _both(
    measure: str, quantity: str, ours: tuple[Marks, Measurement], theirs: tuple[Marks, Measurement]
) -> Iterator[ReadOnBoth]:
    """What is judged of a proposal; of what only comparing tells that, with the number of the first as 0."""
    entry = MEASURES[measure]
    if entry.compares(quantity):
        yield from _compared(measure, quantity, ours, theirs)
        return
    numbers = [_number(reading, quantity) for _, reading in (ours, theirs)]
    if None not in numbers:
        (first, first_u), (second, second_u) = numbers  # type: ignore[misc]
        unit, points = entry.numbers[quantity], (ours[0].points, theirs[0].points)
        yield ReadOnBoth(measure, quantity, unit, first, first_u, second, second_u, *points)


def _compared(
    measure: str, quantity: str, ours: tuple[Marks, Measurement], theirs: tuple[Marks, Measurement]
) -> Iterator[ReadOnBoth]:
    comparing = MEASURES[measure].comparing
    descriptors = ours[1].descriptor, theirs[1].descriptor
    if comparing is None or descriptors[0] is None or descriptors[1] is None:
        return
    try:
        parts = comparing.compare(descriptors[0], descriptors[1]).parts
    except AssayError:
        return
    if quantity in parts:
        value, unsure = float(parts[quantity]), float(parts.get(f"{quantity}_uncertainty", 0.0))
        unit = comparing.parts[quantity]
        yield ReadOnBoth(measure, quantity, unit, 0.0, 0.0, value, unsure, ours[0].points, theirs[0].points)


def _number(reading: Measurement, quantity: str) -> tuple[float, float] | None:
    """A number of a reading with its standard uncertainty; None where it is none."""
    value = reading.parts.get(quantity) if quantity else reading.value
    if value is None or isinstance(value, str):
        return None
    unsure = reading.parts.get(f"{quantity}_uncertainty", 0.0) if quantity else reading.uncertainty
    return float(value), float(unsure)

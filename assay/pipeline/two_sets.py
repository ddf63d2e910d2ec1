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
from assay.imaging.opening import Received
from assay.imaging.plane import camera_model_of
from assay.imaging.view import is_ultraviolet
from assay.measure.registry import MEASURES
from assay.pipeline.align import align_photos, place_marks
from assay.pipeline.measure import PhotoFacts, Session, Task
from assay.pipeline.open import open_photo
from assay.pipeline.scale import scale_photo
from assay.register.affine import Alignment
from assay.register.features import Features
from assay.units import Unit

SURELY = 3.0
"""Two numbers differ where they lie so many of their joint standard uncertainties apart."""
CARD_GAP_MM = 4.0
"""How far a card beside a shoe lies from what is measured, mm, standard. Assumed."""
OUTLINE_ONLY = "sole"
"""Which way a shoe lies is not known here: of the whole shape only what holds of any thing is proposed."""
WHERE_FEATURES_AGREE = "features"


@dataclass(frozen=True, slots=True)
class OpenedForSet:
    """What a photograph of a set is matched by."""

    features: Features
    facts: PhotoFacts
    ultraviolet: bool


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
    compared: bool = False
    """It is there only once the two are compared: ``first`` is 0."""

    @property
    def times(self) -> float:
        """How many joint standard uncertainties the two lie apart."""
        joint = math.hypot(self.first_uncertainty, self.second_uncertainty)
        return abs(self.second - self.first) / joint if joint else 0.0

    @property
    def differs(self) -> bool:
        """Whether they differ: numbers surely, counts at all, as unsure as they say."""
        if Unit(self.unit) is Unit.COUNT:
            return self.first != self.second
        return self.times >= SURELY


@dataclass(frozen=True, slots=True)
class ComparedPhotos:
    """What two photographs of one view tell of each other."""

    readings: tuple[ReadOnBoth, ...]
    """What differs most first."""
    regions: tuple[Difference, ...]
    unread: int
    """Proposals that the second photograph refused."""


def open_for_set(received: Received, rgb: np.ndarray, *, bar_mm: float) -> OpenedForSet:
    """Scale and light by the card in a photograph (H, W, 3) uint8, and what it is known by."""
    opened, camera = open_photo(rgb, bar_mm=bar_mm), camera_model_of(received.size, received.focal_35mm)
    seen = scale_photo(opened, camera, bar_mm=bar_mm, stand_mm_per_px=None)
    surface = seen.scale.surface(camera, CARD_GAP_MM)
    light = seen.light.correction(received.size)
    facts = PhotoFacts(seen.mm_per_px, received.doubts, seen.scale.card_px, surface, light)
    return OpenedForSet(opened.features, facts, is_ultraviolet(opened.pyramid))


def match_sets(first: Sequence[OpenedForSet], second: Sequence[OpenedForSet]) -> list[tuple[int, int, Alignment]]:
    """Which photographs show the same, by place in either set, each at most once: those with most in common first.

    Only features count: two shoes' outlines fit each other from many sides.
    """
    found = []
    for m, ours in enumerate(first):
        for n, theirs in enumerate(second):
            if ours.ultraviolet != theirs.ultraviolet:
                continue
            try:
                alignment = align_photos(ours.features, theirs.features, close_up=False)
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


def compare_photos(
    first: tuple[np.ndarray, OpenedForSet], second: tuple[np.ndarray, OpenedForSet], alignment: Alignment
) -> ComparedPhotos:
    """Everything that reads on both, and the regions that differ. ``first``, ``second``: the pictures (H, W, 3) uint8;
    ``alignment``: how the first lies on the second."""
    (rgb, ours), (rgb_second, theirs) = first, second
    own, other = Session(rgb, ours.facts), Session(rgb_second, theirs.facts)
    outline = np.asarray(ours.features.outline, float)
    if not len(outline):
        height, width = rgb.shape[:2]
        outline = np.array([[0, 0], [width - 1, 0], [width - 1, height - 1], [0, height - 1]], float)
    found = propose(
        own.picture,
        outline,
        lambda measure, marks: own.measure(Task("proposed", measure, marks)),
        shows=OUTLINE_ONLY,
        ultraviolet=ours.ultraviolet,
    )
    # Pixels of two photographs are no common measure.
    scaled = ours.facts.surface is not None and theirs.facts.surface is not None
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
    regions = differences(rgb, outline, (rgb_second, alignment))
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
        points = ours[0].points, theirs[0].points
        yield ReadOnBoth(measure, quantity, unit, 0.0, 0.0, value, unsure, *points, compared=True)


def _number(reading: Measurement, quantity: str) -> tuple[float, float] | None:
    """A number of a reading with its standard uncertainty; None where it is none."""
    value = reading.parts.get(quantity) if quantity else reading.value
    if value is None or isinstance(value, str):
        return None
    unsure = reading.parts.get(f"{quantity}_uncertainty", 0.0) if quantity else reading.uncertainty
    return float(value), float(unsure)

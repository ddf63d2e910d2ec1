"""Stage 6, measure: what every check reads on a photograph, in this process or in any other.

A ``PhotoToMeasure`` travels as a pickle: the file as it is stored, its scale and light. Nothing here knows a database.
"""

from collections.abc import Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType

import cv2
import numpy as np
from scipy.spatial.distance import pdist

from assay.contracts import Marks, Measurement, Picture, Point
from assay.errors import AssayError, CannotMeasure
from assay.imaging.opening import decode
from assay.imaging.plane import Plane
from assay.imaging.white_balance import Correction
from assay.measure.carried import CARRIED, measured_on, measured_where_carried
from assay.measure.registry import MEASURES

NEAREST_PX = 0.5
"""Two points nearer than this, px, are one put twice."""
CARRIED_UNCERTAINTY_MM = 0.6
"""Median error of a carried mark, mm (``make bench``)."""


@dataclass(frozen=True, slots=True)
class PhotoFacts:
    """What a measure must know of a photograph besides its pixels."""

    mm_per_px: float | None = None
    """In its middle."""
    doubts: tuple[str, ...] = ()
    card: tuple[Point, ...] = ()
    """Corners of a card in the picture, px."""
    surface: Plane | None = None
    """What is measured lies in it; None: measured in pixels."""
    light: Correction | None = None


@dataclass(frozen=True, slots=True)
class Task:
    """One measurement."""

    key: Hashable
    """What the answer is called."""
    measure: str
    marks: Marks
    carried: bool = False
    """Nobody has put the marks in place."""


@dataclass(frozen=True, slots=True)
class PhotoToMeasure:
    """A photograph and what to measure on it."""

    data: bytes
    """The file as it is stored."""
    facts: PhotoFacts
    tasks: tuple[Task, ...]


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a measure refused: an error's reason and numbers, which travel where the error does not."""

    reason: str
    numbers: dict[str, float | str]

    def error(self) -> AssayError:
        """The error again."""
        return AssayError(self.reason, **self.numbers)


class Session:
    """One photograph while it is measured: what several checks look at is looked at once.

    ``rgb``: (H, W, 3) uint8, upright.
    """

    def __init__(self, rgb: np.ndarray, facts: PhotoFacts) -> None:
        self.picture = Picture(rgb, facts.mm_per_px, doubts=facts.doubts, card=facts.card)
        self._facts = facts
        self._known: dict[tuple[str, Marks, bool], tuple[Marks, Measurement]] = {}

    def measure(self, task: Task) -> Measurement:
        """What the task's measure reads. Several checks judge different numbers of one measurement: it is taken once.
        Raises AssayError."""
        return self.snapped(task)[1]

    def snapped(self, task: Task) -> tuple[Marks, Measurement]:
        """The same, and the marks where they were put for it: a row's ends may move. Raises AssayError."""
        same = task.measure, task.marks, task.carried
        if same not in self._known:
            self._known[same] = self._measured(task)
        return self._known[same]

    def correct(self, task: Task, points: Sequence[Point]) -> Measurement:
        """The reading that follows from points put right by a person. Raises AssayError, CannotMeasure
        ``marks_off_picture``, ``points_on_each_other``."""
        put, (width, height) = np.asarray(points, float).reshape(-1, 2), self.picture.size
        if ((put < 0) | (put > (width - 1, height - 1))).any():
            raise CannotMeasure("marks_off_picture", width=width, height=height)
        if len(put) > 1 and pdist(put).min() < NEAREST_PX:
            raise CannotMeasure("points_on_each_other")
        return self._read(task, points)

    def _measured(self, task: Task) -> tuple[Marks, Measurement]:
        entry, facts = MEASURES[task.measure], self._facts
        marks = task.marks
        if task.carried and entry.follows_marks:
            light = facts.light if entry.true_light else None
            found = measured_where_carried(entry, self.picture, facts.surface, light, task.marks)
        elif entry.snap:
            kind = task.marks.kind
            points, found = entry.snap(lambda at: self._read(replace(task, marks=Marks(kind, tuple(at)))), marks.points)
            marks = Marks(kind, points)
        else:
            found = self._read(task)
        return marks, as_carried(found) if task.carried and entry.marks_are_measured else found

    def _read(self, task: Task, points: Sequence[Point] | None = None) -> Measurement:
        entry, facts = MEASURES[task.measure], self._facts
        light = facts.light if entry.true_light else None
        return measured_on(entry, self.picture, facts.surface, light, task.marks, points)


def measure_tasks(session: Session, tasks: Iterable[Task]) -> Iterator[tuple[Task, Measurement | AssayError]]:
    """Every task with its measurement, or with why there is none."""
    for task in tasks:
        try:
            yield task, session.measure(task)
        except AssayError as refusal:
            yield task, refusal.with_traceback(None)


def measure_photo(photo: PhotoToMeasure) -> list[tuple[Hashable, Measurement | Refusal]]:
    """The same as plain data, for another process or machine. Raises CannotOpen for a file that cannot be decoded."""
    cv2.setNumThreads(1)
    session = Session(decode(photo.data), photo.facts)
    return [(task.key, _plain(found)) for task, found in measure_tasks(session, photo.tasks)]


def _plain(found: Measurement | AssayError) -> Measurement | Refusal:
    if isinstance(found, AssayError):
        return Refusal(found.reason, dict(found.numbers))
    return replace(found, parts=dict(found.parts))


def as_carried(found: Measurement) -> Measurement:
    """Places that nobody has looked at yet: as unsure as marks are where they are carried to."""
    parts = dict(found.parts)
    if found.unit == "mm":
        unsure = float(np.hypot(found.uncertainty, CARRIED_UNCERTAINTY_MM * np.sqrt(2)))
        wider = unsure / found.uncertainty
        parts |= {name: number * wider for name, number in parts.items() if name.endswith("_uncertainty")}
        found = replace(found, uncertainty=unsure)
    return replace(found, parts=MappingProxyType(parts), doubts=(*found.doubts, CARRIED))

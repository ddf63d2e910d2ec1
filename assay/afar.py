"""Measure a photograph anywhere: everything that a reading needs as plain data, so that another process or machine
can do it.

Nothing here knows of a database. A job travels as a pickle: bytes of the photograph as it is stored, its scale and
light, and what to measure where.
"""

from collections.abc import Hashable
from dataclasses import dataclass, replace

import cv2

from assay.contracts import Marks, Measurement, Picture, Point
from assay.errors import AssayError
from assay.imaging.opening import decode
from assay.imaging.plane import Plane
from assay.imaging.white_balance import Correction
from assay.measure.carried import measured_on, measured_where_carried
from assay.measure.registry import MEASURES


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
class Job:
    """A photograph and what to measure on it."""

    data: bytes
    """The file as it is stored."""
    tasks: tuple[Task, ...]
    mm_per_px: float | None = None
    """In its middle."""
    doubts: tuple[str, ...] = ()
    card: tuple[Point, ...] = ()
    """Corners of the bench card, px."""
    plane: Plane | None = None
    """The surface that is measured; None: measured in pixels."""
    light: Correction | None = None


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a measure refused: an error's reason and numbers, which travel where the error does not."""

    reason: str
    numbers: dict


def measure_afar(job: Job) -> list[tuple[Hashable, Measurement | Refusal]]:
    """Every task's measurement, its ``parts`` as a plain dict, or why there is none. Raises CannotOpen for a file that
    cannot be decoded."""
    cv2.setNumThreads(1)
    seen = Picture(decode(job.data), job.mm_per_px, doubts=job.doubts, card=job.card)
    return [(task.key, _measured(seen, job, task)) for task in job.tasks]


def _measured(seen: Picture, job: Job, task: Task) -> Measurement | Refusal:
    measure = MEASURES[task.measure]
    light = job.light if measure.true_light else None
    try:
        read = measured_where_carried if task.carried and measure.follows_marks else measured_on
        found = read(measure, seen, job.plane, light, task.marks)
    except AssayError as refusal:
        return Refusal(refusal.reason, dict(refusal.numbers))
    return replace(found, parts=dict(found.parts))

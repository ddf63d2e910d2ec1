"""Read a value off a photograph, from a person's correction, or from what a person says."""

from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assay.contracts import Measurement, Stroke
from assay.errors import AssayError
from assay.measure.carried import measured_on, measured_where_carried
from assay.measure.registry import MEASURES
from library.models import Checkpoint
from pairs.comparisons import descriptor_kept
from pairs.models import PLACED, Marking, Pair, Photo, Reading
from pairs.pictures import correction, facing, marks, picture, plane

SAID = "said/1"
# Median error of a carried mark, mm: by the bench's table.
CARRIED_OFF_MM = 0.6
NOT_TOLD = "not-told/1"


def measure_photo(*, marking: Marking, by, done: dict | None = None) -> Reading:
    """Run the checkpoint's measure and keep what it reads; a refusal is kept as well, with its reason."""
    reading = read_photo_at(marking=marking, by=by, done=done)
    reading.save()
    return reading


def read_photo_at(*, marking: Marking, by, done: dict | None = None) -> Reading:
    """What the checkpoint's measure reads or why it refuses, not kept yet.

    ``done``: what was measured before in this run; several checks judge different numbers of one measurement.
    """
    checkpoint, photo = marking.checkpoint, marking.photo
    measure = MEASURES[checkpoint.measure]
    same = name_of(measure.name, photo, marking.points)
    try:
        carried = marking.origin == Marking.Origin.CARRIED and measure.follows_marks
        found = (done or {}).get(same) or _measured(checkpoint, photo, marking.points, carried=carried)
        if done is not None:
            done[same] = found
    except AssayError as refusal:
        found = refusal
    return reading_of(found, marking=marking, by=by)


def reading_of(found: Measurement | AssayError, *, marking: Marking, by) -> Reading:
    """What was measured at a marking, or why nothing was, as a reading that is not kept yet."""
    checkpoint, photo = marking.checkpoint, marking.photo
    if isinstance(found, AssayError):
        return refused(checkpoint=checkpoint, pair=photo.pair, photo=photo, refusal=found, by=by, marked=marking.points)
    if MEASURES[checkpoint.measure].marks_are_measured and marking.origin == Marking.Origin.CARRIED:
        found = _as_carried(found)
    read = _reading(found, checkpoint, photo, by, marking.points)
    if marking.origin == Marking.Origin.MOVED:
        read.details[PLACED] = True
    return read


def name_of(measure: str, photo: Photo, points: list) -> tuple[str, int, str]:
    """What a measurement is called among those ``done``."""
    return measure, photo.pk, str(points)


def _as_carried(found: Measurement) -> Measurement:
    """Places that nobody has looked at yet: as unsure as marks are where they are carried to."""
    parts = dict(found.parts)
    if found.unit == "mm":
        off = float(np.hypot(found.uncertainty, CARRIED_OFF_MM * np.sqrt(2)))
        wider = off / found.uncertainty
        parts |= {name: number * wider for name, number in parts.items() if name.endswith("_uncertainty")}
        found = replace(found, uncertainty=off)
    return replace(found, parts=MappingProxyType(parts), doubts=(*found.doubts, "marks_carried"))


def read_marks(*, checkpoint: Checkpoint, photo: Photo, points: list) -> Measurement:
    """What the checkpoint's measure reads there; nothing is kept. Raises CannotMeasure."""
    return _measured(checkpoint, photo, points)


def corrected(*, reading: Reading, centres: list, by) -> Reading:
    """The reading that follows from ticks or rings put right by hand, not kept yet. Raises CannotMeasure."""
    checkpoint, photo = reading.checkpoint, reading.photo
    found = _measured(checkpoint, photo, reading.marks, centres)
    # What ticks and rings say nothing of, such as a second row, stays as it was read.
    found = replace(found, parts=MappingProxyType({**reading.parts, **found.parts}))
    return _reading(found, checkpoint, photo, by, reading.marks, corrects=reading)


def _measured(
    checkpoint: Checkpoint, photo: Photo, points: list, *put_right: list, carried: bool = False
) -> Measurement:
    """On the straightened surface where its scale is known, otherwise on the photograph as it is. ``carried``: nobody
    has put the marks in place."""
    measure, drawn = MEASURES[checkpoint.measure], marks(checkpoint, points)
    given = (picture(photo), plane(photo), correction(photo) if measure.true_light else None)
    if not carried:
        return measured_on(measure, *given, drawn, *put_right)
    return measured_where_carried(measure, *given, drawn)


def say(*, checkpoint: Checkpoint, pair: Pair, value: str, method: str, by, corrects: Reading | None = None) -> Reading:
    """Keep what a person answered or counted."""
    unit = MEASURES[checkpoint.measure].unit if checkpoint.measure else "answer"
    return Reading.objects.create(
        pair=pair, checkpoint=checkpoint, value=value, unit=unit, method=method, taken_by=by, corrects=corrects
    )


def refuse(**why) -> Reading:
    """Keep the reason why there is no value, as ``refused`` takes it."""
    reading = refused(**why)
    reading.save()
    return reading


def refused(
    *, checkpoint: Checkpoint, pair: Pair, refusal: AssayError, by, photo: Photo | None = None, marked=()
) -> Reading:
    """A reading that says why there is no value, not kept yet."""
    return Reading(
        pair=pair,
        checkpoint=checkpoint,
        photo=photo,
        taken_by=by,
        marks=list(marked),
        method=MEASURES[checkpoint.measure].method if checkpoint.measure else checkpoint.paper or NOT_TOLD,
        refusal={"reason": refusal.reason, **refusal.numbers},
    )


def _reading(found: Measurement, checkpoint, photo, by, marked, corrects=None) -> Reading:
    return Reading(
        pair=photo.pair,
        checkpoint=checkpoint,
        photo=photo,
        details={},
        corrects=corrects,
        value=found.value,
        unit=found.unit,
        uncertainty=found.uncertainty,
        method=found.method,
        marks=marked,
        parts={name: float(number) for name, number in found.parts.items()},
        overlay=[stroke_kept(stroke) for stroke in found.overlay],
        descriptor=descriptor_kept(found, facing(photo), photo.lamp),
        doubts=list(found.doubts),
        taken_by=by,
    )


def stroke_kept(stroke: Stroke) -> dict:
    """A stroke as it is stored, to a hundredth of a pixel."""
    points = np.round(stroke.points, 2).tolist()
    return {"kind": stroke.kind, "points": points, "label": stroke.label, "radius_px": round(stroke.radius_px, 2)}

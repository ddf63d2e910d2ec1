"""Keep what a person says of a check, or why there is no value."""

import numpy as np

from assay.contracts import Stroke
from assay.errors import AssayError
from assay.measure.registry import MEASURES
from library.models import Checkpoint
from pairs.models import Pair, Photo, Reading

SAID = "said/1"
NOT_TOLD = "not-told/1"


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


def stroke_kept(stroke: Stroke) -> dict:
    """A stroke as it is stored, to a hundredth of a pixel."""
    points = np.round(stroke.points, 2).tolist()
    return {"kind": stroke.kind, "points": points, "label": stroke.label, "radius_px": round(stroke.radius_px, 2)}

"""Marks put where the measure itself finds what they are for: the ends of a row."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from assay.contracts import Measurement, Point, Stroke, StrokeKind
from assay.errors import CannotMeasure

Read = Callable[[Sequence[Point]], Measurement]
"""Reads a measure at marks, picture pixels; raises CannotMeasure."""
ROUNDS = 4
GOES_ON, ENDS_EARLY = "row_goes_on", "row_ends_early"
MOST_ADDED, MOST_MOVED = 2, 1.1
"""Stitches that snapping adds at most, one an end, and pitches that it moves an end by."""
SURE = 0.3
"""Below this uncertainty of a count nothing is left to be put right."""


def refined_row(read: Read, points: Sequence[Point]) -> tuple[tuple[Point, ...], Measurement]:
    """A row's path from half a stitch before its first to half a one past its last, and what is read there. Raises
    CannotMeasure where no row is found at ``points``."""
    best = tuple(points), read(points)
    path, reading = best
    for _ in range(ROUNDS):
        if best[1].uncertainty < SURE and not {GOES_ON, ENDS_EARLY} & set(best[1].doubts):
            break
        further = _through(reading, further=GOES_ON in reading.doubts)
        if further is None:
            break
        path = further
        try:
            reading = read(path)
        except CannotMeasure:
            break
        if _merit(reading) <= _merit(best[1]) and not {GOES_ON, ENDS_EARLY} & set(reading.doubts):
            break
        best = max(best, (path, reading), key=lambda one: _merit(one[1]))
    return best


def _merit(reading: Measurement) -> tuple[bool, float]:
    return not {GOES_ON, ENDS_EARLY} & set(reading.doubts), -reading.uncertainty


def _through(reading: Measurement, *, further: bool) -> tuple[Point, ...] | None:
    """A path through the stitches as they were found; ``further``: with room for two more at either end."""
    middles = np.array([np.mean(stroke.points, axis=0) for stroke in reading.overlay if _is_stitch(stroke)])
    if len(middles) < 4:
        return None
    step = float(np.median(np.hypot(*np.diff(middles, axis=0).T)))
    ends = [_beyond(middles[:4], step, further=further), _beyond(middles[:-5:-1], step, further=further)]
    path = np.vstack([ends[0], middles, ends[1]])
    return tuple((float(x), float(y)) for x, y in np.round(path, 2))


def _is_stitch(stroke: Stroke) -> bool:
    return stroke.kind is StrokeKind.TICK and stroke.label.isdecimal()


def _beyond(middles: np.ndarray, step: float, *, further: bool) -> np.ndarray:
    out = middles[0] - middles[-1]
    return middles[0] + out / np.hypot(*out) * step * (2.5 if further else 0.5)


def snapped_row(read: Read, points: Sequence[Point]) -> tuple[tuple[Point, ...], Measurement]:
    """The path as drawn and what it reads. Where the row goes on past an end by less than a stitch, the path through
    the complete row instead: under a path from the first stitch's middle to the last one's, or one carried along it.

    A path that was meant to end within a row stays: its row goes on by more. Where the row also ended before the path
    did, a worn stitch may be missed there, not the path be off: the count stays as unsure as it was, with that doubt.
    Raises CannotMeasure.
    """
    drawn = tuple(points)
    reading = read(drawn)
    if GOES_ON not in reading.doubts and ENDS_EARLY not in reading.doubts:
        return drawn, reading
    path, complete = refined_row(lambda at: reading if tuple(at) == drawn else read(at), drawn)
    added = float(complete.value) - float(reading.value)
    step = float(np.median(np.hypot(*np.diff(np.array(path), axis=0).T)))
    moved = max(float(np.hypot(*np.subtract(path[end], drawn[end]))) for end in (0, -1))
    is_complete = not {GOES_ON, ENDS_EARLY} & set(complete.doubts)
    if not is_complete or not 0 < added <= MOST_ADDED or moved > MOST_MOVED * step:
        return drawn, reading
    if ENDS_EARLY in reading.doubts:
        unsure = max(complete.uncertainty, reading.uncertainty)
        complete = replace(complete, uncertainty=unsure, doubts=(*complete.doubts, ENDS_EARLY))
    return path, complete

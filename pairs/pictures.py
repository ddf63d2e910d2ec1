"""From what is stored to what the core works on."""

from functools import lru_cache

from assay.contracts import MarkKind, Marks, Picture
from assay.measure.registry import MEASURES
from assay.photo.opening import decode
from pairs.models import Photo


@lru_cache(maxsize=4)
def _pixels(path: str):
    with open(path, "rb") as stored:  # noqa: PTH123 - a plain local file, read whole
        return decode(stored.read())


def picture(photo: Photo) -> Picture:
    """The photograph as the core takes it. The last few are kept decoded: the files never change."""
    doubts = (*photo.fitness.get("retake", ()), *photo.fitness.get("doubts", ()))
    return Picture(_pixels(photo.full.path), photo.mm_per_px, doubts=doubts)


def marks(checkpoint, points) -> Marks:
    """Stored points as the core's marks."""
    kind: MarkKind = MEASURES[checkpoint.measure].marks
    return Marks(kind, tuple((float(x), float(y)) for x, y in points))

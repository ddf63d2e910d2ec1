"""Put a checkpoint's marks onto a photograph: drawn, carried over, or moved by hand."""

from collections.abc import Iterable

from assay.errors import CannotMeasure
from assay.register.affine import Alignment
from library.models import Checkpoint
from pairs.models import Marking, Photo
from pairs.pictures import marks


def mark_photo(**where) -> Marking:
    """Keep marks, as ``marked`` takes them. Raises CannotMeasure."""
    marking = marked(**where)
    keep_markings([marking])
    return marking


def marked(*, checkpoint: Checkpoint, photo: Photo, points: list, origin: str) -> Marking:
    """Marks, not kept yet; raises CannotMeasure where they lie off the picture or are too small to be marks."""
    marking = Marking(checkpoint=checkpoint, photo=photo, points=points, origin=origin)
    _checked(marking)
    return marking


def carry_markings(*, drawn: Iterable[Marking], photo: Photo, alignment: Alignment) -> list[Marking | CannotMeasure]:
    """Carry marks drawn on a reference photograph over to another one; for those that cannot be, why not."""
    carried = carried_markings(drawn=drawn, photo=photo, alignment=alignment)
    keep_markings([one for one in carried if isinstance(one, Marking)])
    return carried


def carried_markings(*, drawn: Iterable[Marking], photo: Photo, alignment: Alignment) -> list[Marking | CannotMeasure]:
    """As ``carry_markings``, not kept yet."""
    return [_carried(one, photo, alignment) for one in drawn]


def _carried(drawn: Marking, photo: Photo, alignment: Alignment) -> Marking | CannotMeasure:
    there = alignment.carry(marks(drawn.checkpoint, drawn.points), (photo.width, photo.height))
    points = [list(point) for point in there.points]
    marking = Marking(checkpoint=drawn.checkpoint, photo=photo, points=points, origin=Marking.Origin.CARRIED)
    try:
        _checked(marking)
    except CannotMeasure as refusal:
        return refusal
    return marking


def _checked(marking: Marking) -> None:
    marks(marking.checkpoint, marking.points).checked((marking.photo.width, marking.photo.height))


def keep_markings(markings: list[Marking]) -> None:
    """Keep them instead of those that were there.

    One statement, where update_or_create takes five for each: a run marks dozens.
    """
    Marking.objects.bulk_create(
        markings, update_conflicts=True, unique_fields=["checkpoint", "photo"], update_fields=["points", "origin"]
    )

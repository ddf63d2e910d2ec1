"""Put a checkpoint's annotation onto a photograph: drawn, or moved by hand."""

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


def _checked(marking: Marking) -> None:
    marks(marking.checkpoint, marking.points).checked((marking.photo.width, marking.photo.height))


def keep_markings(markings: list[Marking]) -> None:
    """Keep them instead of those that were there.

    One statement, where update_or_create takes five for each: a run marks dozens.
    """
    Marking.objects.bulk_create(
        markings, update_conflicts=True, unique_fields=["checkpoint", "photo"], update_fields=["points", "origin"]
    )

"""Put a checkpoint's marks onto a photograph: drawn, carried over, or moved by hand."""

from assay.photo.align import Alignment
from library.models import Checkpoint
from pairs.models import Marking, Photo
from pairs.pictures import marks


def mark_photo(*, checkpoint: Checkpoint, photo: Photo, points: list, origin: str) -> Marking:
    """Keep marks; raises CannotMeasure where they lie off the picture or are too small to be marks."""
    marks(checkpoint, points).checked((photo.width, photo.height))
    marking = Marking(checkpoint=checkpoint, photo=photo, points=points, origin=origin)
    # One statement, where update_or_create takes five: a run marks dozens.
    return Marking.objects.bulk_create(
        [marking], update_conflicts=True, unique_fields=["checkpoint", "photo"], update_fields=["points", "origin"]
    )[0]


def carry_marking(*, drawn: Marking, photo: Photo, alignment: Alignment) -> Marking:
    """Carry marks drawn on a reference photograph over to another one."""
    carried = alignment.carry(marks(drawn.checkpoint, drawn.points), (photo.width, photo.height))
    points = [list(point) for point in carried.points]
    return mark_photo(checkpoint=drawn.checkpoint, photo=photo, points=points, origin=Marking.Origin.CARRIED)

"""Stages 4 and 5, align and place: how retail's photograph lies on this one, and where its annotations come to lie."""

from collections.abc import Iterable

from assay.contracts import Marks
from assay.errors import CannotMeasure
from assay.register.affine import Alignment, align
from assay.register.features import Features


def align_photos(reference: Features, photo: Features, *, close_up: bool) -> Alignment:
    """How the reference lies on the photograph. Raises CannotAlign."""
    return align(reference, photo, close_up=close_up)


def place_marks(drawn: Iterable[Marks], alignment: Alignment, size: tuple[int, int]) -> list[Marks | CannotMeasure]:
    """What was drawn on the reference, carried over to a photograph of this width and height; or why it cannot be."""
    return [_placed(marks, alignment, size) for marks in drawn]


def _placed(marks: Marks, alignment: Alignment, size: tuple[int, int]) -> Marks | CannotMeasure:
    carried = alignment.carry(marks, size)
    try:
        carried.checked(size)
    except CannotMeasure as refusal:
        return refusal
    return carried

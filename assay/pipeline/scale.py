"""Stage 2, scale: millimetres and true colour from the card, or from a fixed stand; held against retail's scale."""

from dataclasses import dataclass, replace

import numpy as np

from assay.errors import AssayError, CannotMeasure
from assay.imaging.plane import CameraModel, Plane, scaled, too_long_by
from assay.pipeline.facts import PhotoLight, Scale, rows_of, scale_of
from assay.pipeline.open import OpenedPhoto
from assay.register.affine import Alignment

STAND_RELATIVE = 0.01
"""Relative standard uncertainty of a fixed stand's scale: it is read off a ruler once, and the shoe then stands a
little nearer or further."""
SCALES_DISAGREE = 0.05
"""Share by which two scales may differ before one of them is doubted: copies are up to 3 % larger or smaller (common
practice, no source); a card on the table beside a shoe on its side makes 10 to 12 %."""
ALIGNED_TO = {"features": 0.005, "landmarks": 0.015, "nudged": 0.015, "appearance": 0.02}
"""Relative standard uncertainty of the size that an alignment tells, by how it was made. Assumed. Any other tells
none."""


@dataclass(frozen=True, slots=True)
class ScaledPhoto:
    """How large a photograph shows things, and in what light."""

    scale: Scale
    light: PhotoLight
    mm_per_px: float | None
    """In the middle of the picture."""


def scale_photo(
    opened: OpenedPhoto, camera: CameraModel, *, bar_mm: float, stand_mm_per_px: float | None
) -> ScaledPhoto:
    """Scale and light by the card in the picture, else by the stand's known scale, else the reason why not."""
    light = (
        PhotoLight(refusal=opened.light.reason) if isinstance(opened.light, AssayError) else PhotoLight.of(opened.light)
    )
    card = opened.card
    if isinstance(card, CannotMeasure):
        if not stand_mm_per_px:
            return ScaledPhoto(Scale(refusal=card.reason), light, None)
        plane = scaled(stand_mm_per_px, STAND_RELATIVE, "stand")
        return ScaledPhoto(Scale("stand", rows_of(plane.matrix), STAND_RELATIVE), light, stand_mm_per_px)
    found = scale_of(card.plane, camera, card.corners_px)
    scale = replace(found, doubts=tuple(card.doubts), bar_mm=bar_mm)
    width, height = opened.pyramid.size
    return ScaledPhoto(scale, light, card.plane.mm_per_px(((width - 1) / 2, (height - 1) / 2)))


def hold_against_retail(
    scale: Scale,
    surfaces: tuple[Plane | None, Plane | None],
    alignment: Alignment,
    box: tuple[int, int, int, int],
    grown: float | None,
) -> Scale:
    """The scale with what it makes of the shoe's size beside retail's: one shoe cannot have two sizes.

    ``surfaces``: retail's and the photograph's own; ``box``: x, y, width, height in px of what retail's photograph
    shows; ``grown``: how many times as long as retail's shoe this one should be, None where that is not known.
    """
    retail, own = surfaces
    if retail is None or own is None or grown is None or alignment.how not in ALIGNED_TO:
        return scale.disagreeing(None)
    x, y, width, height = box
    about = np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]], float)
    factor = too_long_by(alignment.matrix, (retail, own), about) / grown
    unsure = 2 * float(np.sqrt(relative_of(retail) ** 2 + relative_of(own) ** 2 + ALIGNED_TO[alignment.how] ** 2))
    return scale.disagreeing(round(factor, 4) if abs(np.log(factor)) > max(SCALES_DISAGREE, unsure) else None)


def relative_of(plane: Plane) -> float:
    """Relative standard uncertainty of lengths where it rests on."""
    return plane.relative_at(plane.corners.px.mean(0)) if plane.corners else plane.relative_uncertainty

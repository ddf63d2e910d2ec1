"""Hold a photograph's scale against the verified pair's that it is aligned with: one shoe cannot have two sizes."""

import numpy as np

from assay.imaging.plane import Plane, too_long_by
from assay.paperwork.size_rule import carried
from assay.paperwork.sizes import Group
from assay.register.affine import Alignment
from library.known_views import views
from pairs.known import size_of
from pairs.models import Photo
from pairs.pictures import surface

SCALES_DISAGREE = 0.05
"""Share by which two scales may differ before one of them is doubted: copies are up to 3 % larger or smaller (common
practice, no source); a card on the table beside a shoe on its side makes 10 to 12 %."""
TELLING = ("features", "landmarks", "nudged", "appearance")
"""How a photograph is aligned where that tells its size."""
ALIGNED_TO = {"features": 0.005, "landmarks": 0.015, "nudged": 0.015, "appearance": 0.02}
"""Relative standard uncertainty of the size that an alignment tells, by how it was made. Assumed."""


def hold_scale_against(photo: Photo, reference: Photo, alignment: Alignment) -> None:
    """Note on ``photo``, which is not saved, where its scale says that the shoe is not as large as retail's: the card
    lay nearer or further than the measured side, on one of the two photographs.

    Called whenever a photograph is aligned or one of the two scales changes.
    """
    photo.scale = {name: value for name, value in photo.scale.items() if name != "too_long_by"}
    photo.scale["doubts"] = [doubt for doubt in photo.scale.get("doubts", ()) if doubt != "scale_disagrees"]
    planes, grown = (surface(reference), surface(photo)), _grown(reference, photo)
    if not all(planes) or grown is None or not photo.foot or alignment.how not in TELLING:
        return
    factor = too_long_by(alignment.matrix, planes, _about(reference)) / grown
    unsure = 2 * float(np.sqrt(sum(_relative(one) ** 2 for one in planes) + ALIGNED_TO[alignment.how] ** 2))
    if abs(np.log(factor)) > max(SCALES_DISAGREE, unsure):
        photo.scale["too_long_by"] = round(factor, 4)
        photo.scale["doubts"] = [*photo.scale["doubts"], "scale_disagrees"]


def _relative(plane: Plane) -> float:
    """Relative standard uncertainty of lengths where it rests on."""
    return plane.relative_at(plane.corners.px.mean(0)) if plane.corners else plane.relative_uncertainty


def _about(reference: Photo) -> np.ndarray:
    """(4, 2) corners of what the reference shows, px."""
    x, y, width, height = reference.guess.get("box") or (0, 0, reference.width, reference.height)
    return np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]], float)


def _grown(reference: Photo, photo: Photo) -> float | None:
    """How many times as long as the reference's shoe this one should be by its size; None where sizes are not known, or
    where a part fills the picture that may keep its size."""
    sizes, release = (size_of(reference.pair.size_us), size_of(photo.pair.size_us)), photo.pair.release
    known = views().get(photo.view)
    if known is not None and known.close_up:
        return 1.0 if sizes[0] == sizes[1] and sizes[0] is not None else None
    return carried(1.0, {"rule": "length"}, *sizes, Group(release.group))

"""Take in one photograph of a pair."""

from django.core.files.base import ContentFile
from django.db import transaction

from assay.errors import CannotOpen
from assay.photo.fitness import judge_fitness
from assay.photo.opening import Opened, open_photo
from pairs.models import Pair, Photo


def add_photo(
    *, pair: Pair, data: bytes, view: str, foot: str, by, name: str = "", mm_per_px: float | None = None
) -> Photo:
    """Open, check, strip and store a photograph. Raises CannotOpen; ``same_file`` where it is there already."""
    opened = open_photo(data)
    already = pair.photos.filter(sha256=opened.sha256).first()
    if already:
        raise CannotOpen("same_file", view=already.get_view_display(), foot=already.get_foot_display())
    height, width = opened.rgb.shape[:2]
    photo = Photo(
        pair=pair,
        view=view,
        foot=foot,
        width=width,
        height=height,
        sha256=opened.sha256,
        name_given=name[:120],
        mm_per_px=mm_per_px,
        fitness=_fitness(opened),
        taken_at=opened.taken_at.isoformat() if opened.taken_at else "",
        added_by=by,
    )
    with transaction.atomic():
        photo.full.save("full.jpg", ContentFile(opened.stored), save=False)
        photo.preview.save("preview.jpg", ContentFile(opened.preview), save=False)
        photo.save()
    return photo


def _fitness(opened: Opened) -> dict:
    fit = judge_fitness(opened.rgb)
    return {
        "verdict": fit.fitness.value,
        "doubts": list(fit.doubts),
        "retake": list(fit.retake),
        "numbers": dict(fit.numbers),
    }

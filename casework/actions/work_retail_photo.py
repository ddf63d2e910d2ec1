"""What a guide writer puts right on one photograph of a library pair: the same closed list as on a case's."""

from django.db import transaction

from assay.contracts import CONFIRMED_BY_EYE, CORRECTED_BY_HAND
from assay.errors import AssayError
from casework.actions.keep_pair import grade_again, must_be_kept
from casework.actions.work_photo import read_again, rescaled
from casework.ledger import note_of_organisation
from casework.models import Case
from library.models import Checkpoint, Foot
from library.photo_kinds import kinds_by_key
from library.writers import MAY_CHECK, must
from pairs.actions.check_scale import hold_scale_against
from pairs.actions.compare_feet import compare_feet
from pairs.actions.scale_photo import scale_by_id1, scale_by_points, set_height, set_neutral
from pairs.actions.take_reading import SAID
from pairs.models import PLACED, Photo, PhotoAlignment, Reading
from pairs.queries import alignment_kept, latest_readings

MOST_COUNT = 10_000


def sort_retail_photo(*, photo: Photo, user, view: str, foot: str) -> None:
    """Say what it shows. Raises AssayError ``not_allowed``, ``no_such_view``."""
    _must(photo, user)
    if view not in kinds_by_key() or (foot not in Foot.values and kinds_by_key()[view].feet):
        raise AssayError("no_such_view")
    photo.view, photo.foot = view, foot if kinds_by_key()[view].feet else ""
    photo.sorted_by, photo.set_aside = Photo.SortedBy.PERSON, False
    _keep(photo, user, "view", "foot", "sorted_by", "set_aside", action="retail_photo_sorted")


def set_retail_photo_aside(*, photo: Photo, user, aside: bool) -> None:
    """Keep it, but do not use it; or use it again. Raises AssayError ``not_allowed``."""
    _must(photo, user)
    photo.set_aside = aside
    _keep(photo, user, "set_aside", action="retail_photo_set_aside")


def scale_retail_photo(*, photo: Photo, user, points: list, lengths_mm: list[float]) -> None:
    """Two points and their distance, or four corners of a rectangle. Raises CannotMeasure, AssayError
    ``not_allowed``."""
    _must(photo, user)
    scale_by_points(photo=photo, points=points, lengths_mm=lengths_mm)
    _rescale(photo, user)


def scale_retail_photo_by_id1(*, photo: Photo, user) -> None:
    """A bank card lies in the picture. Raises CannotMeasure ``no_id1_card``, AssayError ``not_allowed``."""
    _must(photo, user)
    scale_by_id1(photo=photo)
    _rescale(photo, user)


def set_retail_photo_height(*, photo: Photo, user, above_mm: float, unknown_mm: float) -> None:
    """How far the measured side lies above the card. Raises CannotMeasure, AssayError ``not_allowed``."""
    _must(photo, user)
    set_height(photo=photo, above_mm=above_mm, unknown_mm=unknown_mm)
    _rescale(photo, user)


def set_retail_photo_neutral(*, photo: Photo, user, points: list, tile: bool = False) -> None:
    """One place on it is neutral, or the shop's grey ``tile``. Raises CannotMeasure ``neutral_not_usable``, AssayError
    ``one_place``, ``no_grey_tile``, ``not_allowed``."""
    _must(photo, user)
    if len(points) != 1:
        raise AssayError("one_place", got=len(points))
    set_neutral(photo=photo, at=tuple(points[0]), tile=tile)
    _keep(photo, user, "light", action="retail_photo_lit")


def set_retail_photo_lamp(*, photo: Photo, user, lamp: str, away_mm: int | None) -> None:
    """Which UV lamp it was taken by, and from how far. Raises AssayError ``not_allowed``."""
    _must(photo, user)
    photo.lamp, photo.lamp_mm = lamp, away_mm
    _keep(photo, user, "lamp", "lamp_mm", action="retail_photo_lamp")


def prefer_retail_photo(*, photo: Photo, user) -> None:
    """Of several photographs of one view, this one is used. Raises AssayError ``not_sorted``, ``not_allowed``."""
    _must(photo, user)
    if not photo.view:
        raise AssayError("not_sorted")
    photo.pair.photos.filter(view=photo.view, foot=photo.foot).update(preferred=False)
    photo.preferred, photo.set_aside = True, False
    _keep(photo, user, "preferred", "set_aside", action="retail_photo_preferred")


def confirm_retail_count(*, photo: Photo, checkpoint: Checkpoint, user) -> None:
    """A person looked at a count of a library pair and stands by it. Raises AssayError ``nothing_to_confirm``,
    ``not_allowed``."""
    _must(photo, user)
    known = _count_on(photo, checkpoint)
    if known is None or known.value is None:
        raise AssayError("nothing_to_confirm")
    names = [field.attname for field in Reading._meta.concrete_fields if field.name not in ("id", "taken_at")]
    seen = Reading(**{name: getattr(known, name) for name in names})
    seen.corrects, seen.taken_by, seen.uncertainty = known, user, 0.0
    seen.parts = {name: 0.0 if name == f"{checkpoint.quantity}_uncertainty" else n for name, n in known.parts.items()}
    seen.descriptor = known.descriptor and {**known.descriptor, "count_uncertainty": 0.0}
    seen.doubts = [*known.doubts, CONFIRMED_BY_EYE]
    seen.details = {**known.details, PLACED: True}
    _keep_count(photo, seen, user, "retail_count_confirmed", checkpoint)


def correct_retail_count(*, photo: Photo, checkpoint: Checkpoint, user, value: str) -> None:
    """A person counted themselves. Raises AssayError ``not_a_count``, ``not_allowed``."""
    _must(photo, user)
    if not value.isdecimal() or int(value) > MOST_COUNT:
        raise AssayError("not_a_count")
    known = _count_on(photo, checkpoint)
    counted = Reading(
        pair=photo.pair,
        checkpoint=checkpoint,
        photo=photo,
        corrects=known,
        value=int(value),
        unit="count",
        method=SAID,
        marks=known.marks if known else [],
        parts={checkpoint.quantity: int(value)} if checkpoint.quantity else {},
        doubts=[CORRECTED_BY_HAND],
        details={PLACED: True},
        taken_by=user,
    )
    _keep_count(photo, counted, user, "retail_count_corrected", checkpoint)


def _must(photo: Photo, user) -> None:
    must(user, MAY_CHECK)
    must_be_kept(photo.pair)


def _count_on(photo: Photo, checkpoint: Checkpoint) -> Reading | None:
    return latest_readings([photo.pair], checkpoints=[checkpoint]).get((photo.pair_id, checkpoint.pk))


def _keep_count(photo: Photo, reading: Reading, user, action: str, checkpoint: Checkpoint) -> None:
    with transaction.atomic():
        reading.save()
        compare_feet(pair=photo.pair)
        note_of_organisation(photo.pair.organisation, user, action, pair=photo.pair.label, checkpoint=checkpoint.key)
        grade_again(photo.pair)


def _rescale(photo: Photo, user) -> None:
    """Hold the new scale against the pair that the photograph was aligned with, and those aligned with it against the
    new scale."""
    known = PhotoAlignment.objects.filter(photo=photo).select_related("reference__pair").order_by("pk").first()
    if known is not None:
        hold_scale_against(photo, known.reference, alignment_kept(known))
    _keep(photo, user, "scale", "mm_per_px", action="retail_photo_scaled")
    open_cases = Case.objects.filter(signed_at=None, discarded_at=None, reference=photo.pair_id)
    for case in open_cases.select_related("pair__release", "organisation", "reference"):
        for other in case.pair.photos.filter(alignments__reference=photo):
            rescaled(case, other, user)


def _keep(photo: Photo, user, *fields: str, action: str) -> None:
    """Write what was changed, and all that is measured on it anew. Measuring is done before anything is written."""
    again = read_again(photo, user, ())
    with transaction.atomic():
        photo.save(update_fields=list(fields))
        for reading in again:
            reading.save()
        note_of_organisation(photo.pair.organisation, user, action, pair=photo.pair.label, photo=photo.pk)
        if photo.markings.exists():
            compare_feet(pair=photo.pair)
            grade_again(photo.pair)

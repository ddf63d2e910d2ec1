"""What a checker does to one photograph of a case: sort it, set it aside, give it a scale, lay it on by hand."""

from collections.abc import Callable

import numpy as np
from django.db import transaction

from assay.contracts import CONFIRMED_BY_EYE, CORRECTED_BY_HAND
from assay.errors import AssayError, CannotAlign, CannotMeasure
from assay.register.affine import Alignment, by_landmarks
from casework.actions.analyse_case import inscribe_codes, request_analysis
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case
from library.models import Foot
from library.photo_kinds import keys_where, kinds_by_key
from pairs.actions.align_photo import keep_alignment
from pairs.actions.check_scale import hold_scale_against
from pairs.actions.mark_photo import keep_markings
from pairs.actions.scale_photo import scale_by_id1, scale_by_points, set_height, set_neutral
from pairs.models import Marking, Photo, Reading
from pairs.pipeline import correct_reading, measure_markings, place_markings, read_codes
from pairs.queries import alignment_of, beside, latest_readings, photos_in_use
from pairs.sent_again import refuse_if_retails_own

MOST_NUDGE_SHARE = 0.25


def sort_photo(*, case: Case, photo: Photo, user, view: str, foot: str) -> None:
    """Say what a photograph shows. Raises AssayError ``no_such_view``."""
    if view not in kinds_by_key() or (foot not in Foot.values and kinds_by_key()[view].feet):
        raise AssayError("no_such_view")
    photo.view, photo.foot = view, foot if kinds_by_key()[view].feet else ""
    photo.sorted_by, photo.set_aside = Photo.SortedBy.PERSON, False
    # Before anything is written: nobody else waits for the decoding.
    if unread := view in keys_where(codes=True) and photo.state == Photo.State.READ and not photo.codes:
        read_codes(photo)
    if photo.state == Photo.State.READ:
        refuse_if_retails_own(photo)
    with transaction.atomic():
        photo.save(update_fields=["view", "foot", "sorted_by", "set_aside", "fitness"])
        if unread:
            inscribe_codes(case, user)
            regrade(case)
        note(case, user, "photo_sorted", photo=photo.pk, view=view, foot=photo.foot)
    request_analysis(case=case, user=user)


def set_photo_aside(*, case: Case, photo: Photo, user, aside: bool) -> None:
    """Keep it, but do not use it; or use it again."""
    with transaction.atomic():
        photo.set_aside = aside
        photo.save(update_fields=["set_aside"])
        note(case, user, "photo_set_aside" if aside else "photo_taken_back", photo=photo.pk)
        regrade(case)
    request_analysis(case=case, user=user)


def scale_photo(*, case: Case, photo: Photo, user, points: list, lengths_mm: list[float]) -> None:
    """Two points and their distance, or four corners of a rectangle. Raises CannotMeasure."""
    scale_by_points(photo=photo, points=points, lengths_mm=lengths_mm)
    rescaled(case, photo, user)


def scale_photo_by_id1(*, case: Case, photo: Photo, user) -> None:
    """A bank card lies in the picture. Raises CannotMeasure ``no_id1_card``."""
    scale_by_id1(photo=photo)
    rescaled(case, photo, user)


def set_photo_height(*, case: Case, photo: Photo, user, above_mm: float, unknown_mm: float) -> None:
    """How far the measured side lies above the card. Raises CannotMeasure."""
    set_height(photo=photo, above_mm=above_mm, unknown_mm=unknown_mm)
    rescaled(case, photo, user)


def set_photo_neutral(*, case: Case, photo: Photo, user, points: list, tile: bool = False) -> None:
    """One place on it is neutral, or the shop's grey ``tile``. Raises CannotMeasure ``neutral_not_usable``, AssayError
    ``one_place``, ``no_grey_tile``."""
    if len(points) != 1:
        raise AssayError("one_place", got=len(points))
    set_neutral(photo=photo, at=tuple(points[0]), tile=tile)
    _keep(case, photo, user, _saved(photo, "light"), "photo_lit")


def set_photo_lamp(*, case: Case, photo: Photo, user, lamp: str, away_mm: int | None) -> None:
    """Which UV lamp it was taken by, and from how far: only photographs under one kind of lamp are compared."""
    photo.lamp, photo.lamp_mm = lamp, away_mm
    _keep(case, photo, user, _saved(photo, "lamp", "lamp_mm"), "photo_lamp", lamp=lamp)


def prefer_photo(*, case: Case, photo: Photo, user) -> None:
    """Of several photographs of one view, this one is used. Raises AssayError ``not_sorted``."""
    if not photo.view:
        raise AssayError("not_sorted")
    with transaction.atomic():
        case.pair.photos.filter(view=photo.view, foot=photo.foot).update(preferred=False)
        photo.preferred, photo.set_aside = True, False
        photo.save(update_fields=["preferred", "set_aside"])
        note(case, user, "photo_preferred", photo=photo.pk)
        regrade(case)
    request_analysis(case=case, user=user)


def lay_by_landmarks(*, case: Case, photo: Photo, user, ours: list, theirs: list) -> None:
    """Three or more places that are the same on both pictures. ``ours``: on this photograph. Raises CannotAlign."""
    _relay(case, photo, user, by_landmarks(theirs, ours))


def nudge(*, case: Case, photo: Photo, user, moved_px: tuple[float, float]) -> None:
    """The photograph was moved over the reference by some of the reference's pixels. Raises CannotAlign."""
    reference = beside(photos_in_use(case.reference), photo.view, photo.foot)
    known = alignment_of(reference, photo) if reference else None
    if known is None:
        raise CannotAlign("nothing_to_nudge")
    longest = max(reference.width, reference.height)
    if not np.isfinite(moved_px).all() or max(map(abs, moved_px)) > MOST_NUDGE_SHARE * longest:
        raise CannotAlign("nudge_too_far")
    _relay(case, photo, user, known.nudged(moved_px))


def _relay(case: Case, photo: Photo, user, alignment: Alignment) -> None:
    reference = beside(photos_in_use(case.reference), photo.view, photo.foot)
    if reference is None:
        raise CannotAlign("nothing_drawn")
    hold_scale_against(photo, reference, alignment)
    moved = photo.markings.filter(origin=Marking.Origin.MOVED).values_list("checkpoint_id", flat=True)
    ours = reference.markings.filter(checkpoint__foot=photo.foot).exclude(checkpoint__in=list(moved))
    carried = place_markings(drawn=ours.select_related("checkpoint"), photo=photo, alignment=alignment)
    if refused := [one for one in carried if isinstance(one, CannotMeasure)]:
        raise refused[0]

    def write() -> None:
        photo.save(update_fields=["scale"])
        keep_alignment(reference=reference, photo=photo, alignment=alignment, by=user)
        keep_markings(carried)

    _keep(case, photo, user, write, "laid_on", carried, how=alignment.how)


def rescaled(case: Case, photo: Photo, user) -> None:
    """Hold a photograph's scale against the reference's anew, and keep what is then measured on it."""
    reference = beside(photos_in_use(case.reference), photo.view, photo.foot) if photo.view else None
    if known := alignment_of(reference, photo) if reference else None:
        hold_scale_against(photo, reference, known)
    _keep(case, photo, user, _saved(photo, "scale", "mm_per_px"), "photo_scaled", source=photo.scale.source)


def _saved(photo: Photo, *fields: str) -> Callable:
    return lambda: photo.save(update_fields=fields)


def _keep(case: Case, photo: Photo, user, write: Callable, action: str, carried=(), **told) -> None:
    """Write what was changed on a photograph, and all that is measured on it anew.

    Nobody waits for the measuring: it is done before anything is written, and again where marks were moved meanwhile.
    """
    while True:
        known = _marks_on(photo)
        again = read_again(photo, user, carried)
        with transaction.atomic():
            if _marks_on(photo) != known:
                continue
            write()
            for reading in again:
                reading.save()
            regrade(case)
            note(case, user, action, photo=photo.pk, **told)
            return


def _marks_on(photo: Photo) -> list:
    return list(photo.markings.order_by("pk").values_list("checkpoint", "points", "origin"))


def read_again(photo: Photo, user, carried) -> list[Reading]:
    """Every check on a photograph, as it would read now; nothing is kept. What was corrected by hand keeps its ticks.

    ``carried``: marks that are about to take the place of those there; marks moved by hand are then left as they are.
    """
    readings = latest_readings([photo.pair])
    markings = {one.checkpoint_id: one for one in photo.markings.select_related("checkpoint")}
    if carried:
        markings = {key: one for key, one in markings.items() if one.origin != Marking.Origin.MOVED}
    markings |= {one.checkpoint_id: one for one in carried}
    again, to_measure = [], []
    for key, marking in markings.items():
        marking.photo = photo
        known = readings.get((photo.pair_id, key))
        if known and known.photo_id == photo.pk and CONFIRMED_BY_EYE in known.doubts:
            continue  # a person stands by it
        if known and known.photo_id == photo.pk and CORRECTED_BY_HAND in known.doubts:
            if not known.overlay:
                continue  # counted by a person: nothing to measure
            known.photo = photo
            again.append(correct_reading(reading=known, centres=_centres(known.overlay), by=user))
        else:
            to_measure.append(marking)
    return [*again, *measure_markings(to_measure, user)]


def _centres(overlay: list) -> list:
    strokes = [stroke for stroke in overlay if stroke["kind"] in ("tick", "ring")]
    return [np.mean(stroke["points"], axis=0).tolist() for stroke in strokes]

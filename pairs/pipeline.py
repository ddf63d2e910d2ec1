"""Feeds the core's pipeline with what is stored and known, and keeps what comes out.

One photograph goes through ``read_photo`` (open, scale, sort, align), ``place_markings`` and ``measure_markings``. Case
analysis, library pairs, the demo and remeasuring all call these.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass

from django.core.files.base import ContentFile
from django.db import transaction

from assay.contracts import Measurement
from assay.errors import AssayError, CannotAlign, CannotMeasure, CannotOpen
from assay.imaging.fitness import Needs
from assay.imaging.view import KnownView
from assay.pipeline.align import align_photos, place_marks
from assay.pipeline.facts import Sorting
from assay.pipeline.measure import Session, Task
from assay.pipeline.open import open_photo
from assay.pipeline.scale import scale_photo
from assay.pipeline.sort import KnownKinds, code_doubts, codes_of, sort_photo
from assay.register.affine import Alignment
from library.models import Checkpoint
from library.photo_kinds import keys_where, kinds_by_key
from pairs.actions.align_photo import keep_alignment, offered
from pairs.actions.check_scale import hold_scale_against
from pairs.actions.mark_photo import keep_markings
from pairs.actions.take_reading import refused, stroke_kept
from pairs.comparisons import descriptor_kept
from pairs.models import PLACED, Marking, Photo, Reading
from pairs.pictures import camera, facing, facts, features_file, marks, pixels
from pairs.queries import alignment_of
from pairs.sent_again import refuse_if_retails_own

READ_FIELDS = (
    *("state", "view", "foot", "sorted_by", "preview", "features"),
    *("mm_per_px", "scale", "light", "codes", "guess", "fitness"),
)
"""What reading a photograph finds; whatever else a person does to it meanwhile stays."""


@dataclass(frozen=True, slots=True)
class AlignedReference:
    """Retail's photograph that was aligned with another one while that was read."""

    photo: Photo
    alignment: Alignment


def read_photo(
    *, photo: Photo, references: Mapping[tuple[str, str], Photo], needs: Mapping[str, Needs]
) -> AlignedReference | None:
    """Open, scale and sort an arrived photograph and keep what was found; a file that breaks on decoding is kept as
    broken.

    ``references``: the retail pair's photographs by view and foot; ``needs``: what the checks of a view ask. Returns
    the one that was aligned with it on the way.
    """
    bar_mm = photo.pair.organisation.card_bar_mm
    try:
        opened = open_photo(pixels(photo.full.path), bar_mm=bar_mm)
    except CannotOpen as error:
        photo.state, photo.guess = Photo.State.BROKEN, Sorting(refusal=error.reason)
        photo.save(update_fields=["state", "guess"])
        return None
    scaled = scale_photo(opened, camera(photo), bar_mm=bar_mm, stand_mm_per_px=photo.mm_per_px)
    found = sort_photo(
        opened,
        scaled,
        KnownKinds(known_views(references), needs, frozenset(keys_where(codes=True))),
        said=(photo.view, photo.foot) if photo.view else None,
        by_person=photo.sorted_by == Photo.SortedBy.PERSON,
        doubts=photo.fitness.doubts or (),
    )
    photo.scale, photo.light, photo.mm_per_px = scaled.scale, scaled.light, scaled.mm_per_px
    photo.guess, photo.fitness, photo.codes = found.sorting, found.fitness, [asdict(code) for code in found.codes]
    if found.place and not photo.view:
        (photo.view, photo.foot), photo.sorted_by = found.place, Photo.SortedBy.MACHINE
    photo.state, aligned = Photo.State.READ, None
    if found.reference is not None and found.alignment is not None and not photo.set_aside:
        aligned = AlignedReference(references[found.reference], found.alignment)
        hold_scale_against(photo, aligned.photo, aligned.alignment)
    refuse_if_retails_own(photo)
    photo.preview.save("preview.jpg", ContentFile(opened.preview), save=False)
    photo.features.save("features.npz", features_file(opened.features), save=False)
    return _keep_read(photo, aligned)


@transaction.atomic
def _keep_read(photo: Photo, aligned: AlignedReference | None) -> AlignedReference | None:
    # A person may have said meanwhile what it shows: their word stands.
    said = Photo.objects.filter(pk=photo.pk, sorted_by=Photo.SortedBy.PERSON).values("view", "foot").first()
    if said and photo.sorted_by != Photo.SortedBy.PERSON:
        photo.view, photo.foot, photo.sorted_by = said["view"], said["foot"], Photo.SortedBy.PERSON
        if aligned and (aligned.photo.view, aligned.photo.foot) != (photo.view, photo.foot):
            aligned = None
    photo.save(update_fields=READ_FIELDS)
    if aligned:
        keep_alignment(reference=aligned.photo, photo=photo, alignment=aligned.alignment)
    return aligned


def known_views(references: Mapping[tuple[str, str], Photo]) -> tuple[KnownView, ...]:
    """What a photograph can be recognised by: the retail pair's, by view and foot."""
    return tuple(_known_view(place, photo) for place, photo in references.items())


def _known_view(place: tuple[str, str], photo: Photo) -> KnownView:
    kind = kinds_by_key().get(photo.view)
    return KnownView(
        place,
        photo.view,
        kind is not None and kind.ultraviolet,
        bool(photo.foot),
        offered(photo),
        close_up=kind is not None and kind.close_up,
        side=kind is not None and kind.one_sided,
    )


def read_codes(photo: Photo) -> None:
    """Keep the barcodes on a photograph that was found only now to be of a thing that carries them."""
    codes = codes_of(pixels(photo.full.path))
    photo.codes = [asdict(code) for code in codes]
    photo.fitness = photo.fitness.doubted(code_doubts(codes))
    photo.save(update_fields=["codes", "fitness"])


def align_photo(*, reference: Photo, photo: Photo) -> Alignment:
    """How the reference lies on the photograph, as kept from before or found now. Raises CannotAlign."""
    known = alignment_of(reference, photo)
    if known:
        return known
    close_up = reference.view in keys_where(close_up=True)
    found = align_photos(offered(reference), offered(photo), close_up=close_up)
    keep_alignment(reference=reference, photo=photo, alignment=found)
    hold_scale_against(photo, reference, found)
    Photo.objects.filter(pk=photo.pk).update(scale=photo.scale)
    return found


def place_markings(*, drawn: Iterable[Marking], photo: Photo, alignment: Alignment) -> list[Marking | CannotMeasure]:
    """Annotations of a reference photograph carried over to another one, not kept yet; or why one cannot be."""
    drawn = list(drawn)
    there = place_marks(
        [marks(marking.checkpoint, marking.points) for marking in drawn], alignment, (photo.width, photo.height)
    )
    return [
        placed
        if isinstance(placed, CannotMeasure)
        else Marking(
            checkpoint=one.checkpoint,
            photo=photo,
            points=[list(point) for point in placed.points],
            origin=Marking.Origin.CARRIED,
        )
        for one, placed in zip(drawn, there, strict=True)
    ]


def carry_markings(
    *, drawn: Iterable[Marking], reference: Photo, photo: Photo, aligned: AlignedReference | None = None
) -> list[Marking | AssayError]:
    """The same, kept; ``aligned``: what was found while the photograph was read, so that it is not sought again."""
    drawn = list(drawn)
    try:
        known = aligned is not None and aligned.photo == reference
        alignment = aligned.alignment if known else align_photo(reference=reference, photo=photo)
    except CannotAlign as refusal:
        return [refusal] * len(drawn)
    placed = place_markings(drawn=drawn, photo=photo, alignment=alignment)
    keep_markings([one for one in placed if isinstance(one, Marking)])
    return placed


def session_of(photo: Photo) -> Session:
    """The photograph, decoded, to measure several checks on. Raises CannotOpen."""
    return Session(pixels(photo.full.path), facts(photo))


def task_of(marking: Marking) -> Task:
    """What the core is asked to measure at an annotation."""
    checkpoint = marking.checkpoint
    carried = marking.origin == Marking.Origin.CARRIED
    return Task(checkpoint.pk, checkpoint.measure, marks(checkpoint, marking.points), carried)


def measure_markings(markings: Iterable[Marking], by) -> Iterator[Reading]:
    """What every annotation's check reads, or why it refuses; not kept yet. Photographs in turn are decoded once."""
    session, photo = None, None
    for marking in markings:
        try:
            if session is None or marking.photo != photo:
                session, photo = session_of(marking.photo), marking.photo
            found = session.measure(task_of(marking))
        except AssayError as refusal:
            found = refusal.with_traceback(None)
        yield reading_of(found, marking=marking, by=by)


def measure_marking(marking: Marking, by) -> Reading:
    """The same of one."""
    return next(measure_markings([marking], by))


def correct_reading(*, reading: Reading, centres: list, by) -> Reading:
    """The reading that follows from ticks or rings put right by hand, not kept yet. Raises CannotMeasure."""
    task = Task(reading.checkpoint_id, reading.checkpoint.measure, marks(reading.checkpoint, reading.marks))
    found = session_of(reading.photo).correct(task, centres)
    # What ticks and rings say nothing of, such as a second row, stays as it was read.
    parts = {**reading.parts, **found.parts}
    return _reading(found, reading.checkpoint, reading.photo, by, reading.marks, corrects=reading, parts=parts)


def reading_of(found: Measurement | AssayError, *, marking: Marking, by) -> Reading:
    """What was measured at a marking, or why nothing was, as a reading that is not kept yet."""
    checkpoint, photo = marking.checkpoint, marking.photo
    if isinstance(found, AssayError):
        return refused(checkpoint=checkpoint, pair=photo.pair, photo=photo, refusal=found, by=by, marked=marking.points)
    read = _reading(found, checkpoint, photo, by, marking.points)
    if marking.origin == Marking.Origin.MOVED:
        read.details[PLACED] = True
    return read


def _reading(measurement: Measurement, checkpoint: Checkpoint, photo: Photo, by, marked: list, **more) -> Reading:
    more.setdefault("parts", measurement.parts)
    return Reading(
        pair=photo.pair,
        checkpoint=checkpoint,
        photo=photo,
        details={},
        value=measurement.value,
        unit=measurement.unit,
        uncertainty=measurement.uncertainty,
        method=measurement.method,
        marks=marked,
        overlay=[stroke_kept(stroke) for stroke in measurement.overlay],
        descriptor=descriptor_kept(measurement, facing(photo), photo.lamp),
        doubts=list(measurement.doubts),
        taken_by=by,
        corrects=more.get("corrects"),
        parts={name: float(number) for name, number in more["parts"].items()},
    )

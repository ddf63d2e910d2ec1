"""Read every photograph of a case and measure everything it can tell, in the background, with progress.

One photograph at a time, from reading to the last measure, while it is decoded. Several workers share a case: each
makes a run of its own over it, a photograph is claimed by one of them, and the last run to leave does what is left.
"""

from collections import defaultdict
from collections.abc import Mapping
from time import monotonic
from types import MappingProxyType

from django.contrib.auth import get_user_model
from django.db import transaction
from django_tasks import task

from assay.errors import AssayError, CannotAlign
from assay.imaging.fitness import Needs
from assay.measure.registry import MEASURES
from casework import queue
from casework.actions.second_photo import BESIDE, read_second_photos, to_read_twice
from casework.grading import GradingContext, grading_context, regrade, regrade_these
from casework.ledger import note
from casework.models import Case
from casework.retail import ahead_of_keeping
from library import photo_kinds
from pairs.actions.refresh_retail import by_hand, refresh_retail
from pairs.actions.take_paper import inscribe
from pairs.actions.take_reading import refused
from pairs.comparisons import keep
from pairs.differences import seek_differences, undiffered
from pairs.models import Inscription, Marking, Photo, Reading
from pairs.pipeline import AlignedReference, carry_markings, measure_markings, read_photo
from pairs.print import read_print_on, unread_print
from pairs.queries import beside, in_use, markings_on, photos_in_use

REPORTED_EVERY_S = 0.7
"""What was read is kept, and shown, at least so often, s; and whenever a photograph is done with."""


def request_analysis(*, case: Case, user) -> None:
    """Queue runs: as many as there are workers, and photographs for them. What a run that was cut off was reading is
    read anew."""
    queue.give_up_stalled(case)
    queue.start_runs(case, len(_left(case)), lambda: analyse_in_background.enqueue(case.pk, user.pk))


@task()
def analyse_in_background(case_id: int, user_id: int) -> None:
    """The queue's way in. A case signed meanwhile is left alone."""
    photo_kinds.forget()
    case = Case.objects.select_related("pair__release", "pair__organisation", "reference").get(pk=case_id)
    if case.signed_at:
        return
    try:
        analyse_case(case=case, user=get_user_model().objects.get(pk=user_id))
    except BaseException:
        queue.drop_run(case)
        raise


def analyse_case(*, case: Case, user) -> None:
    """Do a run: photographs are read, marks carried over, measures taken, findings graded as they come."""
    refresh_retail(pair=case.pair, by=user)
    ground, references = grading_context(case), photos_in_use(case.reference)
    needs, shown = needs_of(filter(_measured, ground.checkpoints)), _shown(references, ground)
    ended, tried = False, set()

    def more_to_do() -> bool:
        """Whether a person sorted a photograph while this run was past it; what cannot be read is tried once more."""
        new = _left(case) - tried
        tried.update(new)
        return bool(new)

    while not ended:
        for photo in queue.claimed(case):
            aligned = read_photo(photo=photo, references=references, needs=needs)
            if photo.view in code_places():
                inscribe_codes(case, user)
            _carry_to_show(photo, references, shown, aligned)
            _measure(case, user, ground, references, only=photo, aligned=aligned)
        if queue.left_to_others(case):
            return
        _measure(case, user, ground, references)
        _read_twice(case, user, ground, references)
        for photo in unread_print(case.pair):
            queue.report_total(case, 1)
            read_print_on(photo)
            queue.report(case, done=1)
        # Of a label set aside since it was read the numbers no longer stand.
        inscribe_codes(case, user)
        ended = queue.ended(case, more_to_do)
    with transaction.atomic():
        regrade(case)
        note(case, user, "measured")
    request_differences(case)


def request_differences(case: Case) -> None:
    """Queue the comparing of whole photographs: nobody waits for it."""
    transaction.on_commit(lambda: seek_differences_in_background.enqueue(case.pk))


@task()
def seek_differences_in_background(case_id: int) -> None:
    """The queue's way in: every photograph in use that was not compared with the verified ones as they are now."""
    photo_kinds.forget()
    case = Case.objects.select_related("pair__release", "pair__organisation", "reference").get(pk=case_id)
    for photo in undiffered(case.pair, case.reference) if case.signed_at is None else ():
        seek_differences(photo, case.reference)


def _left(case: Case) -> set[tuple[int, int]]:
    """Check and photograph of what is still to be measured; 0 and photograph where print is to be read."""
    waiting, _ = _to_measure(case, photos_in_use(case.reference))
    return {(one.pk, photo.pk) for one, photo, _ in waiting} | {(0, photo.pk) for photo in unread_print(case.pair)}


def needs_of(checkpoints) -> dict[str, Needs]:
    """What the checks of each view ask of its photograph."""
    coarsest: dict[str, float] = {}
    for checkpoint in checkpoints:
        wanted = MEASURES[checkpoint.measure].coarsest_mm_per_px
        coarsest[checkpoint.view] = min(wanted, coarsest.get(checkpoint.view, wanted))
    close = set(photo_kinds.keys_where(close_up=True))
    asked = {view: Needs(mm_per_px=step, close_up=view in close) for view, step in coarsest.items()}
    return {view: Needs(close_up=True) for view in close} | asked


def _measure(
    case: Case,
    user,
    ground: GradingContext,
    references: dict,
    only: Photo | None = None,
    aligned: AlignedReference | None = None,
) -> None:
    waiting, known = _to_measure(case, references, ground.checkpoints if only else None, only)
    if only:
        queue.report(case, done=1, more=len(waiting))
    else:
        queue.report_total(case, len(waiting))
    if not waiting:
        return
    if not {checkpoint.pk for checkpoint, *_ in waiting} <= set(ground.retail):
        ground = grading_context(case)  # a check was drawn since
    markings = _markings(waiting, aligned)
    # One photograph after the other: each is decoded once.
    waiting.sort(key=lambda one: one[1].pk)
    to_measure = {one.pk: markings[one.pk] for one, *_ in waiting if isinstance(markings[one.pk], Marking)}
    measured, read, beside, told = measure_markings(to_measure.values(), user), [], {}, monotonic()
    for left, (checkpoint, photo, _) in zip(range(len(waiting) - 1, -1, -1), waiting, strict=True):
        if checkpoint.pk in to_measure:
            read.append(next(measured))
        else:
            refusal = markings[checkpoint.pk]
            read.append(refused(checkpoint=checkpoint, pair=case.pair, photo=photo, refusal=refusal, by=user))
        beside[id(read[-1])] = ahead_of_keeping(checkpoint, ground.retail[checkpoint.pk], read[-1])
        if not left or monotonic() - told > REPORTED_EVERY_S:
            _keep(case, ground, read, beside, since=known)
            queue.report(case, done=len(read))
            read, told = [], monotonic()


def _read_twice(case: Case, user, ground: GradingContext, references: dict) -> None:
    """Of views photographed twice, the other photograph is held beside the one in use."""
    waiting = to_read_twice(case, ground, photos_in_use(case.pair))
    if not waiting:
        return
    queue.report(case, done=0, more=len(waiting))
    asked = [(one, photo, beside(references, one.view, one.foot)) for one, _, photo in waiting]
    for done in read_second_photos(case, user, ground, waiting, _markings(asked, None)):
        queue.report(case, done=done)


@transaction.atomic
def _keep(
    case: Case, ground: GradingContext, read: list[Reading], beside: Mapping = MappingProxyType({}), *, since: int
) -> None:
    """Keep readings and grade them, but for checks that were taken off the guide meanwhile, or read ``since`` that
    reading off the same photograph or a later one, or by a person: they were faster. ``beside``: by the readings'
    identities, what came of comparing them."""
    on_guide = set(case.pair.release.checkpoints.values_list("pk", flat=True))
    meanwhile = defaultdict(list)
    for checkpoint, photo in Reading.objects.filter(pair=case.pair, pk__gt=since).values_list("checkpoint", "photo"):
        meanwhile[checkpoint].append(photo)
    read = [one for one in read if one.checkpoint_id in on_guide]
    kept = [one for one in read if all(photo and photo < one.photo_id for photo in meanwhile[one.checkpoint_id])]
    Reading.objects.bulk_create(kept)
    for one in kept:
        keep({(one.pk, theirs, False): found for theirs, found in beside.get(id(one), {}).items()})
    regrade_these(case, ground, {reading.checkpoint_id: reading for reading in kept})


def _shown(references: dict, ground: GradingContext) -> dict[int, list[Marking]]:
    """By reference photograph the marks of checks that nothing measures: they say where to look. One query."""
    looked_at, shown = {checkpoint.pk: checkpoint for checkpoint in ground.checkpoints}, defaultdict(list)
    for marking in Marking.objects.filter(photo__in=references.values(), checkpoint__measure=""):
        if marking.checkpoint_id in looked_at:
            marking.checkpoint = looked_at[marking.checkpoint_id]  # known: not to be asked for
            shown[marking.photo_id].append(marking)
    return shown


def _carry_to_show(
    photo: Photo, references: dict, shown: dict[int, list[Marking]], aligned: AlignedReference | None
) -> None:
    """Where to look on a photograph. Where it cannot be said, all is shown."""
    reference = references.get((photo.view, photo.foot))
    if reference is not None and photo.state == Photo.State.READ and reference.pk in shown:
        carry_markings(drawn=shown[reference.pk], reference=reference, photo=photo, aligned=aligned)


def code_places() -> dict[str, str]:
    """Views whose barcodes fill a place, and which."""
    return {key: view.codes_at for key, view in photo_kinds.kinds_by_key().items() if view.codes_at}


def inscribe_codes(case: Case, user) -> None:
    """What the bars of a label say that is in use, next to whatever a person types."""
    for view, place in code_places().items():
        label = case.pair.photos.filter(view=view, state=Photo.State.READ, set_aside=False).only("codes").first()
        numbers = " ".join(sorted(code["text"] for code in label.codes if code["gtin14"])) if label else ""
        if numbers and numbers != case.pair.inscriptions.filter(place=place).values_list("text", flat=True).first():
            source = Inscription.Source.SCANNED
            inscribe(pair=case.pair, places={place: numbers}, by=user, source=source, photo=label)


def _to_measure(
    case: Case, theirs: dict, known: list | None = None, only: Photo | None = None
) -> tuple[list[tuple], int]:
    """(checkpoint, photograph, reference photograph) still to be read, or read off this photograph ``only``, and the
    newest reading that was known then: corrections by hand and done work stand.

    ``known``: the release's checks, where they are.
    """
    checkpoints = list(filter(_measured, known or case.pair.release.checkpoints.all()))
    if only:
        checkpoints = [one for one in checkpoints if (one.view, one.foot) == (only.view, only.foot)]
    if only and not (checkpoints and in_use(only)):
        return [], 0
    ours = {(only.view, only.foot): only} if only else photos_in_use(case.pair)
    readings, waiting = _last_read(case, checkpoints), []
    # Asked for only of what was read before.
    marked = Marking.objects.filter(photo__pair=case.pair_id).values_list("photo_id", "checkpoint_id")
    marked = set(marked) if readings else set()
    gone = _set_aside(case) if any(BESIDE in row["details"] for row in readings.values()) else set()
    for checkpoint in checkpoints:
        photo = ours.get((checkpoint.view, checkpoint.foot))
        row, here = readings.get(checkpoint.pk), photo and (photo.pk, checkpoint.pk) in marked
        if photo and (_to_read(checkpoint, row, photo, marked=here) or row["details"].get(BESIDE) in gone):
            waiting.append((checkpoint, photo, beside(theirs, checkpoint.view, checkpoint.foot)))
    return waiting, max((row["pk"] for row in readings.values()), default=0)


def _set_aside(case: Case) -> set[int]:
    """Photographs that no reading is held beside any more. A query."""
    return set(case.pair.photos.filter(set_aside=True).values_list("pk", flat=True))


def _measured(checkpoint) -> bool:
    return bool(checkpoint.measure)


def _last_read(case: Case, checkpoints: list) -> dict[int, dict]:
    """What a run must know of the latest reading of these checkpoints. One query."""
    wanted = ("pk", "checkpoint_id", "photo_id", "method", "doubts", "refusal", "marks", "details")
    read = Reading.objects.filter(pair=case.pair, checkpoint__in=checkpoints).order_by("pk")
    return {row["checkpoint_id"]: row for row in read.values(*wanted)}


def _to_read(checkpoint, reading: dict | None, photo: Photo, *, marked: bool) -> bool:
    """Not read yet, read off another photograph, by marks that were taken away since, or by an older version of the
    method; a person's word stands."""
    if reading is None or reading["photo_id"] != photo.pk:
        return True
    outdated = reading["method"] != MEASURES[checkpoint.measure].method or (reading["marks"] and not marked)
    return bool(outdated and not by_hand(reading))


def _markings(waiting: list[tuple], aligned: AlignedReference | None) -> dict[int, Marking | AssayError]:
    """By checkpoint its marks on the photograph, as put by hand before or carried over; else why there are none."""
    known = markings_on({photo for _, *photos in waiting for photo in photos if photo})
    found, to_carry = {}, defaultdict(list)
    for checkpoint, photo, reference in waiting:
        drawn = known.get((reference.pk, checkpoint.pk)) if reference else None
        if (photo.pk, checkpoint.pk) in known:
            found[checkpoint.pk] = known[photo.pk, checkpoint.pk]
        elif drawn is None:
            found[checkpoint.pk] = CannotAlign("nothing_drawn")
        else:
            drawn.checkpoint = checkpoint  # known: not to be asked for
            to_carry[reference, photo].append(drawn)
    for (reference, photo), drawn in to_carry.items():
        carried = carry_markings(drawn=drawn, reference=reference, photo=photo, aligned=aligned)
        found |= {one.checkpoint_id: marking for one, marking in zip(drawn, carried, strict=True)}
    for checkpoint, photo, _ in waiting:
        if isinstance(found[checkpoint.pk], Marking):
            found[checkpoint.pk].checkpoint, found[checkpoint.pk].photo = checkpoint, photo
    return found

"""What a checker does at one checkpoint: confirm, correct, move marks, answer, read print, give up."""

from django.db import transaction

from assay.errors import AssayError
from casework.grading import grade_again, grading_context, regrade, regrade_these, regrade_touched
from casework.ledger import note
from casework.models import Case, Finding
from library.models import Checkpoint
from pairs.actions.mark_photo import keep_markings, marked
from pairs.actions.take_paper import inscribe as keep
from pairs.actions.take_reading import SAID, refuse, say
from pairs.models import Inscription, Marking, Photo
from pairs.pipeline import correct_reading, measure_marking
from pairs.print import offered_print
from pairs.queries import latest_readings, photos_in_use


class NothingToConfirm(AssayError):
    """There is no reading to stand by."""


def confirm(*, case: Case, checkpoint: Checkpoint, user) -> None:
    """The checker has looked at the reading and stands by it."""
    with transaction.atomic():
        known = Finding.objects.select_related("checkpoint", "reading__photo", "case__organisation")
        finding = known.get(case=case, checkpoint=checkpoint)
        if finding.reading is None or finding.reading.value is None:
            raise NothingToConfirm("nothing_to_confirm")
        finding.confirmed_by = user
        grade_again(finding)
        note(case, user, "confirmed", checkpoint=checkpoint.key, value=finding.reading.value)


def correct(*, case: Case, checkpoint: Checkpoint, user, centres: list) -> None:
    """Ticks or rings were put right by hand. Raises CannotMeasure."""
    old = _reading(case, checkpoint)
    if old is None or old.photo is None:
        raise NothingToConfirm("nothing_to_correct")
    new = correct_reading(reading=old, centres=centres, by=user)
    with transaction.atomic():
        new.save()
        regrade_touched(case, checkpoint)
        note(case, user, "corrected", checkpoint=checkpoint.key, before=old.value, after=new.value)


def move_marks(*, case: Case, checkpoint: Checkpoint, user, points: list) -> None:
    """Marks were put in place by hand: measure again there. Raises CannotMeasure."""
    photo = photos_in_use(case.pair).get((checkpoint.view, checkpoint.foot))
    if photo is None:
        raise NothingToConfirm("no_photo")
    marking = marked(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.MOVED)
    reading = measure_marking(marking, user)
    with transaction.atomic():
        if Photo.objects.only("scale").get(pk=photo.pk).scale != photo.scale:
            # It was given another scale meanwhile: no length of the old one is kept.
            photo.refresh_from_db()
            reading = measure_marking(marking, user)
        keep_markings([marking])
        reading.save()
        regrade_touched(case, checkpoint)
        note(case, user, "marks_moved", checkpoint=checkpoint.key, value=reading.value)


def answer(*, case: Case, checkpoint: Checkpoint, user, choice: str) -> None:
    """A closed question was answered. Raises NothingToConfirm ``unknown_answer``."""
    if choice not in {key for key, *_ in checkpoint.answers}:
        raise NothingToConfirm("unknown_answer")
    with transaction.atomic():
        old = _reading(case, checkpoint)
        said = say(checkpoint=checkpoint, pair=case.pair, value=choice, method=SAID, by=user, corrects=old)
        # No other finding rests on an answer.
        regrade_these(case, grading_context(case, [checkpoint]), {checkpoint.pk: said})
        note(case, user, "answered", checkpoint=checkpoint.key, value=choice)


def inscribe(*, case: Case, user, places: dict[str, str], source: str = Inscription.Source.TYPED) -> None:
    """What stands on box, label or tag was read: every check that rests on it is read anew. Raises AssayError."""
    with transaction.atomic():
        keep(pair=case.pair, places=places, by=user, source=source)
        regrade(case)
        note(case, user, "inscribed", **{place.replace(".", "_"): text[:80] for place, text in places.items()})


def confirm_print(*, case: Case, user, shown: dict[str, str]) -> None:
    """A person stands by what was read off print: ``shown``: by place the text that they saw; what reads otherwise by
    now, off a newer photograph, is left. Raises NothingToConfirm."""
    read = {place: one for place, one in offered_print(case.pair).items() if shown.get(place) == one.field.text}
    if not read:
        raise NothingToConfirm("nothing_to_confirm")
    with transaction.atomic():
        by_photo: dict = {}
        for place, one in read.items():
            by_photo.setdefault(one.photo, {})[place] = one.field.text
        for photo, places in by_photo.items():
            keep(pair=case.pair, places=places, by=user, source=Inscription.Source.SCANNED, photo=photo)
        regrade(case)
        texts = {place.replace(".", "_"): one.field.text[:80] for place, one in read.items()}
        note(case, user, "print_confirmed", **texts)


def cannot_tell(*, case: Case, checkpoint: Checkpoint, user, why: str) -> None:
    """The checker looked and could not tell."""
    with transaction.atomic():
        refusal = AssayError("could_not_tell", why=why[:200])
        photo = photos_in_use(case.pair).get((checkpoint.view, checkpoint.foot)) if checkpoint.measure else None
        refuse(checkpoint=checkpoint, pair=case.pair, photo=photo, refusal=refusal, by=user)
        regrade_touched(case, checkpoint)
        note(case, user, "could_not_tell", checkpoint=checkpoint.key, why=why[:200])


def _reading(case: Case, checkpoint: Checkpoint):
    return latest_readings([case.pair], checkpoints=[checkpoint]).get((case.pair_id, checkpoint.pk))

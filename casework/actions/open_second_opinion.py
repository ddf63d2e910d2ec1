"""A second look at a signed pair: blind, by somebody else; and a further round with new photographs.

What the machine read is shared. What a person answered, confirmed, corrected, typed or pinned stays with who did it:
the second look is a case of its own, of the same photographs, and neither side sees the other's until both are signed.
"""

from datetime import timedelta

from django.db import transaction

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import AssayError
from casework.actions.analyse_case import request_analysis
from casework.actions.open_link import new_link
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case
from casework.second_rule import SECOND_ASKED, is_begun, may_give_second_opinion
from pairs.models import Inscription, Marking, Pair, Photo, PhotoAlignment, Reading, Standing

FACTS = ("size_us", "region", "condition", "generation", "feet", "box_size_us", "bought_on")
OF_CASE = ("arrival", "in_hand", "reference_in_hand", "tools", "source", "asked_price")
PHOTO = tuple(field.attname for field in Photo._meta.concrete_fields if field.attname not in ("id", "pair_id"))
LAID = ("reference_id", "matrix", "anchors", "matches", "error_px", "how")
READ = (
    *("value", "unit", "uncertainty", "method", "marks", "parts", "details"),
    *("overlay", "descriptor", "doubts", "refusal"),
)


def ask_second_opinion(*, case: Case, user) -> None:
    """Ask for a second opinion on one signed case, whatever the policy says: it waits on the others' counter, hidden
    from then on. Raises AssayError ``not_signed``, ``second_taken``."""
    if not case.signed_at:
        raise AssayError("not_signed")
    if case.second_of_id or is_begun(case):
        raise AssayError("second_taken")
    with transaction.atomic():
        if not case.ledger.filter(action=SECOND_ASKED).exists():
            note(case, user, SECOND_ASKED)


def open_second_opinion(*, case: Case, user) -> Case:
    """A blind second look. Raises AssayError ``not_signed``, ``same_person``, ``second_taken``."""
    if not case.signed_at:
        raise AssayError("not_signed")
    with transaction.atomic():
        # Asked within: of several at once one is the first.
        if case.second_of_id or is_begun(case):
            raise AssayError("second_taken")
        if not may_give_second_opinion(case, user):
            raise AssayError("same_person")
        made = _copied(case, user, round_=False)
        note(case, user, "second_look_opened", number=made.number)
    request_analysis(case=made, user=user)
    return made


def next_round(*, case: Case, user, wanted: list[dict]) -> tuple[Case, str]:
    """A further, linked case that waits for closer photographs, and the secret of the client's link. ``wanted``: view,
    foot, why. Raises AssayError ``not_signed``, ``nothing_wanted``."""
    if not case.signed_at:
        raise AssayError("not_signed")
    if not wanted:
        raise AssayError("nothing_wanted")
    with transaction.atomic():
        made = _copied(case, user, round_=True)
        secret = new_link(case=made, user=user, lasts=timedelta(days=case.organisation.link_days), wanted=wanted)
        note(case, user, "round_opened", number=made.number, wanted=len(wanted))
    request_analysis(case=made, user=user)
    return made, secret


def _copied(case: Case, user, *, round_: bool) -> Case:
    """The same pair and photographs, with what the machine read off them."""
    number = (
        Case.objects.filter(organisation=case.organisation).order_by("-number").values_list("number", flat=True).first()
        + 1
    )
    pair = Pair.objects.create(
        organisation=case.organisation, release=case.pair.release, standing=Standing.SUSPECT, label=f"S{number:04d}",
        **{name: getattr(case.pair, name) for name in FACTS},
    )  # fmt: skip
    made = Case.objects.create(
        organisation=case.organisation,
        number=number,
        pair=pair,
        reference=case.reference,
        opened_by=user,
        second_of=case,
        round=round_,
        **{name: getattr(case, name) for name in OF_CASE},
    )
    photos = {}
    for photo in case.pair.photos.order_by("pk"):
        photos[photo.pk] = Photo.objects.create(pair=pair, **{name: getattr(photo, name) for name in PHOTO})
    for one in Marking.objects.filter(photo__in=photos, origin=Marking.Origin.CARRIED):
        Marking.objects.create(
            checkpoint_id=one.checkpoint_id, photo=photos[one.photo_id], points=one.points, origin=one.origin
        )
    for one in PhotoAlignment.objects.filter(photo__in=photos, by=None):
        PhotoAlignment.objects.create(photo=photos[one.photo_id], **{name: getattr(one, name) for name in LAID})
    for inscription in case.pair.inscriptions.filter(source=Inscription.Source.SCANNED).order_by("pk"):
        photo = photos.get(inscription.photo_id)
        Inscription.objects.create(
            pair=pair,
            place=inscription.place,
            text=inscription.text,
            source=inscription.source,
            photo=photo,
            read_by=user,
        )
    _readings(case, pair, photos, user)
    note(made, user, "case_opened", second_of=case.number)
    regrade(made)
    return made


def _readings(case: Case, pair: Pair, photos: dict, user) -> None:
    """The machine's latest word on every check, off marks that nobody moved."""
    moved = set(
        Marking.objects.filter(photo__in=photos, origin=Marking.Origin.MOVED).values_list("checkpoint", "photo")
    )
    latest: dict[int, Reading] = {}
    for reading in case.pair.readings.exclude(photo=None).exclude(checkpoint__measure="").order_by("pk"):
        if CORRECTED_BY_HAND not in reading.doubts and (reading.refusal or {}).get("reason") != "could_not_tell":
            latest[reading.checkpoint_id] = reading
    for one in latest.values():
        if (one.checkpoint_id, one.photo_id) not in moved:
            Reading.objects.create(
                pair=pair, checkpoint_id=one.checkpoint_id, photo=photos[one.photo_id], taken_by=user,
                **{name: getattr(one, name) for name in READ},
            )  # fmt: skip

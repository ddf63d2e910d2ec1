"""Verified pairs and known copies: added, verified, retired, taken over from closed cases."""

from collections.abc import Mapping

from django.core.files.base import ContentFile
from django.db import transaction

from assay.errors import AssayError
from assay.imaging.opening import check_bytes, receive
from assay.judge.rules import Verdict
from casework.actions.analyse_pair import request_reading
from casework.actions.know_copy import know_copy
from casework.grading import regrade
from casework.ledger import note, note_of_organisation
from casework.models import Case
from library.models import Batch, Foot, Release
from library.photo_kinds import kinds_by_key
from library.writers import MAY_CHECK, must
from pairs.actions.receive_photo import receive_photo
from pairs.models import Organisation, Pair, Photo, Standing
from pairs.queries import retail_pairs

LETTER = {Standing.CANDIDATE: "R", Standing.COPY: "B"}
OPEN = (Standing.RETAIL, Standing.COPY, Standing.CANDIDATE)


@transaction.atomic
def add_pair(*, organisation: Organisation, user, release: Release, given: Mapping, batch: str = "") -> Pair:
    """A pair to be verified as retail; with ``batch``, a name, a known copy of it.

    ``given``: size_us, region, condition, verified_how. Raises AssayError ``not_allowed``, ``no_reason``.
    """
    must(user, MAY_CHECK)
    if not given["verified_how"].strip():
        raise AssayError("no_reason")
    standing = Standing.COPY if batch else Standing.CANDIDATE
    made = Pair.objects.create(
        organisation=organisation,
        release=release,
        standing=standing,
        label=free_label(organisation, LETTER[standing]),
        batch=_batch(release, batch) if batch else None,
        **given,
    )
    note_of_organisation(organisation, user, "pair_added", pair=made.label, code=release.style_code, standing=standing)
    return made


def free_label(organisation: Organisation, letter: str) -> str:
    """The next label of a letter that no pair of the shop has.

    >>> free_label.__name__
    'free_label'
    """
    taken = set(organisation.pairs.filter(label__startswith=letter).values_list("label", flat=True))
    return next(f"{letter}{n}" for n in range(1, len(taken) + 2) if f"{letter}{n}" not in taken)


def _batch(release: Release, name: str) -> Batch:
    name = name.strip()[:80]
    return Batch.objects.filter(release=release, name__iexact=name).first() or Batch.objects.create(
        release=release, name=name
    )


def add_pair_photo(
    *, pair: Pair, user, upload, view: str = "", foot: str = "", mm_per_px: float | None = None
) -> Photo:
    """One uploaded photograph of a pair that is no case's. Raises CannotOpen, AssayError ``not_allowed``."""
    must(user, MAY_CHECK)
    must_be_kept(pair)
    check_bytes(upload.size)
    photo = receive_photo(
        pair=pair, data=upload.read(), by=user, name=upload.name, view=view, foot=foot, mm_per_px=mm_per_px
    )
    note_of_organisation(pair.organisation, user, "retail_photo_added", pair=pair.label, view=view, foot=foot)
    request_reading(pair=pair, user=user)
    return photo


def place_photo(*, photo: Photo, user, view: str, foot: str) -> None:
    """Say what a photograph shows. Raises AssayError ``not_allowed``, ``no_such_view``."""
    must(user, MAY_CHECK)
    must_be_kept(photo.pair)
    if view not in kinds_by_key() or (foot not in Foot.values and kinds_by_key()[view].feet):
        raise AssayError("no_such_view")
    photo.view, photo.foot = view, foot if kinds_by_key()[view].feet else ""
    photo.sorted_by, photo.set_aside = Photo.SortedBy.PERSON, False
    photo.save(update_fields=["view", "foot", "sorted_by", "set_aside"])
    request_reading(pair=photo.pair, user=user)


def add_proof(*, pair: Pair, user, upload) -> None:
    """A photograph of how a pair was verified, such as its receipt. Raises CannotOpen, AssayError ``not_allowed``."""
    must(user, MAY_CHECK)
    must_be_kept(pair)
    check_bytes(upload.size)
    received = receive(upload.read())
    pair.proof.save("proof.jpg", ContentFile(received.stored), save=False)
    pair.save(update_fields=["proof"])
    note_of_organisation(pair.organisation, user, "proof_added", pair=pair.label)


def verify_pair(*, pair: Pair, user) -> Pair:
    """One person's word that a pair is retail; where the shop asks for two, the second one's makes it count.

    Raises AssayError ``not_allowed``, ``not_a_candidate``, ``verified_already``, ``still_reading``.
    """
    must(user, MAY_CHECK)
    with transaction.atomic():
        pair = Pair.objects.select_for_update().select_related("organisation", "release").get(pk=pair.pk)
        if pair.standing != Standing.CANDIDATE:
            raise AssayError("not_a_candidate", label=pair.label)
        if pair.photos.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING)).exists():
            raise AssayError("still_reading")
        if pair.verified_by.filter(pk=user.pk).exists():
            raise AssayError("verified_already")
        pair.verified_by.add(user)
        note_of_organisation(pair.organisation, user, "pair_verified", pair=pair.label)
        if pair.verified_by.count() >= (2 if pair.organisation.two_verify else 1):
            pair.standing = Standing.RETAIL
            pair.save(update_fields=["standing"])
            grade_again(pair)
    return pair


def retire_pair(*, pair: Pair, user, why: str) -> None:
    """No longer compared with. Signed cases keep what they used. Raises AssayError ``not_allowed``, ``no_reason``,
    ``pair_in_use`` where an open case has it for its reference."""
    must(user, MAY_CHECK)
    if not why.strip():
        raise AssayError("no_reason")
    with transaction.atomic():
        must_be_kept(pair)
        for case in Case.objects.filter(reference=pair, signed_at=None):
            other = _another_reference(case)
            if other is None:
                raise AssayError("pair_in_use", label=pair.label, number=case.number)
            case.reference = other
            case.save(update_fields=["reference"])
        pair.standing, pair.retired_why = Standing.RETIRED, why.strip()[:200]
        pair.batch = None
        pair.save(update_fields=["standing", "retired_why", "batch"])
        note_of_organisation(pair.organisation, user, "pair_retired", pair=pair.label, why=pair.retired_why)
        grade_again(pair)


def pair_from_case(*, case: Case, user, batch: str = "") -> Pair:
    """A closed case's pair joins the library: signed legit by two people as retail, signed fake as a copy of a batch.

    Raises AssayError ``not_allowed``, ``not_signed_so``, ``taken_over_already``.
    """
    must(user, MAY_CHECK)
    opinions = list(case.opinions.order_by("signed_at"))
    last = opinions[-1].verdict if opinions else None
    with transaction.atomic():
        pair = Pair.objects.select_related("organisation", "release").get(pk=case.pair_id)
        if pair.standing != Standing.SUSPECT:
            raise AssayError("taken_over_already", label=pair.label)
        if batch.strip() and last == Verdict.FAKE:
            pair.standing, pair.batch = Standing.COPY, _batch(pair.release, batch)
        elif not batch.strip() and last == Verdict.LEGIT and two_say_legit(opinions):
            pair.standing = Standing.RETAIL
        else:
            raise AssayError("not_signed_so")
        pair.save(update_fields=["standing", "batch"])
        note(case, user, "taken_over", pair=pair.label, standing=pair.standing, batch=batch.strip()[:80])
    if pair.standing == Standing.COPY:
        know_copy(pair=pair)
    else:
        grade_again(pair)
    return pair


def two_say_legit(opinions: list) -> bool:
    """Whether two people signed, and nobody says otherwise."""
    said = {opinion.checker_id: opinion.verdict for opinion in opinions}
    return len(said) >= 2 and set(said.values()) == {Verdict.LEGIT.value}


def must_be_kept(pair: Pair) -> None:
    """Raise AssayError ``pair_is_fixed`` for a pair that is a case's, or no longer used."""
    if pair.standing not in OPEN or Case.objects.filter(pair=pair).exists():
        raise AssayError("pair_is_fixed", label=pair.label)


def _another_reference(case: Case) -> Pair | None:
    return next((retail_pair for retail_pair in retail_pairs(case.pair) if retail_pair.pk != case.reference_id), None)


def grade_again(pair: Pair) -> None:
    """Open cases that it teaches: what they are compared with has changed."""
    for case in Case.objects.filter(
        organisation=pair.organisation, pair__release__in=pair.release.siblings, signed_at=None
    ):
        regrade(case)

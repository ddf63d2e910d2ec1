"""Open a case by style code."""

from uuid import UUID

from django.db import transaction
from django.db.models import Max

from assay.errors import AssayError
from assay.paperwork.style_code import UnreadableCode, compare, normalise
from casework.access import house_of
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case
from library.models import Maker, Release
from pairs.models import Pair, Standing


class NoSuchRelease(AssayError):
    """No release carries this code, or nothing verified is known of it."""


def start_case(*, user, typed_code: str, token: UUID) -> Case:
    """Open a case, or return the one that this form already opened. Raises UnreadableCode or NoSuchRelease."""
    house = house_of(user)
    already = Case.objects.filter(token=token, house=house).first()
    if already:
        return already
    release = _release(typed_code)
    with transaction.atomic():
        reference = (
            Pair.objects.filter(house=house, release=release, standing=Standing.RETAIL).order_by("label").first()
        )
        if reference is None:
            raise NoSuchRelease("no_reference", code=release.style_code)
        if not release.checkpoints.exists():
            raise NoSuchRelease("no_checkpoints", code=release.style_code)
        number = (Case.objects.filter(house=house).aggregate(top=Max("number"))["top"] or 400) + 1
        pair = Pair.objects.create(house=house, release=release, standing=Standing.SUSPECT, label=f"S{number:04d}")
        case = Case.objects.create(
            house=house, number=number, token=token, pair=pair, reference=reference, opened_by=user
        )
        regrade(case)
        note(case, user, "case_opened", style_code=release.style_code)
    return case


def _release(typed: str) -> Release:
    """Try the code under every maker's pattern; name the nearest known code where none fits."""
    unreadable, written = [], []
    for mask in Maker.objects.values_list("style_code_mask", flat=True).distinct():
        try:
            written.append(normalise(typed, mask))
        except UnreadableCode as error:
            unreadable.append(error)
    found = Release.objects.select_related("shoe_model__maker").filter(style_code__in=written).first()
    if found:
        return found
    if not written:
        raise unreadable[0] if unreadable else NoSuchRelease("unknown_code", code=typed[:40], nearest="")
    known = Release.objects.values_list("style_code", flat=True)
    near = min(known, key=lambda code: len(compare(code, written[0]).differences), default="")
    raise NoSuchRelease("unknown_code", code=written[0], nearest=near)

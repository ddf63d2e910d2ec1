"""Open a case by style code, barcode or name."""

import re
from functools import reduce
from operator import or_
from uuid import UUID

from django.db import transaction
from django.db.models import Max, Q

from assay.errors import AssayError
from assay.paperwork.gtin import gtin14
from assay.paperwork.style_code import compare, normalise
from casework.access import organisation_of
from casework.grading import policy_in_force, regrade
from casework.ledger import note
from casework.models import Case
from library.models import Maker, Release
from library.writers import visible_to
from pairs.actions.take_paper import inscribe
from pairs.models import Organisation, Pair, Standing
from pairs.queries import of_generation


class NoSuchRelease(AssayError):
    """No release carries this code, or nothing verified is known of it."""


def start_case(*, user, typed_code: str, token: UUID) -> Case:
    """Open a case, or return the one that this form already opened. Raises NoSuchRelease or a bad code's error."""
    organisation = organisation_of(user)
    release, size, number_read = release_of(typed_code, organisation)
    with transaction.atomic():
        # The same form sent twice at once: the second waits here for the first.
        already = Case.objects.filter(token=token, organisation=organisation).first()
        if already:
            return already
        known = of_generation(release, organisation=organisation, standing=Standing.RETAIL).order_by("label")
        # Its own colourway first; else another one, for all that they share.
        reference = known.filter(release=release).first() or known.first()
        if reference is None:
            raise NoSuchRelease("no_reference", code=release.style_code)
        number = (Case.objects.filter(organisation=organisation).aggregate(top=Max("number"))["top"] or 400) + 1
        pair = Pair.objects.create(
            organisation=organisation, release=release, standing=Standing.SUSPECT, label=f"S{number:04d}", size_us=size
        )
        if number_read:
            inscribe(pair=pair, places={"box.barcode": number_read}, by=user)
        case = Case.objects.create(
            organisation=organisation,
            number=number,
            token=token,
            pair=pair,
            reference=reference,
            level=policy_in_force(organisation).level,
            opened_by=user,
        )
        regrade(case)
        note(case, user, "case_opened", style_code=release.style_code)
    return case


def release_of(typed: str, organisation: Organisation) -> tuple[Release, str, str]:
    """The release, and where a barcode was read its size and number.

    Tried in turn: the code under every maker's pattern, a barcode, a name. Else the nearest code is named.
    """
    releases = visible_to(organisation).select_related("shoe_model__maker")
    unreadable, written = [], []
    for mask in Maker.objects.values_list("style_code_mask", flat=True).distinct():
        try:
            written.append(normalise(typed, mask))
        except AssayError as error:
            unreadable.append(error)
    found = releases.filter(style_code__in=written).first()
    if found:
        return found, "", ""
    if not written and re.fullmatch(r"[\d\s-]{6,}", typed):
        return _by_barcode(releases, typed)
    if not written:
        try:
            return _by_name(releases, typed), "", ""
        except NoSuchRelease as unknown:
            # Names have figures in them too; what has figures and is no name was meant for a code.
            meant = re.search(r"\d", typed) and unknown.reason == "unknown_name" and unreadable
            raise unreadable[0] if meant else unknown from None
    known = releases.values_list("style_code", flat=True)
    near = min(known, key=lambda code: len(compare(code, written[0]).differences), default="")
    raise NoSuchRelease("unknown_code", code=written[0], nearest=near)


def _by_barcode(releases, typed: str) -> tuple[Release, str, str]:
    number = gtin14(typed)
    for release in releases.exclude(barcodes={}):
        for size, code in release.barcodes.items():
            if code == number:
                return release, size, typed
    raise NoSuchRelease("unknown_barcode", code=typed[:20])


def _by_name(releases, typed: str) -> Release:
    """The one release of which every word stands in the colourway, the model or the maker."""
    places = ("colourway", "shoe_model__name", "shoe_model__maker__name")
    asked = Q()
    for word in typed.split():
        asked &= reduce(or_, (Q(**{f"{place}__icontains": word}) for place in places))
    found = list(releases.filter(asked)[:7])
    if len(found) > 1:
        names = ", ".join(f"{release.colourway} ({release.style_code})" for release in found)
        raise NoSuchRelease("several_releases", names=names)
    if not found:
        raise NoSuchRelease("unknown_name", name=typed[:40])
    return found[0]

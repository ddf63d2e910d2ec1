"""A short-lived way in for a phone: it can add photographs to one case and see nothing else."""

import hashlib
import secrets
from datetime import timedelta
from uuid import uuid4

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from assay.errors import AssayError
from casework.actions.organisation_people import must_own
from casework.ledger import note, note_of_organisation
from casework.models import Case, UploadLink
from pairs.models import Organisation

LASTS = timedelta(minutes=30)
MOST_FILES = 60


def open_link(*, case: Case, user, lasts: timedelta = LASTS, wanted=()) -> str:
    """A new link, for these photographs where some are named; older ones of the case end. Returns its secret, which is
    kept nowhere."""
    with transaction.atomic():
        secret = new_link(case=case, user=user, lasts=lasts, wanted=wanted)
        note(case, user, "link_opened", minutes=int(lasts.total_seconds() // 60))
    return secret


def new_link(*, case: Case, user, lasts: timedelta, wanted=()) -> str:
    """The same for so long, and for these photographs only where some are named: view, foot, why."""
    case.links.filter(expires_at__gt=timezone.now()).update(expires_at=timezone.now())
    return _link(
        case=case, organisation=case.organisation, made_by=user, expires_at=timezone.now() + lasts, wanted=list(wanted)
    )


def open_client_link(*, organisation: Organisation, user) -> str:
    """A link for a client whose photographs begin a case: they wait on the counter. Returns its secret."""
    with transaction.atomic():
        lasts = timedelta(days=organisation.link_days)
        secret = _link(organisation=organisation, drop=uuid4(), made_by=user, expires_at=timezone.now() + lasts)
        note_of_organisation(organisation, user, "link_opened", minutes=int(lasts.total_seconds() // 60))
    return secret


def _link(**given) -> str:
    secret = secrets.token_urlsafe(18)
    UploadLink.objects.create(secret_sha256=_digest(secret), **given)
    return secret


def link_behind(secret: str) -> UploadLink | None:
    """The link of a secret while it lasts and its case is open. One query."""
    found = UploadLink.objects.select_related(
        "case__pair__release__shoe_model__maker",
        "case__pair__organisation",
        "case__reference",
        "organisation",
        "made_by",
    )
    # Whoever was shut out of the shop has no more links in it.
    found = found.filter(organisation__members=F("made_by"), made_by__is_active=True)
    found = found.filter(case__signed_at=None, case__discarded_at=None)
    return found.filter(secret_sha256=_digest(secret), expires_at__gt=timezone.now(), files__lt=MOST_FILES).first()


@transaction.atomic
def end_link(*, link: UploadLink, user) -> None:
    """Nothing more comes this way; whoever made it may end it, and an owner any. Raises AssayError
    ``not_the_owner``."""
    if link.made_by_id != user.pk:
        must_own(link.organisation, user)
    UploadLink.objects.filter(pk=link.pk).update(expires_at=timezone.now())
    note_of_organisation(link.organisation, user, "link_ended", case=str(link.case or ""))


def count_file(link: UploadLink) -> None:
    """Note that one more file came this way. Raises AssayError ``too_many_files`` from MOST_FILES on, however many come
    at once."""
    if not UploadLink.objects.filter(pk=link.pk, files__lt=MOST_FILES).update(files=F("files") + 1):
        raise AssayError("too_many_files", most=MOST_FILES)


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()

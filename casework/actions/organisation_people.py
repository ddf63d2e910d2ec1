"""Who works in a shop: the first owner, invitations, roles, and who does no longer."""

import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from assay.errors import AssayError
from casework.ledger import note_of_organisation
from casework.models import Invitation, OrganisationPolicy, UploadLink
from casework.roles import MAY_OWN, ROLES, give_role, role_of
from pairs.models import Organisation

LASTS = timedelta(days=3)
MOST_LINK_DAYS = 60


def must_own(organisation: Organisation, user) -> None:
    """Raise AssayError ``not_the_owner`` where the user does not own the shop."""
    if not user.has_perm(MAY_OWN) or not organisation.members.filter(pk=user.pk).exists():
        raise AssayError("not_the_owner")


def invite(*, organisation: Organisation, user, role: str) -> str:
    """A link's secret, for one person, once; it is kept nowhere. Raises AssayError ``not_the_owner``,
    ``no_such_role``."""
    must_own(organisation, user)
    if role not in ROLES:
        raise AssayError("no_such_role")
    secret = secrets.token_urlsafe(24)
    with transaction.atomic():
        Invitation.objects.create(
            organisation=organisation,
            role=role,
            secret_sha256=_digest(secret),
            made_by=user,
            expires_at=timezone.now() + LASTS,
        )
        note_of_organisation(organisation, user, "invited", role=role)
    return secret


def invitation_behind(secret: str) -> Invitation | None:
    """An invitation that still holds. One query."""
    found = Invitation.objects.select_related("organisation").filter(used_by=None, expires_at__gt=timezone.now())
    return found.filter(secret_sha256=_digest(secret)).first()


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def join(*, secret: str, username: str, first_name: str, password: str):
    """The invited person's account. Raises AssayError ``invitation_over``, ``name_taken``, ``weak_password``."""
    with transaction.atomic():
        invitation = invitation_behind(secret)
        if invitation is None:
            raise AssayError("invitation_over")
        user = _account(username, first_name, password)
        # Whoever is second at the same moment finds it used.
        used = Invitation.objects.filter(pk=invitation.pk, used_by=None).update(used_by=user, used_at=timezone.now())
        if not used:
            raise AssayError("invitation_over")
        invitation.organisation.members.add(user)
        give_role(user, invitation.role)
        note_of_organisation(invitation.organisation, user, "joined", role=invitation.role)
    return user


def _account(username: str, first_name: str, password: str):
    user = get_user_model()(username=username, first_name=first_name)
    try:
        user.username_validator(username)
        validate_password(password, user)
    except ValidationError as error:
        raise AssayError("weak_password", why=" ".join(error.messages)) from error
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError as error:
        raise AssayError("name_taken", name=username) from error
    return user


def open_organisation(*, name: str, username: str, first_name: str, password: str):
    """The very first shop and its owner; only while there is nobody at all. Raises AssayError ``not_the_first``."""
    with transaction.atomic():
        if get_user_model().objects.exists():
            raise AssayError("not_the_first")
        user = _account(username, first_name, password)
        organisation = Organisation.objects.create(name=name)
        organisation.members.add(user)
        give_role(user, "owner")
        OrganisationPolicy.objects.create(organisation=organisation, number=1, made_by=user)
        note_of_organisation(organisation, user, "house_opened", name=name)
    return user


@transaction.atomic
def set_role(*, organisation: Organisation, user, member, role: str) -> None:
    """Raises AssayError ``not_the_owner``, ``no_such_role``, ``last_owner``."""
    must_own(organisation, user)
    if role not in ROLES:
        raise AssayError("no_such_role")
    if role != "owner":
        _must_not_be_last(organisation, member)
    give_role(member, role)
    note_of_organisation(organisation, user, "role_given", to=member.username, role=role)


@transaction.atomic
def shut_out(*, organisation: Organisation, user, member) -> None:
    """The person no longer works there: what they signed stays, their phone links end. Raises AssayError
    ``not_the_owner``, ``last_owner``."""
    must_own(organisation, user)
    _must_not_be_last(organisation, member)
    organisation.members.remove(member)
    UploadLink.objects.filter(made_by=member, organisation=organisation, expires_at__gt=timezone.now()).update(
        expires_at=timezone.now()
    )
    note_of_organisation(organisation, user, "shut_out", who=member.username)


def _must_not_be_last(organisation: Organisation, member) -> None:
    owners = [one.pk for one in organisation.members.all() if role_of(one) == "owner"]
    if owners == [member.pk]:
        raise AssayError("last_owner")


@transaction.atomic
def set_organisation(*, organisation: Organisation, user, **said) -> None:
    """How the shop works: two_verify, private, says_counterfeit, link_days. Raises AssayError ``not_the_owner``,
    ``bad_link_days``."""
    must_own(organisation, user)
    if not 1 <= said.get("link_days", organisation.link_days) <= MOST_LINK_DAYS:
        raise AssayError("bad_link_days", most=MOST_LINK_DAYS)
    for name, value in said.items():
        setattr(organisation, name, value)
    organisation.save(update_fields=list(said))
    note_of_organisation(organisation, user, "house_set", **said)

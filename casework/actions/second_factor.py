"""A second factor beside the password: codes by time (RFC 6238) from a person's phone, and a few to write down."""

from django.contrib.sessions.models import Session
from django.db import transaction
from django.utils import timezone
from django_otp import devices_for_user, match_token
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from assay.errors import AssayError
from casework.actions.organisation_people import must_own
from casework.ledger import note_of_organisation
from pairs.models import Organisation

SPARE = 8
"""Codes to write down, each for one sign-in without the phone."""


def has_second_factor(user) -> bool:
    """Whether the person's sign-in asks for a code. Two queries."""
    return any(True for _ in devices_for_user(user))


def code_holds(user, code: str) -> bool:
    """Whether it is the code of now, or a spare one not used yet; wrong ones are throttled."""
    return match_token(user, code.replace(" ", "")) is not None


def device_to_confirm(user) -> TOTPDevice:
    """What a phone's program is to scan; the same until it is confirmed."""
    return TOTPDevice.objects.get_or_create(user=user, confirmed=False, defaults={"name": "phone"})[0]


def turn_on(*, organisation: Organisation, user, code: str) -> list[str]:
    """Confirm the phone by its first code. Returns spare codes, shown once. Raises AssayError ``wrong_code``."""
    with transaction.atomic():
        device = device_to_confirm(user)
        if not device.verify_token(code.replace(" ", "")):
            raise AssayError("wrong_code")
        TOTPDevice.objects.filter(user=user).exclude(pk=device.pk).delete()
        device.confirmed = True
        device.save()
        StaticDevice.objects.filter(user=user).delete()
        paper = StaticDevice.objects.create(user=user, name="paper")
        spare = [StaticToken.random_token() for _ in range(SPARE)]
        paper.token_set.bulk_create([StaticToken(device=paper, token=one) for one in spare])
        note_of_organisation(organisation, user, "second_factor_on")
    return spare


def turn_off(*, organisation: Organisation, user, code: str) -> None:
    """Ask for no code any more. Raises AssayError ``wrong_code``."""
    if not code_holds(user, code):
        raise AssayError("wrong_code")
    with transaction.atomic():
        _forget(user)
        note_of_organisation(organisation, user, "second_factor_off", who=user.username)


def turn_off_for(*, organisation: Organisation, user, member) -> None:
    """The same for somebody who lost phone and paper, by an owner. Raises AssayError ``not_the_owner``."""
    must_own(organisation, user)
    with transaction.atomic():
        _forget(member)
        note_of_organisation(organisation, user, "second_factor_off", who=member.username)


def _forget(user) -> None:
    for kind in (TOTPDevice, StaticDevice):
        kind.objects.filter(user=user).delete()


def sign_out_everywhere(user, *, keep: str = "") -> int:
    """End a person's sessions on every machine but the one of key ``keep``. Returns how many."""
    ended = 0
    for session in Session.objects.filter(expire_date__gte=timezone.now()).exclude(session_key=keep):
        if session.get_decoded().get("_auth_user_id") == str(user.pk):
            session.delete()
            ended += 1
    return ended

"""Who works in a shop: the first owner, invitations, roles, and who does no longer."""

import time
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from assay.errors import AssayError
from casework.actions import organisation_people as people
from casework.actions.open_link import link_behind, open_link
from casework.models import Invitation
from casework.roles import give_role, role_of
from tests.support.scenes import small_case, small_organisation

WORD = "quay-lantern-47"
PERSON = {"username": "tove", "first_name": "Tove", "password": WORD, "again": WORD}


class TheFirst(TestCase):
    def test_the_first_start_makes_a_shop_and_its_owner_once(self):
        self.assertRedirects(self.client.get(reverse("sign-in")), reverse("first"))
        answer = self.client.post(reverse("first"), PERSON | {"name": "Pier Ten", "again": "other"})
        self.assertContains(answer, "passwords differ", status_code=422)
        self.assertContains(answer, "Pier Ten", status_code=422)
        weak = self.client.post(reverse("first"), PERSON | {"name": "Pier Ten", "password": "12345", "again": "12345"})
        self.assertContains(weak, "cannot be made", status_code=422)
        self.assertEqual(get_user_model().objects.count(), 0)
        self.assertRedirects(self.client.post(reverse("first"), PERSON | {"name": "Pier Ten"}), reverse("library"))
        tove = get_user_model().objects.get()
        self.assertEqual((tove.organisations.get().name, role_of(tove)), ("Pier Ten", "owner"))
        self.client.logout()
        self.client.post(reverse("first"), {**PERSON, "username": "second", "name": "Mine"})
        self.assertEqual(get_user_model().objects.count(), 1)


class SigningIn(TestCase):
    @override_settings(AXES_ENABLED=True)
    def test_whoever_guesses_passwords_is_stopped_and_written_down(self):
        organisation = small_organisation()
        organisation.mara.set_password(WORD)
        organisation.mara.save()
        url, wrong = reverse("sign-in"), {"username": "mara", "password": "guess"}
        for _ in range(7):
            self.assertEqual(self.client.post(url, wrong).status_code, 200)
        self.assertContains(self.client.post(url, wrong), "Too many wrong passwords", status_code=429)
        right = self.client.post(url, {"username": "mara", "password": WORD})
        self.assertEqual(right.status_code, 429)
        log = (Path(settings.LOG_DIR) / "wahrheit.log").read_text()
        self.assertIn("refused sign-in as mara from 127.0.0.1", log)
        self.assertNotIn("guess", log)


class SecondFactor(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.scene.mara.set_password(WORD)
        self.scene.mara.save()
        self.said = {"username": "mara", "password": WORD}
        self.client.force_login(self.scene.mara)
        self.url = reverse("second-factor")

    def code(self, ahead: int = 0) -> str:
        device = TOTPDevice.objects.get()
        return f"{totp(device.bin_key, drift=ahead):06d}"

    def turned_on(self) -> list[str]:
        self.client.get(self.url)
        page = self.client.post(self.url, {"action": "on", "code": self.code()})
        self.client.logout()
        return page.context["spare"]

    def test_the_code_is_the_standard_s(self):
        # RFC 6238, appendix B: SHA-1, 8 figures, 59 s after the epoch.
        device = TOTPDevice(key=b"12345678901234567890".hex(), digits=8, t0=0)
        self.assertEqual(totp(device.bin_key, step=30, t0=int(time.time()) - 59, digits=8), 94287082)

    def test_a_password_alone_opens_nothing_once_it_is_on(self):
        self.client.get(self.url)
        wrong = self.client.post(self.url, {"action": "on", "code": "000000"})
        self.assertContains(wrong, "not the code of now", status_code=422)
        TOTPDevice.objects.update(throttling_failure_count=0)
        spare = self.turned_on()
        self.assertContains(self.client.post(reverse("sign-in"), self.said), "six figures")
        self.assertNotIn("_auth_user_id", self.client.session)
        self.assertContains(self.client.post(reverse("sign-in"), self.said | {"code": "000000"}), "not the code of now")
        TOTPDevice.objects.update(throttling_failure_count=0)
        StaticDevice.objects.update(throttling_failure_count=0)
        self.assertRedirects(self.client.post(reverse("sign-in"), self.said | {"code": spare[0]}), reverse("counter"))
        self.client.logout()
        StaticDevice.objects.update(throttling_failure_count=0)
        self.client.post(reverse("sign-in"), self.said | {"code": spare[0]})
        self.assertNotIn("_auth_user_id", self.client.session, "a spare code works once")

    def test_an_owner_helps_out_whoever_lost_phone_and_paper(self):
        self.turned_on()
        give_role(self.scene.jory, "owner")
        self.client.force_login(self.scene.jory)
        self.client.post(reverse("shop-work", args=["second-off"]), {"member": self.scene.mara.pk})
        self.client.logout()
        self.assertRedirects(self.client.post(reverse("sign-in"), self.said), reverse("counter"))
        self.assertEqual(self.scene.organisation.ledger.last().details, {"who": "mara"})

    def test_signing_out_elsewhere_ends_the_other_sessions_only(self):
        other = self.client_class()
        other.force_login(self.scene.mara)
        colleague = self.client_class()
        colleague.force_login(self.scene.jory)
        self.client.post(reverse("sessions"))
        self.assertEqual(other.get(reverse("counter")).status_code, 302)
        for client in (self.client, colleague):
            self.assertEqual(client.get(reverse("counter")).status_code, 200)


class People(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        give_role(self.scene.mara, "owner")
        self.mara = self.fresh(self.scene.mara)
        self.organisation = self.scene.organisation

    def fresh(self, user):
        return get_user_model().objects.get(pk=user.pk)

    def refused(self, reason, act, **given):
        with self.assertRaises(AssayError) as caught:
            act(**given)
        self.assertEqual(caught.exception.reason, reason)

    def test_an_invitation_works_once_for_its_role_and_not_after_three_days(self):
        self.client.force_login(self.mara)
        page = self.client.post(reverse("shop-work", args=["invite"]), {"role": "writer"}).content.decode()
        path = "/join/" + page.split("/join/")[1].split("<")[0]
        self.client.logout()
        taken = self.client.post(path, PERSON | {"username": "jory"})
        self.assertContains(taken, "Choose another name", status_code=422)
        self.assertRedirects(self.client.post(path, PERSON), reverse("counter"))
        tove = get_user_model().objects.get(username="tove")
        self.assertEqual((role_of(tove), tove.organisations.get()), ("writer", self.organisation))
        self.assertEqual(self.client.get(path).status_code, 410)
        old = people.invite(organisation=self.organisation, user=self.mara, role="checker")
        Invitation.objects.filter(used_by=None).update(expires_at=timezone.now() - timedelta(seconds=1))
        self.refused("invitation_over", people.join, secret=old, username="late", first_name="", password=WORD)

    def test_only_an_owner_of_the_shop_says_who_works_there(self):
        stranger = self.scene.stranger
        give_role(stranger, "owner")
        for user in (self.scene.jory, self.fresh(stranger)):
            self.refused("not_the_owner", people.invite, organisation=self.organisation, user=user, role="owner")
            self.refused(
                "not_the_owner", people.set_role, organisation=self.organisation, user=user, member=user, role="owner"
            )
            self.refused("not_the_owner", people.shut_out, organisation=self.organisation, user=user, member=self.mara)
            self.refused(
                "not_the_owner",
                people.set_organisation,
                organisation=self.organisation,
                user=user,
                two_verify=True,
                private=True,
            )

    def test_a_client_s_link_lasts_as_long_as_the_shop_says(self):
        for days in (0, 61):
            self.refused(
                "bad_link_days", people.set_organisation, organisation=self.organisation, user=self.mara, link_days=days
            )
        people.set_organisation(organisation=self.organisation, user=self.mara, link_days=3)
        self.organisation.refresh_from_db()
        self.assertEqual(self.organisation.link_days, 3)

    def test_a_shop_never_loses_its_last_owner(self):
        self.refused(
            "last_owner",
            people.set_role,
            organisation=self.organisation,
            user=self.mara,
            member=self.mara,
            role="checker",
        )
        people.set_role(organisation=self.organisation, user=self.mara, member=self.scene.jory, role="owner")
        people.set_role(organisation=self.organisation, user=self.mara, member=self.mara, role="checker")
        self.assertEqual(role_of(self.fresh(self.mara)), "checker")

    def test_whoever_is_shut_out_sees_nothing_and_their_phone_link_ends(self):
        case = small_case(self.scene)
        secret = open_link(case=case, user=self.scene.jory)
        self.client.force_login(self.scene.jory)
        self.assertEqual(self.client.get(reverse("counter")).status_code, 200)
        people.shut_out(organisation=self.organisation, user=self.mara, member=self.scene.jory)
        self.assertEqual(self.client.get(reverse("counter")).status_code, 404)
        self.assertIsNone(link_behind(secret))

"""Commands that open a counter."""

from io import StringIO
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.urls import reverse

from pairs.models import Organisation

COMMAND = "wahrheit.management.commands.add_organisation"


class AddOrganisation(TestCase):
    def add(self, *more, password="a-harbour-of-words"):
        with mock.patch(f"{COMMAND}.getpass", return_value=password):
            call_command("add_organisation", "Quay Counter", *more, stdout=StringIO())

    def test_a_new_shop_can_be_worked_in_at_once(self):
        self.add("--member", "anna", "--member", "ben")
        self.add("--member", "anna")
        self.assertEqual((Organisation.objects.count(), Organisation.objects.get().policies.count()), (1, 1))
        self.assertTrue(self.client.login(username="anna", password="a-harbour-of-words"))
        self.assertContains(self.client.get(reverse("counter")), "Nothing waits")

    def test_a_weak_password_opens_nothing(self):
        with self.assertRaises(CommandError):
            self.add("--member", "anna", password="1234")
        self.assertFalse(Organisation.objects.exists() or get_user_model().objects.exists())

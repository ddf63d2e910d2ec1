"""Photographs of long closed cases move to an archive and are found there; what is damaged does not move."""

import tempfile
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from casework.actions.sign_opinion import sign_opinion
from casework.models import Case
from pairs.models import Photo
from tests.support.scenes import grey_photo, small_case, small_organisation


class Archive(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case, self.open = small_case(self.scene), small_case(self.scene)
        self.photo, self.other = (grey_photo(one, view="side_out", foot="left") for one in (self.case, self.open))
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="So.", after=None)
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.own = Path(settings.MEDIA_ROOT) / self.photo.full.name
        self.client.force_login(self.scene.mara)

    def test_only_long_closed_cases_move_and_their_photographs_are_still_shown(self):
        data = self.own.read_bytes()
        with override_settings(ARCHIVE=self.folder):
            call_command("archive")
            self.assertTrue(self.own.exists(), "signed today")
            call_command("archive", days=-1)
            self.assertFalse(self.own.exists())
            self.assertEqual((self.folder / self.photo.full.name).read_bytes(), data)
            self.assertTrue((Path(settings.MEDIA_ROOT) / self.other.full.name).exists(), "a case that is open")
            shown = self.client.get(reverse("photo", args=[self.photo.pk, "full"]))
            self.assertEqual(b"".join(shown.streaming_content), data)
            call_command("archive", days=-1)
        self.assertEqual(self.client.get(reverse("photo", args=[self.photo.pk, "full"])).status_code, 404)

    def test_without_a_folder_or_with_a_damaged_file_nothing_moves(self):
        with self.assertRaisesMessage(CommandError, "WAHRHEIT_ARCHIVE"):
            call_command("archive", days=-1)
        Photo.objects.filter(pk=self.other.pk).update(stored_sha256="0" * 64)
        Case.objects.filter(pk=self.open.pk).update(signed_at=timezone.now() - timedelta(days=500))
        with override_settings(ARCHIVE=self.folder), self.assertRaisesMessage(CommandError, "not as it was taken in"):
            call_command("archive")
        self.assertTrue((Path(settings.MEDIA_ROOT) / self.other.full.name).exists())
        self.assertEqual([one for one in self.folder.rglob("*") if one.is_file()], [])

"""The doctor names what is wrong with the data folder and what to do, and changes nothing."""

import io
import os
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.utils import timezone

from assay.judge.rules import Policy
from casework import triggers
from casework.actions.set_policy import set_policy
from casework.ledger import verify
from casework.models import LedgerEntry, Sighting
from casework.organisation_key import key_of
from pairs.models import Photo
from tests.support.scenes import grey_photo, small_case, small_organisation


class Doctor(TestCase):
    def told(self) -> str:
        target = io.StringIO()
        try:
            call_command("doctor", stdout=target)
        except CommandError:
            return target.getvalue()
        return "all well"

    def test_a_missing_file_a_stray_one_an_unread_photograph_and_a_wrong_clock_are_named(self):
        scene = small_organisation()
        case = small_case(scene)
        photo = grey_photo(case, Photo.State.ARRIVED)
        seen = Sighting(case=case, name="glue", group="toe", sure="sure", like="odd", made_by=scene.mara)
        seen.crop.save("seen.jpg", ContentFile(b"crop"))
        Path(photo.full.path).unlink()
        stray = Path(settings.MEDIA_ROOT) / "stray.jpg"
        stray.write_bytes(b"")
        self.addCleanup(stray.unlink, missing_ok=True)
        triggers.take_away("default")
        LedgerEntry.objects.update(at=timezone.now() + timedelta(days=1))
        triggers.lay("default")
        said = self.told()
        for words in (
            f"{photo.full.name} (pair",
            "stray.jpg belongs to nothing",
            "Start manage.py work",
            "Set this machine's",
        ):
            self.assertIn(words, said)
        self.assertNotIn(seen.crop.name, said, "what some row names may never be called stray")
        self.assertIn("Database: fine", said)
        # What is younger than an hour may be on its way in.
        for age_s, there in ((60, True), (7200, False)):
            when = timezone.now().timestamp() - age_s
            os.utime(stray, (when, when))
            with self.assertRaises(CommandError):
                call_command("doctor", mend=True, stdout=io.StringIO())
            self.assertEqual(stray.exists(), there)
        self.assertTrue((Path(settings.MEDIA_ROOT) / seen.crop.name).exists())

    def test_a_key_that_is_gone_or_another_is_named(self):
        scene = small_organisation()
        set_policy(organisation=scene.organisation, user=scene.mara, rules=Policy())
        self.assertNotIn("key", self.told())
        path = Path(settings.DATA_DIR) / "keys" / f"house-{scene.organisation.pk}.key"
        kept = path.read_text()
        path.unlink()
        self.assertIn("has lost its key", self.told())
        self.assertTrue(any("is gone" in fault.what for fault in verify(scene.organisation)))
        key_of(scene.organisation)
        self.assertIn("another than the ledger", self.told())
        self.assertTrue(any("another key" in fault.what for fault in verify(scene.organisation)))
        path.write_text(kept)
        self.assertNotIn("key", self.told())

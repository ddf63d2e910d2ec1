"""The doctor names what is wrong with the data folder and what to do, and changes nothing."""

import io
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.utils import timezone

from casework import triggers
from casework.models import LedgerEntry, Sighting
from pairs.models import Photo
from tests.support.scenes import grey_photo, small_case, small_house


class Doctor(TestCase):
    def told(self) -> str:
        target = io.StringIO()
        try:
            call_command("doctor", stdout=target)
        except CommandError:
            return target.getvalue()
        return "all well"

    def test_a_missing_file_a_stray_one_an_unread_photograph_and_a_wrong_clock_are_named(self):
        scene = small_house()
        case = small_case(scene)
        photo = grey_photo(case, Photo.State.ARRIVED)
        seen = Sighting(case=case, name="glue", group="toe", sure="sure", like="odd", made_by=scene.mara)
        seen.crop.save("seen.jpg", ContentFile(b"crop"))
        Path(photo.full.path).unlink()
        stray = Path(settings.MEDIA_ROOT) / "stray.jpg"
        stray.write_bytes(b"")
        self.addCleanup(stray.unlink)
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

"""The sheet for home says what retail has, not that it is as on retail, and shows the place."""

import io
from types import SimpleNamespace

from django.test import TestCase
from django.urls import reverse
from PIL import Image

from library.models import Checkpoint
from pairs.actions.mark_photo import mark_photo
from pairs.models import Marking
from reports import guide_sheet
from tests.support.scenes import grey_photo, small_organisation


class GuideSheet(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.check = self.scene.release.checkpoints.get(key="touch")
        Checkpoint.objects.filter(pk=self.check.pk).update(
            answers=[["fine", "As on retail pairs"], ["flat", "Flat"]], measure="place", view="side_out", foot="left"
        )
        self.check.refresh_from_db()

    def entries(self):
        return {entry.check.key: entry for entry in guide_sheet.entries(self.scene.release, self.scene.organisation)}

    def test_an_answer_that_compares_with_retail_needs_its_picture(self):
        self.assertNotIn("touch", self.entries())
        retail = self.scene.release.pairs.order_by("label").first()
        photo = grey_photo(SimpleNamespace(pair=retail, opened_by=self.scene.mara))
        points = [[40.0, 40.0], [120.0, 60.0], [90.0, 100.0]]
        mark_photo(checkpoint=self.check, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        entry = self.entries()["touch"]
        self.assertEqual(entry.retail, "as in the picture")
        with Image.open(io.BytesIO(entry.retail_crop)) as crop:
            low, high = crop.convert("L").getextrema()
        self.assertLess(low, 60)
        self.assertGreater(high, 200)

    def test_the_sheet_tells_the_codes_of_its_release(self):
        self.client.force_login(self.scene.mara)
        page = self.client.get(reverse("library-sheet", args=[self.scene.release.pk]))
        self.assertContains(page, "VQ-44127-B")
        pdf = self.client.get(reverse("library-sheet-pdf", args=[self.scene.release.pk]))
        self.assertEqual(pdf.content[:5], b"%PDF-")

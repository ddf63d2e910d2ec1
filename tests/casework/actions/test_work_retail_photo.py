"""What is put right on a library pair's photograph reaches every number read on it."""

from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from assay.simulator.swatch import seam_swatch
from casework.actions import work_retail_photo as work
from casework.models import LedgerEntry
from pairs.actions.mark_photo import mark_photo
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair, Reading
from pairs.pipeline import measure_marking, read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import checkpoint, finding, small_case, small_organisation


class RetailPhotographs(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        cls.case = small_case(cls.scene)
        cls.bar, cls.swatch = checkpoint(cls.case, "bar"), seam_swatch("easy", 2)
        cls.pair = Pair.objects.get(label="R1")
        place = {"view": "side_out", "foot": "left", "by": cls.scene.mara}
        cls.photo = receive_photo(pair=cls.pair, data=jpeg(cls.swatch.rgb), **place)
        read_photo(photo=cls.photo, references={}, needs={})
        points = cls.swatch.marks.round(1).tolist()
        marking = mark_photo(checkpoint=cls.bar, photo=cls.photo, points=points, origin=Marking.Origin.DRAWN)
        measure_marking(marking, cls.scene.mara).save()

    def setUp(self):
        self.client.force_login(self.scene.mara)
        self.given = {"photo": self.photo, "user": self.scene.mara}

    def last(self) -> Reading:
        return Reading.objects.filter(pair=self.pair, checkpoint=self.bar).first()

    def url(self, action: str) -> str:
        return reverse("library-photo-work", args=[self.pair.pk, self.photo.pk, action])

    def test_a_scale_given_there_reaches_every_length_and_is_in_the_ledger(self):
        self.assertNotIn("pitch_mm", self.last().parts)
        width = self.photo.width - 1
        lengths = [width * self.swatch.mm_per_px]
        work.scale_retail_photo(**self.given, points=[[0, 50], [width, 50]], lengths_mm=lengths)
        self.assertAlmostEqual(self.last().parts["pitch_mm"], self.swatch.pitch_mm, delta=0.02)
        self.assertTrue(LedgerEntry.objects.filter(action="retail_photo_scaled").exists())

    def test_an_unsure_count_supports_no_flag_until_a_guide_writer_confirms_it(self):
        known = self.last()
        Reading.objects.create(
            pair=self.pair, checkpoint=self.bar, photo=self.photo, value=5, unit="count", uncertainty=0.5,
            method=known.method, taken_by=self.scene.mara,
        )  # fmt: skip
        page = self.client.get(reverse("library-guide", args=[self.scene.release.pk]))
        self.assertContains(page, "Counts to confirm")
        self.client.post(self.url("confirm-count"), {"check": "bar"})
        known = self.last()
        self.assertEqual((known.uncertainty, known.corrects.uncertainty), (0.0, 0.5))
        self.assertNotContains(self.client.get(reverse("library-guide", args=[self.scene.release.pk])), "R1: <span")

    def test_a_count_is_corrected_by_a_number_and_graded_anew(self):
        refused = self.client.post(self.url("correct-count"), {"check": "bar", "value": "a dozen"})
        self.assertContains(refused, "whole number", status_code=422)
        self.client.post(self.url("correct-count"), {"check": "bar", "value": "11"})
        self.assertEqual(self.last().value, 11)
        work.set_retail_photo_aside(**self.given, aside=False)
        self.assertEqual(self.last().value, 11, "nothing measures over a person's count")

    def test_every_correction_is_for_guide_writers_and_bad_input_is_said(self):
        for action, sent, words in (
            ("height", {"lengths": "x"}, "mm"), ("scale", {"points": "[", "lengths": "3"}, "marks"),
            ("neutral", {"points": "[]"}, "One place"), ("lamp", {"lamp": "sun"}, "lamps"),
            ("sort", {"place": "moon"}, "views"), ("id1", {}, "bank card"),
        ):  # fmt: skip
            with self.subTest(action):
                self.assertContains(self.client.post(self.url(action), sent), words, status_code=422)
        self.client.force_login(self.scene.jory)
        page = self.client.get(reverse("library-photo", args=[self.pair.pk, self.photo.pk]))
        self.assertNotContains(page, "confirm-count")
        with self.assertRaises(AssayError) as caught:
            work.prefer_retail_photo(photo=self.photo, user=self.scene.jory)
        self.assertEqual(caught.exception.reason, "not_allowed")

    def test_the_case_sees_it(self):
        self.assertEqual(finding(self.case, "bar").reason, "not_looked_at")
        work.correct_retail_count(**self.given, checkpoint=self.bar, value="14")
        self.assertIn(["R1", 14], finding(self.case, "bar").retail)

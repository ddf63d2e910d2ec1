"""Two sets of photographs on one page: compared without a release, never decided, and for their own shop only."""

import json
from pathlib import Path
from uuid import uuid4

import jsonschema
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

import reports
from casework.models import DroppedPhoto, SetComparison
from pairs.models import Pair
from tests.support.pictures import PANEL_STITCHES, jpeg, lying, noise
from tests.support.scenes import small_organisation

SCHEMA = json.loads((Path(reports.__file__).parent / "schema" / "two-sets-1.schema.json").read_text())


class Sets(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.client.force_login(self.scene.mara)
        self.token = uuid4()
        self.page = reverse("sets", args=[self.token])

    def drop(self, side, *pictures):
        files = [SimpleUploadedFile(f"{side}-{n}.jpg", jpeg(picture)) for n, picture in enumerate(pictures)]
        return self.client.post(reverse("sets-add", args=[self.token, side]), {"files": files})

    def compare(self):
        with self.captureOnCommitCallbacks(execute=True):
            return self.client.post(self.page, follow=True)

    def test_what_differs_is_listed_with_both_numbers_the_verdict_is_undecided_and_the_library_stays_as_it_was(self):
        pairs = Pair.objects.count()
        self.drop("first", lying())
        self.drop("second", lying(stitches=PANEL_STITCHES - 1, noise=6), noise(600, 800))
        self.compare()
        page = self.client.get(self.page)
        self.assertContains(page, f"{PANEL_STITCHES} and {PANEL_STITCHES - 1} (unsure)")
        self.assertContains(page, "Undecided. Neither pair is verified")
        self.assertContains(page, "1 photo shows what")
        self.assertEqual(Pair.objects.count(), pairs)
        document = self.client.get(reverse("sets-export", args=[self.token])).json()
        jsonschema.validate(document, SCHEMA, cls=jsonschema.Draft202012Validator)
        self.assertEqual([len(document["photographs"][side]) for side in ("first", "second")], [1, 2])
        photo = reverse("sets-photo", args=[DroppedPhoto.objects.first().pk])
        self.assertEqual(self.client.get(photo).status_code, 200)
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.get(photo).status_code, 404)
        self.assertNotContains(self.client.get(self.page), "first-0.jpg")
        self.assertEqual(self.client.get(reverse("sets-export", args=[self.token])).status_code, 404)

    def test_an_empty_side_no_photograph_and_a_side_that_is_none_are_refused_and_nothing_is_lost(self):
        self.drop("first", noise(300, 400))
        self.assertContains(self.compare(), "Each side needs at least one photograph")
        self.assertContains(self.client.get(self.page), "first-0.jpg")
        broken = SimpleUploadedFile("notes.jpg", b"no picture")
        answer = self.client.post(reverse("sets-add", args=[self.token, "second"]), {"files": [broken]})
        self.assertEqual((answer.status_code, answer.json()["problems"][0][:10]), (422, "notes.jpg:"))
        self.assertEqual(self.drop("third", noise(300, 400)).status_code, 404)
        self.assertFalse(SetComparison.objects.exists())

    def test_a_comparison_that_was_cut_off_goes_on_and_photographs_that_came_since_are_compared_anew(self):
        self.drop("first", noise(300, 400))
        self.drop("second", noise(300, 400))
        self.client.post(self.page)
        self.assertContains(self.client.get(reverse("sets-progress", args=[self.token])), "You may leave and come back")
        SetComparison.objects.update(touched_at="2020-01-01T00:00:00Z")
        self.assertContains(self.client.get(self.page), "The comparison stopped")
        self.compare()
        self.assertEqual(SetComparison.objects.count(), 1)
        self.assertFalse(SetComparison.objects.get().runs)
        self.drop("second", lying())
        self.assertContains(self.client.get(self.page), "Compare <kbd>")

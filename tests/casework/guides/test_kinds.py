"""A guide writer adds a kind of photograph, and one of a verified pair to draw on."""

from django.contrib.auth.models import Permission
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from assay.simulator.swatch import seam_swatch
from library.models import View
from pairs.models import Pair, Standing
from tests.casework.actions.test_analyse_case import jpeg
from tests.scenes import small_case, small_house

HOW = "Brush towards the heel."
GIVEN = {"name": "toe suede, brushed", "how": HOW, "feet": "yes", "sketch": "close", "close_up": "on"}


class KindsOfPhotograph(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_house()
        cls.case = small_case(cls.scene)
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        cls.data = jpeg(seam_swatch("easy", 2).rgb)

    def setUp(self):
        self.client.force_login(self.scene.mara)

    def add(self, pair, place, data=None):
        upload = SimpleUploadedFile("close.jpg", self.data if data is None else data, "image/jpeg")
        url = reverse("guide-retail-photo", args=[pair.pk])
        return self.client.post(url, {"place": place, "file": upload}, follow=True)

    def test_a_new_kind_is_kept_and_a_retail_photograph_of_it_leads_to_drawing(self):
        self.client.post(reverse("guide-kinds"), GIVEN)
        made = View.objects.get(name="toe suede, brushed")
        self.assertTrue(made.close_up and made.feet)
        answer = self.add(Pair.objects.get(label="R1"), f"{made.key} left")
        photo = Pair.objects.get(label="R1").photos.get(view=made.key)
        self.assertEqual(answer.redirect_chain[-1][0], reverse("guide-draw", args=[photo.pk]))

    def test_what_cannot_be_kept_is_said_and_nothing_entered_is_lost(self):
        self.client.post(reverse("guide-kinds"), GIVEN)
        for name, said in ((GIVEN["name"], "already"), ("", "Give it a name"), ("?!", "name")):
            given = GIVEN | {"name": name}
            answer = self.client.post(reverse("guide-kinds"), given)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, HOW, status_code=422)
        self.assertEqual(View.objects.filter(name="toe suede, brushed").count(), 1)

    def test_a_file_that_is_no_photograph_and_a_pair_that_is_not_verified_are_refused(self):
        retail = Pair.objects.get(label="R1")
        before = retail.photos.count()
        self.add(retail, "side_out left", b"no picture")
        self.add(retail, "nowhere left")
        self.assertEqual(retail.photos.count(), before)
        self.assertEqual(self.add(self.case.pair, "side_out left").status_code, 404)
        self.assertNotEqual(self.case.pair.standing, Standing.RETAIL)

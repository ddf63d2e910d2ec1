"""Differences that no check names are shown to the eye, become a sighting with one key, and are never graded."""

from unittest import mock

import numpy as np
from django.test import TestCase
from django.urls import reverse

from assay.register.affine import Alignment
from casework.actions.sign_opinion import sign_opinion
from casework.findings import state_of
from casework.models import Case
from pairs.differences import seek_differences, undiffered
from pairs.models import Photo
from tests.support.scenes import grey_photo, small_case, small_organisation

REGION = {
    "reference": [300, 200, 60, 40], "here": [310, 204, 60, 40], "strength": 400.0, "kind": "moved", "amount": 12.0,
    "towards": "down",
}  # fmt: skip


class Differences(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        self.photo = grey_photo(self.case, view="side_out", foot="left")
        of_reference = self.case.reference
        holder = type("Holder", (), {"pair": of_reference, "opened_by": self.scene.mara})
        self.retail = grey_photo(holder, tone=120, view="side_out", foot="left")
        self.client.force_login(self.scene.mara)
        self.url = reverse("differences", args=[self.case.number])

    def keep(self, *regions: dict):
        kept = {"retail": [self.retail.pk], "regions": list(regions)}
        Photo.objects.filter(pk=self.photo.pk).update(differences=kept)

    def test_they_are_sought_once_and_again_when_the_verified_photographs_are_others(self):
        lies = Alignment(np.eye(2, 3), 50, 0.5)
        with mock.patch("pairs.differences.align_photo", return_value=lies):
            self.assertEqual(undiffered(self.case.pair, self.case.reference), [self.photo])
            seek_differences(self.photo, self.case.reference)
            self.photo.refresh_from_db()
            self.assertEqual(self.photo.differences, {"retail": [self.retail.pk], "regions": []})
            self.assertEqual(undiffered(self.case.pair, self.case.reference), [])
        Photo.objects.filter(pk=self.photo.pk).update(differences={"retail": [0], "regions": []})
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Enough.", after=None)
        with mock.patch("pairs.differences.align_photo", return_value=lies):
            seek_differences(self.photo, self.case.reference)
        self.photo.refresh_from_db()
        self.assertEqual(self.photo.differences["retail"], [0], "a signed case keeps what it had")
        self.assertEqual(undiffered(self.case.pair, self.case.reference), [self.photo])

    def test_the_strongest_is_shown_first_in_words_and_without_a_scale_in_no_millimetres(self):
        self.keep(REGION, {**REGION, "kind": "missing", "strength": 900.0})
        page = self.client.get(self.url).content.decode()
        self.assertLess(page.index("is missing."), page.index("further down"))
        self.assertIn("A part is a little further down.", page)
        Photo.objects.filter(pk=self.retail.pk).update(mm_per_px=0.15)
        self.assertContains(self.client.get(self.url), "A part is 1.8 mm further down.")
        self.assertEqual(self.client.get(self.url, {"at": "9²"}).status_code, 200)

    def test_one_key_makes_it_a_sighting_with_its_place_and_nothing_is_graded_by_itself(self):
        self.keep(REGION)
        before = state_of(self.case).assessment.balance.total
        seen = reverse("difference-seen", args=[self.case.number, self.photo.pk])
        points = "[[310, 204], [370, 244]]"
        self.client.post(seen, {"name": "Emblem lies lower", "points": points})
        sighting = self.case.sightings.get()
        self.assertEqual((sighting.photo, sighting.points), (self.photo, [[310.0, 204.0], [370.0, 244.0]]))
        case = Case.objects.select_related("pair__release__shoe_model__maker", "organisation").get(pk=self.case.pk)
        self.assertEqual(state_of(case).assessment.balance.total, before)
        self.client.post(seen, {"name": "", "points": points})
        self.assertEqual(self.case.sightings.count(), 1)

    def test_nothing_to_show_says_why(self):
        self.assertContains(self.client.get(self.url), "No photograph has been compared yet")
        self.keep()
        self.assertContains(self.client.get(self.url), "No place differs by more than retail pairs do")

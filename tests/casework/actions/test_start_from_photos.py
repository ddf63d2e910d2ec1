"""A case starts from photographs alone: the release is read off them, and what nobody knows is asked, nothing lost."""

import re
from unittest import mock
from uuid import uuid4

import numpy as np
from django.contrib.auth.models import Permission
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from assay.paperwork.print_reader import PrintLine
from casework.actions import start_from_photos as action
from casework.models import Case, DroppedPhoto
from pairs.models import Pair
from tests.support.pictures import jpeg
from tests.support.scenes import small_organisation

READ = "casework.actions.start_from_photos.read_print"


def line(text: str) -> PrintLine:
    return PrintLine(text, 0.99, ((0, 0), (90, 0), (90, 20), (0, 20)))


class Dropped(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.client.force_login(self.scene.mara)
        self.token = uuid4()
        self.url = reverse("arrivals", args=[self.token])

    def drop(self, *grey: int, says: str = "", url: str = "") -> dict:
        """Drop pictures of one grey each and have them read."""
        for tone in grey:
            upload = SimpleUploadedFile(f"{tone}.jpg", jpeg(np.full((400, 500, 3), tone, np.uint8)))
            self.client.post(url or self.url, {"files": upload})
        with (
            mock.patch(READ, lambda _rgb: (line(says),) if says else ()),
            mock.patch(f"{action.__name__}.is_installed", lambda: True),
        ):
            for one in DroppedPhoto.objects.filter(is_read=False):
                action.read_in_background.func(one.pk)
        return self.client.get(url or self.url).json()

    def start(self, code: str):
        given = {"style_code": code, "token": uuid4(), "arrivals": self.token}
        return self.client.post(reverse("start"), given)

    def test_a_release_that_is_read_is_named_and_its_case_takes_the_photographs_along(self):
        state = self.drop(90, 140, says="VQ-44127-B")
        self.assertEqual((state["arrived"], state["read"]), (2, 2))
        self.assertEqual([one["code"] for one in state["releases"]], ["VQ-44127-B"])
        self.start("VQ-44127-B")
        case = Case.objects.latest("number")
        self.assertEqual(case.pair.photos.count(), 2)
        self.assertEqual(DroppedPhoto.objects.count(), 0)
        self.assertEqual(case.ledger.filter(action="photo_added").count(), 2)
        # The same drop sent twice is one case.
        self.start("VQ-44127-B")
        self.assertEqual(Case.objects.latest("number"), case)

    def test_swapped_figures_are_no_release_and_a_wrong_code_loses_no_photograph(self):
        self.assertEqual(self.drop(90, says="VQ-44172-B")["releases"], [])
        again = self.start("VQ-44172-B")
        self.assertContains(again, str(self.token), status_code=422)
        self.assertEqual(DroppedPhoto.objects.count(), 1)

    def test_another_shop_s_drop_is_not_there_and_what_is_no_photograph_is_said(self):
        self.drop(90, says="VQ-44127-B")
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.get(self.url).json()["arrived"], 0)
        bad = self.client.post(self.url, {"files": SimpleUploadedFile("x.jpg", b"no picture")})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("x.jpg", bad.json()["problems"][0])

    def test_a_pair_for_the_library_starts_from_photographs_too_and_nothing_is_lost_where_something_lacks(self):
        self.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        self.drop(90, 140, says="VQ-44127-B")
        url, given = reverse("library-pair-from-photos"), {"token": self.token, "condition": "deadstock"}
        for lacking in ({"typed_code": "VQ-44127-B"}, {"verified_how": "Bought at the maker’s, receipt kept"}):
            self.assertEqual(self.client.post(url, given | lacking).status_code, 422)
        self.assertEqual(DroppedPhoto.objects.count(), 2)
        told = {"typed_code": "VQ-44127-B", "verified_how": "Bought at the maker’s, receipt kept"}
        self.client.post(url, given | told)
        pair = Pair.objects.latest("pk")
        self.assertEqual((pair.standing, pair.photos.count(), DroppedPhoto.objects.count()), ("candidate", 2, 0))

    def test_a_client_s_photographs_wait_on_the_counter_and_begin_a_case(self):
        page = self.client.post(reverse("client-link")).content.decode()
        phone = re.search(r"http://testserver(/phone/[^<]+)<", page)[1]
        self.client.logout()
        self.assertContains(self.client.get(phone), "Size tag")
        upload = SimpleUploadedFile("a.jpg", jpeg(np.full((400, 500, 3), 90, np.uint8)))
        self.assertContains(self.client.post(phone, {"files": upload}), "Arrived")
        self.client.force_login(self.scene.stranger)
        self.assertNotContains(self.client.get(reverse("counter")), "Sent by clients")
        self.client.force_login(self.scene.mara)
        self.assertContains(self.client.get(reverse("counter")), "1 photograph")
        self.token = DroppedPhoto.objects.get().token
        self.start("VQ-44127-B")
        self.assertEqual(Case.objects.latest("number").pair.photos.count(), 1)
        # What the client still sends goes to the case.
        self.assertContains(self.client.get(phone), f"for case {Case.objects.latest('number')}")

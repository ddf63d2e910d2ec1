"""The phone's way in: it adds photographs to one case, for a while, and shows nothing else."""

import os
import shutil
import time
from datetime import timedelta
from unittest import mock
from uuid import uuid4

from django.conf import settings
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from casework.actions.open_link import MOST_FILES, open_link
from casework.actions.sign_opinion import sign_opinion
from casework.models import UploadLink
from casework.photos.guessing import MOST_WRONG
from casework.photos.parts import KEPT_S, MOST_AT_ONCE
from tests.support.pictures import file_of, noise
from tests.support.scenes import grey_photo, small_case, small_organisation


class PhoneLink(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def setUp(self):
        self.addCleanup(shutil.rmtree, settings.DATA_DIR / "arriving", ignore_errors=True)
        self.secret = open_link(case=self.case, user=self.scene.mara)
        self.door = reverse("phone", args=[self.secret])

    def send(self, data=None):
        return self.client.post(self.door, {"files": SimpleUploadedFile("a.jpg", data or file_of(noise()))})

    def test_it_takes_photographs_without_sign_in_in_the_name_of_who_opened_it(self):
        page = self.client.get(self.door)
        self.assertContains(page, "Still wanted")
        self.assertNotContains(page, self.case.pair.release.style_code)
        self.assertContains(self.send(), "Arrived")
        photo = self.case.pair.photos.get()
        self.assertEqual(photo.added_by, self.scene.mara)
        self.assertEqual(self.case.ledger.get(action="photo_added").details["how"], "phone link")
        self.assertContains(self.send(), "is here already", status_code=422)

    def test_of_a_guessed_link_no_file_is_read_and_who_guesses_on_is_turned_away(self):
        """200 MB were written to the temporary folder before a guessed link was refused."""
        self.addCleanup(cache.clear)
        guess = reverse("phone", args=["guess"])
        stranger = Client(enforce_csrf_checks=True, REMOTE_ADDR="203.0.113.7")
        with mock.patch("django.core.files.uploadhandler.MemoryFileUploadHandler.receive_data_chunk") as read:
            answer = stranger.post(guess, {"files": SimpleUploadedFile("a.jpg", b"x" * 1000)})
        self.assertEqual((answer.status_code, read.called), (410, False))
        for _ in range(MOST_WRONG):
            answer = stranger.get(guess)
        self.assertEqual((answer.status_code, stranger.get(self.door).status_code), (429, 429))
        cache.clear()
        self.assertContains(self.send(), "Arrived")

    def test_it_opens_no_other_door(self):
        self.send()
        photo = self.case.pair.photos.get()
        for url in (reverse("photo", args=[photo.pk, "full"]), reverse("intake", args=[self.case.number]), "/"):
            self.assertEqual(self.client.get(url).status_code, 302)

    def test_it_ends_by_time_by_number_by_a_newer_one_and_by_the_signature(self):
        links = UploadLink.objects.filter(case=self.case)
        for change in (
            {"expires_at": timezone.now() - timedelta(seconds=1)},
            {"expires_at": timezone.now() + timedelta(hours=1), "files": MOST_FILES},
        ):
            links.update(**change)
            self.assertContains(self.client.get(self.door), "This link is over", status_code=410)
        links.update(files=0)
        self.assertEqual(self.client.get(self.door).status_code, 200)
        open_link(case=self.case, user=self.scene.mara)
        self.assertEqual(self.client.get(self.door).status_code, 410)
        newer = reverse("phone", args=[open_link(case=self.case, user=self.scene.mara)])
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Enough.", after=None)
        self.assertEqual(self.client.post(newer).status_code, 410)

    def test_its_maker_and_an_owner_may_end_it_and_nobody_else(self):
        link, url = UploadLink.objects.get(case=self.case), reverse("shop-work", args=["end-link"])
        for user, status in ((self.scene.jory, 200), (self.scene.stranger, 200), (self.scene.mara, 410)):
            self.client.force_login(user)
            self.client.post(url, {"link": link.pk})
            self.assertEqual(self.client.get(self.door).status_code, status)

    def test_of_more_files_than_are_left_those_that_are_left_are_taken(self):
        UploadLink.objects.filter(case=self.case).update(files=MOST_FILES - 1)
        files = [SimpleUploadedFile(f"{n}.jpg", file_of(noise(240 + n))) for n in range(2)]
        self.assertContains(self.client.post(self.door, {"files": files}), "no more may", status_code=422)
        self.assertEqual(self.case.pair.photos.count(), 1)
        self.assertEqual(UploadLink.objects.get(case=self.case).files, MOST_FILES)

    def test_a_photograph_that_should_be_taken_again_is_asked_for_while_the_shoe_is_there(self):
        photo = grey_photo(self.case, view="side_out", foot="left")
        place = "<b>Left shoe, side, outer</b>"
        self.assertNotContains(self.client.get(self.door), place)
        photo.fitness = {"verdict": "retake", "retake": ["blurred"], "numbers": {}}
        photo.save()
        page = self.client.get(self.door)
        self.assertContains(page, place)
        self.assertContains(page, "Take it again:")

    def piece(self, token, data: bytes, at: int, end: int):
        url = reverse("phone-part", args=[self.secret, token])
        query = f"?at={at}&whole={len(data)}&name=a.jpg"
        return self.client.post(url + query, data[at:end], content_type="application/octet-stream").json()

    def test_a_file_in_pieces_goes_on_where_it_broke_off_and_nothing_comes_twice(self):
        data, token = file_of(noise()), uuid4()
        third = len(data) // 3
        self.assertEqual(self.piece(token, data, 0, third), {"have": third})
        # The answer was lost, the piece comes again; then one that does not fit.
        self.assertEqual(self.piece(token, data, 0, third), {"have": third})
        self.assertEqual(self.piece(token, data, 2 * third, len(data)), {"have": third})
        url = reverse("phone-part", args=[self.secret, token])
        self.assertEqual(self.client.get(url).json(), {"have": third})
        self.assertEqual(self.piece(token, data, third, len(data)), {"done": True, "problems": []})
        # Sent anew as a whole, because the last answer was lost, too.
        self.assertEqual(self.piece(uuid4(), data, 0, len(data)), {"done": True, "problems": []})
        self.assertEqual(self.case.pair.photos.count(), 1)
        self.assertEqual(list((settings.DATA_DIR / "arriving").glob("*")), [])

    def test_pieces_that_are_too_large_too_many_or_no_picture_are_refused_in_words(self):
        token = uuid4()
        url = reverse("phone-part", args=[self.secret, token])
        for query in ("?at=0&whole=10", "?at=x&whole=10", "", "?at=0&whole=900000000", "?at=0&whole=0"):
            answer = self.client.post(url + query, b"x" * 20, content_type="application/octet-stream")
            self.assertEqual(answer.status_code, 422, query)
            self.assertTrue(answer.json()["problems"][0])
        self.assertIn("a.jpg", self.piece(token, b"no picture at all", 0, 17)["problems"][0])
        for _ in range(MOST_AT_ONCE):
            self.piece(uuid4(), b"x" * 20, 0, 5)
        self.assertIn("on their way", self.piece(uuid4(), b"x" * 20, 0, 5)["problems"][0])
        old = time.time() - KEPT_S - 9
        for kept in (settings.DATA_DIR / "arriving").glob("*"):
            os.utime(kept, (old, old))
        self.assertEqual(self.piece(uuid4(), b"x" * 20, 0, 5), {"have": 5})
        self.assertEqual(len(list((settings.DATA_DIR / "arriving").glob("*"))), 1)
        self.secret = "guessed"
        self.assertIn("ended", self.piece(token, b"x" * 20, 0, 5)["problems"][0])

    def test_its_secret_is_kept_nowhere_and_a_guess_opens_nothing(self):
        self.assertFalse(UploadLink.objects.filter(secret_sha256__contains=self.secret[:12]).exists())
        self.assertEqual(self.client.get(reverse("phone", args=["guessed"])).status_code, 410)

    def test_the_counter_shows_it_as_a_code_and_says_when_no_phone_can_get_there(self):
        self.client.force_login(self.scene.mara)
        url = reverse("link", args=[self.case.number])
        self.assertContains(self.client.post(url, headers={"host": "127.0.0.1:8000"}), "served to this computer alone")
        page = self.client.post(url)
        self.assertContains(page, "<svg")

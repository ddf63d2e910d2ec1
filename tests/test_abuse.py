"""Hostile files and malformed posts: an answer in words, never an error of ours. ``make abuse`` runs many more."""

import itertools
import os
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from assay.errors import CannotOpen
from assay.imaging.opening import decode, receive
from tests import test_doors
from tests.abuse.files import hostile
from tests.abuse.posts import malformed

MANY_FILES = int(os.environ.get("ABUSE_FILES", "40"))
POSTS_A_DOOR = int(os.environ.get("ABUSE_POSTS", "2"))


class Files(SimpleTestCase):
    def test_whatever_a_file_is_it_is_taken_in_or_refused_by_name(self):
        for n, data in enumerate(hostile(seed=5, many=MANY_FILES)):
            with self.subTest(n=n):
                try:
                    decode(receive(data).stored)
                except CannotOpen:
                    continue


class Sender:
    """A client that sends one body wherever it knocks."""

    def __init__(self, client, body):
        self.client, self.body = client, body

    def get(self, url):
        return self.client.get(url, self.body)

    def post(self, url):
        return self.client.post(url, self.body)


class Posts(TestCase):
    """The doors' scene, knocked at with rubbish."""

    setUpTestData = classmethod(test_doors.Doors.setUpTestData.__func__)
    knock = test_doors.Doors.knock

    def setUp(self):
        self.client.raise_request_exception = False
        self.client.force_login(self.scene.mara)

    def test_every_door_answers_rubbish_in_words(self):
        bodies, failures = malformed(seed=9, many=100_000), []
        for name, (args, _, _) in test_doors.DOORS.items():
            for body in itertools.islice(bodies, POSTS_A_DOOR):
                for method in ("post", "get"):
                    status = self.rubbish(name, method, args, body)
                    if status >= 500:
                        failures.append((name, method, status, {key: str(value)[:40] for key, value in body.items()}))
        self.assertEqual(failures, [])

    def rubbish(self, name, method, args, body) -> int:
        kept, self.client = self.client, Sender(self.client, body)
        try:
            return self.knock(name, method, args)
        finally:
            self.client = kept

    def test_hostile_uploads_are_refused_by_name(self):
        url = reverse("photos", args=[self.case.number])
        for data in hostile(seed=6, many=MANY_FILES // 3):
            sent = {"files": SimpleUploadedFile("x.jpg", data, "image/jpeg")}
            answer = self.client.post(url, sent, headers={"Accept": "application/json"})
            self.assertIn(answer.status_code, (200, 422))

    def test_a_stranger_s_large_body_is_turned_away_unread_and_a_phone_link_s_is_not(self):
        self.client.logout()
        large = {"files": SimpleUploadedFile("x.jpg", bytes(1_100_000), "image/jpeg")}
        with mock.patch("django.http.request.HttpRequest._load_post_and_files", side_effect=AssertionError):
            for url in (reverse("photos", args=[self.case.number]), reverse("sign-in")):
                self.assertEqual(self.client.post(url, large).status_code, 413)
                large["files"].seek(0)
        self.assertEqual(self.client.post("/phone/not-a-link/", large).status_code, 410)

    def test_a_page_that_is_not_there_is_no_failure_of_ours_and_a_field_left_out_is_asked_for(self):
        with self.assertNoLogs("wahrheit", "ERROR"):
            self.assertEqual(self.client.get("/cases/99999/verdict/").status_code, 404)
        key = self.case.pair.release.checkpoints.filter(kind="answer").first().key
        url = reverse("guide-question", args=[self.case.pair.release_id, key])
        self.assertContains(self.client.post(url, {"answers": "inf"}), "inf</textarea>", status_code=422)

    def test_a_missing_file_a_full_disk_and_a_busy_database_are_said_in_words(self):

        self.assertEqual(self.client.get(reverse("photo", args=[self.photo.pk, "full"])).status_code, 404)
        for error, words in (
            (OperationalError("database is locked"), "busy"),
            (OperationalError("database or disk is full"), "disk is full"),
            (OSError(28, "No space left on device"), "disk is full"),
        ):
            with mock.patch("casework.counter.queries.counter", side_effect=error):
                self.assertContains(self.client.get("/"), words, status_code=503)
        with mock.patch("casework.counter.queries.counter", side_effect=ZeroDivisionError):
            page = self.client.get("/")
        name = page.content.decode().split("<b>")[1].split("</b>")[0]
        self.assertIn(name, (Path(settings.LOG_DIR) / "wahrheit.log").read_text())
        self.assertEqual(self.client.get("/")["Cache-Control"], "no-store")

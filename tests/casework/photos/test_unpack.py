"""A ZIP of photographs is taken wherever photographs are, and a bad one says what to do."""

import io
import zipfile

import numpy as np
from django.core.files.base import ContentFile
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from assay.errors import CannotOpen
from casework.photos.unpack import MOST, take_each
from tests.support.pictures import jpeg
from tests.support.scenes import small_case, small_organisation


def packed(**members: bytes) -> ContentFile:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return ContentFile(target.getvalue(), name="pair.zip")


class Unpacking(SimpleTestCase):
    def taken(self, *uploads) -> tuple[list[str], list[str]]:
        names = []
        problems = take_each(uploads, lambda photo: names.append((photo.name, photo.size)))
        return [name for name, _ in names], problems

    def test_every_photograph_is_taken_and_nothing_else_in_it(self):
        grey = jpeg(np.full((300, 300, 3), 90, np.uint8))
        upload = packed(**{"../a.JPG": grey, "deep/b.png": grey, "notes.txt": b"x", "__MACOSX/._a.jpg": b"x"})
        self.assertEqual(self.taken(upload), (["a.JPG", "b.png"], []))
        self.assertEqual(self.taken(ContentFile(grey, name="plain.jpg")), (["plain.jpg"], []))

    def test_one_bad_photograph_costs_only_itself(self):
        def take(photo):
            if photo.name == "b.jpg":
                raise CannotOpen("not_a_photo")

        problems = take_each([packed(**{"a.jpg": b"1", "b.jpg": b"2", "c.jpg": b"3"})], take)
        self.assertEqual([problem.split(":")[0] for problem in problems], ["b.jpg"])

    def test_a_broken_an_empty_and_an_overfull_one_are_refused_in_words(self):
        whole = packed(**{"a.jpg": b"1" * 5000}).read()
        torn = ContentFile(whole[:40] + b"\x00" * 200 + whole[240:], name="torn.zip")
        many = packed(**{f"{n}.jpg": b"1" for n in range(MOST + 1)})
        for upload, words in ((torn, "can’t be opened"), (packed(a=b"x"), "no photograph"), (many, "more than 60")):
            names, (problem,) = self.taken(upload)
            self.assertIn(words, problem)
            self.assertEqual(names, [])


class AtOnce(TestCase):
    def test_more_files_than_a_page_takes_are_refused_in_words(self):
        scene = small_organisation()
        case = small_case(scene)
        self.client.force_login(scene.mara)
        files = [ContentFile(b"1", name=f"{n}.jpg") for n in range(101)]
        told = self.client.post(reverse("photos", args=[case.number]), {"files": files})
        self.assertContains(told, "at most 60 photographs at a time", status_code=400)

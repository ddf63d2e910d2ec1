"""Odd values at single doors, each of which once was an error of ours or left one behind."""

import json

import numpy as np
from django.urls import reverse

from casework.models import Note
from casework.roles import give_role
from pairs.models import Reading
from tests.casework.actions.test_work_photo import WithPhotographs

NO_NUMBERS = ("1e3", "²", "९" * 30, "9" * 40, "-1", "nan", "")


class OddInput(WithPhotographs):
    def setUp(self):
        super().setUp()
        self.client.raise_request_exception = False

    def test_a_number_of_a_row_that_is_none_finds_nothing(self):
        give_role(self.scene.mara, "owner")
        for text in NO_NUMBERS:
            for action in ("shut-out", "role", "second-off"):
                answer = self.client.post(reverse("shop-work", args=[action]), {"member": text, "role": "owner"})
                self.assertIn(answer.status_code, (404, 422), (action, text))
            answer = self.client.post(
                reverse("library-pair-work", args=[self.case.reference_id, "place"]),
                {"photo": text, "place": "top left"},
            )
            self.assertIn(answer.status_code, (404, 422), text)
            self.assertLess(self.client.get(reverse("logbook"), {"words": text, "q": text}).status_code, 500, text)
            self.assertLess(self.client.get(reverse("counter"), {"q": text}).status_code, 500, text)
            self.assertLess(self.client.get(reverse("library-release-new"), {"like": text}).status_code, 500, text)

    def test_points_put_twice_or_off_the_picture_are_answered_in_words_and_nothing_odd_is_kept(self):
        width, height = self.photo.width, self.photo.height
        one = [width / 2, height / 2]
        for action, points in (
            ("correct", [one, one]),
            ("correct", [one] * 9),
            ("correct", [[-900.0, -900.0], [1e6, 5.0]]),
            ("marks", [one, one]),
            ("marks", [[0.0, 0.0], [1e6, 1e6]]),
            ("landmarks", [one] * 4),
            ("pin", [[width + 900.0, height + 900.0]]),
            ("pin", [[-500.0, -500.0], [-400.0, -400.0]]),
        ):
            sent = {"points": json.dumps(points), "tool": "caliper", "side": "suspect", "others": "[]", "words": "x"}
            answer = self.client.post(self.url("work", "bar", action), sent)
            self.assertLess(answer.status_code, 500, (action, points))
            document = self.client.get(self.url("case-json")).content.decode()
            json.loads(document, parse_constant=self.fail)
        for reading in Reading.objects.filter(pair=self.case.pair):
            numbers = [reading.uncertainty or 0, *reading.parts.values()]
            self.assertTrue(np.isfinite([float(number) for number in numbers]).all())
        for note in Note.objects.all():
            self.assertTrue(np.isfinite([note.value or 0, note.uncertainty or 0]).all())

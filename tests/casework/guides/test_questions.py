"""Questions of the catalogue and of a shop's own: added, worded, answered for retail, hidden until answered."""

from django.contrib.auth.models import Permission
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from assay.catalogue import BadQuestion, catalogue, questions_from
from casework.actions import work_checkpoint as work
from library.models import Checkpoint
from tests.support.scenes import checkpoint, finding, small_case, small_organisation

OWN = {"name": "Box corners", "instruction": "Run a thumb along them.", "answers": "Sharp\n! Soft", "section": "Box"}


class Catalogue(SimpleTestCase):
    def test_every_question_has_a_drawing_for_every_answer_and_frequencies_that_add_up(self):
        self.assertGreater(len(catalogue()), 25)
        self.assertTrue(all(drawing for one in catalogue() for _, _, drawing in one.answers))

    def test_every_drawing_that_is_named_is_drawn(self):
        folder = "casework/templates/casework/bench/"
        drawn = "".join(open(f"{folder}{name}").read() for name in ("_tokens.html", "_examples.html"))  # noqa: PTH123, SIM115
        for one in catalogue():
            for _, _, drawing in one.answers:
                self.assertIn(f'id="ex-{drawing}"', drawn)

    def test_a_question_that_cannot_be_asked_is_refused(self):
        good = {
            "key": "a",
            "name": "A",
            "section": "S",
            "group": "g",
            "instruction": "?",
            "minutes": 0.1,
            "caution": "",
        }
        good |= {"of_shoe": True, "applies_when": [], "answers": [["x", "X", "flat"], ["y", "Y", "fine"]]}
        good |= {"retail": {"y": 0.01}, "copies": {"x": 0.5, "y": 0.5}}
        self.assertEqual(len(questions_from({"schema": "wahrheit-questions/1", "questions": [good]})), 1)
        for bad in (
            {"answers": [["x", "X", ""]]},
            {"retail": {"z": 0.1}},
            {"copies": {"x": 1.0}},
            {"retail": {"y": 1}},
        ):
            with self.assertRaises(BadQuestion):
                questions_from({"schema": "wahrheit-questions/1", "questions": [good | bad]})


class Asking(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))

    def setUp(self):
        self.client.force_login(self.scene.mara)
        self.url = reverse("guide-questions", args=[self.scene.release.pk])

    def own(self, key, **sent):
        return self.client.post(reverse("guide-question", args=[self.scene.release.pk, key]), sent)

    def test_one_click_puts_a_question_of_the_catalogue_on_every_open_case(self):
        self.client.post(self.url, {"add": "foam"})
        self.assertEqual(finding(self.case, "foam").reason, "not_looked_at")
        self.own("foam", pair="R1", choice="snaps")
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "foam"), user=self.scene.mara, choice="flat")
        self.assertIn(finding(self.case, "foam").grade, ("drifts", "departs"))
        self.assertContains(self.client.post(self.url, {"add": "foam"}), "already", status_code=422)

    def test_one_of_its_own_is_worded_and_what_pairs_answered_stays(self):
        self.client.post(self.url, OWN)
        made = Checkpoint.objects.get(name="Box corners")
        self.assertEqual([key for key, *_ in made.answers], ["sharp", "soft"])
        self.own(made.key, pair="R1", choice="sharp")
        self.own(made.key, **OWN | {"answers": "Sharp\n! Soft or frayed"})
        made.refresh_from_db()
        self.assertEqual(made.answers[1][:2], ["soft", "Soft or frayed"])
        answer = self.own(made.key, **OWN | {"answers": "Round\n! Soft or frayed\nTorn"})
        self.assertEqual(Checkpoint.objects.get(pk=made.pk).answers[0][0], "sharp")
        self.assertIn(answer.status_code, (302, 422))

    def test_what_cannot_be_asked_is_said_and_nothing_entered_is_lost(self):
        for bad, said in (
            ({"answers": "One"}, "two answers"),
            ({"answers": "! A\n! B"}, "usually"),
            ({"name": ""}, "name"),
        ):
            answer = self.client.post(self.url, OWN | bad)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, "Run a thumb along them.", status_code=422)
        self.client.force_login(self.scene.jory)
        self.assertContains(self.client.post(self.url, OWN), "guide writer", status_code=422)

    def test_what_retail_answers_is_hidden_until_the_checker_has_answered(self):
        page = reverse("bench-at", args=[self.case.number, "touch"])
        self.assertContains(self.client.get(page), "shown once you have answered")
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "touch"), user=self.scene.mara, choice="flat")
        after = self.client.get(page)
        self.assertNotContains(after, "shown once you have answered")
        self.assertContains(after, "Fine")

"""What a counter writes on paper lives beside the case: found, shown, off the ledger, also once it is signed."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from casework.actions.sign_opinion import sign_opinion
from tests.support.scenes import small_case, small_organisation


class Desk(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        self.client.force_login(self.scene.mara)
        self.url = reverse("desk", args=[self.case.number])

    def test_it_is_found_on_the_counter_and_says_what_is_due(self):
        late = timezone.localdate() - timedelta(days=1)
        self.client.post(self.url, {"ticket": "Ticket 88", "shelf": "B3", "due_on": late.isoformat()})
        self.client.post(self.url, {"to_ask": "Which shop?"})
        other = small_case(self.scene)
        page = self.client.get(reverse("counter")).content.decode()
        self.assertIn("Ticket 88 · B3", page)
        self.assertIn('class="overdue"', page)
        # What is due stands over the newer case.
        self.assertLess(page.index(f"/cases/{self.case.number}/"), page.index(f"/cases/{other.number}/"))
        for words in ("88", "Which shop"):
            found = self.client.get(reverse("counter"), {"q": words}).content.decode()
            self.assertIn(f"/cases/{self.case.number}/", found)
            self.assertNotIn(f"/cases/{other.number}/", found)

    def test_it_changes_after_the_signature_and_its_words_stay_off_ledger_and_export(self):
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Enough.", after=None)
        self.client.post(self.url, {"ticket": "Perrin Quoyle"})
        self.case.desk.refresh_from_db()
        self.assertEqual(self.case.desk.ticket, "Perrin Quoyle")
        self.assertEqual(self.case.ledger.latest("pk").details, {"fields": ["ticket"]})
        exported = self.client.get(reverse("case-json", args=[self.case.number]))
        self.assertNotContains(exported, "Perrin")

    def test_a_day_that_is_none_is_said_and_loses_nothing(self):
        self.client.post(self.url, {"shelf": "B3"})
        told = self.client.post(self.url, {"due_on": "soon"}, headers={"HX-Request": "true"})
        self.assertContains(told, "year-month-day")
        self.case.desk.refresh_from_db()
        self.assertEqual(self.case.desk.shelf, "B3")

    def test_a_stranger_changes_nothing(self):
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.post(self.url, {"shelf": "X"}).status_code, 404)

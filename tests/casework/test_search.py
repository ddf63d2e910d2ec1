"""The counter and the logbook find a case by the same words."""

from datetime import UTC, datetime

from django.test import TestCase
from django.urls import reverse

from casework.actions.sign_opinion import sign_opinion
from casework.models import Case
from casework.search import search_cases
from tests.support.scenes import small_case, small_organisation


class Search(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        Case.objects.filter(pk=self.case.pk).update(opened_at=datetime(2025, 11, 3, 12, tzinfo=UTC))
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Loose thread.", after=None)
        self.other = small_case(self.scene)
        self.client.force_login(self.scene.mara)

    def test_every_word_must_stand_in_the_case(self):
        number = str(self.case.number)
        for asked in (number, f"{number} mara", "november 2025", "Nov", "2025-11", "2025-11-03", "thread undecided"):
            found = list(search_cases(Case.objects.all(), asked))
            self.assertEqual(found, [self.case], asked)
        self.assertEqual(list(search_cases(Case.objects.all(), f"{number} october")), [])
        for words in ("thread", "mara thread"):
            self.assertFalse(search_cases(Case.objects.all(), words, frozenset({self.case.pk})).exists())

    def test_both_pages_find_it(self):
        for url in (reverse("counter"), reverse("logbook")):
            page = self.client.get(url, {"q": "November thread"}).content.decode()
            self.assertIn(f"/cases/{self.case.number}/", page)
            self.assertNotIn(f"/cases/{self.other.number}/", page)

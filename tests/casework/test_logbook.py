"""What was learned later stands beside what was signed, and says how often the house is wrong."""

from datetime import timedelta

from django.db import DatabaseError, transaction
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from assay.errors import AssayError
from casework.actions.learn_outcome import learn_outcome
from casework.actions.sign_opinion import sign_opinion
from casework.logbook import queries
from casework.models import Case, Outcome
from tests.scenes import small_case, small_house


class Logbook(TestCase):
    def setUp(self):
        self.scene = small_house()
        self.client.force_login(self.scene.mara)
        self.today = timezone.localdate()

    def closed(self, verdict: str) -> Case:
        case = small_case(self.scene)
        sign_opinion(case=case, user=self.scene.mara, verdict=verdict, words="So.", after=None)
        case.refresh_from_db()
        return case

    def learn(self, case: Case, so: str, **changes) -> Outcome:
        given = {"so": so, "how": "maker", "source": "letter 12", "learned_on": self.today}
        return learn_outcome(case=case, user=self.scene.mara, given=given | changes)

    def test_an_outcome_changes_nothing_that_was_signed_and_is_never_rewritten(self):
        case = self.closed("legit")
        signed = self.client.get(reverse("case-json", args=[case.number])).content
        kept = self.learn(case, "fake")
        self.assertEqual(self.client.get(reverse("case-json", args=[case.number])).content, signed)
        with self.assertRaises(DatabaseError), transaction.atomic():
            Outcome.objects.filter(pk=kept.pk).update(so="legit")
        self.learn(case, "legit", source="the maker, by telephone")
        self.assertEqual((case.outcomes.count(), queries.closed(self.scene.house, {}).get().so), (2, "legit"))

    def test_open_cases_other_days_and_no_source_are_refused_in_words(self):
        case = self.closed("fake")
        for reason, of, changes in (
            ("not_signed_yet", small_case(self.scene), {}),
            ("learned_too_early", case, {"learned_on": self.today - timedelta(days=9)}),
            ("learned_too_early", case, {"learned_on": self.today + timedelta(days=1)}),
            ("no_reason", case, {"source": " "}),
        ):
            with self.assertRaises(AssayError) as caught:
                self.learn(of, "fake", **changes)
            self.assertEqual(caught.exception.reason, reason)
        url = reverse("outcome", args=[case.number])
        answer = self.client.post(url, {"so": "fake", "how": "maker", "source": "x", "learned_on": "soon"}, follow=True)
        self.assertContains(answer, "Write the day as")
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.post(url, {}).status_code, 404)

    def test_rates_count_what_is_known_only_and_say_how_little_it_is(self):
        for verdict, so in (("legit", "fake"), ("legit", "legit"), ("fake", "fake"), ("undecided", "fake")):
            self.learn(self.closed(verdict), so)
        self.closed("legit")
        told = queries.learned(self.scene.house)
        rates = {rate.name: (rate.times, rate.of) for rate in told["rates"]}
        self.assertEqual(rates["Copies that were passed as legit"], (1, 2))
        self.assertEqual(rates["Genuine pairs that were called fake"], (0, 1))
        self.assertEqual(rates["Cases left undecided"], (1, 5))
        self.assertEqual(rates["Cases whose outcome is known"], (4, 5))
        page = self.client.get(reverse("learned"))
        self.assertContains(page, "That is few")
        self.assertContains(page, "50.0 % (9.5 to 90.5)", msg_prefix="Wilson of 1 in 2")

    def test_one_case_and_none_make_no_error(self):
        self.assertContains(self.client.get(reverse("learned")), "no case yet")
        self.learn(self.closed("fake"), "fake")
        self.assertContains(self.client.get(reverse("learned")), "It takes an outcome of both kinds")

    def test_filters_and_exports_hold_the_same_cases(self):
        self.learn(self.closed("legit"), "fake")
        self.closed("fake")
        for wanted, many in (
            ({"outcome": "against"}, 1), ({"outcome": "none"}, 1), ({"verdict": "fake"}, 1), ({"q": "brackish"}, 2),
            ({"q": "nothing"}, 0), ({"checker": "mara"}, 2), ({"q": "999999999999"}, 0),
        ):  # fmt: skip
            with self.subTest(wanted):
                self.assertEqual(self.client.get(reverse("logbook"), wanted).context["page"].paginator.count, many)
                rows = self.client.get(reverse("logbook-export", args=["json"]), wanted).json()["cases"]
                self.assertEqual(len(rows), many)
        self.assertIn(b"outcome", self.client.get(reverse("logbook-export", args=["csv"])).content.splitlines()[0])

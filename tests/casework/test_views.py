"""Pages under bad input and in a known number of queries."""

from datetime import timedelta
from unittest import mock
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from casework.access import case_for
from casework.actions import work_checkpoint as work
from casework.actions.sign_opinion import sign_opinion
from casework.counter.queries import counter
from casework.models import Case
from tests.support.pictures import file_of, noise
from tests.support.scenes import checkpoint, finding, grey_photo, small_case, small_organisation

HTMX = {"HX-Request": "true"}


class Pages(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def setUp(self):
        self.client.force_login(self.scene.mara)

    def url(self, name, *more):
        return reverse(name, args=[self.case.number, *more])

    def test_a_code_that_opens_nothing_stays_in_the_field_with_the_reason(self):
        answer = self.client.post(reverse("start"), {"style_code": "VQ-4412", "token": uuid4()})
        self.assertContains(answer, "A code here has 8 letters and figures", status_code=422)
        self.assertContains(answer, 'value="VQ-4412"', status_code=422)
        self.assertContains(self.client.post(reverse("start"), {}), "Type the style code", status_code=422)

    def test_a_size_never_made_is_refused_and_the_rest_is_kept(self):
        sent = {"size_us": "14", "region": "eu", "source": "a friend", "asked_price": "70"}
        answer = self.client.post(self.url("intake"), sent)
        self.assertContains(answer, "never made in US 14", status_code=422)
        self.assertContains(answer, 'value="14"', status_code=422)
        self.case.refresh_from_db()
        self.assertEqual(
            (self.case.source, self.case.pair.size_us, str(self.case.asked_price)), ("a friend", "", "70.00")
        )

    def test_a_price_that_is_no_number_says_so_and_empties_nothing(self):
        self.client.post(self.url("intake"), {"source": "a friend", "asked_price": "50"})
        answer = self.client.post(self.url("intake"), {"source": "a friend", "asked_price": "cheap"}, headers=HTMX)
        self.assertContains(answer, "Write the price as a number")
        self.case.refresh_from_db()
        self.assertEqual(str(self.case.asked_price), "50.00")

    def test_one_field_saved_alone_leaves_the_others(self):
        self.client.post(self.url("intake"), {"size_us": "8,5", "condition": "worn"}, headers=HTMX)
        answer = self.client.post(self.url("intake"), {"region": "us"}, headers=HTMX)
        self.assertTemplateNotUsed(answer, "base.html")
        self.case.pair.refresh_from_db()
        self.assertEqual(
            (self.case.pair.size_us, self.case.pair.condition, self.case.pair.region), ("8.5", "worn", "us")
        )
        self.assertContains(answer, "Doesn’t apply: says nothing on a worn pair")

    def test_files_that_are_no_photographs_each_get_a_word(self):
        good = file_of(noise())
        cases = {
            "empty.jpg": (b"", "is empty"),
            "story.jpg": (b"once upon a time", "not a photograph"),
            "cut.jpg": (good[: len(good) // 2], "cut off"),
            "tiny.png": (file_of(noise(50, 60), "PNG"), "only 60 × 50"),
        }
        place = {"view": "side_out", "foot": "left"}
        for name, (data, words) in cases.items():
            sent = {**place, "files": SimpleUploadedFile(name, data)}
            self.assertContains(self.client.post(self.url("photos"), sent, follow=True), words)
        self.assertContains(self.client.post(self.url("photos"), place, follow=True), "No file was chosen")
        wrong = self.client.post(self.url("photos"), {**place, "mm_per_px": "-3"}, follow=True)
        self.assertContains(wrong, "not a photograph of a shoe")
        self.assertEqual(self.case.pair.photos.count(), 0)

    def test_a_photo_that_cannot_be_laid_onto_the_reference_is_kept_and_says_so(self):
        sent = {"view": "side_out", "foot": "left", "files": SimpleUploadedFile("a.jpg", file_of(noise()))}
        with self.captureOnCommitCallbacks(execute=True):
            self.client.post(self.url("photos"), sent)
        self.assertContains(
            self.client.get(self.url("bench-at", "bar")), "Nothing is drawn on the reference photograph"
        )
        again = {**sent, "files": SimpleUploadedFile("b.jpg", file_of(noise()))}
        self.assertContains(self.client.post(self.url("photos"), again, follow=True), "is here already")
        self.case.refresh_from_db()
        self.assertEqual((self.case.pair.photos.count(), self.case.to_analyse), (1, 0))
        for points in ("", "[[1]]", '[["a", 2]]', "[[1, NaN], [2, 2]]", "[[1, 1]]", "[[1, 1], [99999, 5]]"):
            answer = self.client.post(self.url("work", "bar", "marks"), {"points": points}, headers=HTMX)
            self.assertContains(answer, 'class="problem"', status_code=422)

    def test_an_unreadable_code_stays_in_the_field(self):
        answer = self.client.post(self.url("work", "style-code", "places"), {"tag.style_code": "VQ-44A"}, headers=HTMX)
        self.assertContains(answer, 'value="VQ-44A"', status_code=422)
        self.assertEqual(finding(self.case, "style-code").reason, "not_looked_at")

    def test_a_signed_case_leads_back_to_the_verdict(self):
        self.client.post(self.url("verdict"), {"verdict": "undecided", "words": "Too little.", "after": ""})
        answer = self.client.post(self.url("work", "touch", "answer"), {"choice": "fine"}, follow=True)
        self.assertContains(answer, "nothing in it changes any more")
        quick = self.client.post(self.url("work", "touch", "answer"), {"choice": "fine"}, headers=HTMX)
        self.assertEqual(quick["HX-Redirect"], self.url("verdict"))
        words = self.client.post(self.url("verdict"), {"verdict": "fake", "words": "My reasons", "after": ""})
        self.assertContains(words, "My reasons", status_code=422)

    def test_a_signature_between_look_and_click_is_no_error_either(self):
        sign_opinion(case=self.case, user=self.scene.jory, verdict="undecided", words="Mine.", after=None)
        with mock.patch("casework.bench.views.open_case_for", case_for):
            answer = self.client.post(self.url("work", "touch", "answer"), {"choice": "fine"}, follow=True)
        self.assertContains(answer, "nothing in it changes any more")

    def test_answers_go_on_to_what_waits_next_and_work_without_scripts_too(self):
        quick = self.client.post(self.url("work", "smell", "answer"), {"choice": "faint"}, headers=HTMX)
        self.assertTemplateNotUsed(quick, "base.html")
        self.assertEqual(quick["HX-Push-Url"], self.url("bench-at", "touch"))
        plain = self.client.post(self.url("work", "touch", "answer"), {"choice": "fine"})
        # The one between waits for a photograph: it is not offered.
        self.assertRedirects(plain, self.url("bench-at", "style-code"))

    def test_a_photograph_may_be_of_a_foot_that_the_retail_pair_has_none_of(self):
        photo = grey_photo(self.case, view="side_out", foot="left")
        url = reverse("photo-show", args=[self.case.number, photo.pk])
        self.assertContains(self.client.get(url), 'value="side_in right"')
        action = reverse("photo-work", args=[self.case.number, photo.pk, "sort"])
        self.client.post(action, {"place": "side_in right"})
        photo.refresh_from_db()
        self.assertEqual((photo.view, photo.foot), ("side_in", "right"))

    def test_an_open_case_stays_on_the_counter_however_many_were_signed_since(self):
        for _ in range(2):
            later = small_case(self.scene)
            sign_opinion(case=later, user=self.scene.mara, verdict="undecided", words="So.", after=None)
        with mock.patch("casework.counter.queries.MOST", 2):
            self.assertIn(self.case, [row.case for row in counter(self.scene.organisation)["waiting"]])

    def test_pages_ask_the_database_a_known_number_of_times(self):
        pages = (
            (self.url("bench-at", "touch"), 22),
            (self.url("verdict"), 18),
            (self.url("intake"), 32),
            (self.url("case-json"), 26),
        )
        for url, most in ((reverse("counter"), 14), *pages):
            with self.assertNumQueriesAtMost(most):
                self.client.get(url)

    def assertNumQueriesAtMost(self, most):
        class AtMost(CaptureQueriesContext):
            def __exit__(inner, *why):  # noqa: N805
                super().__exit__(*why)
                self.assertLessEqual(len(inner), most)

        return AtMost(connection)

    def test_progress_is_polled_while_it_runs_and_a_stopped_run_offers_to_go_on(self):
        Case.objects.filter(pk=self.case.pk).update(analysed=2, to_analyse=5, analysis_began=timezone.now())
        self.assertContains(self.client.get(self.url("progress")), "measuring 2 of 5")
        self.assertContains(self.client.get(self.url("progress")), "hx-trigger")
        long_ago = timezone.now() - timedelta(hours=1)
        Case.objects.filter(pk=self.case.pk).update(analysis_began=long_ago)
        stopped = self.client.get(self.url("progress"))
        self.assertContains(stopped, "Go on measuring")
        self.assertNotContains(stopped, "hx-trigger")
        Case.objects.filter(pk=self.case.pk).update(to_analyse=0)
        self.assertContains(self.client.get(self.url("progress")), "data-reload")

    def test_a_second_opinion_stands_under_the_first_and_both_are_exported(self):
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "touch"), user=self.scene.mara, choice="fine")
        first = sign_opinion(case=self.case, user=self.scene.jory, verdict="undecided", words="Too little.", after=None)
        sent = {"verdict": "legit", "words": "I know this pair.", "after": first.pk}
        refused = self.client.post(self.url("verdict"), sent)
        self.assertContains(refused, "less was compared than a legit verdict needs", status_code=422)
        sent |= {"anyway": "I sold it myself."}
        page = self.client.post(self.url("verdict"), sent, follow=True).content.decode()
        self.assertLess(page.index("Too little."), page.index("I know this pair."))
        opinions = self.client.get(self.url("case-json")).json()["opinions"]
        self.assertEqual([(o["checker"], o["follows"]) for o in opinions], [("jory", False), ("mara", True)])

    def test_words_of_users_are_never_markup(self):
        self.client.post(self.url("intake"), {"source": "<b>pier</b>"}, headers=HTMX)
        self.client.post(self.url("work", "touch", "cannot-tell"), {"why": "<img src=x>"})
        for url in (self.url("intake"), self.url("bench-at", "touch"), self.url("verdict")):
            page = self.client.get(url).content.decode()
            self.assertNotIn("<b>pier", page)
            self.assertNotIn("<img src=x>", page)

    def test_a_policy_out_of_range_or_with_crossing_thresholds_changes_nothing_and_keeps_what_was_typed(self):
        said = {
            "red_flags": 4,
            "coverage": 80,
            "decision_rule": "weighs_everything",
            "legit_from": 15,
            "fake_from": -25,
        }
        for wrong, words in (
            ({"red_flags": 0}, "from 1 to 9"),
            ({"legit_from": -30}, "must lie below"),
            ({"legit_from": "nan"}, "Enter a number"),
        ):
            answer = self.client.post(reverse("policy"), said | wrong)
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, 'value="-25', status_code=422)
        self.assertEqual(self.scene.organisation.policies.count(), 1)
        self.client.post(reverse("policy"), said)
        self.assertContains(self.client.get(self.url("verdict")), "Shop policy 2")

    def test_only_who_owns_the_shop_says_how_it_decides(self):
        self.client.force_login(self.scene.jory)
        said = {"red_flags": 4, "coverage": 80, "decision_rule": "sure_sign", "legit_from": 15, "fake_from": -25}
        self.assertContains(self.client.post(reverse("policy"), said), "who owns the shop", status_code=422)
        self.assertEqual(self.scene.organisation.policies.count(), 1)
        self.assertNotContains(self.client.get(reverse("policy")), "Set policy")
        self.assertEqual(Case.objects.count(), 1)

"""Two people look at one pair without knowing of each other; where they differ, closer pictures are asked for."""

from datetime import timedelta

from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.agreement import kappa
from assay.judge.rules import Policy
from casework.actions import work_checkpoint as work
from casework.actions.open_link import link_behind
from casework.actions.open_second_opinion import ask_second_opinion, next_round, open_second_opinion
from casework.actions.save_intake import save_intake
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion
from casework.models import Case
from tests.support.scenes import checkpoint, grey_photo, person, small_case, small_organisation


class Agreement(SimpleTestCase):
    def test_kappa_and_its_interval_are_statsmodels(self):
        """Cohen 1960; values and 95 % intervals by statsmodels 0.15, ``cohens_kappa``."""
        for table, *expected in (
            ([[20, 5], [10, 15]], 0.4, 0.151092, 0.648908),
            ([[88, 14, 18], [10, 40, 10], [2, 6, 12]], 0.491525, 0.391564, 0.591487),
            ([[7, 7, 2, 3], [2, 8, 3, 7], [1, 5, 4, 9], [2, 8, 9, 14]], 0.129330, -0.005120, 0.263781),
        ):
            pairs = [(i, j) for i, row in enumerate(table) for j, n in enumerate(row) for _ in range(n)]
            found = kappa([(str(i), str(j)) for i, j in pairs])
            for got, wanted in zip((found.value, found.low, found.high), expected, strict=True):
                self.assertAlmostEqual(got, wanted, places=6)

    def test_all_alike_has_no_kappa(self):
        self.assertIsNone(kappa([("agrees", "agrees")] * 9))
        self.assertIsNone(kappa([]))


class SecondLook(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.mara, self.jory = self.scene.mara, self.scene.jory
        self.case = small_case(self.scene)
        grey_photo(self.case, view="side_out", foot="left")
        self.answer(self.case, self.mara, "solvent")

    def answer(self, case, user, choice):
        work.answer(case=case, checkpoint=checkpoint(case, "smell"), user=user, choice=choice)

    def sign(self, case, user, verdict="fake"):
        # The machine's own readings wait for workers, which there are none of here.
        Case.objects.filter(pk=case.pk).update(to_analyse=0, runs=0)
        sign_opinion(case=case, user=user, verdict=verdict, words="Mine.", anyway="Sure.", after=None)
        case.refresh_from_db()

    def refused(self, reason, act, **given):
        with self.assertRaises(AssayError) as caught:
            act(**given)
        self.assertEqual(caught.exception.reason, reason)

    def as_(self, user, name, case, method="get"):
        self.client.force_login(user)
        return getattr(self.client, method)(reverse(name, args=[case.number]))

    def test_the_second_has_the_same_photographs_and_nothing_that_the_first_said(self):
        self.sign(self.case, self.mara)
        second = open_second_opinion(case=self.case, user=self.jory)
        mine, theirs = (list(case.pair.photos.values_list("sha256", "view", "foot")) for case in (second, self.case))
        self.assertEqual(mine, theirs)
        self.assertEqual(second.findings.get(checkpoint__key="smell").reason, "not_looked_at")
        self.assertEqual((second.sightings.count(), second.notes.count(), second.opinions.count()), (0, 0, 0))

    def test_neither_sees_the_other_s_case_until_both_are_signed(self):
        self.sign(self.case, self.mara)
        second = open_second_opinion(case=self.case, user=self.jory)
        for name in ("bench", "verdict", "intake", "case-json", "case-bag", "beside"):
            self.assertRedirects(self.as_(self.jory, name, self.case), reverse("verdict", args=[second.number]))
            self.assertRedirects(self.as_(self.mara, name, second), reverse("counter"), fetch_redirect_response=False)
        page = self.as_(self.jory, "verdict", second).content.decode()
        self.assertNotIn("Mine.", page)
        self.client.force_login(self.jory)
        self.assertNotIn("Fake", self.client.get("/").content.decode().split("<main")[1])
        self.answer(second, self.jory, "faint")
        self.sign(second, self.jory, "undecided")
        for user in (self.mara, self.jory):
            answer = self.as_(user, "beside", self.case)
            self.assertContains(answer, "They differ")
            self.assertContains(answer, "Smell")

    def test_whoever_worked_on_it_and_a_third_cannot_give_the_second_opinion(self):
        self.refused("not_signed", open_second_opinion, case=self.case, user=self.jory)
        self.sign(self.case, self.mara)
        self.refused("same_person", open_second_opinion, case=self.case, user=self.mara)
        open_second_opinion(case=self.case, user=self.jory)
        third = person("tove", self.scene.organisation)
        self.refused("second_taken", open_second_opinion, case=self.case, user=third)

    def test_it_is_asked_for_on_one_case_whatever_the_policy_says_and_hidden_from_who_may_give_it(self):
        self.sign(self.case, self.mara)
        self.client.force_login(self.jory)
        self.assertNotContains(self.client.get("/"), "Look without seeing theirs")
        self.as_(self.mara, "ask-second", self.case, "post")
        self.as_(self.mara, "ask-second", self.case, "post")
        self.assertEqual(self.case.ledger.filter(action="second_asked").count(), 1)
        self.client.force_login(self.jory)
        page = self.client.get("/")
        self.assertContains(page, "Look without seeing theirs")
        self.assertNotIn("Fake", page.content.decode().split("<main")[1])
        open_second_opinion(case=self.case, user=self.jory)
        self.refused("second_taken", ask_second_opinion, case=self.case, user=self.mara)

    def test_a_policy_of_today_asks_for_no_second_opinion_on_what_was_signed_before_it(self):
        self.sign(self.case, self.mara)
        set_policy(organisation=self.scene.organisation, user=self.mara, rules=Policy(), second=("always", None))
        self.client.force_login(self.jory)
        self.assertNotContains(self.client.get("/"), "Look without seeing theirs")

    def test_the_policy_says_when_two_must_look_and_the_counter_offers_it_to_others(self):
        set_policy(organisation=self.scene.organisation, user=self.mara, rules=Policy(), second=("fake", None))
        self.sign(self.case, self.mara)
        self.client.force_login(self.mara)
        self.assertNotContains(self.client.get("/"), "Look without seeing theirs")
        self.assertContains(self.as_(self.mara, "verdict", self.case), "second opinion is asked for")
        self.client.force_login(self.jory)
        page = self.client.get("/")
        self.assertContains(page, "Look without seeing theirs")
        answer = self.as_(self.jory, "look-again", self.case, "post")
        second = Case.objects.get(second_of=self.case)
        self.assertRedirects(answer, reverse("bench", args=[second.number]), fetch_redirect_response=False)

    def test_a_stalemate_asks_a_client_for_pictures_and_leaves_what_was_signed(self):
        self.sign(self.case, self.mara)
        second = open_second_opinion(case=self.case, user=self.jory)
        self.sign(second, self.jory, "undecided")
        first = Case.objects.get(pk=self.case.pk)
        self.refused("nothing_wanted", next_round, case=first, user=self.mara, wanted=[])
        wanted = [{"view": "rear", "foot": "left", "why": "Closer, for the heel."}]
        made, secret = next_round(case=first, user=self.mara, wanted=wanted)
        self.assertEqual((made.second_of, made.round, made.signed_at), (first, True, None))
        self.assertEqual(link_behind(secret).wanted, wanted)
        self.client.logout()
        page = self.client.get(reverse("phone", args=[secret]))
        self.assertContains(page, "Closer, for the heel.")
        for private in ("Brackish", "Mine.", "solvent", "smell"):
            self.assertNotContains(page, private)
        self.assertEqual(self.as_(self.jory, "verdict", made).status_code, 200)
        self.assertEqual(first.pair.photos.count(), 1)

    def test_a_remote_case_has_no_hands_and_a_link_that_lasts_for_days(self):
        save_intake(case=self.case, user=self.mara, facts={"in_hand": False})
        self.client.force_login(self.mara)
        page = self.client.post(reverse("link", args=[self.case.number]), {"for": "client"}).content.decode()
        secret = page.split("/phone/")[1].split("/")[0]
        lasts = link_behind(secret).expires_at - timezone.now()
        self.assertGreater(lasts, timedelta(days=6))
        self.client.logout()
        self.assertContains(self.client.get(reverse("phone", args=[secret])), "Take a photograph")

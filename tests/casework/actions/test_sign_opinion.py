"""Signing: what needs a reason, what is refused, and what is certified."""

from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from casework.actions import work_checkpoint as work
from casework.actions.issue_certificate import issue_certificate
from casework.actions.open_second_opinion import open_second_opinion
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion
from casework.grading import core_policy, policy_in_force
from casework.models import Case, Certificate, Second
from tests.support.scenes import checkpoint, small_case, small_organisation


class Signing(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        self.client.force_login(self.scene.mara)

    def sign(self, verdict: str, *, user=None, anyway: str = "", case=None):
        case = case or self.case
        last = case.opinions.last()
        given = {"verdict": verdict, "words": "So.", "anyway": anyway, "after": last and last.pk}
        return sign_opinion(case=case, user=user or self.scene.mara, **given)

    def refused(self, reason: str, act, *given, **more) -> AssayError:
        with self.assertRaises(AssayError) as caught:
            act(*given, **more)
        self.assertEqual(caught.exception.reason, reason)
        return caught.exception

    def answer(self, key: str, choice: str) -> None:
        work.answer(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, choice=choice)

    def test_legit_with_nothing_of_the_shoe_compared_is_refused_whatever_the_reason(self):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": "VQ-44127-B"})
        self.refused("nothing_of_shoe", self.sign, "legit", anyway="I know it.")
        self.assertFalse(Case.objects.get(pk=self.case.pk).signed_at)

    def test_against_the_rule_below_coverage_with_musts_missing_or_flags_unseen_a_reason_is_asked_and_kept(self):
        self.answer("touch", "fine")
        error = self.refused("reason_needed", self.sign, "legit")
        self.assertEqual(set(error.numbers["what"].split()), {"against_rule", "coverage_short", "required_missing"})
        opinion = self.sign("legit", anyway="I sold this very pair.")
        self.assertEqual(opinion.anyway, "I sold this very pair.")
        self.assertEqual(set(opinion.against), {"against_rule", "coverage_short", "required_missing"})
        document = self.client.get(reverse("case-json", args=[self.case.number])).json()
        self.assertEqual(document["opinions"][0]["anyway"], "I sold this very pair.")

    def test_fake_by_a_typed_slip_that_nobody_confirmed_needs_a_reason_and_undecided_never_does(self):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": "VQ-44127-X"})
        error = self.refused("reason_needed", self.sign, "fake")
        self.assertIn("flags_unconfirmed", error.numbers["what"])
        self.assertEqual(self.sign("undecided").anyway, "")

    def test_a_signed_case_is_headed_by_what_was_signed_and_says_what_the_rule_says_below(self):
        self.answer("touch", "fine")
        self.sign("legit", anyway="I sold this very pair.")
        page = self.client.get(reverse("verdict", args=[self.case.number])).content.decode()
        self.assertLess(page.index("<h1>Legit</h1>"), page.index("The rule says undecided today."))
        self.assertIn("I sold this very pair.", page)

    def test_where_two_look_nothing_is_certified_before_the_second_has_signed(self):
        rules = core_policy(policy_in_force(self.scene.organisation))
        set_policy(
            organisation=self.scene.organisation, user=self.scene.mara, rules=rules, second=(Second.ALWAYS, None)
        )
        self.sign("undecided")
        self.case.refresh_from_db()
        self.refused("second_opinion_first", issue_certificate, case=self.case, user=self.scene.mara)
        answer = self.client.post(reverse("certificate", args=[self.case.number]), follow=True)
        self.assertContains(answer, "asks two people")
        look = open_second_opinion(case=self.case, user=self.scene.jory)
        self.sign("undecided", user=self.scene.jory, case=look)
        self.assertEqual(issue_certificate(case=self.case, user=self.scene.mara), Certificate.objects.get())

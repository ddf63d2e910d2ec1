"""What checkers do to a case."""

from decimal import Decimal
from uuid import uuid4

from django.http import Http404
from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from assay.judge.rules import Policy
from assay.paperwork.style_code import UnreadableCode
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import CannotSign, sign_opinion
from casework.actions.start_case import NoSuchRelease, start_case
from casework.findings import state_of
from casework.grading import regrade
from casework.models import Case
from library.models import Release
from pairs.models import Pair, Reading
from tests.support.scenes import checkpoint, finding, small_case, small_organisation


class StartingACase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()

    def test_the_same_form_sent_twice_opens_one_case(self):
        token = uuid4()
        cases = {start_case(user=self.scene.mara, typed_code="VQ 44l27 B", token=token).pk for _ in range(2)}
        self.assertEqual((len(cases), Case.objects.count()), (1, 1))

    def test_unknown_codes_name_the_nearest_and_unreadable_ones_the_place(self):
        with self.assertRaises(NoSuchRelease) as caught:
            start_case(user=self.scene.mara, typed_code="VQ-44128-B", token=uuid4())
        self.assertEqual(caught.exception.numbers["nearest"], "VQ-44127-B")
        with self.assertRaises(UnreadableCode):
            start_case(user=self.scene.mara, typed_code="VQ-4412", token=uuid4())

    def test_without_a_verified_pair_there_is_nothing_to_compare_with(self):
        Release.objects.create(
            shoe_model=self.scene.release.shoe_model,
            colourway="Lamp Oil",
            style_code="VQ-44127-L",
            year=2024,
            generation=2,
        )
        with self.assertRaises(NoSuchRelease) as caught:
            start_case(user=self.scene.mara, typed_code="VQ-44127-L", token=uuid4())
        self.assertEqual(caught.exception.reason, "no_reference")
        self.assertEqual(Case.objects.count(), 0)

    def test_a_release_nobody_wrote_checks_for_is_compared_all_over_and_stays_undecided(self):
        bare = Release.objects.create(
            shoe_model=self.scene.release.shoe_model, colourway="Slate Heron", style_code="VQ-44127-S", year=2024,
            generation=2,
        )  # fmt: skip
        Pair.objects.create(organisation=self.scene.organisation, release=bare, standing="retail", label="R9")
        case = start_case(user=self.scene.mara, typed_code="VQ-44127-S", token=uuid4())
        self.client.force_login(self.scene.mara)
        bench = self.client.get(reverse("bench", args=[case.number]), follow=True)
        self.assertContains(bench, "This release has no checks yet")
        for page in ("intake", "verdict"):
            self.assertEqual(self.client.get(reverse(page, args=[case.number])).status_code, 200)
        self.assertEqual(state_of(case).assessment.answer.verdict, "undecided")

    def test_who_belongs_to_no_shop_opens_nothing(self):
        self.scene.jory.organisations.clear()
        with self.assertRaises(Http404):
            start_case(user=self.scene.jory, typed_code="VQ-44127-B", token=uuid4())


class WorkingOnACase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()

    def setUp(self):
        self.case = small_case(self.scene)

    def do(self, act, key, **more):
        act(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, **more)
        return finding(self.case, key)

    def count(self, value, uncertainty=0.0):
        Reading.objects.create(
            pair=self.case.pair,
            checkpoint=checkpoint(self.case, "bar"),
            value=value,
            unit="count",
            uncertainty=uncertainty,
            method="seam/1",
            taken_by=self.scene.mara,
        )
        regrade(self.case)
        return finding(self.case, "bar")

    def test_a_wrong_code_rules_out_only_once_somebody_confirmed_it(self):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": "vq 44172 b"})
        self.assertEqual(finding(self.case, "style-code").grade, "departs")
        self.assertEqual(self.do(work.confirm, "style-code").grade, "rules_out")

    def test_a_new_reading_must_be_confirmed_anew(self):
        self.count(12)
        self.assertIsNotNone(self.do(work.confirm, "bar").confirmed_by)
        self.assertIsNone(self.count(13).confirmed_by)

    def test_an_unsure_count_flags_only_after_an_eye_was_on_it(self):
        self.assertEqual(self.count(12, uncertainty=0.7).grade, "drifts")
        self.assertEqual(self.do(work.confirm, "bar").grade, "departs")

    def test_wear_voids_what_it_spoils_and_nothing_else(self):
        self.do(work.answer, "smell", choice="solvent")
        self.assertEqual(finding(self.case, "smell").grade, "departs")
        save_intake(case=self.case, user=self.scene.mara, facts={"condition": "worn", "asked_price": Decimal("40")})
        self.assertEqual(
            (finding(self.case, "smell").reason, finding(self.case, "smell").void["got"]), ("void", "worn")
        )
        self.assertEqual(self.do(work.answer, "touch", choice="fine").grade, "agrees")

    def test_a_changed_answer_keeps_the_first_one(self):
        self.do(work.answer, "touch", choice="flat")
        now = self.do(work.answer, "touch", choice="fine")
        self.assertEqual((now.reading.value, now.reading.corrects.value), ("fine", "flat"))

    def test_not_being_able_to_tell_is_kept_with_its_reason(self):
        said = self.do(work.cannot_tell, "touch", why="wet")
        self.assertEqual((said.reason, said.reading.refusal["why"]), ("could_not_tell", "wet"))

    def test_answers_from_nowhere_and_confirming_nothing_are_refused(self):
        with self.assertRaises(AssayError):
            self.do(work.answer, "touch", choice="purple")
        with self.assertRaises(AssayError):
            self.do(work.confirm, "touch")
        with self.assertRaises(AssayError):
            self.do(work.move_marks, "bar", points=[[1, 1], [9, 9]])

    def test_every_action_is_in_the_ledger(self):
        self.do(work.answer, "touch", choice="fine")
        self.do(work.confirm, "touch")
        self.assertEqual([e.action for e in self.case.ledger.all()], ["case_opened", "answered", "confirmed"])


class Signing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()

    def setUp(self):
        self.case = small_case(self.scene)

    def sign(self, user, after, verdict="undecided", words="Too little was examined."):
        given = {"words": words, "anyway": "I know it.", "after": after}
        return sign_opinion(case=self.case, user=user, verdict=verdict, **given)

    def test_words_are_asked_for(self):
        with self.assertRaises(CannotSign):
            self.sign(self.scene.mara, None, words="  ")

    def test_a_second_opinion_is_linked_and_a_blind_second_signature_refused(self):
        first = self.sign(self.scene.mara, None)
        with self.assertRaises(CannotSign) as caught:
            self.sign(self.scene.jory, None)
        self.assertEqual(caught.exception.reason, "signed_meanwhile")
        second = self.sign(self.scene.jory, first.pk, verdict="fake")
        self.assertEqual(second.follows, first)

    def test_opinions_keep_the_policy_they_were_signed_under(self):
        opinion = self.sign(self.scene.mara, None)
        set_policy(organisation=self.scene.organisation, user=self.scene.mara, rules=Policy(red_flags=4, coverage=0.8))
        opinion.refresh_from_db()
        self.assertEqual((opinion.policy.number, opinion.policy.red_flags), (1, 3))

    def test_nothing_is_signed_while_photographs_are_being_measured(self):
        Case.objects.filter(pk=self.case.pk).update(to_analyse=4)
        with self.assertRaises(CannotSign) as caught:
            self.sign(self.scene.mara, None)
        self.assertEqual(caught.exception.reason, "still_measuring")

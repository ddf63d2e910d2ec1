"""What the pages say comes next."""

from dataclasses import replace
from unittest import mock

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Permission
from django.test import TestCase

from assay.judge import rules
from assay.judge.rules import Verdict
from assay.judge.sensitivity import Range
from casework import findings as case_findings
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.actions.set_policy import set_policy
from casework.agenda import after as agenda_after
from casework.bench.plan import plan_words
from casework.counter.queries import counter
from casework.intake.queries import intake
from casework.revisions import Kept
from tests.support.scenes import checkpoint, small_case, small_organisation

SAID = {"One sure sign": ("fake", False), "Red-flag tally": ("undecided", True), "Weighs everything": ("fake", False)}


class WhatComesNext(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def do(self, act, key, **more):
        act(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, **more)

    def read(self, code):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": code})

    def next(self, after=""):
        self.case.refresh_from_db()
        state = case_findings.state_of(self.case)
        return agenda_after(state.agenda, state.findings, after) if after else state.agenda.next

    def test_it_is_the_next_unsettled_check_and_round_again(self):
        self.assertEqual((self.next(), self.next("smell"), self.next("bar")), ("style-code", "touch", "style-code"))
        self.read("VQ-44127-B")
        self.assertEqual(self.next("bar"), "smell")

    def test_a_decisive_departure_is_not_settled_until_confirmed(self):
        self.read("VQ-44172-B")
        self.assertEqual(self.next(), "style-code")
        self.do(work.confirm, "style-code")
        self.assertEqual(self.next(), "smell")

    def test_void_checks_ask_for_nobody(self):
        save_intake(case=self.case, user=self.scene.mara, facts={"in_hand": False})
        self.assertEqual(self.next("style-code"), "", "what is left waits for a photograph")
        page = intake(self.case)
        self.assertEqual([names for _, names in page["void"]], [["Smell", "Touch"]])

    def test_the_counter_says_what_a_case_waits_for(self):
        waits = lambda: counter(self.scene.organisation)["waiting"][0].progress.waits  # noqa: E731
        self.assertEqual(waits(), "the facts: size and condition")
        save_intake(case=self.case, user=self.scene.mara, facts={"size_us": "9", "condition": "deadstock"})
        self.assertEqual(waits(), "photographs of both shoes")

    def test_rules_that_disagree_with_the_shop_s_are_marked(self):
        self.read("VQ-44172-B")
        self.do(work.confirm, "style-code")
        stand = case_findings.assess(self.case, case_findings.findings_of(self.case))
        said = {rule["name"]: (rule["verdict"], rule["parts"]) for rule in stand.rules}
        self.assertEqual(said, SAID)
        self.assertEqual([segment["grade"] for segment in stand.segments][:2], ["rules_out", "not_compared"])

    def test_a_verdict_that_one_assumption_turns_is_not_called_settled_nor_another_rule_s(self):
        self.read("VQ-44172-B")
        self.do(work.confirm, "style-code")

        def hangs(signs, sheet, policy, balance):
            answer = replace(
                rules.weighs_everything(sheet, policy), verdict=Verdict.UNDECIDED, reason="hangs_on_assumption"
            )
            return answer, Range(balance.total, (), hangs_on="perfect_more")

        with mock.patch("casework.findings.robust_verdict", hangs), mock.patch("casework.findings.STATES", Kept(1)):
            self.case.refresh_from_db()
            state = case_findings.state_of(self.case)
        state = replace(state, plan=replace(state.plan, cannot_turn=True))
        self.assertFalse(plan_words(state, "")["settled"])
        own = next(rule for rule in state.assessment.rules if rule["name"] == "Weighs everything")
        self.assertEqual((own["verdict"], own["parts"]), ("undecided", False))
        self.assertIn("nearly perfect", own["words"])

    def test_a_decision_rule_that_nobody_knew_takes_its_file_and_one_line(self):
        """It is followed, shown and kept, without a migration and before it has words of its own."""

        def two_of_three(items, policy):
            return replace(rules.weighs_everything(items, policy), rule="two_of_three")

        known = (*rules.DECISION_RULES, two_of_three)
        with (
            mock.patch("casework.findings.DECISION_RULES", known),
            mock.patch.dict(rules.RULES, two_of_three=two_of_three),
        ):
            self.scene.mara.user_permissions.add(Permission.objects.get(codename="add_organisationpolicy"))
            owner = get_user_model().objects.get(pk=self.scene.mara.pk)
            set_policy(
                organisation=self.scene.organisation, user=owner, rules=rules.Policy(decision_rule="two_of_three")
            )
            stand = case_findings.assess(self.case, case_findings.findings_of(self.case))
        self.assertIn("Two of three", [rule["name"] for rule in stand.rules])

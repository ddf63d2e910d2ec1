"""What a case's level asks for: never a check whose photograph is missing, never legit at triage, nothing lost by
raising it."""

from django.test import TestCase
from django.urls import reverse

from assay.judge.levels import Level, TriageEnd
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import CannotSign, missing_for, sign_opinion
from casework.actions.start_case import start_case
from casework.findings import findings_of, state_of
from casework.grading import core_policy, policy_in_force
from casework.models import Case
from library.models import Checkpoint
from tests.support.scenes import checkpoint, small_case, small_organisation


class Levels(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)

    def state(self):
        case = Case.objects.select_related("pair__release__shoe_model__maker", "organisation").get(pk=self.case.pk)
        return state_of(case)

    def level(self, level: str):
        save_intake(case=self.case, user=self.scene.mara, facts={"level": level})
        return self.state().agenda

    def test_a_check_whose_photograph_is_missing_waits_and_is_never_offered(self):
        agenda = self.level("full")
        self.assertIn("bar", agenda.blocked)
        self.assertNotIn("bar", agenda.steps)

    def test_triage_says_where_it_stands_and_is_never_signed_as_legit_without_a_reason(self):
        Checkpoint.objects.filter(key="smell").update(level="triage")
        agenda = self.level("triage")
        self.assertIn("smell", agenda.steps)
        self.assertEqual(agenda.end, TriageEnd.WORKING)
        for key, choice in (("smell", "faint"), ("touch", "fine")):
            work.answer(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, choice=choice)
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": "VQ-44127-B"})
        self.assertIn(self.state().agenda.end, (TriageEnd.GO_ON, TriageEnd.NO_FURTHER))
        self.case.refresh_from_db()
        state = self.state()
        self.assertIn("only_triage", missing_for("legit", findings_of(self.case), state.assessment))
        with self.assertRaises(CannotSign):
            sign_opinion(case=self.case, user=self.scene.mara, verdict="legit", words="Fine.", after=None)

    def test_raising_the_level_loses_nothing_that_was_answered(self):
        self.level("triage")
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "smell"), user=self.scene.mara, choice="faint")
        before = {finding.checkpoint.key: finding.grade for finding in self.state().findings}
        self.client.force_login(self.scene.mara)
        url = reverse("amend", args=[self.case.number, "level"])
        self.assertRedirects(self.client.post(url, {"level": "full"}), reverse("bench", args=[self.case.number]))
        after = self.state()
        self.assertEqual(after.agenda.level, Level.FULL)
        self.assertEqual({finding.checkpoint.key: finding.grade for finding in after.findings}, before)
        self.assertEqual(self.client.post(url, {"level": "everything"}).status_code, 404)

    def test_a_new_case_has_the_shop_s_level_and_a_dear_one_is_looked_into_fully(self):
        organisation = self.scene.organisation
        self.scene.mara.user_permissions.add(*_may_set())
        owner = type(self.scene.mara).objects.get(pk=self.scene.mara.pk)
        set_policy(
            organisation=organisation,
            user=owner,
            rules=core_policy(policy_in_force(organisation)),
            levels=("triage", 300),
        )
        case = start_case(user=self.scene.mara, typed_code="VQ-44127-B", token="5f0c1f5e-8e52-4a39-bd8f-5d2f7a8d0f3a")
        self.assertEqual(case.level, "triage")
        save_intake(case=case, user=self.scene.mara, facts={"asked_price": 299})
        self.assertEqual(Case.objects.get(pk=case.pk).level, "triage")
        save_intake(case=case, user=self.scene.mara, facts={"asked_price": 300})
        self.assertEqual(Case.objects.get(pk=case.pk).level, "full")


def _may_set():
    from django.contrib.auth.models import Permission

    return Permission.objects.filter(codename="add_organisationpolicy")

"""A new shop is told what to do first, until it has signed a case."""

from django.test import TestCase

from casework.counter.first_steps import first_steps
from casework.models import Case
from tests.support.scenes import small_case, small_organisation


class FirstHour(TestCase):
    def test_every_step_leads_somewhere_and_what_is_done_is_told_until_a_case_is_signed(self):
        scene = small_organisation()
        case = small_case(scene)
        done = {step.name: step.done for step in first_steps(scene.organisation)}
        self.assertTrue(done["Add a release"] and done["Add 2 retail pairs"] and done["Try a third pair"])
        self.assertFalse(done["Print the bench card"])
        self.client.force_login(scene.mara)
        page = self.client.get("/")
        self.assertContains(page, "The first hour")
        for step in first_steps(scene.organisation):
            self.assertEqual(self.client.get(step.url).status_code, 200, step.name)
        Case.objects.filter(pk=case.pk).update(signed_at="2026-11-02T10:00Z")
        self.assertEqual(first_steps(scene.organisation), [])

    def test_a_shop_that_has_nothing_yet_begins_with_a_release(self):
        stranger = small_organisation().stranger
        steps = {step.name: step for step in first_steps(stranger.organisations.get())}
        self.assertFalse(steps["Add a release"].done)
        self.assertEqual(steps["Draft the guide"].url, steps["Add a release"].url)

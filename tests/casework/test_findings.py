"""What the pages say comes next."""

from django.test import TestCase

from casework import findings as case_findings
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.counter.queries import counter
from casework.intake.queries import intake
from tests.scenes import checkpoint, small_case, small_house

SAID = {"One sure sign": ("fake", False), "Red-flag tally": ("undecided", True), "Weighs everything": ("fake", False)}


class WhatComesNext(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_house()
        cls.case = small_case(cls.scene)

    def do(self, act, key, **more):
        act(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, **more)

    def read(self, code):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": code})

    def next(self, after=""):
        return case_findings.next_key(case_findings.findings_of(self.case), after)

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
        self.assertEqual(self.next("style-code"), "bar")
        page = intake(self.case)
        self.assertEqual([row["checkpoint"].key for row in page["void"]], ["smell", "touch"])

    def test_the_counter_says_what_a_case_waits_for(self):
        waits = lambda: counter(self.scene.house)["waiting"][0]["waits"]  # noqa: E731
        self.assertEqual(waits(), "the facts: size and condition")
        save_intake(case=self.case, user=self.scene.mara, facts={"size_us": "9", "condition": "deadstock"})
        self.assertEqual(waits(), "photographs of both shoes")

    def test_schools_that_part_from_the_house_are_marked(self):
        self.read("VQ-44172-B")
        self.do(work.confirm, "style-code")
        stand = case_findings.assess(self.case, case_findings.findings_of(self.case))
        said = {school["name"]: (school["verdict"], school["parts"]) for school in stand.schools}
        self.assertEqual(said, SAID)
        self.assertEqual([segment["grade"] for segment in stand.segments][:2], ["rules_out", "not_compared"])

"""Conditions are data: what they void, what they leave open, what is no condition."""

from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.judge.applicability import checked, open_facts, why_void

NEW = {"fact": "condition", "is": ["deadstock", "tried_on"]}
OWN_BOX = {"fact": "box_size_us", "same_as": "size_us"}


class Conditions(SimpleTestCase):
    def test_the_clause_that_does_not_hold_is_given_back_with_what_is_so_instead(self):
        self.assertEqual(why_void([NEW], {"condition": "worn"}).got, "worn")
        void = why_void([NEW, OWN_BOX], {"condition": "deadstock", "box_size_us": "8", "size_us": "12"})
        self.assertEqual((void.fact, void.got, void.wanted), ("box_size_us", "8", "12"))
        self.assertEqual(why_void([{"fact": "tools", "has": "uv_lamp"}], {"tools": []}).asked, "has")
        self.assertEqual(why_void([{"fact": "year", "from": 2023}], {"year": 2021}).asked, "within")

    def test_what_nobody_said_voids_nothing_and_is_named_as_open(self):
        facts = {"condition": "", "box_size_us": "8", "size_us": ""}
        self.assertIsNone(why_void([NEW, OWN_BOX], facts))
        self.assertEqual(open_facts([NEW, OWN_BOX], facts), ["condition", "size_us"])

    def test_any_holds_while_one_of_its_clauses_does(self):
        either = [{"any": [{"fact": "region", "is": ["us"]}, {"fact": "in_hand", "is": [True]}]}]
        self.assertIsNone(why_void(either, {"region": "eu", "in_hand": True}))
        self.assertEqual(why_void(either, {"region": "eu", "in_hand": False}).fact, "region")

    def test_what_is_no_condition_is_refused(self):
        for broken in ({}, [{}], [{"fact": "mood", "is": ["good"]}], [{"fact": "year"}], [{"fact": "year", "is": 3}],
                       [{"fact": "year", "from": 1, "is": [2]}], [{"any": [{"fact": "x", "is": []}]}],
                       [{"fact": "year", "same_as": "mood"}]):  # fmt: skip
            with self.assertRaises(CannotJudge):
                checked(broken)
        self.assertEqual(len(checked([NEW, OWN_BOX, {"any": [NEW]}])), 3)

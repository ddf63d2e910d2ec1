"""What is known of a pair takes checks away and adds them, each with its reason, required ones too."""

from decimal import Decimal

from django.test import TestCase

from casework.actions.save_intake import save_intake
from casework.paper_wording import void_words
from library.models import Checkpoint, Release
from tests.support.scenes import finding, small_case, small_organisation


class Facts(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        release, seam = self.scene.release, Checkpoint.objects.get(key="bar")
        self.of = lambda key, **more: Checkpoint.objects.create(
            release=release, key=key, name=key, instruction="Look.", section="All", group=key, **more
        )
        drawn = {"kind": "count", "measure": "seam", "view": "side_out", "prior": seam.prior}
        left = self.of("left", position=90, foot="left", **drawn)
        right = self.of("right", position=91, foot="right", mandatory=True, **drawn)
        self.of("feet", position=92, kind="count", left=left, right=right, prior=seam.prior)
        outline = {"kind": "continuous", "measure": "outline", "unit": "mm", "view": "side_out", "foot": "left"}
        self.of("outline", position=93, prior={"scatter": 1, "pairs": 2}, **outline)
        self.case = small_case(self.scene)

    def void(self) -> dict:
        keys = ("left", "right", "feet", "outline")
        found = {key: finding(self.case, key) for key in keys}
        return {key: void_words(one.void) for key, one in found.items() if one.reason == "void"}

    def test_one_shoe_alone_voids_every_check_of_the_other_and_of_both(self):
        save_intake(case=self.case, user=self.scene.mara, facts={"feet": "left"})
        reason = "Doesn’t apply: only the left shoe is here"
        self.assertEqual(self.void(), {"right": reason, "feet": reason})
        save_intake(case=self.case, user=self.scene.mara, facts={"feet": "both"})
        self.assertEqual(self.void(), {})

    def test_another_tooling_generation_is_not_held_to_this_ones_shape(self):
        save_intake(case=self.case, user=self.scene.mara, facts={"generation": 2})
        said = self.void()
        self.assertEqual(list(said), ["outline"])
        self.assertIn("the verified pairs are of generation 1, this one is of 2", said["outline"])

    def test_a_pair_far_under_the_retail_price_is_looked_into_fully_and_that_is_said(self):
        Release.objects.update(retail_price=120)
        self.case.pair.release.refresh_from_db()
        save_intake(case=self.case, user=self.scene.mara, facts={"asked_price": Decimal(90)})
        self.assertEqual(self.case.level, "standard")
        save_intake(case=self.case, user=self.scene.mara, facts={"asked_price": Decimal(40)})
        self.assertEqual(self.case.level, "full")
        self.client.force_login(self.scene.mara)
        page = self.client.get(f"/cases/{self.case.number}/intake/")
        self.assertContains(page, "Asked less than half of retail")
        # A person may still look less deep.
        save_intake(case=self.case, user=self.scene.mara, facts={"level": "triage"})
        self.assertEqual(self.case.level, "triage")

"""Left against right: derived from both feet's readings, again after a correction, never made up."""

from django.test import TestCase

from casework.grading import regrade
from library.models import Checkpoint
from pairs.actions.compare_feet import compare_feet
from pairs.actions.take_reading import SAID, say
from pairs.models import Pair, Reading
from tests.support.scenes import finding, small_case, small_organisation


class Feet(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        release, common = (
            cls.scene.release,
            {"section": "All", "instruction": "Count.", "prior": {"pairs": 2, "off_by_one": 0.004}},
        )
        left = release.checkpoints.get(key="bar")
        cls.right = Checkpoint.objects.create(
            release=release, key="bar-right", name="Bar", kind="count", group="bar", measure="seam",
            view="side_out", foot="right", position=20, **common,
        )  # fmt: skip
        cls.feet = Checkpoint.objects.create(
            release=release, key="bar-feet", name="Bar, feet", kind="count", group="bar", position=21,
            left=left, right=cls.right, **common,
        )  # fmt: skip
        cls.left = left
        cls.case = small_case(cls.scene)
        for pair in Pair.objects.filter(standing="retail"):
            cls.read(cls.right, pair, 12)
            compare_feet(pair=pair)

    @classmethod
    def read(cls, check, pair, value):
        say(checkpoint=check, pair=pair, value=value, method=SAID, by=cls.scene.mara)

    def test_a_pair_whose_feet_agree_where_retail_feet_differ_departs(self):
        self.read(self.left, self.case.pair, 13)
        regrade(self.case)
        self.assertEqual(finding(self.case, "bar-feet").reason, "not_looked_at")
        self.read(self.right, self.case.pair, 13)
        regrade(self.case)
        found = finding(self.case, "bar-feet")
        self.assertEqual((found.reading.value, found.grade), (0, "departs"))
        self.assertEqual(found.retail, [["R1", 1], ["R2", 1], ["R3", 1]])

    def test_a_corrected_foot_is_compared_anew_and_nothing_is_repeated(self):
        for check, value in ((self.left, 13), (self.right, 13), (self.right, 12)):
            self.read(check, self.case.pair, value)
            regrade(self.case)
            regrade(self.case)
        self.assertEqual(finding(self.case, "bar-feet").grade, "agrees")
        self.assertEqual(Reading.objects.filter(pair=self.case.pair, checkpoint=self.feet).count(), 2)

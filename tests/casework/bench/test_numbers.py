"""Numbers that a reading holds besides the one its check judges."""

from django.test import TestCase

from casework.bench.numbers import numbers
from library.models import Checkpoint
from pairs.models import Pair, Reading
from tests.support.scenes import finding, small_case, small_organisation


class Numbers(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.side = Checkpoint.objects.create(
            release=cls.scene.release,
            position=9,
            section="Shape",
            instruction="Look.",
            key="toe",
            name="Toe",
            kind="continuous",
            measure="profile_side",
            quantity="toe_ratio",
            unit="ratio",
            group="toe",
            view="side_out",
            foot="left",
            size_rule={"rule": "length"},
            prior={"pairs": 4, "scatter": 0.004},
        )
        cls.case = small_case(cls.scene)
        Pair.objects.filter(pk=cls.case.pair_id).update(size_us="9")
        cls.case.pair.refresh_from_db()
        for label, size, length in (("R1", "9", 300.0), ("R2", "9", 300.4), ("R3", "12", 330.0)):
            Pair.objects.filter(label=label).update(size_us=size)
            cls.read(Pair.objects.get(label=label), length, 150.0)

    @classmethod
    def read(cls, pair, length, height):
        return Reading.objects.create(
            pair=pair,
            checkpoint=cls.side,
            value=length,
            unit="mm",
            uncertainty=0.2,
            method="profile_side/2",
            taken_by=cls.scene.mara,
            parts={
                "toe_ratio": 0.2,
                "length_mm": length,
                "length_mm_uncertainty": 0.2,
                "height_mm": height,
                "height_mm_uncertainty": 0.3,
            },
        )

    def shown(self, length, height):
        found = finding(self.case, "toe")
        found.reading = self.read(self.case.pair, length, height)
        said = numbers(self.case, found)
        return said, {row["name"]: row for row in said["numbers"]}

    def test_lengths_stand_beside_retail_carried_to_this_size_and_what_leaves_its_span_is_marked(self):
        said, rows = self.shown(300.2, 152.0)
        self.assertEqual((rows["Length"]["here"], rows["Length"]["outside"]), ("300.2", False))
        # A US 12 of 330 mm is 302.5 mm long as a US 9: 33 of 36 barleycorns.
        self.assertEqual(rows["Length"]["span"], "300.0 to 302.5")
        self.assertTrue(rows["Height"]["outside"])
        self.assertEqual(said["outside"], 1)
        self.assertNotIn("Toe height over length", rows)

    def test_a_length_speaks_of_a_size(self):
        _, rows = self.shown(309.3, 150.0)
        size = rows["Size its length speaks of, US"]
        # One size is one barleycorn in 33: 9.1 mm of 300.
        self.assertEqual((size["here"], size["retail"]), ("9.9", "9"))

    def test_a_check_that_nothing_measures_has_none(self):
        self.assertEqual(numbers(self.case, finding(self.case, "smell")), {"numbers": []})

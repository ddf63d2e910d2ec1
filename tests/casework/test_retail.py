"""Contours are compared when they are graded, each verified pair with the others (drawn without the simulator)."""

from dataclasses import replace

import cv2
import numpy as np
from django.test import TestCase

from casework.grading import regrade
from library.models import Checkpoint
from pairs.actions.mark_photo import mark_photo
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair, ReadingComparison
from pairs.pipeline import measure_marking, read_photo
from tests.bench.drawn import MM_PER_PX, shoe
from tests.support.scenes import small_case, small_organisation


class Outlines(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.checkpoint = Checkpoint.objects.create(
            release=cls.scene.release, key="outline", name="Outline", section="Shape", group="outline", position=80,
            kind="continuous", measure="outline", quantity="p95_mm", unit="mm", view="side_out", foot="left",
            prior={"pairs": 4, "scatter": 0.2},
        )  # fmt: skip

    def read(self, pair, picture, checkpoint=None):
        data = cv2.imencode(".jpg", picture.rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 95])[1].tobytes()
        checkpoint = checkpoint or self.checkpoint
        where = {"view": "side_out", "foot": checkpoint.foot, "mm_per_px": MM_PER_PX}
        photo = receive_photo(pair=pair, data=data, by=self.scene.mara, **where)
        read_photo(photo=photo, references={}, needs={})
        points = picture.region.tolist()
        marking = mark_photo(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        reading = measure_marking(marking, self.scene.mara)
        reading.save()
        return reading

    def graded(self):
        regrade(self.case)
        return self.case.findings.get(checkpoint=self.checkpoint)

    def test_a_pushed_out_nose_is_found_and_drawn_and_the_order_of_entry_makes_no_difference(self):
        first, second, third = Pair.objects.filter(label__in=("R1", "R2", "R3")).order_by("label")
        pushed = self.read(self.case.pair, shoe("realistic", 3, bump=(0.12, 2.5)))
        self.assertEqual(self.graded().reason, "no_retail_pairs")
        self.read(first, shoe("easy", 1))
        alone = self.graded()
        self.assertEqual((alone.reason, alone.compared["with"]), ("one_retail_pair", 1))
        self.read(second, shoe("realistic", 2))
        self.read(third, shoe("easy", 5))
        found = self.graded()
        values = dict(found.retail)
        self.assertEqual(set(values), {"R1", "R2", "R3"})
        self.assertLess(max(values.values()), 0.5)
        parts = found.compared["parts"]
        self.assertAlmostEqual(parts["outward_mm"], 2.5, delta=0.4)
        zones = {name: parts[f"{name}_most_mm"] for name in ("toe", "vamp", "collar", "heel", "sole")}
        self.assertEqual(max(zones, key=lambda name: abs(zones[name])), "vamp")
        ring = found.compared["overlay"][-1]
        self.assertRegex(ring["label"], r"^\+2\.[2-9]$")
        nearest = np.hypot(*(np.array(pushed.overlay[0]["points"]) - ring["points"][0]).T).min()
        self.assertLess(nearest * MM_PER_PX, 4)
        before = ReadingComparison.objects.count()
        self.graded()
        self.assertEqual(ReadingComparison.objects.count(), before)

    def test_a_single_pair_is_laid_beside_its_own_other_foot(self):
        twin = Checkpoint.objects.create(
            release=self.scene.release, key="outline-right", name="Outline", section="Shape", group="outline",
            position=81, kind="continuous", measure="outline", quantity="p95_mm", unit="mm", view="side_out",
            foot="right",
        )  # fmt: skip
        first = Pair.objects.get(label="R1")
        self.read(first, shoe("easy", 1))
        drawn = shoe("realistic", 2)
        mirror = replace(drawn, rgb=np.ascontiguousarray(drawn.rgb[:, ::-1]), region=drawn.region * [-1, 1])
        mirror.region[:, 0] += drawn.rgb.shape[1] - 1
        self.read(first, mirror, twin)
        self.read(self.case.pair, shoe("easy", 3))
        found = self.graded()
        self.assertEqual([label for label, _ in found.retail], ["R1"])
        self.assertLess(found.retail[0][1], 0.5)
        self.assertEqual(found.grade, "agrees")

    def test_contours_of_other_sizes_are_left_out_where_the_rule_says_that_lengths_grow(self):
        self.checkpoint.size_rule = {"rule": "length"}
        self.checkpoint.save()
        first, second = Pair.objects.filter(label__in=("R1", "R2")).order_by("label")
        for pair, size in ((first, "9"), (second, "8"), (self.case.pair, "9")):
            pair.size_us = size
            pair.save()
        for pair, seed in ((first, 1), (second, 2), (self.case.pair, 3)):
            self.read(pair, shoe("easy", seed))
        self.assertEqual(self.graded().compared["with"], 1)

"""A rim is laid on the rims of verified pairs when it is read (pictures drawn without the simulator)."""

import cv2
from django.test import TestCase

from library.models import Checkpoint
from pairs.actions.mark_photo import mark_photo
from pairs.actions.read_photo import read_photo
from pairs.actions.receive_photo import receive_photo
from pairs.actions.take_reading import measure_photo
from pairs.models import Marking, Pair
from tests.bench.drawn import MM_PER_PX, shoe
from tests.scenes import small_case, small_house


class Outlines(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_house()
        cls.case = small_case(cls.scene)
        cls.checkpoint = Checkpoint.objects.create(
            release=cls.scene.release, key="outline", name="Outline", section="Shape", group="outline", position=80,
            kind="continuous", measure="outline", quantity="p95_mm", unit="mm", view="side_out", foot="left",
        )  # fmt: skip

    def read(self, pair, picture):
        data = cv2.imencode(".jpg", picture.rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 95])[1].tobytes()
        where = {"view": "side_out", "foot": "left", "mm_per_px": MM_PER_PX}
        photo = receive_photo(pair=pair, data=data, by=self.scene.mara, **where)
        read_photo(photo=photo, references={}, needs={})
        points = picture.region.tolist()
        marking = mark_photo(checkpoint=self.checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        return measure_photo(marking=marking, by=self.scene.mara)

    def test_a_pushed_out_nose_is_found_and_drawn_and_an_equal_shoe_is_not(self):
        first, second = Pair.objects.filter(label__in=("R1", "R2")).order_by("label")
        self.assertNotIn("p95_mm", self.read(first, shoe("easy", 1)).parts)
        equal = self.read(second, shoe("realistic", 2))
        self.assertLess(equal.parts["departure_mm"], 0.5)
        pushed = self.read(self.case.pair, shoe("realistic", 3, bump=(0.12, 2.5)))
        self.assertAlmostEqual(pushed.parts["outward_mm"], 2.5, delta=0.4)
        self.assertGreater(len(pushed.overlay), len(equal.overlay))
        zones = {name: pushed.parts[f"{name}_most_mm"] for name in ("toe", "vamp", "collar", "heel", "sole")}
        self.assertEqual(max(zones, key=lambda name: abs(zones[name])), "vamp")
        self.assertEqual(zones["vamp"], pushed.parts["outward_mm"])
        self.assertRegex(pushed.overlay[-1]["label"], r"^\+2\.[2-9]$")

    def test_rims_of_other_sizes_are_left_out_where_the_rule_says_that_lengths_grow(self):
        self.checkpoint.size_rule = {"rule": "length"}
        self.checkpoint.save()
        first, second = Pair.objects.filter(label__in=("R1", "R2")).order_by("label")
        for pair, size in ((first, "9"), (second, "8")):
            pair.size_us = size
            pair.save()
        self.read(first, shoe("easy", 1))
        self.assertNotIn("p95_mm", self.read(second, shoe("easy", 2)).parts)

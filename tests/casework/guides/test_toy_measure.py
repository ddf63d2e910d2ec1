"""One file, one line, one file of words: a measure that nobody knew goes the whole way, from drawing to export."""

import json
from types import MappingProxyType
from unittest import mock

import cv2
import numpy as np
from django.conf import settings
from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse
from jsonschema import Draft202012Validator

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, MarkKind, Measurement, Stroke, StrokeKind
from assay.measure.entry import Measure
from assay.measure.registry import MEASURES
from assay.measure.sample import canvas, exposed
from casework.actions.analyse_case import analyse_case
from casework.case_document import case_document
from casework.guides.measure_words.words import MeasureWords
from casework.guides.wording import WORDS
from library.models import Checkpoint
from pairs.actions.receive_photo import receive_photo
from pairs.models import Pair
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import finding, small_case, small_organisation

SCHEMA = settings.BASE_DIR / "reports" / "schema" / "case-3.schema.json"


def lightness(picture, marks):
    """The toy: how light a region is, of 255."""
    inside = np.zeros(picture.rgb.shape[:2], np.uint8)
    cv2.fillPoly(inside, [np.round(marks.checked(picture.size)).astype(np.int32)], 1)
    value = float(picture.rgb[inside > 0].mean())
    kept = Descriptor("tone", np.zeros((1, 2)), np.asarray(marks.points), values=np.full((1, 3), value))
    overlay = (Stroke(StrokeKind.LINE, marks.points),)
    return Measurement(
        value,
        "L*",
        1.0,
        MappingProxyType({"share_ratio": value / 255, "share_ratio_uncertainty": 0.004}),
        overlay,
        (),
        kept,
    )


def apart(theirs, ours):
    """The toy's comparison: by how many levels two regions differ."""
    levels = abs(float(theirs.values[0, 0] - ours.values[0, 0]))
    ring = Stroke(StrokeKind.RING, (tuple(ours.marks[0]),), f"{levels:.0f}", 4.0)
    return Comparison({"apart_levels": levels, "apart_levels_uncertainty": 1.0}, (ring,))


TOY = Measure(
    name="toy",
    version=1,
    marks=MarkKind.REGION,
    measure=lightness,
    unit="L*",
    parts={"share_ratio": "ratio"},
    comparing=Comparing("tone", apart, lambda kept: kept, {"apart_levels": "L*"}, floors={"apart_levels": 2.0}),
    coarsest_mm_per_px=1.0,
    sample=lambda: exposed(canvas(60, 60), 0.1, [[5, 5], [50, 5], [50, 50], [5, 50]]),
)
TOY_WORDS = MeasureWords("How light it is", "Click round it.", {"share_ratio": "Lightness", "apart_levels": "Apart"})


class ToyMeasure(TestCase):
    def setUp(self):
        self.enterContext(mock.patch.dict(MEASURES, toy=TOY))
        self.enterContext(mock.patch.dict(WORDS, toy=TOY_WORDS))
        self.scene = small_organisation()
        self.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        self.client.force_login(self.scene.mara)
        self.case = small_case(self.scene)
        rng = np.random.default_rng(3)
        ground = cv2.GaussianBlur(rng.integers(0, 255, (600, 800, 3)).astype(np.float32), (0, 0), 3)
        ground = (ground - ground.mean()) * 2
        self.photos = {}
        for label, level in (("R1", 120), ("R2", 124), ("R3", 122), (self.case.pair.label, 190)):
            # Each its own photograph, noise and all.
            noise = cv2.GaussianBlur(rng.normal(0, 9, ground.shape), (0, 0), 1)
            picture = np.clip(ground * 0.6 + noise - noise.mean() + level, 0, 255).astype(np.uint8)
            place = {"view": "top", "foot": "left", "by": self.scene.mara, "mm_per_px": 0.2}
            photo = receive_photo(pair=Pair.objects.get(label=label), data=jpeg(picture), **place)
            read_photo(photo=photo, references={}, needs={})
            self.photos[label] = photo

    def draw(self, quantity):
        sent = {
            "choice": f"toy:{quantity}",
            "points": json.dumps([[200, 150], [600, 150], [600, 450], [200, 450]]),
            "name": f"Tone {quantity}",
            "section": "Colour",
        }
        door = [self.photos["R1"].pk]
        tried = self.client.post(reverse("guide-try", args=door), sent)
        self.assertContains(tried, TOY_WORDS.numbers[quantity])
        self.client.post(reverse("guide-draw", args=door), sent)
        made = Checkpoint.objects.get(measure="toy", quantity=quantity)
        analyse_case(case=self.case, user=self.scene.mara)
        return made, finding(self.case, made.key)

    def test_it_is_drawn_carried_read_graded_shown_and_exported(self):
        made, found = self.draw("share_ratio")
        self.assertEqual((found.grade, len(found.retail), found.reading.method), ("departs", 3, "toy/1"))
        page = self.client.get(reverse("bench-at", args=[self.case.number, made.key]))
        self.assertContains(page, "0.74")

    def test_one_that_compares_is_judged_by_how_verified_pairs_lie_beside_each_other(self):
        made, found = self.draw("apart_levels")
        self.assertLess(max(value for _, value in found.retail), 5)
        self.assertEqual((found.grade, found.compared["with"]), ("departs", 3))
        page = self.client.get(reverse("bench-at", args=[self.case.number, made.key]))
        self.assertContains(page, f"{found.compared['parts']['apart_levels']:.0f}")
        self.assertContains(page, found.compared["overlay"][0]["label"])
        document = json.loads(json.dumps(case_document(self.case)))
        Draft202012Validator(json.loads(SCHEMA.read_text())).validate(document)
        (shown,) = [one for one in document["findings"] if one["checkpoint"] == made.key]
        self.assertEqual(shown["compared"]["parts"], found.compared["parts"])
        self.assertEqual(shown["reading"]["descriptor"]["kind"], "tone")

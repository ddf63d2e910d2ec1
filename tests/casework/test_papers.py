"""What is read off box, label, tag and packing in a case, and what the facts make of it."""

import json
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import uuid4

from django.test import TestCase, override_settings
from django.urls import reverse

from assay.errors import AssayError
from casework.actions import work_checkpoint as work
from casework.actions.read_instrument import read_instrument
from casework.actions.save_intake import save_intake
from casework.actions.start_case import start_case
from library.models import Checkpoint, Release, SizeChart
from pairs.actions.take_paper import inscribe
from pairs.instruments import THINGS
from pairs.models import Pair, Standing
from tests.support.scenes import finding, small_case, small_organisation

NUMBER, OTHERS_NUMBER = "00036000291452", "06291041500213"
PAPER = {"section": "Box", "instruction": "Read.", "of_shoe": False, "kind": "paper"}
CHECKPOINTS = [
    {**PAPER, "key": "barcode", "paper": "barcode", "group": "codes"},
    {**PAPER, "key": "label-code", "paper": "code_on_box", "group": "codes"},
    {**PAPER, "key": "inlay", "paper": "radio_inlay", "group": "inlay",
     "applies_when": [{"fact": "tools", "has": "tag_reader"}]},
    {**PAPER, "key": "packing", "paper": "packing", "group": "packing"},
    {**PAPER, "key": "box-length", "paper": "box_size", "group": "box", "kind": "continuous", "unit": "mm",
     "quantity": "length_mm", "prior": {"pairs": 4, "scatter": 1.2}, "size_rule": {"rule": "box_class"},
     "applies_when": [{"fact": "box_size_us", "same_as": "size_us"}]},
]  # fmt: skip


@contextmanager
def a_folder():
    with TemporaryDirectory() as path:
        yield Path(path)


class Papers(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = scene = small_organisation()
        maker = scene.release.shoe_model.maker
        maker.box_classes = [[6, 8.5, "S"], [9, 13, "M"]]
        maker.save()
        SizeChart.objects.create(maker=maker, group="men", csv="group,US,EU\nmen,8,41\nmen,8.5,42\nmen,9,42.5\n")
        laces = {"key": "laces", "name": "Laces", "token": "lace"}
        Release.objects.filter(pk=scene.release.pk).update(barcodes={"9": NUMBER}, packing=[laces])
        scene.release.refresh_from_db()
        for position, given in enumerate(CHECKPOINTS, start=50):
            checkpoint = Checkpoint(release=scene.release, position=position, name=given["key"], **given)
            checkpoint.clean()
            checkpoint.save()
        Pair.objects.filter(standing=Standing.RETAIL).update(size_us="9")
        for pair, length in zip(Pair.objects.filter(standing=Standing.RETAIL), (350, 351, 352), strict=True):
            inscribe(pair=pair, places={"box.outer": f"{length} x 240 x 120"}, by=scene.mara)
        cls.case = small_case(scene)

    def facts(self, **facts):
        save_intake(case=self.case, user=self.scene.mara, facts=facts)

    def read(self, **places):
        said = {place.replace("__", "."): text for place, text in places.items()}
        work.inscribe(case=self.case, user=self.scene.mara, places=said)

    def grade(self, key):
        found = finding(self.case, key)
        return found.reason or found.grade

    def test_a_box_is_compared_within_its_class_and_void_where_it_is_another_pair_s(self):
        self.read(box__outer="351 x 240 x 120")
        self.facts(size_us="9")
        self.assertEqual(self.grade("box-length"), "agrees")
        self.facts(size_us="8")
        self.assertEqual(self.grade("box-length"), "other_size")
        self.facts(size_us="9", box_size_us="8")
        self.assertEqual(self.grade("box-length"), "void")
        self.facts(box_size_us="")
        self.read(box__outer="338 x 240 x 120")
        self.assertEqual(self.grade("box-length"), "departs")

    def test_a_changed_fact_reads_print_anew(self):
        self.read(box__barcode="036000291452")
        self.assertEqual(self.grade("barcode"), "not_contradicted")
        self.facts(size_us="9")
        self.assertEqual(self.grade("barcode"), "agrees")
        self.facts(size_us="8")
        self.assertEqual(self.grade("barcode"), "departs")

    def test_a_code_typed_once_serves_every_check_that_rests_on_it(self):
        self.read(box__style_code="VQ-44127-B", tag__style_code="VQ-44721-B")
        self.assertEqual((self.grade("label-code"), self.grade("style-code")), ("departs", "departs"))
        self.read(tag__style_code="VQ-44127-B")
        self.assertEqual((self.grade("label-code"), self.grade("style-code")), ("agrees", "agrees"))
        self.assertEqual(self.case.pair.inscriptions.filter(place="tag.style_code").count(), 2)

    def test_one_bad_place_keeps_none_of_what_was_sent(self):
        with self.assertRaises(AssayError):
            self.read(box__style_code="VQ-44127-B", box__barcode="123")
        self.assertFalse(self.case.pair.inscriptions.exists())

    def test_what_second_hand_pairs_lack_is_no_fault(self):
        self.facts(condition="deadstock")
        self.read(packing=json.dumps({"laces": {"count": 0}}))
        self.assertEqual(self.grade("packing"), "drifts")
        self.facts(condition="worn")
        self.assertEqual(self.grade("packing"), "agrees")

    def test_no_tag_reader_no_inlay_check(self):
        self.facts(tools=["card"])
        self.assertEqual((self.grade("inlay"), finding(self.case, "inlay").void["asked"]), ("void", "has"))
        self.facts(tools=["card", "tag_reader"])
        self.assertEqual(self.grade("inlay"), "not_looked_at")

    def test_an_instrument_is_read_or_says_that_it_is_silent(self):
        with self.assertRaises(AssayError) as caught:
            read_instrument(case=self.case, user=self.scene.mara, place="box.outer")
        self.assertEqual(caught.exception.reason, "caliper_silent")
        things = self.enterContext(a_folder())
        lengths = {"box.length": 351.0, "box.width": 240.0, "box.height": 120.0}
        (things / THINGS).write_text(
            json.dumps({self.case.pair.label: {"lengths_mm": lengths, "inlays": ["0" * 24] * 2}})
        )
        with override_settings(DEMO=True, DATA_DIR=things):
            read_instrument(case=self.case, user=self.scene.mara, place="box.outer")
            self.assertAlmostEqual(finding(self.case, "box-length").reading.value, 351, delta=1.5)
            with self.assertRaises(AssayError) as caught:
                read_instrument(case=self.case, user=self.scene.mara, place="box.inlay")
        self.assertEqual(caught.exception.reason, "two_inlays")

    def test_a_case_starts_by_barcode_or_name_too(self):
        by_number = start_case(user=self.scene.mara, typed_code="0 36000 29145 2", token=uuid4())
        self.assertEqual((by_number.pair.release, by_number.pair.size_us), (self.scene.release, "9"))
        by_name = start_case(user=self.scene.mara, typed_code="quayside brackish", token=uuid4())
        self.assertEqual(by_name.pair.release, self.scene.release)
        Release.objects.create(
            shoe_model=self.scene.release.shoe_model, colourway="Lamp Oil", style_code="VQ-44127-L", year=2024
        )
        for typed, reason in (
            ("quayside", "several_releases"),
            ("03600029145", "barcode_length"),
            (OTHERS_NUMBER, "unknown_barcode"),
            ("no such shoe", "unknown_name"),
        ):
            with self.assertRaises(AssayError) as caught:
                start_case(user=self.scene.mara, typed_code=typed, token=uuid4())
            self.assertEqual(caught.exception.reason, reason, typed)

    def test_sizes_are_entered_in_any_system_and_dates_never_ahead(self):
        self.client.force_login(self.scene.mara)
        url = reverse("intake", args=[self.case.number])
        self.client.post(url, {"size_us": "eu 42½"})
        self.case.pair.refresh_from_db()
        self.assertEqual(self.case.pair.size_us, "9")
        for sent, says in (({"size_us": "EU 50"}, "no size with EU 50"), ({"bought_on": "2999-01-01"}, "lies ahead")):
            self.assertContains(self.client.post(url, sent), says, status_code=422)

    def test_the_bench_refuses_places_that_a_check_does_not_have(self):
        self.client.force_login(self.scene.mara)
        for key, action, status in (
            ("touch", "places", 404),
            ("label-code", "instrument", 422),
            ("packing", "places", 422),
        ):
            url = reverse("work", args=[self.case.number, key, action])
            self.assertEqual(self.client.post(url, {"packing": "{]"}).status_code, status, key)

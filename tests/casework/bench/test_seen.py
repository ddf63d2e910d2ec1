"""What is seen and on no list: kept with its pin, one red flag at most, never coverage."""

from django.test import TestCase
from django.urls import reverse

from assay.simulator.swatch import seam_swatch
from casework import findings as case_findings
from casework.models import Sighting
from pairs.actions.receive_photo import receive_photo
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import small_case, small_organisation

FAULT = {"name": "glue on the toe", "words": "left, outer", "like": "fault", "sure": "sure"}


class SeenOnNoList(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def setUp(self):
        self.client.force_login(self.scene.mara)
        self.url = reverse("seen", args=[self.case.number, "touch"])

    def standing(self):
        return case_findings.assess(self.case, case_findings.findings_of(self.case))

    def test_only_a_sure_fault_is_a_flag_and_two_of_one_part_are_one(self):
        before = self.standing().coverage
        for sure, like in (("unsure", "fault"), ("sure", "odd"), ("likely", "fault")):
            self.client.post(self.url, FAULT | {"sure": sure, "like": like})
        self.assertEqual(self.standing().flags, ())
        self.client.post(self.url, FAULT | {"group": "toe"})
        self.client.post(self.url, FAULT | {"group": "toe", "name": "crooked toe"})
        self.assertEqual(self.standing().flags, ("toe",))
        self.assertEqual(self.standing().coverage, before)
        self.client.post(
            reverse("seen-back", args=[self.case.number, "touch", Sighting.objects.get(name="crooked toe").pk])
        )
        self.assertEqual(self.standing().flags, ("toe",))
        document = self.client.get(reverse("case-json", args=[self.case.number])).json()
        self.assertEqual([one["grade"] for one in document["seen"]][-1], "departs")

    def test_a_pin_off_the_picture_and_a_nameless_thing_are_refused_and_the_words_kept(self):
        place = {"view": "side_out", "foot": "left", "by": self.scene.mara}
        photo = receive_photo(pair=self.case.pair, data=jpeg(seam_swatch("easy", 2).rgb), **place)
        read_photo(photo=photo, references={}, needs={})
        url = reverse("seen", args=[self.case.number, "bar"])
        for bad, said in (
            ({"points": "[[99999, 5]]"}, "off the picture"),
            ({"name": " "}, "name"),
            ({"points": "x"}, ""),
        ):
            answer = self.client.post(url, FAULT | bad)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, "left, outer", status_code=422)
        self.assertEqual(Sighting.objects.count(), 0)
        self.client.post(url, FAULT | {"points": "[[5, 5], [20, 18]]"})
        self.assertTrue(Sighting.objects.get().crop)

"""Under ultraviolet light found counts and clean says nothing, unless the shop says otherwise; with and without a
control; and the lamp is said on the photograph."""

from django.test import TestCase
from django.urls import reverse

from assay.judge.rules import Policy
from assay.simulator.swatch import seam_swatch
from casework import findings as case_findings
from casework.actions import work_checkpoint as work
from casework.actions.set_policy import set_policy
from casework.grading import regrade
from library.models import Checkpoint
from pairs.actions.receive_photo import receive_photo
from pairs.models import Reading
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import finding, small_case, small_organisation


class UnderTheLamp(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        given = {"kind": "count", "measure": "glow", "unit": "count", "view": "uv_side", "foot": "left", "group": "uv"}
        given |= {"prior": {"pairs": 2, "off_by_one": 0.004}, "section": "UV", "instruction": "Look."}
        for n, quantity in enumerate(("lines", "panels")):
            Checkpoint.objects.create(
                release=cls.scene.release, key=quantity, name=quantity, quantity=quantity, position=90 + n, **given
            )

    def shows(self, lines):
        for key in ("lines", "panels"):
            check = self.scene.release.checkpoints.get(key=key)
            parts = {"lines": lines, "panels": 0, "lines_uncertainty": 0.1}
            Reading.objects.create(
                pair=self.case.pair,
                checkpoint=check,
                value=lines,
                parts=parts,
                method="glow/1",
                taken_by=self.scene.mara,
            )
        regrade(self.case)
        return finding(self.case, "lines")

    def test_the_clock_next_to_the_lamp_gets_the_published_limit(self):
        """ICNIRP 2004: 10⁴ J/m² in 8 hours; at 10 W/m² after 1000 s."""
        self.client.force_login(self.scene.mara)
        for irradiance, words in (("10", "16:40"), ("0,1", "480:00"), ("", "?"), ("-3", "?"), ("nan", "?"), ("x", "?")):
            answer = self.client.get(reverse("uv-allowed"), {"w_m2": irradiance})
            self.assertContains(answer, f">{words}</output>")

    def test_clean_says_nothing_and_counts_in_no_coverage(self):
        before = case_findings.assess(self.case, case_findings.findings_of(self.case)).coverage
        clean = self.shows(0)
        self.assertEqual((clean.grade, clean.reason), ("not_compared", "clean_says_nothing"))
        self.assertGreaterEqual(case_findings.assess(self.case, case_findings.findings_of(self.case)).coverage, before)

    def test_lines_need_no_control_and_parts_that_glow_do(self):
        self.assertEqual(self.shows(2).grade, "departs")
        self.assertEqual(finding(self.case, "panels").reason, "no_retail_pairs")
        self.client.force_login(self.scene.mara)
        page = self.client.get(reverse("bench-at", args=[self.case.number, "panels"]))
        self.assertContains(page, "No control")
        self.assertContains(page, "never into eyes or on skin")

    def test_a_shop_may_take_dirt_for_proof_and_clean_for_a_good_sign(self):
        self.shows(0)
        set_policy(
            organisation=self.scene.organisation, user=self.scene.mara, rules=Policy(), ultraviolet="dirty_is_fake"
        )
        self.assertEqual(finding(self.case, "lines").grade, "agrees")
        self.assertEqual(self.shows(1).grade, "departs")
        work.confirm(case=self.case, checkpoint=finding(self.case, "lines").checkpoint, user=self.scene.mara)
        self.assertEqual(finding(self.case, "lines").grade, "rules_out")

    def test_the_lamp_is_said_on_the_photograph_and_nonsense_is_refused(self):
        place = {"view": "uv_side", "foot": "left", "by": self.scene.mara}
        photo = receive_photo(pair=self.case.pair, data=jpeg(seam_swatch("easy", 2).rgb), **place)
        read_photo(photo=photo, references={}, needs={})
        self.client.force_login(self.scene.mara)
        url = reverse("photo-work", args=[self.case.number, photo.pk, "lamp"])
        for bad in ({"lamp": "candle"}, {"lamp": "395", "away_mm": "-3"}):
            self.assertContains(self.client.post(url, bad), "Choose one of the lamps", status_code=422)
        self.client.post(url, {"lamp": "365f", "away_mm": "300"})
        photo.refresh_from_db()
        self.assertEqual((photo.lamp, photo.lamp_mm), ("365f", 300))

"""The shop's own photographs against caliper and eye."""

from django.test import TestCase
from django.urls import reverse

from casework.kit import validation
from casework.models import CaliperCheck
from library.models import Checkpoint
from pairs.models import Reading
from tests.support.scenes import small_case, small_organisation


class Tile(TestCase):
    def test_a_tile_s_reflectance_is_kept_in_per_cent_and_what_cannot_be_one_is_refused_with_what_was_typed(self):
        scene = small_organisation()
        self.client.force_login(scene.mara)
        answer = self.client.post(reverse("kit"), {"tile_percent": "98.5"})
        self.assertContains(answer, "burns out", status_code=422)
        self.assertContains(answer, "98.5", status_code=422)
        self.client.post(reverse("kit"), {"tile_percent": "31"})
        scene.organisation.refresh_from_db()
        self.assertAlmostEqual(scene.organisation.tile_reflectance, 0.31)


class ByHand(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        case = small_case(self.scene)
        self.pair = case.reference
        self.bar = Checkpoint.objects.get(key="bar")
        self.wide = Checkpoint.objects.create(
            release=self.scene.release, key="wide", name="Wide", instruction="Measure.", section="All", group="x",
            position=9, kind="continuous", measure="edge_distance", view="side_out", foot="left", unit="mm",
            prior={"pairs": 2, "scatter": 0.2},
        )  # fmt: skip
        self.read = [
            Reading.objects.create(
                checkpoint=check, pair=self.pair, value=value, unit=check.unit, uncertainty=off, method="m/1",
                taken_by=self.scene.mara,
            )
            for check, value, off in ((self.bar, 14, 0.1), (self.wide, 20.3, 0.1))
        ]  # fmt: skip
        self.client.force_login(self.scene.mara)

    def typed(self, *values) -> dict:
        return {f"by-hand-{one.pk}": value for one, value in zip(self.read, values, strict=True)}

    def test_the_table_says_how_far_off_and_whether_the_claim_holds(self):
        validation.keep(
            organisation=self.scene.organisation, user=self.scene.mara, pair=self.pair, given=self.typed("13", "20,05")
        )
        rows = {row.name: row for row in validation.table(self.scene.organisation)}
        count = rows["How many stitches"]
        self.assertEqual((count.off, count.claim), ("0 % exact", "1 wrong but sure, 0 right but unsure"))
        length = next(row for row in rows.values() if row.unit == "mm")
        # 0.25 mm off at a claim of 0.1: not within twice.
        self.assertEqual((length.off, length.claim), ("0.25", "0 of 1 within twice what is claimed"))
        self.assertEqual(len(validation.readings_csv(self.scene.organisation)), 3)

    def test_what_is_no_number_is_refused_with_all_that_was_typed_and_an_empty_field_takes_back(self):
        url = reverse("kit-validation")
        given = {"pair": self.pair.label, **self.typed("13", "20")}
        with self.subTest("no photograph: the pair is not offered"):
            self.assertContains(self.client.get(url), "No photograph was measured yet")
        for wrong in ("wide", "1e999", "nan"):
            with self.assertRaisesMessage(Exception, "not_a_length"):
                validation.keep(
                    organisation=self.scene.organisation,
                    user=self.scene.mara,
                    pair=self.pair,
                    given=self.typed("13", wrong),
                )
        self.assertFalse(CaliperCheck.objects.exists(), "nothing half kept")
        validation.keep(organisation=self.scene.organisation, user=self.scene.mara, pair=self.pair, given=given)
        validation.keep(
            organisation=self.scene.organisation, user=self.scene.mara, pair=self.pair, given=self.typed("", "20")
        )
        self.assertEqual(CaliperCheck.objects.count(), 1)
        self.assertEqual(validation.table(self.scene.stranger.organisations.get()), [], "another shop's are its own")

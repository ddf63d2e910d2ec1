"""A guide writer adds a kind of photograph, and one of a verified pair to draw on."""

from django.contrib.auth.models import Permission
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from assay.simulator.swatch import seam_swatch
from casework.actions.join_feet import join_feet, other_feet
from library.models import Checkpoint, View
from pairs.actions.compare_feet import compare_feet
from pairs.models import Pair, Reading, Standing
from tests.support.pictures import jpeg
from tests.support.scenes import small_case, small_organisation

HOW = "Brush towards the heel."
GIVEN = {"name": "toe suede, brushed", "how": HOW, "feet": "yes", "sketch": "close", "close_up": "on"}


class KindsOfPhotograph(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        cls.data = jpeg(seam_swatch("easy", 2).rgb)

    def setUp(self):
        self.client.force_login(self.scene.mara)

    def add(self, pair, place, data=None):
        upload = SimpleUploadedFile("close.jpg", self.data if data is None else data, "image/jpeg")
        url = reverse("guide-retail-photo", args=[pair.pk])
        return self.client.post(url, {"place": place, "file": upload}, follow=True)

    def test_a_new_kind_is_kept_and_a_retail_photograph_of_it_leads_to_drawing(self):
        self.client.post(reverse("guide-kinds"), GIVEN)
        made = View.objects.get(name="toe suede, brushed")
        self.assertTrue(made.close_up and made.feet)
        answer = self.add(Pair.objects.get(label="R1"), f"{made.key} left")
        photo = Pair.objects.get(label="R1").photos.get(view=made.key)
        self.assertEqual(answer.redirect_chain[-1][0], reverse("guide-draw", args=[photo.pk]))

    def test_what_cannot_be_kept_is_said_and_nothing_entered_is_lost(self):
        self.client.post(reverse("guide-kinds"), GIVEN)
        for name, said in ((GIVEN["name"], "already"), ("", "Give it a name"), ("?!", "name")):
            given = GIVEN | {"name": name}
            answer = self.client.post(reverse("guide-kinds"), given)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, HOW, status_code=422)
        self.assertEqual(View.objects.filter(name="toe suede, brushed").count(), 1)

    def test_a_file_that_is_no_photograph_and_a_pair_that_is_not_verified_are_refused(self):
        retail = Pair.objects.get(label="R1")
        before = retail.photos.count()
        self.add(retail, "side_out left", b"no picture")
        self.add(retail, "nowhere left")
        self.assertEqual(retail.photos.count(), before)
        self.assertEqual(self.add(self.case.pair, "side_out left").status_code, 404)
        self.assertNotEqual(self.case.pair.standing, Standing.RETAIL)

    def test_one_place_photographed_twice_is_held_against_itself(self):
        """Suede brushed both ways: its tone beside a panel's, once each way; the difference is the nap's."""
        given = {"feet": True, "sketch": "close", "close_up": True}
        ways = [View.objects.create(key=key, name=key, position=n, **given) for n, key in ((900, "to"), (901, "fro"))]
        same = {"release": self.scene.release, "kind": "continuous", "unit": "L*", "group": "suede", "foot": "left"}
        first, second = (
            Checkpoint.objects.create(
                key=f"suede-{way.key}", name=f"Suede, {way.key}", view=way.key, measure="contrast", quantity="lighter",
                position=900 + n, section="Material", minutes=0.3, prior={"pairs": 2, "scatter": 1.0}, **same,
            )
            for n, way in enumerate(ways)
        )  # fmt: skip
        for pair, values in ((Pair.objects.get(label="R1"), (3.0, 9.0)), (self.case.pair, (5.0, 5.2))):
            for check, value in zip((first, second), values, strict=True):
                Reading.objects.create(
                    pair=pair, checkpoint=check, value=abs(value), unit="dE00", uncertainty=0.5, method="contrast/1",
                    parts={"lighter": value, "lighter_uncertainty": 0.5}, taken_by=self.scene.mara,
                )  # fmt: skip
        level = Checkpoint.objects.create(
            key="level", name="Level", view="to", measure="contrast", quantity="lighter", position=903,
            section="Material", minutes=0.3, prior={"pairs": 2, "scatter": 1.0}, **same,
        )  # fmt: skip
        # The same close-up's other places can be held against each other as well: ends that must be level.
        self.assertEqual(set(other_feet(first)), {second, level})
        made = join_feet(
            checkpoint=second,
            other=first.key,
            name="Suede both ways",
            organisation=self.case.pair.organisation,
            user=self.scene.mara,
        )
        self.assertEqual((made.left, made.right), (first, second))
        compare_feet(pair=self.case.pair)
        held = {reading.pair.label: reading.value for reading in Reading.objects.filter(checkpoint=made)}
        self.assertEqual(held["R1"], -6.0)
        self.assertAlmostEqual(held[self.case.pair.label], -0.2)
        self.assertEqual(other_feet(first), [level])
        page = self.client.get(reverse("bench-at", args=[self.case.number, made.key]))
        self.assertContains(page, "photograph, this pair")

"""What one guide takes from another, and what it makes of two of its own checks."""

import io

from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from assay.errors import AssayError
from casework.actions.borrow_check import borrow_check, give_back, lendable
from casework.actions.join_feet import relate_checks
from casework.actions.keep_checks import place_check
from library.models import Checkpoint, Release, ShoeModel
from pairs.actions.compare_feet import compare_feet
from pairs.models import Pair, Reading, Standing
from tests.support.scenes import finding, small_case, small_organisation


def jpeg(width: int = 900) -> io.BytesIO:
    target = io.BytesIO()
    Image.new("RGB", (width, 600), (90, 120, 150)).save(target, "JPEG")
    target.seek(0)
    target.name = "receipt.jpg"
    return target


class Borrowing(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.scene.mara.user_permissions.add(*Permission.objects.filter(codename__in=("add_checkpoint",)))
        self.mara = type(self.scene.mara).objects.get(pk=self.scene.mara.pk)
        self.client.force_login(self.mara)
        self.case = small_case(self.scene)
        self.given = {"organisation": self.scene.organisation, "user": self.mara}
        release = self.scene.release
        high = ShoeModel.objects.create(maker=release.shoe_model.maker, name="Quayside High")
        self.high = Release.objects.create(shoe_model=high, colourway="Tar", style_code="VQ-55555-T", year=2024)
        self.heel = Checkpoint.objects.create(
            release=self.high, key="heel-holes", name="Heel holes", instruction="Count.", section="Heel", group="heel",
            position=1, kind="count", measure="holes", view="heel", foot="left", unit="count",
            prior={"pairs": 2, "off_by_one": 0.02},
        )  # fmt: skip
        self.lent = Pair.objects.create(
            organisation=self.scene.organisation, release=self.high, standing=Standing.RETAIL, label="R90", size_us="9"
        )
        self.read(self.heel, self.lent, 6)

    def read(self, check, pair, value, **more):
        given = {"unit": check.unit, "method": "holes/1", "taken_by": self.mara, "uncertainty": 0.1, **more}
        return Reading.objects.create(checkpoint=check, pair=pair, value=value, **given)

    def refused(self, reason: str, act, **given):
        with self.assertRaises(AssayError) as caught:
            act(**given, **self.given)
        self.assertEqual(caught.exception.reason, reason)

    def test_a_borrowed_check_brings_its_own_model_s_pairs_and_says_so(self):
        borrow_check(checkpoint=self.heel, release=self.scene.release, **self.given)
        on_case = finding(self.case, "heel-holes")
        self.assertEqual(on_case.retail, [["R90", 6]])
        others = [one for one in self.case.findings.exclude(pk=on_case.pk) if "R90" in str(one.retail)]
        self.assertEqual(others, [], "the lender's pairs speak for what is lent only")
        page = self.client.get(reverse("bench-at", args=[self.case.number, "heel-holes"]))
        self.assertContains(
            page, "Lent by Quayside High, Tar".replace("Quayside", f"{self.high.shoe_model.maker} Quayside")
        )
        self.assertContains(
            self.client.get(reverse("library-guide", args=[self.scene.release.pk])), "lent by Quayside High"
        )
        give_back(checkpoint=self.heel, release=self.scene.release, **self.given)
        self.assertFalse(self.case.findings.filter(checkpoint=self.heel).exists())
        self.assertNotIn(self.heel, self.scene.release.checkpoints)

    def test_what_is_shared_or_there_already_is_not_borrowed(self):
        own = self.scene.release.own_checkpoints.first()
        self.refused("same_moulds", borrow_check, checkpoint=own, release=self.scene.release)
        taken = Checkpoint.objects.get(pk=self.heel.pk)
        taken.key, taken.pk, taken.position = own.key, None, 2
        taken.save()
        self.refused("not_lendable", borrow_check, checkpoint=taken, release=self.scene.release)
        self.assertEqual(lendable(lender=self.high, release=self.scene.release), [self.heel])
        self.mara.user_permissions.clear()
        self.given["user"] = type(self.mara).objects.get(pk=self.mara.pk)
        self.refused("not_allowed", borrow_check, checkpoint=self.heel, release=self.scene.release)
        self.refused("not_allowed", give_back, checkpoint=self.heel, release=self.scene.release)

    def two_lengths(self):
        first, second = (
            Checkpoint.objects.create(
                release=self.high,
                key=key,
                name=key,
                instruction="Measure.",
                section="Heel",
                group="heel",
                position=place,
                kind="continuous",
                measure="edge_distance",
                view="heel",
                foot="left",
                unit="mm",
                prior={"pairs": 2, "scatter": 0.2},
            )
            for place, key in ((5, "wide"), (6, "tall"))
        )
        return first, second

    def test_a_share_of_two_lengths_carries_its_uncertainty_and_pixels_only_within_one_photograph(self):
        first, second = self.two_lengths()
        self.read(first, self.lent, 60.0, uncertainty=0.3)
        self.read(second, self.lent, 80.0, uncertainty=0.4)
        made = relate_checks(checkpoint=first, other=second, relation="share", name="wide over tall", **self.given)
        found = compare_feet(pair=self.lent)[made.pk]
        self.assertEqual((found.value, found.unit), (0.75, ""))
        # JCGM 100:2008 5.1.6: relative uncertainties of 0.5 % each make 0.707 %.
        self.assertAlmostEqual(found.uncertainty / found.value, 0.0070711, places=5)
        self.read(first, self.lent, 600.0, unit="px")
        self.assertEqual(compare_feet(pair=self.lent)[made.pk].refusal["reason"], "both_feet_needed")
        self.refused("not_related", relate_checks, checkpoint=first, other=self.heel, relation="share", name="x")
        self.refused("not_related", relate_checks, checkpoint=first, other=second, relation="times", name="x")
        self.refused("no_name", relate_checks, checkpoint=first, other=second, relation="", name=" ")

    def test_a_check_goes_where_it_is_dragged_and_no_other_changes_its_turn(self):
        first, second = self.two_lengths()
        place_check(checkpoint=second, before=self.heel, **self.given)
        self.assertEqual(list(self.high.own_checkpoints.order_by("position")), [second, self.heel, first])
        answer = self.client.post(reverse("library-order", args=[self.high.pk]), {"check": second.pk, "before": ""})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(list(self.high.own_checkpoints.order_by("position")), [self.heel, first, second])
        theirs = self.scene.release.own_checkpoints.first()
        answer = self.client.post(
            reverse("library-order", args=[self.high.pk]), {"check": first.pk, "before": theirs.pk}
        )
        self.assertEqual(answer.status_code, 404)

    def test_a_receipt_s_photograph_stands_by_the_pair_for_its_shop_only(self):
        answer = self.client.post(reverse("library-pair-work", args=[self.lent.pk, "proof"]), {"file": jpeg()})
        self.assertRedirects(answer, reverse("library-pair", args=[self.lent.pk]))
        self.assertEqual(self.client.get(reverse("library-proof", args=[self.lent.pk])).status_code, 200)
        answer = self.client.post(
            reverse("library-pair-work", args=[self.lent.pk, "proof"]), {"file": io.BytesIO(b"no")}
        )
        self.assertEqual(answer.status_code, 422)
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.get(reverse("library-proof", args=[self.lent.pk])).status_code, 404)

    def test_an_answer_is_shown_with_a_photograph_until_the_drawing_is_wanted_again(self):
        touch = self.scene.release.checkpoints.get(key="touch")
        url = reverse("guide-question", args=[self.scene.release.pk, "touch"])
        answer = touch.answers[0][0]
        self.client.post(url, {"answer": answer, "file": jpeg()})
        shown = touch.examples.get()
        with Image.open(shown.picture.path) as kept:
            self.assertEqual(max(kept.size), 640)
        page = self.client.get(reverse("bench-at", args=[self.case.number, "touch"]))
        self.assertContains(page, reverse("answer-example", args=[shown.pk]))
        self.assertEqual(self.client.post(url, {"answer": "never", "file": jpeg()}).status_code, 422)
        self.client.post(url, {"answer": answer})
        self.assertFalse(touch.examples.exists())

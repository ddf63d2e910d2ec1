"""Drawing a check on a retail photograph: tried, kept, measured in open cases; and what is refused."""

import json

import numpy as np
from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from assay.measure.registry import MEASURES
from assay.simulator.swatch import seam_swatch
from casework.actions.analyse_case import analyse_case
from casework.grading import regrade
from casework.guides.wording import WORDS, choices
from casework.models import Case, LedgerEntry
from casework.reasons import REASONS
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Organisation, Pair, Reading
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import finding, small_case, small_organisation


class Words(TestCase):
    def test_every_measure_has_its_words_for_numbers_it_gives_and_for_every_reason_it_may_refuse_for(self):
        self.assertEqual(set(WORDS), set(MEASURES))
        for choice in choices().values():
            self.assertIn(choice.quantity, MEASURES[choice.measure].numbers)
        for name, measure in MEASURES.items():
            self.assertEqual(measure.reasons - set(REASONS) - set(WORDS[name].reasons), set(), name)
            self.assertLessEqual(set(WORDS[name].reasons), measure.reasons, name)


class Drawing(TestCase):
    """A swatch with one row of stitches stands for the shoe, on two retail pairs and on the suspect."""

    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        cls.case = small_case(cls.scene)
        cls.swatch = seam_swatch("easy", 2)
        place = {"view": "top", "foot": "left", "by": cls.scene.mara, "mm_per_px": cls.swatch.mm_per_px}
        pairs = [*Pair.objects.filter(label__in=("R1", "R2")).order_by("label"), cls.case.pair]
        cls.photos = []
        for light, pair in zip((1.0, 0.95, 0.9), pairs, strict=True):
            photo = receive_photo(pair=pair, data=jpeg((cls.swatch.rgb * light).astype(np.uint8)), **place)
            read_photo(photo=photo, references={}, needs={})
            cls.photos.append(photo)
        cls.points = json.dumps(cls.swatch.marks.round(1).tolist())

    def setUp(self):
        self.client.force_login(self.scene.mara)

    def send(self, door, **given):
        given = {"choice": "seam:", "points": self.points} | given
        return self.client.post(reverse(door, args=[self.photos[0].pk]), given)

    def test_it_is_tried_on_every_verified_pair_and_nothing_is_kept(self):
        shown = self.send("guide-try")
        self.assertContains(shown, f"{len(self.swatch.centres)} <small>± 0.2<", count=2)
        self.assertContains(shown, 'id="tried-marks"')
        self.assertFalse(Marking.objects.exists())

    def test_a_kept_check_is_measured_on_retail_and_on_the_rail_of_open_cases(self):
        with self.captureOnCommitCallbacks():
            kept = self.send("guide-draw", name="Collar row", section="Stitches", mandatory="on", size_rule="fixed")
        self.assertEqual(kept.status_code, 302)
        made = self.scene.release.checkpoints.get(key="collar-row")
        self.assertEqual((made.kind, made.measure, made.foot, made.mandatory), ("count", "seam", "left", True))
        self.assertEqual(finding(self.case, "collar-row").retail, [[f"R{n}", len(self.swatch.centres)] for n in (1, 2)])
        analyse_case(case=self.case, user=self.scene.mara)
        self.assertEqual(finding(self.case, "collar-row").grade, "agrees")
        self.assertEqual(self.send("guide-draw", name="Collar row", section="Stitches").status_code, 302)
        self.assertTrue(self.scene.release.checkpoints.filter(key="collar-row-2").exists())

    def test_lengths_are_believed_to_scatter_by_what_retail_pairs_showed(self):
        self.send(
            "guide-draw",
            choice="seam:pitch_mm",
            name="Pitch",
            section="Stitches",
            size_rule="slope",
            mm_per_size="0.02",
        )
        made = self.scene.release.checkpoints.get(key="pitch")
        self.assertEqual((made.kind, made.unit, made.size_rule["mm_per_size"]), ("continuous", "mm", 0.02))
        self.assertGreaterEqual(made.prior["scatter"], 0.005 * self.swatch.pitch_mm * 0.9)

    def test_bad_input_is_told_in_words_and_loses_nothing(self):
        nowhere = json.dumps([[5, 5], [20, 8]])
        for given, words in (
            ({"points": "[]"}, "click on the photograph"),
            ({"points": "nonsense"}, "Draw it again"),
            ({"points": '[["a", 1]]'}, "Draw it again"),
            ({"points": nowhere}, "No row of stitches"),
            ({"points": json.dumps([[5, 5], [9000, 8]])}, "off the photograph"),
            ({"choice": "telepathy:"}, "Choose what to measure"),
            ({"name": ""}, "Give it a name"),
            ({"size_rule": "slope"}, "how many mm"),
            ({"minutes": "soon"}, "as a number"),
        ):
            with self.subTest(words):
                shown = self.send("guide-draw", **({"name": "Kept word", "section": "Stitches"} | given))
                self.assertContains(shown, words, status_code=422)
                if given.get("name") != "":
                    self.assertContains(shown, "Kept word", status_code=422)
        self.assertEqual(self.scene.release.checkpoints.count(), 4)

    def change(self, **given):
        door = reverse("guide-check", args=[self.photos[0].pk, "collar-row"])
        return self.client.post(door, {"name": "Collar row", "section": "Stitches", "group": "collar"} | given)

    def test_a_check_can_be_renamed_and_counted_otherwise_until_a_case_is_signed_with_it(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        self.assertContains(self.change(name=""), "Give it a name", status_code=422)
        self.assertEqual(self.change(name="Collar seam", mandatory="on", minutes="2").status_code, 302)
        made = self.scene.release.checkpoints.get(key="collar-row")
        self.assertEqual((made.name, made.mandatory, made.minutes, made.group), ("Collar seam", True, 2, "collar"))
        Case.objects.filter(pk=self.case.pk).update(signed_at=timezone.now())
        refused = self.change(name="Another word")
        self.assertContains(refused, f"Case {self.case.number} was signed with it", status_code=422)
        self.assertContains(refused, "Another word", status_code=422)
        self.assertEqual(self.scene.release.checkpoints.get(key="collar-row").name, "Collar seam")

    def test_another_shop_s_cases_are_neither_named_nor_touched(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        theirs = Case.objects.get(pk=self.case.pk)
        Case.objects.filter(pk=theirs.pk).update(organisation=Organisation.objects.create(name="Next door"))
        self.change(action="withdraw")
        self.assertTrue(theirs.findings.filter(checkpoint__key="collar-row").exists())
        self.change(action="bring-back")
        self.assertEqual(set(LedgerEntry.objects.filter(case=theirs).values_list("action", flat=True)), {"case_opened"})
        Case.objects.filter(pk=theirs.pk).update(signed_at=timezone.now())
        refused = self.change(name="Another word")
        self.assertContains(refused, "signed case of another shop", status_code=422)
        self.assertNotContains(refused, f"Case {theirs.number}", status_code=422)

    def test_conditions_that_the_form_cannot_say_are_not_lost_by_it(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        made = self.scene.release.checkpoints.get(key="collar-row")
        made.size_rule, made.applies_when = {"rule": "box_class"}, [{"fact": "region", "is": ["us"]}]
        made.save()
        self.change(name="Collar seam", size_rule="length", unworn="on")
        changed = self.scene.release.checkpoints.get(key="collar-row")
        self.assertEqual(changed.name, "Collar seam")
        self.assertEqual((changed.size_rule, changed.applies_when), (made.size_rule, made.applies_when))

    def test_a_check_taken_off_leaves_open_cases_while_signed_ones_and_readings_keep_it(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        signed = small_case(self.scene)
        regrade(signed)
        Case.objects.filter(pk=signed.pk).update(signed_at=timezone.now())
        read = Reading.objects.filter(checkpoint__key="collar-row").count()
        self.assertEqual(self.change(action="withdraw").status_code, 302)
        self.assertFalse(self.case.findings.filter(checkpoint__key="collar-row").exists())
        self.assertTrue(signed.findings.filter(checkpoint__key="collar-row").exists())
        self.assertEqual(Reading.objects.filter(checkpoint__key="collar-row").count(), read)
        self.assertTrue(LedgerEntry.objects.filter(case=self.case, action="withdrew").exists())
        regrade(self.case)
        self.assertFalse(self.case.findings.filter(checkpoint__key="collar-row").exists())
        self.assertContains(self.client.get(reverse("guide-draw", args=[self.photos[0].pk])), "Bring back")
        self.assertEqual(self.change(action="bring-back").status_code, 302)
        self.assertEqual(finding(self.case, "collar-row").retail, [[f"R{n}", len(self.swatch.centres)] for n in (1, 2)])
        self.change(action="withdraw")
        # Its key and place are held: another of the same name stands beside it.
        self.send("guide-draw", name="Collar row", section="Stitches")
        self.assertTrue(self.scene.release.checkpoints.filter(key="collar-row-2").exists())

    def move(self, points, door="guide-check-marks", **sent):
        sent = sent or {"points": points if isinstance(points, str) else json.dumps(points)}
        return self.client.post(reverse(door, args=[self.photos[0].pk, "collar-row"]), sent)

    def test_marks_put_elsewhere_are_measured_anew_but_not_where_a_person_put_them(self):
        whole = self.swatch.marks.round(1).tolist()
        half = whole[: len(whole) // 2 + 1]
        self.send("guide-draw", name="Collar row", section="Stitches", points=json.dumps(half))
        analyse_case(case=self.case, user=self.scene.mara)
        self.assertLess(finding(self.case, "collar-row").reading.value, len(self.swatch.centres))
        self.assertContains(self.move("[[1, 2"), "did not arrive whole", status_code=422)
        self.assertContains(self.move([[1, 2], [9, 9]]), "[[1.0, 2.0], [9.0, 9.0]]", status_code=422)
        self.assertEqual(self.move(whole).status_code, 302)
        analyse_case(case=self.case, user=self.scene.mara)
        whole_row = len(self.swatch.centres)
        self.assertEqual(finding(self.case, "collar-row").reading.value, whole_row)
        self.assertEqual(finding(self.case, "collar-row").retail, [[f"R{n}", whole_row] for n in (1, 2)])
        self.assertTrue(LedgerEntry.objects.filter(case=self.case, action="moved_marks").exists())
        Marking.objects.filter(photo=self.photos[2]).update(origin=Marking.Origin.MOVED)
        self.move(half)
        analyse_case(case=self.case, user=self.scene.mara)
        self.assertEqual(finding(self.case, "collar-row").reading.value, whole_row)
        Case.objects.filter(pk=self.case.pk).update(signed_at=timezone.now())
        self.assertContains(self.move(whole), "was signed with it", status_code=422)

    def test_left_is_held_against_right_once_both_are_drawn(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        self.assertContains(
            self.move("", "guide-check-feet", other="collar", feet_name="x"), "No check", status_code=422
        )
        place, right = {"view": "top", "foot": "right", "by": self.scene.mara}, []
        for photo in self.photos[:2]:
            right.append(receive_photo(pair=photo.pair, data=jpeg((self.swatch.rgb * 0.85).astype(np.uint8)), **place))
            read_photo(photo=right[-1], references={}, needs={})
        given = {"choice": "seam:", "points": self.points, "name": "Collar row, right", "section": "Stitches"}
        self.client.post(reverse("guide-draw", args=[right[0].pk]), given)
        page = self.client.get(reverse("guide-check", args=[self.photos[0].pk, "collar-row"]))
        self.assertContains(page, "Collar row, feet")
        sent = {"other": "collar-row-right", "feet_name": "Collar row, feet"}
        self.assertContains(self.move("", "guide-check-feet", **sent | {"feet_name": " "}), "a name", status_code=422)
        self.assertEqual(self.move("", "guide-check-feet", **sent).status_code, 302)
        made = self.scene.release.checkpoints.get(key="collar-row-feet")
        self.assertEqual((made.left.foot, made.right.foot, made.kind), ("left", "right", "count"))
        self.assertEqual(finding(self.case, "collar-row-feet").retail, [["R1", 0], ["R2", 0]])
        page = self.client.get(reverse("guide-check", args=[self.photos[0].pk, "collar-row"]))
        self.assertNotContains(page, "Hold them against each other")

    def test_only_guide_writers_keep_and_only_the_shop_sees(self):
        self.send("guide-draw", name="Collar row", section="Stitches")
        self.client.force_login(self.scene.jory)
        self.assertContains(self.send("guide-try"), "±")
        for refused in (self.change(action="withdraw"), self.move(self.points)):
            self.assertContains(refused, "Only a guide writer", status_code=422)
        self.assertTrue(self.scene.release.checkpoints.filter(key="collar-row").exists())
        refused = self.send("guide-draw", name="Row", section="Stitches")
        self.assertContains(refused, "Only a guide writer", status_code=422)
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.send("guide-try").status_code, 404)
        self.client.force_login(self.scene.mara)
        suspect = reverse("guide-draw", args=[self.photos[2].pk])
        self.assertEqual(self.client.get(suspect).status_code, 404)

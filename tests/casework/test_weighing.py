"""The weighing of a case: known copies, prior odds beside it, the plan, what the client is told, what is exported."""

import contextlib
import io
import json
import tempfile
from dataclasses import replace
from pathlib import Path

import jsonschema
import numpy as np
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

import reports
from assay.__main__ import main
from assay.contracts import CORRECTED_BY_HAND
from assay.imaging.plane import camera_model_of, scaled
from assay.judge.weigh import weigh
from assay.pipeline.facts import scale_of
from casework import findings as case_findings
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.case_document import case_document
from casework.corrections import Looked, looked_at, reading_errors
from casework.grading import regrade
from casework.models import Case, Finding
from casework.weighing import plan_of, unread_signs
from library.models import Batch, Checkpoint
from pairs.actions.take_reading import SAID, say
from pairs.models import Organisation, Pair, Reading, Standing
from tests.support.scenes import checkpoint, grey_photo, small_case, small_organisation

SCHEMA = json.loads((Path(reports.__file__).parent / "schema" / "case-3.schema.json").read_text())


class Weighing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.batch = Batch.objects.create(release=cls.scene.release, name="Bowline")
        for label in ("B1", "B2"):
            pair = Pair.objects.create(
                organisation=cls.scene.organisation,
                release=cls.scene.release,
                standing=Standing.COPY,
                label=label,
                batch=cls.batch,
            )
            for key, value in (("smell", "solvent"), ("bar", 12)):
                say(checkpoint=cls.scene.release.checkpoints.get(key=key), pair=pair, value=value, method=SAID,
                    by=cls.scene.mara)  # fmt: skip
        Checkpoint.objects.create(
            release=cls.scene.release, position=90, section="All", instruction="Ask.", key="price", name="Price asked",
            group="provenance", kind="answer", answers=[["usual", "Usual"], ["far-under", "Far under"]],
            prior={"pairs": 2, "rare": {"far-under": 0.01}, "copies": {"usual": 0.75, "far-under": 0.25}},
        )  # fmt: skip
        cls.case = small_case(cls.scene)

    def standing(self):
        found = case_findings.findings_of(self.case)
        return case_findings.assess(self.case, found), found

    def answer(self, key, choice):
        work.answer(case=self.case, checkpoint=checkpoint(self.case, key), user=self.scene.mara, choice=choice)

    def judged_alone(self, document: dict) -> tuple[int, dict | str]:
        """What the command says of an exported case."""
        with (
            tempfile.TemporaryDirectory() as folder,
            contextlib.redirect_stdout(io.StringIO()) as out,
            contextlib.redirect_stderr(io.StringIO()) as err,
        ):
            kept = Path(folder) / "case.json"
            kept.write_text(json.dumps(document))
            code = main(["judge", str(kept)])
        return code, json.loads(out.getvalue()) if code == 0 else err.getvalue()

    def test_a_case_that_shares_a_batch_s_habits_is_told_as_of_that_batch(self):
        before = self.standing()[0].balance.batches["Bowline"]
        self.answer("smell", "solvent")
        stand = self.standing()[0]
        self.assertGreater(stand.balance.batches["Bowline"], before)
        self.assertLess(stand.balance.total, -5)

    def test_price_and_provenance_move_the_prior_and_never_the_weight(self):
        total = self.standing()[0].balance.total
        self.answer("price", "far-under")
        stand = self.standing()[0]
        self.assertEqual(stand.balance.total, total)
        self.assertEqual(stand.prior.named, (("Price asked", -6.0),))

    def test_a_price_nobody_answered_for_is_taken_from_the_intake(self):
        self.scene.release.retail_price = 120
        self.scene.release.save()
        save_intake(case=self.case, user=self.scene.mara, facts={"asked_price": "40"})
        self.case.refresh_from_db()
        self.assertLess(self.standing()[0].prior.named[0][1], 0)

    def test_caps_are_the_checkpoint_s_own_where_it_has_some(self):
        Checkpoint.objects.filter(release=self.scene.release, key="smell").update(cap_for=0, cap_against=0)
        self.answer("smell", "solvent")
        self.assertEqual(self.standing()[0].pieces["smell"].piece, 0)

    def test_the_command_repeats_weights_schools_and_plan_to_the_last_figure(self):
        self.answer("smell", "solvent")
        self.answer("price", "usual")
        document = json.loads(json.dumps(case_document(self.case)))
        jsonschema.validate(document, SCHEMA, cls=jsonschema.Draft202012Validator)
        stand, found = self.standing()
        code, again = self.judged_alone(document)
        self.assertEqual(code, 0)
        self.assertAlmostEqual(again["balance"]["decibans"], stand.balance.total, places=9)
        for one in again["findings"]:
            if one["checkpoint"] in stand.pieces:
                self.assertAlmostEqual(one["decibans"], stand.pieces[one["checkpoint"]].piece, places=9)
        made = plan_of(self.case, found, stand)
        self.assertEqual(again["plan"]["next"], made.worths[0].key)
        self.assertAlmostEqual(again["plan"]["bits"], made.worths[0].bits, places=9)
        self.assertEqual(again["house_rule"]["verdict"], stand.answer.verdict.value)

    def test_a_case_with_numbers_that_are_none_or_thresholds_that_cross_is_refused_in_words(self):
        document = json.loads(json.dumps(case_document(self.case)))
        first = next(one for one in document["findings"] if one["weighing"])
        for spoil, words in (
            (lambda: first["weighing"].update(wider=float("inf")), "not finite"),
            (lambda: first["weighing"].update(wider=4.0, cap_for=-1), "bad caps"),
            (
                lambda: (first["weighing"].update(cap_for=1), document["policy"].update(fake_from=90)),
                "thresholds cross",
            ),
            (lambda: document.update(format="other/9"), "unknown format"),
        ):
            spoil()
            code, said = self.judged_alone(document)
            self.assertEqual(code, 2)
            self.assertIn(words, said)

    def test_lengths_of_a_photograph_share_its_scale_and_the_verdict_names_the_photo_whose_scale_is_off(self):
        """Eight lengths 3 % long on one photograph whose scale claims 1 %: no eight faults, but one scale."""
        photo = grey_photo(self.case, view="side_out", foot="left")
        photo.scale = scale_of(scaled(0.2, 0.01, "two_points"), camera_model_of((800, 600), None))
        photo.save()
        for n in range(8):
            size = 20.0 + 5 * n
            check = Checkpoint.objects.create(
                release=self.scene.release, position=50 + n, section="All", instruction="Look.", key=f"length-{n}",
                name=f"Length {n}", kind="continuous", group=f"g{n}", measure="edge_distance", unit="mm",
                view="side_out", foot="left", prior={"pairs": 4, "scatter": 0.3},
            )  # fmt: skip
            reading = {"checkpoint": check, "unit": "mm", "method": "edge_distance/1", "taken_by": self.scene.mara}
            for pair in Pair.objects.filter(standing=Standing.RETAIL):
                Reading.objects.create(pair=pair, value=size, **reading)
            Reading.objects.create(
                pair=self.case.pair, photo=photo, value=size * 1.03, uncertainty=0.011 * size, **reading
            )
            Finding.objects.create(case=self.case, checkpoint=check)
        regrade(self.case)
        stand, _ = self.standing()
        shared = [sign.scale for sign in stand.signs if sign.scale]
        self.assertEqual({one.photo for one in shared}, {str(photo.pk)})
        self.assertAlmostEqual(shared[1].moves, 1.03 * 25)
        apart = [replace(sign, scale=None) for sign in stand.signs]
        self.assertGreater(stand.balance.total, weigh(apart).total + 5)
        document = json.loads(json.dumps(case_document(self.case)))
        jsonschema.validate(document, SCHEMA, cls=jsonschema.Draft202012Validator)
        self.assertAlmostEqual(self.judged_alone(document)[1]["balance"]["decibans"], stand.balance.total, places=9)
        self.client.force_login(self.scene.mara)
        page = self.client.get(reverse("verdict", args=[self.case.number])).content.decode()
        self.assertIn("% long: check that photo’s scale", page)

    def test_lengths_that_are_a_verified_pair_s_own_are_said_and_another_pair_s_are_not(self):
        """A pair's photographs sent again, cut anew, read as that pair does: within what measuring scatters."""
        rng = np.random.default_rng(2)
        retail = list(Pair.objects.filter(standing=Standing.RETAIL).order_by("label"))
        own, other = small_case(self.scene), small_case(self.scene)
        for n in range(15):
            check = Checkpoint.objects.create(
                release=self.scene.release, position=50 + n, section="All", instruction="Look.", key=f"length-{n}",
                name=f"Length {n}", kind="continuous", group=f"g{n}", measure="edge_distance", unit="mm",
                view="side_out", foot="left", prior={"pairs": 4, "scatter": 0.5},
            )  # fmt: skip
            values = rng.normal(30, 0.5, 4)
            for case in (own, other):
                Finding.objects.create(case=case, checkpoint=check)
            read = {"checkpoint": check, "unit": "mm", "method": "edge_distance/1", "taken_by": self.scene.mara}
            for pair, value in (
                *zip(retail, values, strict=False),
                (own.pair, values[1] + 0.01),
                (other.pair, values[3]),
            ):
                Reading.objects.create(pair=pair, value=float(value), **read)
        self.client.force_login(self.scene.mara)
        for case, said in ((own, "match verified pair R2 more closely"), (other, None)):
            regrade(case)
            page = self.client.get(reverse("verdict", args=[case.number])).content.decode()
            self.assertIn(said, page) if said else self.assertNotIn("more closely than verified", page)

    def test_what_people_put_right_in_closed_cases_makes_such_readings_weigh_less(self):
        """A sure count of 13 that a person set to 12, and one that was confirmed: one wrong of two looked at."""
        photo = grey_photo(self.case, view="side_out", foot="left")
        bar = checkpoint(self.case, "bar")
        read = {"pair": self.case.pair, "photo": photo, "method": "seam/1", "taken_by": self.scene.mara}
        for value, details in ((13, {}), (12, {"placed": True})):
            reading = Reading.objects.create(checkpoint=bar, value=value, unit="count", details=details, **read)
        self.case.findings.filter(checkpoint=bar).update(reading=reading)
        self.assertEqual(looked_at(self.scene.organisation), {}, "not while the case is open")
        other = small_case(self.scene)
        confirmed = Reading.objects.create(
            checkpoint=bar, value=13, unit="count", **read | {"pair": other.pair, "photo": grey_photo(other, tone=80)}
        )
        other.findings.filter(checkpoint=bar).update(reading=confirmed, confirmed_by=self.scene.mara)
        Case.objects.filter(pk__in=(self.case.pk, other.pk)).update(signed_at=timezone.now())
        self.assertEqual(looked_at(self.scene.organisation), {"seam": Looked(1, 2)})
        ticked = small_case(self.scene)
        own = read | {"pair": ticked.pair, "photo": grey_photo(ticked, tone=70)}
        counted = Reading.objects.create(checkpoint=bar, value=13, unit="count", **own)
        reading = Reading.objects.create(
            checkpoint=bar, value=14, unit="count", corrects=counted, doubts=[CORRECTED_BY_HAND], **own
        )
        ticked.findings.filter(checkpoint=bar).update(reading=reading, confirmed_by=self.scene.mara)
        Case.objects.filter(pk=ticked.pk).update(signed_at=timezone.now())
        seen = looked_at(self.scene.organisation)
        self.assertEqual(seen, {"seam": Looked(2, 3)}, "ticks put right are no confirmation of what was read")
        errors = reading_errors(self.scene.organisation)
        self.assertAlmostEqual(errors["seam"], (2 + 4 + 2) / (200 + 568 + 3))
        case = small_case(self.scene)
        self.client.force_login(self.scene.mara)
        self.assertContains(self.client.get(reverse("learned")), "2 of 3")
        bars = [sign for sign in unread_signs(case, case_findings.findings_of(case)) if sign.key == "bar"]
        self.assertEqual([sign.reading_error for sign in bars], [errors["seam"]])

    def test_fake_is_said_carefully_and_the_rule_that_was_signed_is_the_shop_s(self):
        self.client.force_login(self.scene.mara)
        self.answer("smell", "solvent")
        Checkpoint.objects.filter(key="smell").update(cap_against=40.0)
        expected = self.standing()[0].answer.verdict.value
        url = reverse("verdict", args=[self.case.number])
        given = {"verdict": "fake", "words": "A counterfeit.", "after": "", "anyway": "Two of us smelled it."}
        refused = self.client.post(url, given)
        self.assertContains(refused, "for brand owner", status_code=422)
        Organisation.objects.update(says_counterfeit=True)
        self.client.post(url, given | {"words": "A counterfeit: the smell is of solvent."})
        self.assertEqual(self.case.opinions.get().proposed, expected)

    def test_the_client_s_words_are_offered_and_never_put_over_what_was_typed(self):
        self.client.force_login(self.scene.mara)
        self.answer("smell", "solvent")
        page = self.client.get(reverse("verdict", args=[self.case.number])).content.decode()
        self.assertIn("We compared 1 points of this Veltrane Quayside Low Brackish", page)
        self.assertIn("retail pairs differ this much", page)
        self.assertIn("not a legal finding", page)
        answer = self.client.post(reverse("verdict", args=[self.case.number]), {"verdict": "", "words": "Mine."})
        self.assertContains(answer, ">Mine.</textarea>", status_code=422)

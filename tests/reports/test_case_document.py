"""What leaves the shop follows the shipped schema and carries enough to repeat every grade."""

import contextlib
import csv
import io
import json
import tempfile
from pathlib import Path

import jsonschema
from django.test import TestCase
from django.urls import reverse

from assay.__main__ import main
from assay.judge.judgement import Kind, Prior, judge
from casework import findings as case_findings
from casework.actions import work_checkpoint as work
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from tests.support.documents import SCHEMA
from tests.support.scenes import checkpoint, small_case, small_organisation


def recomputed(finding: dict) -> str:
    """A grade from the exported numbers and the core alone."""
    reading = finding["reading"]
    prior = Prior(**finding["prior"], possible=tuple(finding["possible_answers"]))
    return judge(
        Kind(finding["kind"]),
        [row["value"] for row in finding["retail"]],
        reading["judged_value"],
        prior,
        uncertainty=reading["judged_uncertainty"],
        retail_uncertainty=[row.get("uncertainty", 0.0) for row in finding["retail"]],
        decisive=finding["decisive"],
        confirmed=finding["confirmed_by"] is not None,
    ).grade.value


class Export(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        save_intake(
            case=cls.case, user=cls.scene.mara, facts={"size_us": "9", "condition": "deadstock", "source": "=A1"}
        )
        work.inscribe(case=cls.case, user=cls.scene.mara, places={"tag.style_code": "VQ-44172-B"})
        for key, act, more in (
            ("style-code", work.confirm, {}),
            ("smell", work.answer, {"choice": "solvent"}),
            ("touch", work.cannot_tell, {"why": "=wet"}),
        ):
            act(case=cls.case, checkpoint=checkpoint(cls.case, key), user=cls.scene.mara, **more)
        sign_opinion(
            case=cls.case,
            user=cls.scene.mara,
            verdict="fake",
            words="The code is wrong.",
            anyway="Sure.",
            after=None,
        )

    def setUp(self):
        self.client.force_login(self.scene.jory)

    def test_the_document_follows_the_schema_and_every_grade_can_be_repeated(self):
        document = json.loads(self.client.get(reverse("case-json", args=[self.case.number])).content)
        jsonschema.Draft202012Validator.check_schema(SCHEMA)
        jsonschema.validate(document, SCHEMA, cls=jsonschema.Draft202012Validator)
        graded = [finding for finding in document["findings"] if finding["grade"] != "not_compared"]
        self.assertEqual(
            {f["checkpoint"]: f["grade"] for f in graded}, {f["checkpoint"]: recomputed(f) for f in graded}
        )
        self.assertEqual([f["grade"] for f in graded], ["rules_out", "departs"])
        self.assertEqual(document["house_rule"]["verdict"], "fake")
        with tempfile.TemporaryDirectory() as folder, contextlib.redirect_stdout(io.StringIO()) as out:
            kept = Path(folder) / "case.json"
            kept.write_text(json.dumps(document))
            self.assertEqual(main(["judge", str(kept)]), 0)
        again = json.loads(out.getvalue())
        self.assertEqual([f["grade"] for f in again["findings"]], [f["grade"] for f in document["findings"]])
        self.assertEqual(again["house_rule"]["verdict"], "fake")
        self.assertAlmostEqual(again["balance"]["decibans"], document["balance"]["decibans"], places=9)
        told = case_findings.assess(self.case, case_findings.findings_of(self.case)).pieces
        for one in again["findings"]:
            if one["checkpoint"] in told:
                self.assertAlmostEqual(one["decibans"], told[one["checkpoint"]].piece, places=9)
        self.assertLess(again["balance"]["decibans"], -20)

    def test_the_csv_has_a_line_a_finding_and_starts_no_formula(self):
        answer = self.client.get(reverse("case-csv", args=[self.case.number]))
        rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
        self.assertEqual([row["checkpoint"] for row in rows], ["style-code", "smell", "touch", "bar"])
        self.assertEqual([row["grade"] for row in rows], ["rules_out", "departs", "not_compared", "not_compared"])
        self.assertFalse([cell for row in rows for cell in row.values() if cell.startswith("=")])

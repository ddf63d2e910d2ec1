"""The demo's guide covers every step, and every caution stands where the step is done."""

import re
from pathlib import Path

from django.conf import settings
from django.template.loader import render_to_string
from django.test import TestCase

from assay.catalogue import catalogue
from demo import scenario
from library.models import View

TABLE = Path(settings.BASE_DIR) / "docs" / "coverage.md"
# What must be said, and at which checks: the words that carry it.
CAUTIONS = {
    "smell": ("do not sniff at length", "open a window"),
    "paint-wipes": ("written consent", "flammable", "gloves", "air"),
    "insole-lifts": ("owner’s consent", "evidence"),
    "glue-pattern": ("owner’s consent",),
    "toe-squeeze": ("no tool", "Ask the owner"),
    "insert-edge": ("Ask the owner",),
    "fingertip": ("no nail",),
    "inlay-look": ("Do not peel",),
    "label-tab": ("fingertip only",),
    "tag-cord": ("Blades",),
    "price": ("public place", "cannot be taken back"),
    "came-from": ("local law", "brand owner"),
    "insole-word": ("owner’s consent",),
    "board-row": ("owner’s consent",),
}


class DemoGuide(TestCase):
    def test_every_compared_thing_has_a_check_and_every_check_named_is_on_the_guide(self):
        keys = {one["key"] for one in scenario.CHECKPOINTS}
        rows = [line.strip("|\n").split("|") for line in TABLE.read_text().splitlines() if line.startswith("| ")][1:]
        self.assertGreater(len(rows), 70)
        for row in rows:
            self.assertTrue(all(cell.strip() for cell in row), row)
            named = re.findall(r"`([a-z-]+)`", row[3])
            self.assertEqual(set(named) - keys, set())
            self.assertTrue(named or row[0].strip() == "Any")

    def test_every_caution_stands_at_the_step_it_belongs_to(self):
        said = {one["key"]: one.get("caution", "") for one in scenario.CHECKPOINTS}
        for key, words in CAUTIONS.items():
            for word in words:
                self.assertIn(word, said[key], key)
        for view in View.objects.filter(ultraviolet=True):
            for word in ("eyes", "skin", "glasses", "own sheet"):
                self.assertIn(word, view.caution)
        step = render_to_string("casework/bench/_ultraviolet.html", {"uv": {"control_words": "", "lamp_words": ""}})
        for word in ("eyes", "skin", "glasses", "shortest time", "own sheet", "orientation only"):
            self.assertIn(word, step)
        kit = Path(settings.BASE_DIR, "casework/templates/casework/kit/ultraviolet.html").read_text()
        for word in ("children", "sheet goes first", "Button cells"):
            self.assertIn(word, kit)
        verdict = Path(settings.BASE_DIR, "casework/templates/casework/verdict/_sign.html").read_text()
        for word in ("not a legal finding", "local law", "brand owner"):
            self.assertIn(word, verdict)

    def test_a_question_that_touches_glue_paint_or_foam_has_a_caution(self):
        for one in catalogue():
            if re.search(r"\b(wipe|lift|peel|squeeze|press|pinch)\b", one.instruction, re.IGNORECASE):
                self.assertTrue(one.caution or one.key == "tongue-stuffing", one.key)

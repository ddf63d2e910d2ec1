"""Whatever the core can say, a person can read."""

import re
from pathlib import Path
from unittest import TestCase

from casework import wording

ROOT = Path(__file__).resolve().parents[2]
RAISED = re.compile(r'(?:Cannot\w+|UnreadableCode|NoSuchRelease|NothingToConfirm|AssayError)\(\s*"(\w+)"')
# These never reach a person as an error: they become a finding's reason.
FINDINGS_ONLY = {"photo_unfit", "could_not_tell", "no_scale", "not_measured", "no_retail_pairs", "no_scatter_known"}


def reasons() -> set[str]:
    found = set()
    for app in ("assay", "pairs", "casework"):
        for path in (ROOT / app).rglob("*.py"):
            found |= set(RAISED.findall(path.read_text()))
    return found


class EveryReasonHasASentence(TestCase):
    def test_every_reason_that_is_raised_is_worded(self):
        self.assertEqual(reasons() - set(wording.REASONS) - FINDINGS_ONLY, set())
        self.assertEqual(FINDINGS_ONLY - set(wording.NOT_COMPARED), set())

    def test_every_doubt_a_measure_raises_is_worded(self):
        code = "".join(path.read_text() for path in (ROOT / "assay" / "measure").glob("*.py"))
        doubts = set(re.findall(r'append\("(\w+)"\)|\("(\w+)",\) if', code))
        named = {name for pair in doubts for name in pair if name}
        self.assertTrue(named)
        self.assertEqual(named - set(wording.DOUBTS), set())

    def test_sentences_take_their_numbers_and_survive_missing_ones(self):
        full = wording.sentence("too_few_pixels", {"px_per_stitch": 2.1, "needed": 2.5})
        self.assertIn("Only 2.1 pixels a stitch; 2.5 are needed", full)
        self.assertIn("Did you mean VQ-1?", wording.sentence("unknown_code", {"code": "VQ-2", "nearest": "VQ-1"}))
        self.assertIn("(never_heard_of)", wording.sentence("never_heard_of"))
        for reason in wording.REASONS:
            self.assertNotIn("{", wording.sentence(reason))

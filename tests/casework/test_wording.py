"""Whatever the core can say, a person can read."""

import re
from pathlib import Path
from unittest import TestCase

from assay.paperwork.accessories import State
from assay.paperwork.fields import FIELDS
from assay.paperwork.found import Outcome
from casework import paper_wording, wording
from casework.guides.measure_words.present import tone_words
from casework.guides.wording import WORDS
from casework.reasons import REASONS

ROOT = Path(__file__).resolve().parents[2]
ERRORS = "Cannot|Bad|No|Wrong|Nothing|Unreadable|Instrument|Assay"
RAISED = re.compile(rf'\b(?:{ERRORS})\w*\(\s*"(\w+)"')
# What a guide writer's data have wrong: said where it is saved, by the field.
DATA_ONLY = {"bad_prior", "bad_condition", "bad_size_rule", "bad_packing", "no_such_answer"}
# What the command says of a file.
COMMAND_ONLY = {
    "not_finite",
    "negative_uncertainty",
    "unknown_format",
    "bad_caps",
    "bad_kappa",
    "bad_share",
    "check_twice",
}
COMMAND_ONLY |= {"no_minutes"}
# These never reach a person as an error: they become a finding's reason.
FINDINGS_ONLY = {
    "other_size",
    "not_contradicted",
    "photo_unfit",
    "could_not_tell",
    "no_scale",
    "not_measured",
    "no_retail_pairs",
    "no_scatter_known",
    "one_retail_pair",
    "nothing_to_compare",
    "other_marks",
    "patterns_too_unlike",
    "too_few_bands",
    "clean_says_nothing",
    "other_lamp",
    "marks_too_unlike",
    "too_unsure",
    "retail_unsure",
    "needs_third_pair",
}


def reasons() -> set[str]:
    found = set()
    for app in ("assay", "pairs", "casework"):
        for path in (ROOT / app).rglob("*.py"):
            found |= set(RAISED.findall(path.read_text()))
    return found


class EveryReasonHasASentence(TestCase):
    def test_every_reason_that_is_raised_is_worded(self):
        own = {reason for words in WORDS.values() for reason in words.reasons}
        self.assertEqual(reasons() - set(REASONS) - own - FINDINGS_ONLY - DATA_ONLY - COMMAND_ONLY, set())
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
        for reason in REASONS:
            self.assertNotIn("{", wording.sentence(reason))

    def test_every_slip_place_outcome_and_state_of_print_and_packing_is_worded(self):
        code = "".join((ROOT / "assay" / "paperwork" / f"{name}.py").read_text() for name in ("papers", "words"))
        slips = set(re.findall(r'Slip\(\s*"(\w+)"', code)) | {f"item_{s}" for s in ("missing", "unexpected", "wrong")}
        slips |= {"stamp_missing", "stamp_surplus", "words_alike", "words_differ"} | {
            f"{reason}{alike}" for reason in ("code_differs", "codes_disagree") for alike in ("", "_alike")
        }
        self.assertGreater(len(slips), 20)
        self.assertEqual(slips ^ set(paper_wording.SLIPS), set())
        self.assertEqual(set(FIELDS), set(paper_wording.PLACES))
        self.assertEqual(set(Outcome), set(paper_wording.OUTCOMES))
        self.assertEqual(set(State), set(paper_wording.STATES))

    def test_a_colour_is_said_to_be_off_no_surer_than_the_light_is(self):
        far = {"lighter": -1.2, "redder": 9.4, "yellower": -13.8, "apart_dE00": 7.9}
        self.assertEqual(tone_words(far, 3.6)[:3], ["Bluer by 13.8.", "Redder by 9.4.", "Darker by 1.2."])
        self.assertIn("± 3.6 only", tone_words(far, 3.6)[3])
        self.assertIn("No more than the light", tone_words(far | {"apart_dE00": 3.0}, 3.6)[-1])
        near = {"lighter": 0.1, "redder": 0.0, "yellower": 0.2, "apart_dE00": 0.2}
        self.assertEqual(tone_words(near, 0.1), ["No difference to tell."])

    def test_conditions_and_what_they_void_are_sentences(self):
        clauses = [
            {"fact": "condition", "is": ["deadstock", "tried_on"]},
            {"fact": "box_size_us", "same_as": "size_us"},
        ]
        said = paper_wording.condition_words(clauses)
        self.assertEqual(
            said, "Applies when the pair is deadstock or tried on, and the box belongs to the pair’s size."
        )
        void = {"fact": "box_size_us", "asked": "same_as", "wanted": "12", "got": "8"}
        told = "Doesn’t apply: the box belongs to size 8, the pair is size 12"
        self.assertEqual(paper_wording.void_words(void), told)

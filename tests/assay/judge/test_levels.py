"""Levels: triage is short, every level asks for what the one before asks for, and triage never ends in legit."""

import random
import unittest

from assay.judge.levels import BUDGET_MINUTES, Level, LevelCheck, TriageEnd, checks_of, ordered, triage_end
from assay.judge.rules import Verdict


def guide(seed: int) -> list[LevelCheck]:
    """A guide drawn at random; invented."""
    rng = random.Random(seed)
    return [
        LevelCheck(
            key=str(n),
            group=str(rng.randrange(20)),
            section=rng.choice("abcd"),
            bits=rng.random(),
            minutes=rng.choice([0.1, 0.3, 1.0, 2.0]),
            is_decisive=rng.random() < 0.05,
            is_required=rng.random() < 0.1,
            needs_tool=rng.random() < 0.1,
            pinned=rng.choice(["", "", "", "", "triage", "full"]) if rng.random() < 0.1 else "",
        )
        for n in range(rng.randrange(1, 140))
    ]


class Choosing(unittest.TestCase):
    def test_each_level_asks_for_all_of_the_one_before_and_full_for_everything(self):
        for seed in range(60):
            checks = guide(seed)
            triage, standard, full = (checks_of(checks, level) for level in Level)
            self.assertLessEqual(triage, standard)
            self.assertLessEqual(standard, full)
            self.assertEqual(full, {check.key for check in checks})
            self.assertLessEqual({check.key for check in checks if check.is_required}, standard)

    def test_triage_fits_into_its_minutes_and_needs_no_tool_unless_a_writer_pinned_it(self):
        for seed in range(60):
            checks = {one.key: one for one in guide(seed)}
            taken = [checks[key] for key in checks_of(list(checks.values()), Level.TRIAGE)]
            free = [one for one in taken if one.pinned != Level.TRIAGE]
            pinned = sum(one.minutes for one in taken if one.pinned == Level.TRIAGE)
            self.assertLessEqual(
                sum(one.minutes for one in free), max(0.0, BUDGET_MINUTES[Level.TRIAGE] - pinned) + 1e-9
            )
            self.assertFalse([one for one in free if one.needs_tool or one.pinned == Level.FULL])

    def test_everything_that_is_left_has_its_place_in_the_order_and_required_checks_come_before_equal_ones(self):
        checks = guide(5)
        self.assertCountEqual(ordered(checks, {}, is_covered=False), [check.key for check in checks])
        plain = LevelCheck("plain", "g", "box", 0.2, 0.5)
        required = LevelCheck("required", "h", "box", 0.2, 0.5, is_required=True)
        self.assertEqual(ordered([plain, required], {}, is_covered=True)[0], "required")

    def test_a_checker_stays_at_the_box_while_going_elsewhere_brings_hardly_more(self):
        box = [LevelCheck(f"box{n}", f"g{n}", "box", 0.2, 0.2) for n in range(3)]
        lamp = [LevelCheck(f"uv{n}", f"u{n}", "UV", 0.25, 0.2) for n in range(3)]
        order = ordered([*lamp, *box], {}, is_covered=True, section="box")
        self.assertEqual([key[:2] for key in order], ["bo"] * 3 + ["uv"] * 3)


class Ending(unittest.TestCase):
    def test_triage_ends_as_fake_or_goes_on_or_stops_for_want_of_pictures_and_never_as_legit(self):
        ends = {
            (verdict, bool(left), bool(blocked)): triage_end(verdict, left, blocked)
            for verdict in Verdict for left in ([], ["a"]) for blocked in ([], ["b"])
        }  # fmt: skip
        self.assertEqual({end for key, end in ends.items() if key[0] is Verdict.FAKE}, {TriageEnd.FAKE})
        for verdict in (Verdict.LEGIT, Verdict.UNDECIDED):
            self.assertEqual(ends[verdict, True, True], TriageEnd.WORKING)
            self.assertEqual(ends[verdict, False, True], TriageEnd.NO_FURTHER)
            self.assertEqual(ends[verdict, False, False], TriageEnd.GO_ON)
        self.assertNotIn("legit", set(TriageEnd))

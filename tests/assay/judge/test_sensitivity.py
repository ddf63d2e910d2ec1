"""A verdict that hangs on one assumed figure is undecided, and says on which; confirmed signs hang on none."""

import random
import unittest
from dataclasses import replace

from assay.judge.assumptions import shares_of_levels
from assay.judge.copy_model import agreeing_brings
from assay.judge.evidence import EvidenceItem
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior
from assay.judge.rules import GradedItem, Policy, Verdict, organisation_verdict
from assay.judge.sensitivity import OTHERWISE, range_of, robust_verdict
from assay.judge.weigh import weigh


def evidence(count: int, seed: int = 1, off: float = 0.0) -> list[EvidenceItem]:
    """Lengths that agree with three retail pairs, or lie so many scatters off. Invented."""
    rng = random.Random(seed)
    return [
        EvidenceItem(
            key=f"c{n}", group=f"g{n}", kind=Kind.CONTINUOUS, value=rng.gauss(off, 0.5), uncertainty=0.1,
            retail=[rng.gauss(0, 0.5) for _ in range(3)], prior=Prior(4, scatter=0.5),
        )
        for n in range(count)
    ]  # fmt: skip


def sheet(signs, balance, grade=Grade.AGREES):
    pieces = {piece.key: piece.piece for piece in balance.pieces}
    return [
        GradedItem(sign.key, sign.group, grade, weight=pieces[sign.key], mandatory=sign.key == "c0") for sign in signs
    ]


class Sensitivity(unittest.TestCase):
    def test_the_range_holds_the_total_and_names_every_other_assumption(self):
        signs = evidence(12)
        balance = weigh(signs)
        spread = range_of(signs, sheet(signs, balance), Policy(), balance)
        self.assertEqual([alternative.key for alternative in spread.alternatives], list(OTHERWISE))
        self.assertLessEqual(spread.low, balance.total)
        self.assertGreaterEqual(spread.high, balance.total)

    def test_more_nearly_perfect_copies_never_speak_for_retail_and_lower_caps_never_say_more(self):
        for seed in range(6):
            signs = evidence(14, seed)
            balance = weigh(signs)
            found = {
                alternative.key: alternative.total
                for alternative in range_of(signs, sheet(signs, balance), Policy(), balance).alternatives
            }
            self.assertLessEqual(found["perfect_more"], balance.total + 1e-6)
            self.assertGreaterEqual(found["perfect_fewer"], balance.total - 1e-6)
            self.assertLessEqual(abs(found["caps_lower"]), abs(balance.total) + 1e-6)

    def test_a_threshold_just_reached_is_undecided_and_one_far_behind_is_legit(self):
        signs = evidence(30)
        balance = weigh(signs)
        items = sheet(signs, balance)
        low = range_of(signs, items, Policy(), balance).low
        for legit_from, verdict in ((balance.total - 0.01, Verdict.UNDECIDED), (max(0.1, low - 0.5), Verdict.LEGIT)):
            policy = Policy(legit_from=legit_from)
            self.assertIs(organisation_verdict(items, policy).verdict, Verdict.LEGIT)
            answer, spread = robust_verdict(signs, items, policy, balance)
            self.assertIs(answer.verdict, verdict)
            self.assertEqual(bool(spread.hangs_on), verdict is Verdict.UNDECIDED)

    def test_the_shop_s_belief_in_good_copies_bounds_what_agreeing_brings(self):
        signs = evidence(100)
        totals = [weigh(signs, levels=shares_of_levels(share)).total for share in (0.001, 0.01, 0.05, 0.2)]
        self.assertEqual(totals, sorted(totals, reverse=True))
        for share, total in zip((0.01, 0.05, 0.2), totals[1:], strict=True):
            self.assertAlmostEqual(total, agreeing_brings(share), delta=1.5)

    def test_a_verdict_that_hangs_on_good_copies_says_at_which_share_it_turns(self):
        signs = evidence(80)
        belief = Policy().near_perfect
        balance = weigh(signs, levels=shares_of_levels(belief))
        policy = Policy(legit_from=balance.total - 0.5)
        answer, spread = robust_verdict(signs, sheet(signs, balance), policy, balance)
        self.assertEqual((answer.reason, spread.hangs_on), ("hangs_on_assumption", "perfect_more"))
        self.assertTrue(belief < spread.turns_at < 2 * belief)
        for factor, verdict in ((0.97, Verdict.LEGIT), (1.03, Verdict.UNDECIDED)):
            again = weigh(signs, levels=shares_of_levels(factor * spread.turns_at))
            self.assertIs(organisation_verdict(sheet(signs, again), policy).verdict, verdict)

    def test_a_confirmed_sure_sign_and_rules_that_weigh_nothing_hang_on_no_assumption(self):
        signs = evidence(6)
        balance = weigh(signs)
        items = sheet(signs, balance)
        ruled_out = [replace(items[0], grade=Grade.RULES_OUT, confirmed=True), *items[1:]]
        self.assertIs(robust_verdict(signs, ruled_out, Policy(), balance)[0].verdict, Verdict.FAKE)
        counted = robust_verdict(signs, items, Policy(decision_rule="red_flag_tally"), balance)
        self.assertEqual((counted[0].verdict, counted[1]), (Verdict.LEGIT, None))

"""What the decision rules say. Three or four red flags: common practice, no source."""

from dataclasses import replace
from unittest import mock

from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.judge import rules
from assay.judge.grade import Grade
from assay.judge.rules import (
    GradedItem,
    Policy,
    Verdict,
    coverage,
    organisation_verdict,
    red_flag_tally,
    sure_sign,
    weighs_everything,
)


def sheet(**grades):
    return [GradedItem(key=name, group=name.split("_")[0], grade=grade) for name, grade in grades.items()]


TALLY = Policy(decision_rule="red_flag_tally")
FLAG, FINE, OPEN = Grade.DEPARTS, Grade.AGREES, Grade.NOT_COMPARED


class Schools(SimpleTestCase):
    def test_three_independent_flags_make_a_fake_for_the_usual_shop_not_for_the_strict_one(self):
        findings = sheet(bar=FLAG, vents=FLAG, row=FLAG, code=FINE)
        self.assertEqual(red_flag_tally(findings, Policy(red_flags=3)).verdict, Verdict.FAKE)
        self.assertEqual(red_flag_tally(findings, Policy(red_flags=4)).verdict, Verdict.UNDECIDED)

    def test_three_signs_of_one_cause_are_one_flag(self):
        findings = sheet(shade_toe=FLAG, shade_heel=FLAG, shade_tongue=FLAG, code=FINE)
        self.assertEqual(red_flag_tally(findings, Policy()).flags, ("shade",))

    def test_only_a_confirmed_sure_sign_is_enough_alone(self):
        self.assertEqual(sure_sign(sheet(code=Grade.RULES_OUT), Policy()).verdict, Verdict.FAKE)
        self.assertEqual(sure_sign(sheet(code=FLAG), Policy()).verdict, Verdict.UNDECIDED)
        self.assertEqual(organisation_verdict(sheet(code=Grade.RULES_OUT, bar=FINE), Policy()).verdict, Verdict.FAKE)

    def test_a_clean_sheet_needs_coverage_and_its_musts(self):
        findings = sheet(a=FINE, b=FINE, c=OPEN, d=OPEN)
        paper = [GradedItem(key, key, OPEN, of_shoe=False) for key in ("label", "packing")]
        self.assertEqual(organisation_verdict([*findings[:3], *paper], TALLY).reason, "coverage_short")
        self.assertEqual(organisation_verdict(findings, replace(TALLY, coverage=0.5)).verdict, Verdict.LEGIT)
        must = [*findings, GradedItem("m", "m", OPEN, mandatory=True)]
        self.assertEqual(organisation_verdict(must, replace(TALLY, coverage=0)).missing, ("m",))

    def test_a_clean_sheet_against_two_verified_pairs_makes_no_pair_legit(self):
        """A rendered copy with ten faults raised no flag against two pairs, and two rules passed it."""
        for policy in (TALLY, replace(TALLY, decision_rule="sure_sign"), Policy()):
            for pairs, verdict in ((1, Verdict.UNDECIDED), (2, Verdict.UNDECIDED), (3, Verdict.LEGIT)):
                clean = [GradedItem(str(n), str(n), FINE, weight=9.0, pairs=pairs) for n in range(4)]
                self.assertEqual(
                    organisation_verdict([*clean, GradedItem("code", "code", FINE)], policy).verdict, verdict
                )

    def test_box_label_and_packing_alone_make_no_pair_legit(self):
        papers = [GradedItem(key, key, FINE, of_shoe=False) for key in ("box", "label", "packing", "codes")]
        answer = organisation_verdict([*papers, GradedItem("bar", "bar", OPEN)], TALLY)
        self.assertEqual((answer.verdict, answer.reason), (Verdict.UNDECIDED, "shoe_not_examined"))
        self.assertGreater(answer.coverage, 0.6)

    def test_one_flag_bars_legit_and_drifting_does_not(self):
        self.assertEqual(organisation_verdict(sheet(a=FLAG, b=FINE), TALLY).verdict, Verdict.UNDECIDED)
        self.assertEqual(organisation_verdict(sheet(a=Grade.DRIFTS, b=FINE), TALLY).verdict, Verdict.LEGIT)

    def test_a_school_shown_beside_the_others_does_not_change_the_shop_s_verdict(self):
        def strict(items, policy):
            return replace(sure_sign(items, policy), rule="strict", verdict=Verdict.FAKE)

        findings = sheet(a=FINE, b=FINE)
        with mock.patch.object(rules, "DECISION_RULES", (strict, *rules.DECISION_RULES)):
            self.assertEqual(organisation_verdict(findings, TALLY).verdict, Verdict.LEGIT)

    def test_what_does_not_apply_counts_neither_way(self):
        findings = [GradedItem("a", "a", FINE), GradedItem("smell", "smell", OPEN, mandatory=True, applies=False)]
        self.assertEqual(coverage(findings), 1)
        self.assertEqual(organisation_verdict(findings, TALLY).verdict, Verdict.LEGIT)
        self.assertEqual(coverage([]), 0)

    def test_weighing_needs_twenty_to_one_for_legit_and_a_hundred_to_one_for_fake(self):
        """Odds in decibans: +13 is 20 to 1, -20 is 1 to 100."""
        covered = [GradedItem(str(n), str(n), Grade.AGREES, weight=5.0) for n in range(3)]
        self.assertEqual(weighs_everything(covered, Policy()).verdict, Verdict.LEGIT)
        self.assertEqual(weighs_everything(covered[:2], Policy()).verdict, Verdict.UNDECIDED)
        against = [replace(one, weight=-6.0, grade=FLAG) for one in covered]
        self.assertEqual(weighs_everything(against, Policy()).verdict, Verdict.UNDECIDED)
        self.assertEqual(
            weighs_everything([*against, replace(against[0], weight=-2.0)], Policy()).verdict, Verdict.FAKE
        )

    def test_weight_does_not_outvote_a_sure_sign_flags_or_what_was_not_looked_at(self):
        heavy = [GradedItem(str(n), str(n), Grade.AGREES, weight=30.0) for n in range(4)]
        flags = [GradedItem(f"f{n}", f"f{n}", Grade.DEPARTS, weight=-1.0) for n in range(3)]
        unseen = [GradedItem(f"u{n}", f"u{n}", Grade.NOT_COMPARED) for n in range(6)]
        sure = GradedItem("s", "s", Grade.RULES_OUT, weight=-1.0)
        for more, verdict, reason in (
            ([sure], Verdict.FAKE, "ruled_out"),
            (flags, Verdict.UNDECIDED, "flags_bar_legit"),
            (unseen, Verdict.UNDECIDED, "shoe_not_examined"),
        ):
            answer = weighs_everything([*heavy, *more], Policy())
            self.assertEqual((answer.verdict, answer.reason), (verdict, reason))

    def test_a_confirmed_sure_sign_decides_in_every_shop_and_thresholds_may_not_cross(self):
        findings = [GradedItem("s", "s", Grade.RULES_OUT), GradedItem("h", "h", FINE, weight=90.0)]
        for rule in rules.RULES:
            self.assertEqual(organisation_verdict(findings, Policy(decision_rule=rule)).reason, "ruled_out")
        for wrong in ({"legit_from": -20.0}, {"fake_from": float("nan")}, {"decision_rule": "coin"}):
            with self.assertRaises(CannotJudge):
                Policy(**wrong).checked()

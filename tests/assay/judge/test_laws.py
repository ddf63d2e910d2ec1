"""Laws of judging that hold whatever the numbers are: tried on drawn checks of every kind. No outside values."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.judge.common_causes import scale_errors
from assay.judge.copy_model import learned
from assay.judge.evidence import EvidenceItem, SharedScale, can_be_weighed
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior, judge
from assay.judge.rules import DECISION_RULES, GradedItem, Policy, Verdict, weighs_everything
from assay.judge.weigh import weigh

WIDE = {"cap_for": 60.0, "cap_against": 60.0}
COUNT = EvidenceItem(key="n", group="n", kind=Kind.COUNT, value=7, retail=[7, 7, 7], prior=Prior(2, off_by_one=0.004))


def drawn(rng: np.random.Generator, kind: Kind, **more) -> EvidenceItem:
    """A check of a kind with one to five retail pairs, none of them odd."""
    pairs = int(rng.integers(1, 6))
    if kind is Kind.COUNT:
        usual = int(rng.integers(0, 40))
        retail: list = [usual + int(rng.random() < 0.2) for _ in range(pairs)]
        belief = Prior(float(rng.choice([1, 2, 4])), off_by_one=float(rng.choice([0.0008, 0.004, 0.05])))
        given = {"key": "n", "group": "n", "kind": kind, "value": usual, "retail": retail, "prior": belief}
        return EvidenceItem(**given | WIDE | more)
    scatter = float(10 ** rng.uniform(-3, 1))
    retail = list(rng.normal(5, scatter, pairs))
    belief = Prior(float(rng.choice([2, 4, 8])), scatter=scatter)
    unsure = float(rng.choice([0.0, 0.3, 2.0])) * scatter
    kept = {"uncertainty": unsure, "right": float(rng.uniform(0.1, 0.95)), "wider": float(rng.uniform(1.5, 8))}
    given = {"key": "x", "group": "x", "kind": kind, "value": 5.0, "retail": retail, "prior": belief}
    return EvidenceItem(**given | WIDE | kept | more)


def alone(sign: EvidenceItem) -> float:
    return weigh([sign]).total


def grade_of(sign: EvidenceItem) -> Grade:
    given = {"uncertainty": sign.uncertainty, "retail_uncertainty": sign.retail_uncertainty}
    return judge(sign.kind, sign.retail, sign.value, sign.prior, **given).grade


class OneReading(SimpleTestCase):
    def test_the_further_outside_retail_the_less_it_speaks_for_retail(self):
        rng = np.random.default_rng(1)
        for n in range(300):
            sign = drawn(rng, (Kind.COUNT, Kind.CONTINUOUS)[n % 2])
            if sign.kind is Kind.COUNT:
                steps = range(max(sign.retail), max(sign.retail) + 40)
                below = range(min(sign.retail), -1, -1)
            else:
                middle, scale = float(np.mean(sign.retail)), sign.prior.scatter
                steps = [middle + scale * one for one in np.r_[0, np.geomspace(0.01, 1e4, 60)]]
                below = [2 * middle - step for step in steps]
            for way in (steps, below):
                weights = np.array([alone(replace(sign, value=value)) for value in way])
                self.assertLessEqual(float(np.diff(weights).max(initial=0.0)), 1e-9, sign)

    def test_print_that_retail_shows_more_seldom_speaks_less_for_it(self):
        rates = [1.0, 0.2, 0.05, 0.01, 0.002, 1e-4, 1e-9]
        weights = [
            round(alone(EvidenceItem(key="p", group="p", kind=Kind.PAPER, value=rate, **WIDE)), 9) for rate in rates
        ]
        self.assertEqual(weights, sorted(weights, reverse=True))

    def test_what_departs_never_speaks_for_retail_and_what_agrees_never_against_it(self):
        rng = np.random.default_rng(2)
        seen = set()
        for n in range(1500):
            sign = drawn(rng, (Kind.COUNT, Kind.CONTINUOUS)[n % 2])
            if n % 3 == 0:
                sign = replace(sign, batches={"a": [one + rng.integers(-2, 3) for one in sign.retail]})
            off = int(rng.integers(-9, 10)) if sign.kind is Kind.COUNT else float(rng.normal(0, 6) * sign.prior.scatter)
            sign = replace(sign, value=max(0, sign.value + off) if sign.kind is Kind.COUNT else sign.value + off)
            try:
                grade, weight = grade_of(sign), alone(sign)
            except CannotJudge:
                continue
            seen.add(grade)
            self.assertFalse(grade is Grade.DEPARTS and weight > 1e-9, sign)
            self.assertFalse(grade is Grade.AGREES and weight < -1e-9, sign)
        self.assertEqual(seen, {Grade.AGREES, Grade.DRIFTS, Grade.DEPARTS})

    def test_a_count_twice_as_high_as_retail_s_speaks_against_it(self):
        """Retail 7, read 14, weighed for retail once; and so did five rows that lack eight stitches."""
        self.assertLess(alone(replace(COUNT, value=14)), -10)
        rows = [replace(COUNT, key=str(n), group=str(n), retail=[40] * 3, value=32) for n in range(5)]
        self.assertLess(weigh(rows).total, -40)

    def test_a_larger_uncertainty_moves_a_weight_towards_nothing(self):
        rng = np.random.default_rng(3)
        for _ in range(60):
            sign = drawn(rng, Kind.CONTINUOUS)
            far = replace(sign, value=sign.value + 12 * sign.prior.scatter)
            for one in (sign, far):
                steps = [one.prior.scatter * u for u in (0, 0.5, 1, 2, 4, 8, 1e4)]
                weights = [abs(alone(replace(one, uncertainty=u))) for u in steps]
                self.assertLess(weights[-1], 0.01)
                if one is far:
                    self.assertLess(weights[3], weights[0] + 1e-9)
        counts = [abs(alone(replace(COUNT, value=9, uncertainty=u, **WIDE))) for u in (0, 0.3, 0.5, 0.7)]
        self.assertEqual(counts, sorted(counts, reverse=True))

    def test_a_reading_whose_uncertainty_hides_every_fault_is_not_compared(self):
        """Forty readings fifty scatters off with an uncertainty of a hundred were once legit, clean and covered."""
        with self.assertRaises(CannotJudge) as caught:
            judge(Kind.CONTINUOUS, [2.0, 2.0, 2.0], 7.0, Prior(4, 0.1), uncertainty=10.0)
        self.assertEqual(caught.exception.reason, "too_unsure")
        with self.assertRaises(CannotJudge):
            judge(Kind.COUNT, [7, 7], 9, Prior(2, off_by_one=0.004), uncertainty=1.5)
        sure = judge(Kind.COUNT, [7, 7], 9, Prior(2, off_by_one=0.004), uncertainty=1.5, confirmed=True)
        self.assertIs(sure.grade, Grade.DEPARTS)

    def test_what_no_reading_can_be_is_refused_with_a_reason(self):
        for change, reason in (
            ({"value": math.nan}, "not_finite"), ({"value": math.inf}, "not_finite"),
            ({"retail": [7, math.nan]}, "not_finite"), ({"uncertainty": -0.1}, "negative_uncertainty"),
            ({"retail_uncertainty": [0, 0, -1]}, "negative_uncertainty"), ({"minutes": 0.0}, "no_minutes"),
            ({"wider": 0.2}, "bad_kappa"), ({"right": 1.2}, "bad_share"),
            ({"copies": {"a": 0.9, "b": 0.4}}, "bad_share"), ({"cap_for": -1.0}, "bad_caps"),
        ):  # fmt: skip
            with self.subTest(change), self.assertRaises(CannotJudge) as caught:
                weigh([replace(COUNT, **change)])
            self.assertEqual(caught.exception.reason, reason)
        for given, reason in (([COUNT, COUNT], "check_twice"),):
            with self.assertRaises(CannotJudge) as caught:
                weigh(given)
            self.assertEqual(caught.exception.reason, reason)
        with self.assertRaises(CannotJudge):
            weigh([COUNT], {"unknown": 0.4})


class SmallReferences(SimpleTestCase):
    def test_two_pairs_compared_with_each_other_are_one_distance(self):
        """Texture .550 and .550 once gave a scatter of .002: the genuine pair stood 320 scales off."""
        belief = Prior(4, 0.002, compares=True, magnitude=True, floor=0.35, typical=0.8)
        self.assertIs(judge(Kind.CONTINUOUS, [0.55, 0.55], 1.19, belief).grade, Grade.AGREES)
        self.assertIs(judge(Kind.CONTINUOUS, [0.55, 0.55], 6.0, belief).grade, Grade.DEPARTS)
        with self.assertRaises(CannotJudge) as caught:
            judge(Kind.CONTINUOUS, [0.55, 0.55], 1.19, replace(belief, floor=0.0))
        self.assertEqual(caught.exception.reason, "needs_third_pair")

    def test_nearer_to_retail_than_retail_pairs_are_to_each_other_is_no_fault(self):
        belief = Prior(4, 0.1, compares=True, magnitude=True, floor=0.1)
        near = judge(Kind.CONTINUOUS, [2.0, 2.1, 2.2], 0.1, belief)
        self.assertEqual((near.grade, near.tail_probability), (Grade.AGREES, 1.0))
        sign = EvidenceItem(key="d", group="d", kind=Kind.CONTINUOUS, value=0.1, retail=[2.0, 2.1, 2.2], prior=belief)
        self.assertGreaterEqual(alone(sign), 0)

    def test_unsure_retail_counts_teach_unsurely_and_alone_support_no_flag(self):
        """5 ± .3 and 4 ± .5 once counted as certain, and a right 7 cost 7.5 decibans."""
        belief = Prior(2, off_by_one=0.004)
        with self.assertRaises(CannotJudge) as caught:
            judge(Kind.COUNT, [5, 4], 7, belief, retail_uncertainty=[0.3, 0.5], confirmed=True, decisive=True)
        self.assertEqual(caught.exception.reason, "retail_unsure")
        sure, unsure = (
            judge(Kind.COUNT, [7, 6], 5, belief, retail_uncertainty=[0.0, u]).tail_probability for u in (0.0, 0.6)
        )
        self.assertGreater(unsure, sure)

    def test_what_measuring_scatters_is_not_retail_s_scatter(self):
        """Six pairs that are all alike, each read with an uncertainty of 3: their scatter is what measuring makes."""
        rng = np.random.default_rng(4)
        values = list(rng.normal(10, 3, 6))
        unsure = {"retail_uncertainty": [3.0] * 6}
        blind = judge(Kind.CONTINUOUS, values, 16.0, Prior(4, 0.5), uncertainty=0.5)
        told = judge(Kind.CONTINUOUS, values, 16.0, Prior(4, 0.5), uncertainty=0.5, **unsure)
        self.assertLess(told.tail_probability, blind.tail_probability)
        self.assertLess(told.spread.scale, 2.0)


class ManyReadings(SimpleTestCase):
    def guide(self, rng: np.random.Generator, many: int = 24) -> list[EvidenceItem]:
        """Retail's own values read on a suspect, in groups, with two batches that err in their ways."""
        signs = []
        for n in range(many):
            sign = drawn(rng, (Kind.COUNT, Kind.CONTINUOUS)[n % 2], key=f"k{n}", group=f"g{n % 9}")
            step = 3 if sign.kind is Kind.COUNT else 9 * sign.prior.scatter
            habits = {"a": [one + step * (n % 3 == 0) for one in sign.retail], "b": [one + step for one in sign.retail]}
            signs.append(replace(sign, value=sign.retail[0], uncertainty=0.0, batches=habits if n % 4 else {}))
        return signs

    def assert_same(self, signs: list[EvidenceItem], other: list[EvidenceItem]) -> None:
        self.assertAlmostEqual(weigh(signs).total, weigh(other).total, places=9)

    def test_what_is_beside_the_point_changes_nothing(self):
        rng = np.random.default_rng(5)
        for _ in range(20):
            signs = self.guide(rng)
            self.assert_same(signs, signs[::-1])
            twin = [replace(sign, source=sign.key) for sign in signs]
            again = [replace(one, key=f"{one.key}-again") for one in twin]
            self.assert_same(twin, [*twin, *again])
            copied = [
                replace(sign, batches=sign.batches | {"c": sign.batches["a"]} if sign.batches else {}) for sign in signs
            ]
            self.assert_same(signs, copied)
            retail = [replace(sign, batches=sign.batches | {"r": list(sign.retail)}) for sign in signs]
            self.assert_same(signs, retail)
            far = [
                replace(sign, batches=sign.batches | {"far": [1000 + n for n in range(3)]}) if sign.batches else sign
                for sign in signs
            ]
            self.assert_same(signs, far)
            feet = (
                [replace(sign, key=f"{sign.key}-left") for sign in signs[:4]],
                [replace(sign, key=f"{sign.key}-right", value=sign.retail[-1]) for sign in signs[:4]],
            )
            swapped = [
                replace(one, value=other.value) for pair in (feet, feet[::-1]) for one, other in zip(*pair, strict=True)
            ]
            self.assert_same([*feet[0], *feet[1]], swapped)

    def test_what_a_check_brings_hangs_on_no_order_and_never_lies_on_the_side_its_grade_rules_out(self):
        rng = np.random.default_rng(6)
        for _ in range(10):
            signs = self.guide(rng)
            signs[3] = replace(signs[3], value=signs[3].retail[0] + 12 * signs[3].prior.scatter)
            forward, back = ({piece.key: piece for piece in weigh(some).pieces} for some in (signs, signs[::-1]))
            for key, one in forward.items():
                self.assertAlmostEqual(one.effect, back[key].effect, places=9)
                self.assertGreaterEqual(one.effect * one.alone, 0.0)
            self.assertLess(forward["k3"].effect, 0.0)

    def test_a_pair_that_is_loose_throughout_is_not_a_copy_by_that(self):
        """Twelve lengths, each two and a half of retail's scatters off: one loose day, or twelve faults? They came to
        -33 decibans as twelve. One length six off among eleven at their middle stays a fault."""
        rng = np.random.default_rng(7)
        retail = [rng.normal(0, 1, 5).tolist() for _ in range(12)]
        lengths = [
            EvidenceItem(key=f"k{n}", group=f"g{n}", kind=Kind.CONTINUOUS, value=0.0, retail=own, prior=Prior(4, 1.0))
            for n, own in enumerate(retail)
        ]
        loose = [replace(length, value=float(rng.choice([-2.5, 2.5]))) for length in lengths]
        alone = sum(weigh([one]).total for one in loose)
        self.assertGreater(weigh(loose).total, alone + 6)
        faulty = [replace(one, value=float(np.mean(one.retail)) + 6.0 * (n == 3)) for n, one in enumerate(lengths)]
        self.assertLess({piece.key: piece for piece in weigh(faulty).pieces}["k3"].effect, -3)

    def test_a_scale_that_is_off_accuses_no_pair_and_hides_no_fault(self):
        """Twelve lengths of one photograph, all read 2 % long where the scale claims .3 %: each by itself they came to
        -58 decibans. Read on a photograph each, they are faults; and so is one part that is off by itself."""
        rng = np.random.default_rng(4)
        sizes = rng.uniform(20, 300, 12)
        lengths = [
            EvidenceItem(
                key=f"k{n}", group=f"g{n}", kind=Kind.CONTINUOUS, value=float(size * 1.02), prior=Prior(4, 0.5),
                uncertainty=math.hypot(0.1, 0.003 * size), retail=rng.normal(size, 0.5, 3).tolist(),
                scale=SharedScale("left side", 0.003, moves=float(size)),
            )
            for n, size in enumerate(sizes)
        ]  # fmt: skip
        total = weigh(lengths).total
        apart = [replace(one, scale=replace(one.scale, photo=one.key)) for one in lengths]
        self.assertGreater(total, -5)
        self.assertLess(weigh([replace(one, scale=None) for one in lengths]).total, -30)
        self.assertLess(weigh(apart).total, total - 10)
        faulty = [replace(one, value=one.value + 6.0 * (n == 3)) for n, one in enumerate(lengths)]
        self.assertLess({piece.key: piece for piece in weigh(faulty).pieces}["k3"].effect, -3)
        mean, unsure = scale_errors(lengths)["left side"]
        self.assertLess(abs(mean - 0.02), 3 * unsure)

    def test_a_scale_that_is_off_never_makes_a_pair_more_retail(self):
        """Agreeing readings that a copy explains a little better were all moved to nothing alike: that spoke for retail
        against the best copies, by 5 decibans at 5 % of scale."""
        rng, size = np.random.default_rng(8), 80.0
        lengths = [
            EvidenceItem(
                key=f"k{n}", group=f"g{n}", kind=Kind.CONTINUOUS, value=size, retail=rng.normal(size, 0.5, 3).tolist(),
                prior=Prior(4, 0.5), uncertainty=0.8, scale=SharedScale(f"photo {n % 6}", 0.0095, moves=size),
            )
            for n in range(60)
        ]  # fmt: skip
        exact = weigh(lengths).total
        for off in (0.01, 0.02, 0.03, 0.05):
            self.assertLess(weigh([replace(one, value=size * (1 + off)) for one in lengths]).total, exact + 0.5)

    def test_two_numbers_and_their_difference_are_two_signs_not_three(self):
        length = EvidenceItem(
            key="left", group="left", kind=Kind.CONTINUOUS, value=3.0, retail=[0.0, 0.2, -0.2], prior=Prior(4, 0.5)
        )
        right = replace(length, key="right", group="right", value=0.1)
        apart = replace(length, key="apart", group="apart", value=2.9, made_of=("left", "right"))
        three = weigh([length, right, apart])
        self.assertEqual([piece.factor for piece in three.pieces], [1, 0, 1], "the one that agrees follows")
        self.assertAlmostEqual(three.total, weigh([length, apart]).total)
        self.assertEqual([piece.factor for piece in weigh([length, apart]).pieces], [1, 1])

    def test_counts_that_agree_with_a_retail_that_varies_do_not_speak_against_it(self):
        """Twenty such counts once weighed -21.8 decibans."""
        signs = [replace(COUNT, key=str(n), group=str(n), retail=[24, 25, 25, 24], value=24 + n % 2) for n in range(20)]
        self.assertGreaterEqual(weigh(signs).total, 0)

    def test_a_batch_known_better_than_retail_makes_no_genuine_pair_fake(self):
        """One retail pair and five copies that read alike: 83 % of genuine pairs once weighed -20 or less."""
        rng = np.random.default_rng(6)
        totals = []
        for _ in range(200):
            signs = []
            for n in range(30):
                retail, copies, value = rng.normal(0, 1, 1), rng.normal(0, 1, 5), rng.normal()
                signs.append(
                    EvidenceItem(
                        key=str(n), group=str(n), kind=Kind.CONTINUOUS, value=float(value), retail=list(retail),
                        prior=Prior(4, 1.0), batches={"x": list(copies)},
                    )
                )  # fmt: skip
            totals.append(weigh(learned(signs)).total)
        self.assertLessEqual(np.mean(np.array(totals) <= -20), 0.01)


class Rules(SimpleTestCase):
    def sheet(self, flags: int, covered: int, **of_flag) -> list[GradedItem]:
        many = [GradedItem(f"f{n}", f"f{n}", Grade.DEPARTS, weight=-30.0 / flags, **of_flag) for n in range(flags)]
        rest = [GradedItem(f"c{n}", f"c{n}", Grade.AGREES) for n in range(covered)]
        return [*many, *rest, *(GradedItem(f"o{n}", f"o{n}", Grade.NOT_COMPARED) for n in range(40 - flags - covered))]

    def test_fake_by_weight_needs_coverage_and_two_signs_or_one_that_was_confirmed(self):
        for sheet, verdict, reason in (
            (self.sheet(1, 0), Verdict.UNDECIDED, "fake_needs_an_eye"),
            (self.sheet(1, 20), Verdict.UNDECIDED, "fake_needs_an_eye"),
            (self.sheet(1, 20, confirmed=True), Verdict.FAKE, "weighs_for_fake"),
            (self.sheet(2, 1), Verdict.UNDECIDED, "fake_needs_coverage"),
            (self.sheet(2, 8), Verdict.FAKE, "weighs_for_fake"),
        ):
            answer = weighs_everything(sheet, Policy())
            self.assertEqual((answer.verdict, answer.reason), (verdict, reason))

    def test_flags_that_wait_for_an_eye_accuse_nobody_by_any_rule_and_bar_legit(self):
        waiting = self.sheet(4, 30, pending=True)
        for rule in DECISION_RULES:
            self.assertEqual(rule(waiting, Policy(coverage=0.5)).verdict, Verdict.UNDECIDED)
        heavy = [GradedItem(f"h{n}", f"h{n}", Grade.AGREES, weight=9.0) for n in range(6)]
        answer = weighs_everything([*waiting, *heavy], Policy(coverage=0.1))
        self.assertEqual((answer.verdict, answer.reason), (Verdict.UNDECIDED, "flags_to_confirm"))
        self.assertEqual(len(answer.pending), 4)

    def test_one_unconfirmed_flag_alone_is_no_fake_even_where_one_is_enough(self):
        strict = Policy(red_flags=1, decision_rule="red_flag_tally")
        for confirmed, verdict in ((False, Verdict.UNDECIDED), (True, Verdict.FAKE)):
            for rule in DECISION_RULES[1:]:
                self.assertEqual(rule(self.sheet(1, 20, confirmed=confirmed), strict).verdict, verdict)

    def test_what_cannot_be_weighed_is_said(self):
        self.assertFalse(can_be_weighed(replace(COUNT, retail=[])))
        self.assertTrue(can_be_weighed(COUNT))

"""Which check to do next: information by hand, and what must hold of a plan."""

import math
from dataclasses import replace

from django.test import SimpleTestCase

from assay.judge.evidence import EvidenceItem
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior
from assay.judge.planner import plan, worth
from assay.judge.rules import GradedItem, Policy, organisation_verdict
from assay.judge.weigh import weigh

ASKED = EvidenceItem(
    key="smell", group="smell", kind=Kind.ANSWER, value=None, retail=["a"] * 18 + ["b"] * 2,
    prior=Prior(0, possible=("a", "b")), batches={"x": ["a"] * 4 + ["b"] * 16}, cap_for=99, cap_against=99,
)  # fmt: skip
COUNT = EvidenceItem(
    key="n", group="n", kind=Kind.COUNT, value=None, retail=[7, 7, 7], prior=Prior(2, off_by_one=0.002)
)
LENGTH = EvidenceItem(key="mm", group="mm", kind=Kind.CONTINUOUS, value=None, retail=[2.0, 2.02], prior=Prior(4, 0.03))


def entropy(p: float) -> float:
    return -p * math.log2(p) - (1 - p) * math.log2(1 - p)


class Planning(SimpleTestCase):
    def sheet(self, *signs, **more):
        return [GradedItem(sign.key, sign.group, Grade.NOT_COMPARED, **more) for sign in signs]

    def test_a_symmetric_channel_carries_one_bit_less_its_entropy(self):
        """Cover & Thomas, Elements of Information Theory, 2nd ed., 7.1.4: even odds through a channel that errs by .1
        on one side; by hand from p(a) = .9 and .2."""
        found = worth(ASKED, {"x": 1.0}, 0.5)
        by_hand = entropy(0.55) - (entropy(0.9) + entropy(0.2)) / 2
        self.assertAlmostEqual(found.bits, by_hand, places=6)
        self.assertAlmostEqual(found.if_retail, 9 * math.log10(0.9 / 0.2) + 1 * math.log10(0.1 / 0.8), places=6)

    def test_a_length_s_information_is_its_integral(self):
        """Against a copy ten scales off nearly one bit at even odds; against one that is retail itself none."""
        free = replace(LENGTH, cap_for=200, cap_against=200)
        apart = replace(free, batches={"x": [2.6, 2.6, 2.6]})
        self.assertAlmostEqual(worth(apart, {"x": 1.0}, 0.5).bits, 1, delta=0.01)
        same = replace(free, batches={"x": [2.0, 2.02]})
        self.assertAlmostEqual(worth(same, {"x": 1.0}, 0.5).bits, 0, places=6)

    def test_a_distance_from_retail_that_copies_miss_by_far_tells_as_much_as_a_length_that_they_miss(self):
        """Outlines were said to separate no copies: what lies nearer than retail's middle took up all the room."""
        belief = Prior(4, 0.2, compares=True, magnitude=True, floor=0.2, typical=0.3)
        outline = replace(LENGTH, retail=[0.3, 0.35, 0.4], prior=belief, batches={"far": [2.1, 2.2], "near": [0.4]})
        found = worth(outline, {"far": 0.5, "near": 0.5}, 0.5)
        self.assertGreater(found.bits, 0.2)
        self.assertLess(found.if_copy, -3)

    def test_caps_of_nothing_bring_nothing_and_a_group_that_counts_already_brings_less(self):
        copies = {"unknown, middling": 1.0}
        self.assertEqual(worth(replace(COUNT, cap_for=0.0, cap_against=0.0), copies, 0.5).bits, 0)
        self.assertLess(worth(COUNT, copies, 0.5, before=1).bits, worth(COUNT, copies, 0.5).bits)

    def test_the_check_that_a_likely_batch_gets_wrong_comes_first(self):
        habit = replace(COUNT, key="habit", group="habit", batches={"x": [6, 6, 6]})
        read = replace(COUNT, key="read", group="read", value=6, batches={"x": [6, 6, 6]}, cap_against=8.0)
        balance = weigh([read, COUNT, habit])
        made = plan([COUNT, habit], self.sheet(COUNT, habit), balance, Policy(), organisation_verdict)
        self.assertEqual(made.worths[0].key, "habit")

    def test_it_says_when_nothing_left_can_turn_the_verdict(self):
        fake = [GradedItem(f"f{n}", f"f{n}", Grade.DEPARTS, weight=-15.0) for n in range(4)]
        items = [*fake, *self.sheet(COUNT)]
        read = [replace(COUNT, key=one.key, group=one.group, value=6) for one in fake]
        made = plan([COUNT], items, weigh([*read, COUNT]), Policy(), organisation_verdict)
        self.assertTrue(made.cannot_turn)
        self.assertEqual(made.settling, ())
        sure = replace(COUNT, cap_against=30.0)
        open_still = plan([sure], self.sheet(sure), weigh([sure]), Policy(), organisation_verdict)
        self.assertFalse(open_still.cannot_turn)

    def test_an_unread_sure_sign_can_always_turn_a_legit(self):
        clean = [GradedItem(f"f{n}", f"f{n}", Grade.AGREES, weight=9.0) for n in range(4)]
        items = [*clean, *self.sheet(COUNT)]
        for decisive, settled in ((frozenset({"n"}), False), (frozenset(), True)):
            made = plan([COUNT], items, weigh([COUNT]), Policy(coverage=0.5), organisation_verdict, decisive=decisive)
            self.assertEqual(made.cannot_turn, settled)

    def test_the_settling_set_holds_the_musts_and_nothing_idle(self):
        must = replace(COUNT, key="must", group="must", minutes=3.0)
        idle = replace(LENGTH, key="idle", group="idle", cap_for=0.0, cap_against=0.0)
        clean = [GradedItem(f"f{n}", f"f{n}", Grade.AGREES, weight=9.0) for n in range(4)]
        items = [*clean, *self.sheet(must, mandatory=True), *self.sheet(idle)]
        made = plan([idle, must], items, weigh([must, idle]), Policy(coverage=0.5), organisation_verdict)
        self.assertEqual((made.settling, made.minutes), (("must",), 3.0))

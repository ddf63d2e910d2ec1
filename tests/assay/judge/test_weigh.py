"""The weighing: against printed decibans, by hand on one sign, and by what must hold whatever the numbers are."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from scipy.stats import t

from assay.judge.assumptions import (
    LOOSENESS,
    ODDS_OF_RIGHT,
    READING_ERROR,
    READING_ERROR_SEEN,
    SHARE_OF_LEVEL,
    TOLD_APART,
)
from assay.judge.copy_model import UNKNOWN, by_level, copy_density, even_shares, learned, same_habit
from assay.judge.evidence import EvidenceItem, caps, density
from assay.judge.judgement import Kind, Prior
from assay.judge.weigh import LikelihoodRatio, telling, weigh

LENGTH = EvidenceItem(
    key="pitch", group="row", kind=Kind.CONTINUOUS, value=2.2, retail=[2.19, 2.21, 2.2], prior=Prior(4, 0.03)
)
COUNT = EvidenceItem(
    key="holes", group="holes", kind=Kind.COUNT, value=7, retail=[7, 7, 7], prior=Prior(2, off_by_one=0.002)
)
WIDE = {"cap_for": 99.0, "cap_against": 99.0}


class Weighing(SimpleTestCase):
    def test_one_wild_length_accuses_no_more_than_misreadings_are_rare_until_somebody_looked(self):
        """One length far out weighed −50 decibans before its cap, though one sure length in 150 is misread."""
        wild = replace(LENGTH, value=9.0, cap_against=99.0)
        totals = [
            weigh([replace(wild, reading_error=error)]).total for error in (READING_ERROR, READING_ERROR_SEEN, 0.0)
        ]
        self.assertEqual(totals, sorted(totals, reverse=True))
        self.assertGreater(totals[0], 10 * math.log10(READING_ERROR))
        further = [weigh([replace(wild, value=2.2 + off)]).total for off in (0.05, 0.2, 1.0, 500.0)]
        self.assertEqual(further, sorted(further, reverse=True))

    def test_decibans_are_ten_times_the_logarithm(self):
        """Good 1950: odds of 1, 2, 4, 5, 10, 19, 100, 1000 in decibans."""
        for odds, decibans in ((1, 0), (2, 3.0103), (4, 6.0206), (5, 6.9897), (10, 10), (19, 12.7875), (1000, 30)):
            self.assertAlmostEqual(LikelihoodRatio(math.log10(odds)).decibans, decibans, places=4)

    def test_one_length_by_hand_is_a_ratio_of_student_densities(self):
        """Retail: t of 6 degrees about the mean, as loose as pairs are. An unknown copy, rough, middling or close:
        retail's density as often as it gets such a thing right, else a t of 3, four times as wide (densities by
        scipy)."""
        values, reading = np.array([2.19, 2.21, 2.2]), 2.31
        spread = math.sqrt((4 * 0.03**2 + ((values - values.mean()) ** 2).sum()) / 6 * (1 + 1 / 3))
        own = sum(share * t.pdf(reading, 6, 2.2, loose * spread) for loose, share in LOOSENESS.items())
        wrong = t.pdf(reading, 3, 2.2, 4 * spread)
        copy = sum(
            share * (own * odds + wrong) / (odds + 1)
            for odds, share in zip(ODDS_OF_RIGHT.values(), SHARE_OF_LEVEL.values(), strict=True)
        )
        found = weigh([replace(LENGTH, value=reading, reading_error=0.0, **WIDE)])
        self.assertAlmostEqual(found.total, 10 * math.log10(own / copy), places=9)

    def test_a_copy_seldom_looks_like_retail(self):
        """Good 1950, after Turing: if it is a copy, a likelihood ratio of k or more is found in 1/k of the cases at
        most. By integrating the copies' own density."""
        at = np.linspace(1.0, 3.4, 4001)
        prior = by_level({UNKNOWN: 1.0})
        copy = sum(share * copy_density(LENGTH, name, at) for name, share in prior.items())
        ratio = density(LENGTH, at) / copy
        for k in (1.2, 1.5, 1.8):
            self.assertLessEqual((copy * (ratio >= k)).sum() * (at[1] - at[0]), 1 / k)

    def test_what_agrees_does_not_add_up_without_end(self):
        """A nearly perfect copy gets all but everything right: three hundred checks that agree leave it in."""
        many = [replace(COUNT, key=str(n), group=str(n)) for n in range(300)]
        self.assertGreater(weigh(many[:40]).total, 6)
        more = weigh(many)
        self.assertLess(more.total, 25)
        self.assertGreater(more.copies["unknown, nearly perfect"], 0.9)

    def test_batches_teach_what_unknown_copies_get_wrong(self):
        """Beta and a mean of squares by hand: two batches, one wrong by 8 scales, one right."""
        wide = replace(LENGTH, retail=[0.0] * 3, prior=Prior(4, 1.0), value=0.0)
        scale = math.sqrt(4 / 6 * 4 / 3)
        known = replace(COUNT, batches={"b": [5, 5]})
        taught = learned([replace(wide, batches={"a": [8 * scale], "b": [0.1]}), known])[0]
        self.assertAlmostEqual(taught.right, (4 * 0.5 + 1) / 6)
        self.assertAlmostEqual(taught.wider, math.sqrt((4 * 16 + 64) / 5))

    def test_pieces_add_up_exactly_in_any_order_and_the_total_does_not_depend_on_it(self):
        rng = np.random.default_rng(5)
        signs = [
            replace(
                LENGTH,
                key=str(n),
                group=str(n % 4),
                value=float(rng.normal(2.2, 0.08)),
                batches={"a": [float(rng.normal(2.25, 0.05))], "b": [float(rng.normal(2.1, 0.05))] * (n % 3)}
                if n % 3
                else {},
            )
            for n in range(14)
        ]
        totals = []
        for order in (signs, signs[::-1]):
            found = weigh(order)
            self.assertAlmostEqual(sum(piece.piece for piece in found.pieces), found.total, places=9)
            self.assertAlmostEqual(found.pieces[-1].running, found.total, places=9)
            self.assertAlmostEqual(sum(found.batches.values()), 1, places=9)
            totals.append(found.total)
        self.assertAlmostEqual(*totals, places=9)

    def test_a_batch_is_pooled_with_retail_as_far_as_it_cannot_be_told_from_it(self):
        """Once a t test decided: a batch just inside read as retail, one just outside as its own single pair."""
        wide = replace(LENGTH, retail=[0.0, 0.4, -0.4], prior=Prior(4, 0.5), value=1.0, reading_error=0.0)
        same = [same_habit(replace(wide, batches={"a": [off] * 2}), "a") for off in (0.0, 0.6, 1.2, 2.0, 4.0)]
        self.assertEqual(same, sorted(same, reverse=True))
        self.assertGreater(same[0], 0.6)
        self.assertLess(same[-1], TOLD_APART)
        for check, right, wrong in ((wide, 0.0, 4.0), (COUNT, 7, 5)):
            more = [
                same_habit(replace(check, batches={"a": [value] * n}), "a") for value in (right, wrong) for n in (1, 3)
            ]
            self.assertLessEqual(more[0], more[1], "the more pairs read as retail does, the surer")
            self.assertGreater(more[2], more[3])
        between = replace(wide, batches={"a": [1.2, 1.2]})
        own, habit = density(wide, 1.0), density(replace(wide, retail=[1.2, 1.2]), 1.0)
        self.assertTrue(own < copy_density(between, "a", 1.0) < habit)

    def test_found_is_not_the_mirror_of_not_found(self):
        agrees, departs = (weigh([replace(COUNT, value=value)]).total for value in (7, 6))
        seen = weigh([replace(COUNT, value=6, reading_error=READING_ERROR_SEEN)]).total
        self.assertLess(0, agrees)
        self.assertLess(agrees, 3)
        self.assertLess(departs, -10)
        self.assertLess(seen, departs - 1, "once somebody looked it says more")

    def test_signs_of_one_group_fall_off_by_half_each_side_by_itself(self):
        three = [replace(COUNT, key=str(n), value=6) for n in range(3)]
        found = weigh([*three, replace(COUNT, key="right", value=7)])
        self.assertEqual([piece.factor for piece in found.pieces], [1, 0.5, 0.25, 1])

    def test_a_batch_known_to_err_so_is_told_and_weighs_more_than_an_unknown_copy(self):
        habit = {"Bowline": [6, 6], "Sheepshank": [7, 7]}
        signs = [replace(COUNT, key=str(n), group=str(n), value=6, batches=habit, **WIDE) for n in range(3)]
        found = weigh(signs)
        self.assertGreater(found.batches["Bowline"], 0.95)
        self.assertLess(found.total, weigh([replace(sign, batches={}) for sign in signs]).total)
        self.assertEqual(telling(found, "Bowline"), ["2", "1", "0"])
        # Its habits are its own: what it gets right speaks against it being this pair.
        right = weigh([replace(sign, value=7) for sign in signs])
        self.assertLess(right.batches["Bowline"], 0.05)

    def test_caps_hold_whatever_is_read_and_are_lower_for_what_is_unsure(self):
        far = replace(LENGTH, value=9.0, reading_error=0.0)
        self.assertAlmostEqual(weigh([far]).total, -caps(far)[1])
        unsure = replace(far, lessened=("unsure", "worn"))
        self.assertAlmostEqual(weigh([unsure]).total, -caps(far)[1] * 0.35)
        self.assertEqual(weigh([replace(far, cap_against=0.0)]).total, 0)

    def test_an_unsure_count_says_less(self):
        sure, unsure = (abs(weigh([replace(COUNT, value=6, uncertainty=u, **WIDE)]).total) for u in (0, 0.5))
        self.assertLess(unsure, 0.6 * sure)

    def test_nothing_known_of_batches_is_one_unknown_copy(self):
        self.assertEqual(even_shares([]), {UNKNOWN: 1.0})
        self.assertEqual(weigh([]).total, 0)

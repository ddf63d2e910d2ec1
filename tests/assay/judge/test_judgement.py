"""Trade facts as rules. Common practice, no source."""

from django.test import SimpleTestCase

from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior, judge

BAR = Prior(pairs=2, off_by_one=0.004)
DIE = Prior(pairs=2, off_by_one=0.0008)


class TradeFacts(SimpleTestCase):
    def test_bar_of_six_right_and_seven_left(self):
        """Retail has 6 on the right and 7 on the left; a copy with 6 and 6 departs on the left alone."""
        right = judge(Kind.COUNT, [6, 6, 6], 6, BAR)
        left = judge(Kind.COUNT, [7, 7, 7], 6, BAR)
        self.assertEqual((right.grade, left.grade), (Grade.AGREES, Grade.DEPARTS))

    def test_lace_panel_of_three_and_four_holes(self):
        """Retail has 3 + 4 lace holes, the copy 3 + 5: the second panel departs, and rules out once confirmed."""
        first = judge(Kind.COUNT, [3, 3], 3, DIE, decisive=True, confirmed=True)
        second = judge(Kind.COUNT, [4, 4], 5, DIE, decisive=True)
        confirmed = judge(Kind.COUNT, [4, 4], 5, DIE, decisive=True, confirmed=True)
        self.assertEqual((first.grade, second.grade, confirmed.grade), (Grade.AGREES, Grade.DEPARTS, Grade.RULES_OUT))

    def test_slits_fourteen_mm_apart(self):
        slits = Prior(pairs=4, scatter=0.3)
        self.assertEqual(judge(Kind.CONTINUOUS, [14.0], 14.3, slits).grade, Grade.AGREES)
        self.assertEqual(judge(Kind.CONTINUOUS, [14.0], 17.0, slits).grade, Grade.DEPARTS)


class Judging(SimpleTestCase):
    def test_an_unsure_count_that_nobody_looked_at_raises_no_flag(self):
        self.assertEqual(judge(Kind.COUNT, [7, 7, 7], 6, BAR, uncertainty=0.6).grade, Grade.DRIFTS)
        self.assertEqual(judge(Kind.COUNT, [7, 7, 7], 6, BAR, uncertainty=0.6, confirmed=True).grade, Grade.DEPARTS)

    def test_retail_that_varies_forgives(self):
        self.assertEqual(judge(Kind.COUNT, [24, 25, 25], 24, BAR).grade, Grade.AGREES)

    def test_print_and_packing_are_judged_by_the_rate_that_their_check_states(self):
        grades = [judge(Kind.PAPER, [], rate, Prior()).grade for rate in (1.0, 0.02, 1e-4)]
        self.assertEqual(grades, [Grade.AGREES, Grade.DRIFTS, Grade.DEPARTS])

"""Features that look ratio_matches: drawn bits, whose distances are known."""

import numpy as np
from django.test import SimpleTestCase

from assay.register.matching import agreement, found_again, prefilter_score, ratio_matches

RNG = np.random.default_rng(5)
ONE = RNG.integers(0, 256, (80, 32), dtype=np.uint8)


def spoilt(bits, flips):
    """The same descriptors, each with so many of its 256 bits turned over."""
    loose = np.unpackbits(bits, axis=1)
    for row in loose:
        row[RNG.choice(256, flips, replace=False)] ^= 1
    return np.packbits(loose, axis=1)


class Matching(SimpleTestCase):
    def test_spoilt_features_are_found_again_and_strange_ones_are_not(self):
        mixed = np.vstack([RNG.integers(0, 256, (50, 32), dtype=np.uint8), spoilt(ONE, 30)])
        rows, theirs, mutual = ratio_matches(agreement(ONE, mixed))
        self.assertEqual(rows.tolist(), list(range(80)))
        self.assertEqual(theirs.tolist(), list(range(50, 130)))
        self.assertTrue(mutual.all())
        self.assertLess(len(ratio_matches(agreement(ONE, RNG.integers(0, 256, (400, 32), dtype=np.uint8)))[0]), 4)

    def test_many_that_crowd_onto_one_have_one_fellow_among_them(self):
        crowd = spoilt(np.repeat(ONE[:1], 40, axis=0), 24)
        rows, theirs, mutual = ratio_matches(agreement(crowd, ONE))
        self.assertEqual((len(rows), set(theirs.tolist()), mutual.sum()), (40, {0}, 1))

    def test_what_is_looked_for_is_the_one_that_agrees_most_nearby(self):
        """Two of a kind stand apart; a third is too far from where it is looked for, a fourth is another thing."""
        looked_for = np.array([[10.0, 10], [50, 10], [90, 10], [130, 10]])
        places = np.array([[52.0, 12], [11, 8], [90, 30], [130, 11]])
        theirs = np.vstack([spoilt(ONE[[0, 0, 2]], 40), ONE[4:5]])
        rows, columns = found_again(agreement(ONE[[0, 0, 2, 3]], theirs), looked_for, places, 7.5)
        self.assertEqual((rows.tolist(), columns.tolist()), ([0, 1], [1, 0]))

    def test_the_picture_that_has_more_in_common_promises_more_and_empty_ones_nothing(self):
        none = ONE[:0]
        half = np.vstack([spoilt(ONE[:40], 30), RNG.integers(0, 256, (40, 32), dtype=np.uint8)])
        whole, part, strange, empty = prefilter_score(
            [spoilt(ONE, 30), half, RNG.integers(0, 256, (80, 32), np.uint8), none], ONE
        )
        self.assertGreater(whole, part)
        self.assertGreater(part, strange)
        self.assertEqual((empty, prefilter_score([ONE], none), prefilter_score([], ONE)), (0, [0], []))
        self.assertEqual([len(part) for part in ratio_matches(agreement(none, ONE))], [0, 0, 0])

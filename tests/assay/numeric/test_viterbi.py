"""The best way through a field of scores, against every way there is."""

from itertools import pairwise, product
from unittest import TestCase

import numpy as np

from assay.numeric.viterbi import best_path


class Ways(TestCase):
    def test_no_way_through_is_worth_more_than_the_one_found(self):
        """Every way of a small field is tried; rows go by threes, an odd and an even number of them."""
        rng, stiff = np.random.default_rng(2), 0.2
        for count in (4, 5):
            scores = np.repeat(rng.random((count, 4)), 3, axis=0)
            moves = [way for way in product(range(4), repeat=count) if max(abs(b - a) for a, b in pairwise(way)) <= 2]
            best = max(self._worth(scores[::3], np.array(way), stiff) for way in moves)
            found = best_path(scores, stiff, closed=False)[1::3].round().astype(int)
            self.assertAlmostEqual(self._worth(scores[::3], found, stiff), best)

    def test_a_closed_way_ends_where_it_began(self):
        scores = np.zeros((90, 9))
        scores[np.arange(90), np.round(4 + 3 * np.sin(np.arange(90) / 90 * 2 * np.pi)).astype(int)] = 1
        found = best_path(scores, 0.1, closed=True)
        self.assertLess(abs(found[0] - found[-1]), 1.5)
        self.assertGreater(scores[np.arange(90), found.round().astype(int)].mean(), 0.8)

    def _worth(self, scores, way, stiff):
        return scores[np.arange(len(way)), way].sum() - stiff * np.abs(np.diff(way)).sum()

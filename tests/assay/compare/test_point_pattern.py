"""Patterns of holes beside each other, laid on roughly by the marks round them."""

import numpy as np
from django.test import SimpleTestCase

from assay.compare.point_pattern import compare, mirrored
from assay.contracts import Descriptor
from assay.errors import CannotAlign, CannotJudge
from tests.support.pictures import vents

ROUND = np.array([[-8, -8], [48, -8], [48, 28], [-8, 28]], float)


def kept(points, turn=0.0, shift=(0.0, 0.0), marks=ROUND):
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    return Descriptor(
        "point_pattern", points @ spin.T + shift, marks @ spin.T + shift, "mm", values=np.ones((len(points), 1))
    )


class Patterns(SimpleTestCase):
    def test_wherever_and_however_it_lies_in_the_other_picture_the_missing_hole_is_ringed_where_it_should_be(self):
        theirs, lost = kept(vents()), 6
        for turn, shift in ((0.0, (0, 0)), (2.5, (300, -40)), (-1.0, (-90, 12))):
            ours = kept(np.delete(vents(), lost, axis=0), turn, shift)
            found = compare(theirs, ours)
            self.assertEqual((found.parts["missing"], found.parts["extra"]), (1, 0))
            np.testing.assert_allclose(found.overlay[0].points[0], kept(vents(), turn, shift).points[lost], atol=0.01)

    def test_the_other_foot_s_pattern_is_compared_as_a_mirror_shows_it(self):
        found = compare(mirrored(kept(vents())), kept(vents() * [-1, 1], marks=ROUND * [-1, 1]))
        self.assertEqual((found.parts["missing"], found.parts["extra"]), (0, 0))

    def test_marks_that_do_not_correspond_and_patterns_of_another_kind_are_refused(self):
        with self.assertRaises(CannotJudge):
            compare(kept(vents()), kept(vents(), marks=ROUND[:3]))
        with self.assertRaises(CannotAlign):
            compare(kept(vents()), kept(vents() + 500))

"""Cut edges beside each other: by colour and order, and only in true light."""

from dataclasses import replace

from django.test import SimpleTestCase

from assay.compare.layers import compare
from assay.contracts import Light
from assay.errors import CannotJudge
from tests.support.pictures import LEATHER, LINING, edge, read_layers


class Layers(SimpleTestCase):
    def kept(self, image, light=Light.CARD):
        return replace(read_layers(image).descriptor, light=light)

    def test_a_layer_that_a_copy_leaves_out_is_named(self):
        retail, copy = self.kept(edge()), self.kept(edge((8.5, 6.0), (LEATHER, LINING)))
        found = compare(retail, copy).parts
        self.assertEqual((found["missing"], found["extra"], found["missing_1"]), (1, 0, 2))
        found = compare(copy, retail).parts
        self.assertEqual((found["missing"], found["extra"], found["extra_1"]), (0, 1, 2))
        self.assertLess(found["apart_dE00"], 1)

    def test_colours_of_which_one_is_not_true_are_not_compared(self):
        for lights in ((Light.CARD, Light.NONE), (Light.NONE, Light.CARD)):
            with self.assertRaises(CannotJudge) as caught:
                compare(*(self.kept(edge(), light) for light in lights))
            self.assertEqual(caught.exception.reason, "no_true_colour")

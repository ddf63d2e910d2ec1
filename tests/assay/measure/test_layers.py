"""Layers of a cut edge on drawn bands of known widths and colours."""

import numpy as np
from django.test import SimpleTestCase

from assay.errors import CannotMeasure
from tests.support.pictures import WIDTHS, edge, read_layers


class Layers(SimpleTestCase):
    def test_bands_are_counted_and_their_widths_found_to_a_third_of_a_pixel(self):
        found = read_layers(edge())
        self.assertEqual(found.value, 3)
        for number, width in enumerate(WIDTHS, start=1):
            self.assertAlmostEqual(found.parts[f"layer_{number}_mm"], width / 10, delta=0.035)
        self.assertAlmostEqual(found.parts["total_mm"], sum(WIDTHS) / 10, delta=0.03)

    def test_where_nothing_changes_no_layers_are_made_up(self):
        plain = np.random.default_rng(4).normal(128, 4, (90, 160, 3)).astype(np.uint8)
        for image in (plain, edge((), ())):
            with self.assertRaises(CannotMeasure) as caught:
                read_layers(image)
            self.assertEqual(caught.exception.reason, "no_layers_found")

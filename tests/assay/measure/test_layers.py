"""Layers of a cut edge on drawn bands of known widths and colours."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure.layers import measure

FINE = 8
GROUND, LEATHER, FOAM, LINING, INSIDE = (150, 150, 152), (236, 232, 222), (222, 196, 110), (70, 92, 120), (28, 27, 26)
WIDTHS = (8.5, 14.25, 6.0)


def edge(widths=WIDTHS, colours=(LEATHER, FOAM, LINING), start=40.3, noise=3.0):
    """Bands beside each other at fractions of a pixel, blurred by 1 px, with noise; 0.1 mm a pixel."""
    borders = np.concatenate([[start], start + np.cumsum(widths)])
    row = np.zeros((1, 160 * FINE, 3))
    x = (np.arange(160 * FINE) + 0.5) / FINE - 0.5
    for low, high, colour in zip([-1, *borders], [*borders, 999], (GROUND, *colours, INSIDE), strict=True):
        row[0, (x >= low) & (x < high)] = colour
    image = cv2.resize(np.repeat(row, 90 * FINE, axis=0), (160, 90), interpolation=cv2.INTER_AREA)
    image = cv2.GaussianBlur(image, (0, 0), 1.0) + np.random.default_rng(2).normal(0, noise, image.shape)
    return np.clip(np.round(image), 0, 255).astype(np.uint8)


def read(image, ends=((22, 45), (118, 45)), mm_per_px=0.1):
    return measure(Picture(image, mm_per_px), Marks(MarkKind.PATH, ends))


class Layers(SimpleTestCase):
    def test_bands_are_counted_and_their_widths_found_to_a_third_of_a_pixel(self):
        found = read(edge())
        self.assertEqual(found.value, 3)
        for number, width in enumerate(WIDTHS, start=1):
            self.assertAlmostEqual(found.parts[f"layer_{number}_mm"], width / 10, delta=0.035)
        self.assertAlmostEqual(found.parts["total_mm"], sum(WIDTHS) / 10, delta=0.03)

    def test_where_nothing_changes_no_layers_are_made_up(self):
        plain = np.random.default_rng(4).normal(128, 4, (90, 160, 3)).astype(np.uint8)
        for image in (plain, edge((), ())):
            with self.assertRaises(CannotMeasure) as caught:
                read(image)
            self.assertEqual(caught.exception.reason, "no_layers_found")

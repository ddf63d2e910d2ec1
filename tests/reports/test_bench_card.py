"""The bench card that is printed is the one that is found."""

import re
from unittest import TestCase

import cv2
import numpy as np

from assay.imaging import card
from assay.imaging.pyramid import pyramid_of
from reports.bench_card import as_pdf, as_svg, blocks


class BenchCard(TestCase):
    def test_what_is_drawn_is_found_again_at_its_size(self):
        scale = 6
        sheet = np.full((round(card.HEIGHT_MM * scale), round(card.WIDTH_MM * scale), 3), 255, np.uint8)
        for block in blocks():
            low = (round(block.x * scale), round(block.y * scale))
            high = (round((block.x + block.width) * scale) - 1, round((block.y + block.height) * scale) - 1)
            cv2.rectangle(sheet, low, high, block.colour, -1)
        table = cv2.copyMakeBorder(sheet, 120, 120, 120, 120, cv2.BORDER_CONSTANT, value=(90, 90, 90))
        found = card.find_card(pyramid_of(table))
        corners = np.array([[120, 120], [120 + sheet.shape[1], 120], *found.corners_px[2:]])
        np.testing.assert_allclose(found.corners_px[:2], corners[:2], atol=1.0)
        self.assertAlmostEqual(found.plane.mm_per_px((600, 500)), 1 / scale, delta=0.001 / scale)

    def test_the_check_bar_is_100_mm_in_both_formats(self):
        bar = max((b for b in blocks() if b.height < 1), key=lambda b: b.width)
        self.assertEqual(bar.width, 100.0)
        self.assertIn('width="210.0mm" height="148.0mm"', as_svg())
        self.assertTrue(re.search(r'width="100.000" height="0.800"', as_svg()))
        self.assertTrue(as_pdf().startswith(b"%PDF-"))

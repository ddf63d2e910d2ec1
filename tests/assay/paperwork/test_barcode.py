"""Codes drawn by zxing-cpp and found again in a picture (round trips; reader and writer are one library's)."""

import numpy as np
import zxingcpp
from django.test import SimpleTestCase

from assay.imaging.pyramid import pyramid_of
from assay.paperwork import barcode
from tests.support.pictures import barcode_picture

CODES = {
    "EAN13": ("6291041500213", "06291041500213"),
    "UPCA": ("036000291452", "00036000291452"),
    "EAN8": ("95012346", "00000095012346"),
    "QRCode": ("pair 12", ""),
}


def find(picture):
    return barcode.find(pyramid_of(np.ascontiguousarray(picture)))


class Finding(SimpleTestCase):
    def test_codes_are_read_at_any_quarter_turn_as_one_number(self):
        for kind, (text, number) in CODES.items():
            for turns in range(4):
                found = find(np.rot90(barcode_picture(kind, text), turns))
                self.assertEqual([one.gtin14 for one in found], [number], (kind, turns))
        self.assertEqual(find(np.full((300, 400, 3), 255, np.uint8)), [])

    def test_a_small_symbol_in_a_large_picture_is_found_with_its_place(self):
        picture = np.full((2400, 3200, 3), 168, np.uint8)
        symbol = barcode_picture("EAN13", "6291041500213", 3)
        picture[1700 : 1700 + symbol.shape[0], 2100 : 2100 + symbol.shape[1]] = symbol
        (one,) = find(picture)
        self.assertTrue(all(2100 < x < 2700 and 1700 < y < 2200 for x, y in one.corners))
        self.assertTrue(one.upright)
        (turned,) = find(picture[::-1, ::-1])
        self.assertFalse(turned.upright)

    def test_two_symbols_are_both_named(self):
        both = np.vstack(
            [barcode_picture("EAN13", "6291041500213")[:, :500], barcode_picture("UPCA", "036000291452")[:, :500]]
        )
        self.assertEqual({one.gtin14 for one in find(both)}, {"06291041500213", "00036000291452"})

    def test_a_wrong_check_digit_cannot_even_be_written(self):
        with self.assertRaises(ValueError):
            zxingcpp.create_barcode("6291041500214", zxingcpp.BarcodeFormat.EAN13)

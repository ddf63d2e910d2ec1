"""Trade item numbers against published vectors."""

import json
from pathlib import Path

from django.test import SimpleTestCase

from assay.paperwork.gtin import BadBarcode, check_digit, gtin14
from assay.paperwork.signs import WrongAlphabet

# GS1 General Specifications 7.9.1 examples as kept in the tests of biip 5.2.0 and python-stdnum, and (036000291452)
# from memory. Bodies of 7, 11, 12 and 13 figures with their check digit.
VECTORS = json.loads((Path(__file__).parent / "gs1_check_digits.json").read_text())["vectors"]
BODIES = [(v["body"], v["check"]) for v in VECTORS if len(v["body"]) in (7, 11, 12, 13)]


class CheckDigits(SimpleTestCase):
    def test_published_numbers_carry_the_digit_that_is_worked_out(self):
        self.assertGreaterEqual(len(BODIES), 10)
        for body, digit in BODIES:
            self.assertEqual(check_digit(body + digit), (digit, digit), body)

    def test_every_single_wrong_figure_is_caught(self):
        number, missed = "6291041500213", 0
        for place, right in enumerate(number):
            for other in set("0123456789") - {right}:
                is_one, should = check_digit(number[:place] + other + number[place + 1 :])
                missed += is_one == should
        self.assertEqual(missed, 0)

    def test_transpositions_of_figures_that_differ_by_five_slip_through(self):
        """10 of 90 ordered pairs of different figures: why a right digit is no evidence."""
        missed = sum(
            check_digit(f"{a}{b}".zfill(13) + "0")[1] == check_digit(f"{b}{a}".zfill(13) + "0")[1]
            for a in range(10)
            for b in range(10)
            if a != b
        )
        self.assertEqual(missed, 10)


class OneNumber(SimpleTestCase):
    def test_eight_twelve_thirteen_and_fourteen_figures_are_one_number(self):
        self.assertEqual(
            {gtin14("036000291452"), gtin14("0036000291452"), gtin14("00036000291452")}, {"00036000291452"}
        )
        self.assertEqual(gtin14("9501 2346"), "00000095012346")

    def test_what_is_no_number_is_named_not_guessed(self):
        for typed, reason in (
            ("03600029145", "barcode_length"),
            ("0360O0291452", "barcode_not_digits"),
            ("", "barcode_length"),
        ):
            with self.assertRaises(BadBarcode) as caught:
                gtin14(typed)
            self.assertEqual(caught.exception.reason, reason)
        with self.assertRaises(WrongAlphabet):
            gtin14("٠36000291452")

"""Dates in three orders and lengths in four units: what cannot be meant is asked about, never guessed."""

from datetime import date

from django.test import SimpleTestCase

from assay.paperwork.dates import BadDate, window
from assay.paperwork.lengths import BadLength, sides

NAMES, LIKELY = ("length", "width", "height"), ((180, 520), (110, 400), (70, 250))


class Windows(SimpleTestCase):
    def test_the_maker_s_order_decides_which_figure_is_the_month(self):
        for order, typed in (
            ("MDY", "12/08/23 - 03/15/24"),
            ("DMY", "08.12.23 – 15.03.24"),
            ("YMD", "2023-12-08 to 2024-03-15"),
        ):
            found = window(typed, order)
            self.assertEqual((found.start, found.end), (date(2023, 12, 8), date(2024, 3, 15)), typed)

    def test_a_date_that_fits_only_another_order_is_refused_with_that_order(self):
        with self.assertRaises(BadDate) as caught:
            window("15/03/2024 - 20/04/2024", "MDY")
        self.assertEqual((caught.exception.reason, caught.exception.numbers["fits"]), ("date_impossible", "DMY"))
        self.assertEqual(window("15 MAR 24 - 20 APR 24", "MDY").start, date(2024, 3, 15))

    def test_months_run_to_their_end_and_windows_forwards(self):
        self.assertEqual(window("02/24 04/24", "DMY").end, date(2024, 4, 30))
        with self.assertRaises(BadDate) as caught:
            window("04/24 - 02/24", "DMY")
        self.assertEqual(caught.exception.reason, "window_backwards")
        for typed, reason in (
            ("02/24", "two_dates"),
            ("soon - later", "date_unclear"),
            ("13/13 - 14/14", "date_impossible"),
        ):
            with self.assertRaises(BadDate) as caught:
                window(typed, "DMY")
            self.assertEqual(caught.exception.reason, reason, typed)


class Lengths(SimpleTestCase):
    def test_a_low_box_in_any_unit_is_the_same_box(self):
        """350 × 240 × 120 mm: common practice, no source."""
        for typed in ("350 x 240 × 120", "35 x 24 x 12 cm", "0,35 × 0.24 × 0.12 m", "13.7795 9.4488 4.7244 inches"):
            values = [round(value, 1) for value, _ in sides(typed, NAMES, LIKELY)]
            self.assertEqual(values, [350, 240, 120], typed)

    def test_inches_and_metres_without_their_unit_are_asked_about(self):
        for typed, maybe in (("13.8 x 9.4 x 4.7", "13.8 in"), ("0.35 x 0.24 x 0.12", "0.35 m"), ("35 24 12", "35 cm")):
            with self.assertRaises(BadLength) as caught:
                sides(typed, NAMES, LIKELY)
            self.assertEqual(caught.exception.reason, "length_unlikely")
            self.assertIn(maybe, caught.exception.numbers["maybe"])

    def test_two_lengths_or_words_are_no_box(self):
        for typed, reason in (
            ("350 x 240", "lengths_wanted"),
            ("large", "length_not_a_number"),
            ("-350 x 240 x 120", "length_not_a_number"),
        ):
            with self.assertRaises(BadLength) as caught:
                sides(typed, NAMES, LIKELY)
            self.assertEqual(caught.exception.reason, reason)

    def test_what_is_read_more_coarsely_is_less_sure(self):
        coarse, fine = (sides(typed, NAMES, LIKELY)[0][1] for typed in ("35 x 24 x 12 cm", "350.0 x 240.0 x 120.0"))
        self.assertGreater(coarse, 2 * fine)

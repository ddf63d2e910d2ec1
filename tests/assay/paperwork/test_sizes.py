"""Sizes: exact units, the standard's relations, a maker's chart, a label's row."""

from fractions import Fraction

from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.paperwork.size_rule import carried, checked
from assay.paperwork.sizes import (
    BARLEYCORN_MM,
    PARIS_POINT_MM,
    BadSize,
    Group,
    System,
    against_chart,
    chart_from_csv,
    chart_to_csv,
    last_mm,
    number,
    parse_row,
    us_size,
)

# An invented maker's chart.
MEN = chart_from_csv(
    "group,US,UK,EU,CM\nmen,8,7,41.5,26\nmen,8.5,7.5,42,26.5\nmen,9,8,42⅔,27\nmen,9.5,8.5,43 1/3,27.5\n"
)


class Units(SimpleTestCase):
    def test_paris_point_and_barleycorn_are_what_they_are_defined_as(self):
        """2/3 cm and 1/3 inch (definitions, from memory)."""
        self.assertEqual(PARIS_POINT_MM, Fraction(20, 3))
        self.assertAlmostEqual(float(BARLEYCORN_MM), 25.4 / 3, 12)

    def test_relations_of_iso_ts_19407(self):
        """From memory: the last of UK 8 is 33 barleycorns, 279.4 mm, 41.91 Paris points; US men = UK + 1."""
        uk8 = last_mm(System.UK, Fraction(8))
        self.assertEqual(uk8, 33 * BARLEYCORN_MM)
        self.assertAlmostEqual(float(uk8), 279.4, 9)
        self.assertAlmostEqual(float(uk8 / PARIS_POINT_MM), 41.91, 9)
        self.assertEqual(last_mm(System.US, Fraction(9)), uk8)
        self.assertEqual(last_mm(System.US, Fraction(10), Group.WOMEN), uk8)
        # US 6 to 13 by definition; a label's CM column runs 70 mm over the same sizes, which is why charts decide.
        self.assertAlmostEqual(float(last_mm(System.US, Fraction(13)) - last_mm(System.US, Fraction(6))), 59.2667, 4)


class Charts(SimpleTestCase):
    def test_a_chart_goes_out_and_comes_back_the_same(self):
        self.assertEqual(chart_from_csv(chart_to_csv(MEN)), MEN)

    def test_a_bad_chart_is_refused_with_its_line_and_column(self):
        for csv, reason, line in (
            ("group,US,UK\nmen,8,7\nmen,8,7.5\n", "chart_not_rising", 3),
            ("group,US,UK\nmen,8,seven\n", "chart_cell", 2),
            ("group,US,SHOE\nmen,8,7\n", "chart_column", None),
            ("group,US,UK\nmen,8,7\nwomen,9,8\n", "chart_group", None),
            ("group,US,UK\n", "chart_empty", None),
        ):
            with self.assertRaises(BadSize) as caught:
                chart_from_csv(csv)
            self.assertEqual((caught.exception.reason, caught.exception.numbers.get("line")), (reason, line))

    def test_a_size_in_any_system_is_found_and_one_never_made_is_refused(self):
        self.assertEqual(us_size("EU 43⅓", MEN), Fraction(19, 2))
        self.assertEqual(us_size("9,5", MEN), Fraction(19, 2))
        for typed, reason in (
            ("EU 44", "size_never_made"),
            ("US 9 EU 42", "one_size_only"),
            ("9..5", "size_not_a_number"),
        ):
            with self.assertRaises(BadSize) as caught:
                us_size(typed, MEN)
            self.assertEqual(caught.exception.reason, reason)


class Rows(SimpleTestCase):
    def off(self, typed, layout=()):
        return {c.system.value: c.expected for c in against_chart(parse_row(typed), MEN, layout) if c.is_wrong}

    def test_the_cell_that_is_off_is_named_with_what_it_should_be(self):
        self.assertEqual(self.off("US 9 UK 8 EU 42 2/3 CM 27"), {})
        self.assertEqual(self.off("US 9 UK 8.5 EU 42⅔ CM 27"), {"UK": Fraction(8)})

    def test_a_region_s_layout_misses_and_refuses_cells(self):
        layout = (System.US, System.EU)
        self.assertEqual(self.off("US 9", layout), {"EU": number("42⅔")})
        self.assertEqual(self.off("US 9 EU 42⅔ CM 27", layout), {"CM": None})

    def test_a_row_must_name_its_systems_once_each(self):
        for typed, reason in (
            ("9 8 42", "size_row_unnamed"),
            ("US 9 US 10", "size_twice"),
            ("XX 9", "size_system_unknown"),
        ):
            with self.assertRaises(BadSize) as caught:
                parse_row(typed)
            self.assertEqual(caught.exception.reason, reason)


class SizeRules(SimpleTestCase):
    nine, twelve = Fraction(9), Fraction(12)

    def test_a_length_is_carried_by_its_rule_or_not_at_all(self):
        self.assertEqual(carried(55, {}, self.nine, self.twelve), 55)
        longer = carried(300, {"rule": "length"}, self.nine, self.twelve)
        self.assertAlmostEqual(longer - 300, 300 * 3 / 33, 9)  # three barleycorns on a last of 33
        self.assertAlmostEqual(carried(20, {"rule": "slope", "mm_per_size": 0.4}, self.nine, self.twelve), 21.2)
        bands = {"rule": "bands", "bands": [[6, 8.5, "S"], [9, 11, "M"], [11.5, 14, "L"]]}
        self.assertEqual(carried(350, bands, self.nine, Fraction(21, 2)), 350)
        self.assertIsNone(carried(350, bands, self.nine, self.twelve))
        self.assertIsNone(carried(350, bands, None, self.twelve))

    def test_a_rule_that_is_none_is_refused(self):
        for rule in ({"rule": "guess"}, {"rule": "slope"}, {"rule": "length", "mm_per_size": 1}):
            with self.assertRaises(CannotJudge):
                checked(rule)

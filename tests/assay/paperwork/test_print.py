"""Print is offered only where it is surely read and fits one place; what a maker's format decides is said."""

import unittest
from dataclasses import replace

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.errors import AssayError
from assay.paperwork.found import Known
from assay.paperwork.papers import PAPERS
from assay.paperwork.print_fields import BOX, TAG_LEFT, TAG_RIGHT, fields_of
from assay.paperwork.print_reader import DISAGREED, PrintLine, is_installed, read_print
from assay.paperwork.sizes import System, chart_from_csv

KNOWN = Known(
    "VQ-44127-B", style_code_mask="AA-99999-A", colour_wording="BRACKISH/BUOY-CHALK", date_order="MDY",
    factory_codes=("QL-7", "QL-9"), layout=(System.US, System.EU),
)  # fmt: skip


def line(text: str, y: float = 0.0, x: float = 0.0, sure: float = 0.98) -> PrintLine:
    return PrintLine(text, sure, ((x, y), (x + 90, y), (x + 90, y + 20), (x, y + 20)))


def read(lines, thing=TAG_LEFT) -> dict:
    return {one.place: one.text for one in fields_of(lines, thing, KNOWN)}


class Fields(SimpleTestCase):
    def test_each_line_of_a_tag_goes_where_its_form_belongs(self):
        tag = [line("US8.5"), line("EU42", x=200), line("VQ-44127-B", 40), line("MADE 02/24 TO 04/24", 80)]
        tag += [line("QL-7209340", 120), line("UULMLILU", 160)]
        said = {"tag.style_code": "VQ-44127-B", "tag.sizes": "US 8.5  EU 42", "tag.made": "02/24 TO 04/24"}
        self.assertEqual(read(tag), {**said, "tag.factory": "QL-7", "tag.serial_left": "209340"})
        self.assertEqual(read(tag, TAG_RIGHT)["tag.serial_right"], "209340")

    def test_signs_that_look_alike_are_resolved_by_the_mask_and_that_is_said(self):
        found = fields_of([line("VQ-44I27-8")], TAG_LEFT, KNOWN)
        self.assertEqual([(one.text, one.resolved) for one in found], [("VQ-44127-B", True)])
        self.assertEqual([one.resolved for one in fields_of([line("VQ-44127-B")], TAG_LEFT, KNOWN)], [False])

    def test_what_is_not_surely_read_or_fits_twice_is_not_offered(self):
        self.assertEqual(read([line("VQ-44127-B", sure=DISAGREED)]), {})
        self.assertEqual(read([line("VQ-44127-B"), line("VQ-44172-B", 60)]), {})

    def test_a_number_with_a_wrong_check_digit_is_left_for_a_person_to_read(self):
        self.assertEqual(read([line("2 004412 095003")], BOX), {"box.barcode": "2004412095003"})
        self.assertEqual(read([line("2 004412 095004")], BOX), {})

    def test_a_wording_a_letter_off_is_offered_as_it_is_printed(self):
        self.assertEqual(read([line("BRACKLSH/BUOY-CHALK")], BOX)["box.colour"], "BRACKLSH/BUOY-CHALK")


class SizesOfATag(SimpleTestCase):
    def test_a_tag_is_not_held_to_the_systems_that_the_box_label_of_its_region_carries(self):
        """Once: an honest tag with US and EU alone was a red flag, two figures of the box's layout missing."""
        chart = chart_from_csv("group,US,UK,EU,CM\nmen,9,8,42.5,27\nmen,9.5,8.5,43,27.5\n")
        known = replace(KNOWN, charts=(chart,), layout=(System.US, System.UK, System.EU, System.CM))
        said = {"tag.sizes": "US 9.5  EU 43", "box.sizes": "US 9.5  EU 43"}
        self.assertEqual(PAPERS["sizes_on_tag"].check(said, known).slips, ())
        self.assertEqual(len(PAPERS["sizes_on_box"].check(said, known).slips), 2)
        wrong = PAPERS["sizes_on_tag"].check({"tag.sizes": "US 9.5  EU 44"}, known)
        self.assertEqual([one.reason for one in wrong.slips], ["cell_off"])


class Reading(SimpleTestCase):
    class Engine:
        """Two readings that may differ."""

        def __init__(self, *said):
            self.said = list(said)

        def find(self, rgb):
            return np.array([[[10, 10], [90, 10], [90, 30], [10, 30]]], float)

        def read(self, line):
            return self.said.pop(0)

    def test_a_line_that_two_readings_have_differently_is_not_sure(self):
        """An engine is sure of a line that is cut off: once CM 27 for CM 27.5, at .975."""
        blank = np.full((100, 200, 3), 255, np.uint8)
        (cut,) = read_print(blank, self.Engine(("CM 27", 0.98), ("CM 27.5", 0.97)))
        self.assertEqual((cut.text, cut.confidence), ("CM 27.5", DISAGREED))
        (same,) = read_print(blank, self.Engine(("CM 27.5", 0.98), ("CM27.5", 0.97)))
        self.assertEqual(same.confidence, 0.97)

    @unittest.skipUnless(is_installed(), "no reader of print is installed")
    def test_the_engine_reads_drawn_print_upright_and_tilted_and_nothing_on_a_blank(self):
        page = np.full((500, 900, 3), 235, np.uint8)
        cv2.putText(page, "VQ-44127-B", (120, 180), cv2.FONT_HERSHEY_SIMPLEX, 2.2, (30, 30, 30), 5, cv2.LINE_AA)
        cv2.putText(page, "US 9.5 EU 43", (120, 330), cv2.FONT_HERSHEY_SIMPLEX, 2.2, (30, 30, 30), 5, cv2.LINE_AA)
        for angle in (0, 6):
            turn = cv2.getRotationMatrix2D((450, 250), angle, 0.9)
            seen = cv2.warpAffine(page, turn, (900, 500), borderValue=(235, 235, 235))
            self.assertEqual(read(read_print(seen)), {"tag.style_code": "VQ-44127-B", "tag.sizes": "US 9.5  EU 43"})
        self.assertEqual(read_print(np.full((300, 500, 3), 235, np.uint8)), ())

    @unittest.skipIf(is_installed(), "a reader of print is installed")
    def test_without_a_reader_it_says_so(self):
        with self.assertRaises(AssayError):
            read_print(np.full((300, 500, 3), 235, np.uint8))

"""Print is offered only where it is surely read and fits one place; what a maker's format decides is said."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.errors import AssayError
from assay.paperwork.found import Known
from assay.paperwork.papers import PAPERS
from assay.paperwork.print_fields import BOX, TAG_LEFT, TAG_RIGHT, fields_of, words_field
from assay.paperwork.print_reader import DISAGREED, PrintLine, is_installed, read_print
from assay.paperwork.receipt import Receipt, receipt_of
from assay.paperwork.sizes import System, chart_from_csv

KNOWN = Known(
    "VQ-44127-B", style_code_mask="AA-99999-A", colour_wording="BRACKISH/BUOY-CHALK", date_order="MDY",
    factory_codes=("QL-7", "QL-9"), layout=(System.US, System.EU),
)  # fmt: skip


def line(text: str, y: float = 0.0, x: float = 0.0, sure: float = 0.98) -> PrintLine:
    return PrintLine(text, sure, ((x, y), (x + 90, y), (x + 90, y + 20), (x, y + 20)))


def read(lines, thing=TAG_LEFT) -> dict:
    return {field.place: field.text for field in fields_of(lines, thing, KNOWN)}


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
        self.assertEqual([field.resolved for field in fields_of([line("VQ-44127-B")], TAG_LEFT, KNOWN)], [False])

    def test_what_is_not_surely_read_or_fits_twice_is_not_offered(self):
        self.assertEqual(read([line("VQ-44127-B", sure=DISAGREED)]), {})
        self.assertEqual(read([line("VQ-44127-B"), line("VQ-44172-B", 60)]), {})

    def test_a_likely_misreading_is_left_to_be_typed(self):
        """GI read as GL, 8.5 worn to 3.5 and a factory half lost in glare had been offered as they stood."""
        chart = chart_from_csv("group,US,EU\nmen,8,41.5\nmen,8.5,42\n")
        known = replace(KNOWN, charts=(chart,), style_code="GI-43040-Z")
        misread = [line("GL-43040-Z"), line("US 3.5 EU 42", 40), line("BZ-2 9867", 80)]
        self.assertEqual(fields_of(misread, TAG_LEFT, known), ())
        right = fields_of([line("GI-43040-Z"), line("US 8.5 EU 42", 40)], TAG_LEFT, known)
        self.assertEqual([one.text for one in right], ["GI-43040-Z", "US 8.5  EU 42"])

    def test_a_number_with_a_wrong_check_digit_is_left_for_a_person_to_read(self):
        self.assertEqual(read([line("2 004412 095003")], BOX), {"box.barcode": "2004412095003"})
        self.assertEqual(read([line("2 004412 095004")], BOX), {})

    def test_a_wording_a_letter_off_is_offered_as_it_is_printed(self):
        self.assertEqual(read([line("BRACKLSH/BUOY-CHALK")], BOX)["box.colour"], "BRACKLSH/BUOY-CHALK")


class Words(SimpleTestCase):
    RETAIL = ("QUAYSIDE / 9.5", "QUAYSIDE / 9")

    def check(self, said: str, texts=RETAIL):
        found = PAPERS["words_on_insole"].check({"insole.words": said}, Known(words={"insole.words": texts}))
        return found.outcome, [slip.reason for slip in found.slips]

    def test_a_letter_that_differs_is_off_and_what_retail_pairs_do_not_share_is_left_alone(self):
        self.assertEqual(self.check("QUAYSIDE / 8.5"), ("same", []))
        self.assertEqual(self.check("QUAYS DE / 9.5"), ("off", ["words_differ"]))
        self.assertEqual(self.check("9.5"), ("unusual", ["words_missing"]))
        self.assertEqual(self.check("QUAYSIDE", ()), ("not_contradicted", []))

    def test_signs_easily_misread_and_what_one_verified_pair_alone_says_never_make_a_red_flag(self):
        self.assertEqual(self.check("QUAY5IDE"), ("unusual", ["words_alike"]))
        self.assertEqual(self.check("QUAYSTDE", ("QUAYSIDE / 9",)), ("unusual", ["words_differ"]))

    def test_a_text_with_a_line_that_is_not_surely_read_is_left_to_be_typed(self):
        sure, unsure = line("QUAYSIDE"), line("QUAYSIDE", 40, sure=0.6)
        (field,) = words_field([sure, line("9", 60, sure=0.5)], "insole.words", KNOWN)
        self.assertEqual(field.text, "QUAYSIDE")
        self.assertEqual(words_field([sure, unsure], "insole.words", KNOWN), ())


class Receipts(SimpleTestCase):
    def test_shop_day_and_total_are_read_and_what_may_mean_two_things_is_not(self):
        slip = [line("HARBOUR SHOES"), line("14/03/2026 17:02", 30), line("SUBTOTAL 100.00", 60), line("TOTAL", 90)]
        found = receipt_of([*slip, line("119.50", 90, x=300)])
        self.assertEqual(found, Receipt("HARBOUR SHOES", date(2026, 3, 14), Decimal("119.50")))
        two = receipt_of([line("03/04/2026"), line("TOTAL 10.00", 30), line("TOTAL 12.00", 60)])
        self.assertEqual((two.bought_on, two.total), (None, None))
        self.assertIsNone(receipt_of([line("14/03/2026"), line("15/03/2026", 30)]).bought_on)


class SizesOfATag(SimpleTestCase):
    def test_a_tag_is_not_held_to_the_systems_that_the_box_label_of_its_region_carries(self):
        """Once: an honest tag with US and EU alone was a red flag, two figures of the box's layout missing."""
        chart = chart_from_csv("group,US,UK,EU,CM\nmen,9,8,42.5,27\nmen,9.5,8.5,43,27.5\n")
        known = replace(KNOWN, charts=(chart,), layout=(System.US, System.UK, System.EU, System.CM))
        said = {"tag.sizes": "US 9.5  EU 43", "box.sizes": "US 9.5  EU 43"}
        self.assertEqual(PAPERS["sizes_on_tag"].check(said, known).slips, ())
        self.assertEqual(len(PAPERS["sizes_on_box"].check(said, known).slips), 2)
        wrong = PAPERS["sizes_on_tag"].check({"tag.sizes": "US 9.5  EU 44"}, known)
        self.assertEqual([slip.reason for slip in wrong.slips], ["cell_off"])


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

    def test_a_line_that_glare_may_have_cut_off_is_not_sure(self):
        grey = np.full((100, 200, 3), 220, np.uint8)
        grey[:, 95:115] = 255
        (cut,) = read_print(grey, self.Engine(("CM 27", 0.98), ("CM 27", 0.98)))
        self.assertEqual(cut.confidence, DISAGREED)

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

"""What print and packing say, by the trade's rules (common practice, no source, unless named)."""

import json
from datetime import date
from fractions import Fraction

from django.test import SimpleTestCase

from assay.errors import CannotJudge
from assay.paperwork.accessories import BadTicks, items_from
from assay.paperwork.fields import cleaned
from assay.paperwork.found import Known, Outcome
from assay.paperwork.inlay import BadInlay, decoded, encoded
from assay.paperwork.papers import PAPERS, RATES
from assay.paperwork.sizes import chart_from_csv

MEN = chart_from_csv("group,US,UK\nmen,9,8\nmen,9.5,8.5\nmen,10,9\n")
WOMEN = chart_from_csv("group,US,UK\nwomen,10.5,8\nwomen,11,8.5\n")
OWN, OTHER = "00036000291452", "06291041500213"
ITEMS = items_from(
    [
        {"key": "sheet", "name": "Sheet", "token": "sheet", "attributes": {"colour": "grey"},
         "choices": {"colour": ["grey", "white"]}},
        {"key": "lace", "name": "Laces", "token": "lace", "count": 2},
        {"key": "sticker", "name": "Sticker", "token": "sticker", "goes_missing": False},
        {"key": "card", "name": "Card", "token": "card", "count": 0},
    ]
)  # fmt: skip
KNOWN = Known(
    style_code="305518-402",
    style_code_mask="999999-999",
    colour_wording="FERRY RUST",
    barcodes={"9.5": OWN, "10": OTHER},
    charts=(MEN, WOMEN),
    size_us=Fraction(19, 2),
    date_order="MDY",
    released_on=date(2024, 5, 1),
    bought_on=date(2024, 8, 1),
    factory_codes=("QL-7",),
    serials_differ=True,
    inlay_expected=True,
    inlays_seen={"3074257BF7194E4000001A85": "R7"},
    packing=ITEMS,
)
GOOD = {"sheet": {"count": 1, "colour": "grey"}, "lace": {"count": 2}, "sticker": {"count": 1}, "card": {"count": 0}}


def found(name, known=KNOWN, **said):
    """``said`` with ``__`` for the dot of a place."""
    clean = {place.replace("__", "."): text for place, text in said.items()}
    return PAPERS[name].check({place: cleaned(place, text, known) for place, text in clean.items()}, known)


def reasons(result):
    return [slip.reason for slip in result.slips]


class Codes(SimpleTestCase):
    def test_a_wrong_code_says_where_and_whether_it_may_be_misread(self):
        result = found("code_on_box", box__style_code="305518-420")
        self.assertEqual((reasons(result), result.slips[0].numbers["place"]), (["code_differs"], 9))
        self.assertEqual(reasons(found("code_on_box", box__style_code="3O55I8 402")), [])

    def test_box_and_tag_are_held_against_each_other_as_well(self):
        result = found("code_on_tag", tag__style_code="305518-402", box__style_code="305518-403")
        self.assertEqual(reasons(result), ["codes_disagree"])

    def test_a_right_check_digit_is_no_evidence_by_itself(self):
        unknown = Known(size_us=Fraction(9))
        result = found("barcode", unknown, box__barcode="036000291452")
        self.assertEqual((result.outcome, result.retail_rate(RATES)), (Outcome.NOT_CONTRADICTED, None))
        self.assertEqual(found("barcode", box__barcode="0036000291452").outcome, Outcome.SAME)

    def test_whose_number_it_is_and_what_the_bars_say(self):
        self.assertEqual(reasons(found("barcode", box__barcode="6291041500213")), ["barcode_other_size"])
        self.assertEqual(reasons(found("barcode", box__barcode="036000291453"))[0], "check_digit_wrong")
        swapped = found("barcode", box__barcode="036000291452", box__scanned="6291041500213")
        self.assertEqual(reasons(swapped), ["print_and_bars_differ"])
        two = found("barcode", box__barcode="036000291452", box__scanned="036000291452 6291041500213")
        self.assertEqual(reasons(two), [])


class SizeRows(SimpleTestCase):
    def test_the_cell_and_the_group_are_named(self):
        result = found("sizes_on_box", box__sizes="US 9.5 UK 9")
        self.assertEqual([slip.numbers["system"] for slip in result.slips], ["UK"])
        self.assertEqual(reasons(found("sizes_on_box", box__sizes="US 11 UK 8.5")), ["other_group"])

    def test_a_size_that_the_maker_never_made_is_off(self):
        self.assertEqual(reasons(found("sizes_on_box", box__sizes="US 31 UK 30")), ["row_in_no_chart"])

    def test_another_size_than_the_pair_s_is_odd_not_wrong(self):
        result = found("sizes_on_box", box__sizes="US 10 UK 9")
        self.assertEqual((reasons(result), result.outcome), (["size_not_the_pair_s"], Outcome.UNUSUAL))


class Tags(SimpleTestCase):
    def test_made_after_it_was_bought_departs_and_far_from_the_release_is_weak(self):
        self.assertEqual(found("production", tag__made="02/01/24 - 04/01/24").outcome, Outcome.SAME)
        self.assertEqual(reasons(found("production", tag__made="10/01/24 - 12/01/24")), ["made_after_bought"])
        weak = found("production", tag__made="02/01/21 - 04/01/21")
        self.assertGreater(weak.retail_rate(PAPERS["production"].rates), 0.05)

    def test_serials_differ_where_the_release_has_them_differ(self):
        self.assertEqual(found("serials", tag__serial_left="A1", tag__serial_right="A2").outcome, Outcome.SAME)
        self.assertEqual(found("serials", tag__serial_left="A1", tag__serial_right="a 1").outcome, Outcome.OFF)
        self.assertEqual(
            found("serials", Known(), tag__serial_left="A", tag__serial_right="B").outcome, Outcome.NOT_CONTRADICTED
        )

    def test_a_stamp_has_the_release_s_form_or_is_odd(self):
        known = Known(stamp_mask="A9 9999")
        for typed, reason in (("l4 0217", []), ("none", ["stamp_missing"]), ("0217", ["stamp_form"])):
            self.assertEqual(reasons(found("stamp", known, box__stamp=typed)), reason)
        self.assertEqual(reasons(found("stamp", Known(stamp_mask="NONE"), box__stamp="L4 0217")), ["stamp_surplus"])
        self.assertEqual(found("stamp", Known(), box__stamp="L4").outcome, Outcome.NOT_CONTRADICTED)

    def test_an_unknown_factory_is_weak(self):
        self.assertEqual(found("factory", tag__factory="zz-1").outcome, Outcome.UNUSUAL)


class Inlays(SimpleTestCase):
    def test_the_standard_s_worked_example(self):
        """GS1 EPC Tag Data Standard (from memory): urn:epc:tag:sgtin-96:3.0614141.812345.6789."""
        epc = decoded("3074257BF7194E4000001A85")
        self.assertEqual((epc.gtin14, epc.serial), ("80614141123458", 6789))
        self.assertEqual(encoded("80614141123458", 6789, shelf=3), "3074257BF7194E4000001A85")

    def test_presence_says_nothing_what_it_says_does(self):
        mine = encoded(OWN, 77)
        self.assertEqual(
            found("radio_inlay", Known(inlay_expected=True), box__inlay=mine).outcome, Outcome.NOT_CONTRADICTED
        )
        self.assertEqual(found("radio_inlay", box__inlay=mine).outcome, Outcome.SAME)
        for epc, reason in (
            ("0" * 24, "inlay_blank"),
            ("E2" + "1" * 22, "inlay_coding"),
            (encoded(OTHER, 1), "barcode_other_size"),
            ("none", "inlay_missing"),
        ):
            self.assertIn(reason, reasons(found("radio_inlay", box__inlay=epc)))
        self.assertIn("inlay_seen", reasons(found("radio_inlay", box__inlay="3074257BF7194E4000001A85")))
        self.assertEqual(
            reasons(found("radio_inlay", Known(inlay_expected=False), box__inlay=mine)), ["inlay_too_early"]
        )
        with self.assertRaises(BadInlay):
            cleaned("box.inlay", "3074257BF719", KNOWN)


class Packing(SimpleTestCase):
    def ticked(self, *, second_hand=False, **changes):
        known = Known(packing=ITEMS, second_hand=second_hand)
        return found("packing", known, packing=json.dumps({**GOOD, **changes}))

    def test_missing_unexpected_and_wrong_are_each_named_and_graded(self):
        result = self.ticked(lace={"count": 1}, card={"count": 1}, sheet={"count": 1, "colour": "white"})
        self.assertEqual(reasons(result), ["item_wrong", "item_missing", "item_unexpected"])
        self.assertEqual([slip.rate for slip in result.slips], [0.002, 0.01, 0.0005])
        self.assertEqual(result.retail_rate(RATES), 0.0005)

    def test_second_hand_pairs_may_lack_things_but_not_have_strange_ones(self):
        self.assertEqual(self.ticked(second_hand=True, lace={"count": 0}).outcome, Outcome.SAME)
        self.assertEqual(reasons(self.ticked(second_hand=True, sticker={"count": 0})), ["item_missing"])
        self.assertEqual(reasons(self.ticked(second_hand=True, card={"count": 1})), ["item_unexpected"])

    def test_what_nobody_looked_at_says_nothing(self):
        self.assertEqual(found("packing", packing="{}").outcome, Outcome.NOT_CONTRADICTED)

    def test_broken_ticks_and_broken_lists_are_refused(self):
        for ticks in (
            "[]",
            "{",
            '{"hat": {"count": 1}}',
            '{"lace": {"count": -1}}',
            '{"sheet": {"count": 1, "colour": "red"}}',
        ):
            with self.assertRaises(BadTicks):
                cleaned("packing", ticks, KNOWN)
        for broken in ({}, [{"key": "a"}], [{"key": "a", "name": "A", "token": "hat"}]):
            with self.assertRaises(CannotJudge):
                items_from(broken)

"""Marks, circled letters, embroidery and threads on drawn pictures."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.compare import mark as mark_compare
from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotAlign, CannotMeasure
from assay.imaging.plane import scaled
from assay.imaging.region import measure_region
from assay.measure import embroidery, mark, ring, thread
from assay.measure.sample import FINE, bar, canvas, disc, exposed, outlined
from assay.simulator.swatch import seam_swatch

PENNANT = np.array([[80, 70], [300, 40], [270, 90], [312, 140], [85, 150]], float)
SHORT = np.array([[80, 70], [300, 40], [270, 90], [280, 112], [280, 142], [85, 150]], float)
ROUND = [[30, 240], [390, 240], [55, 20], [335, 20], [335, 175], [55, 175]]
PALE, DARK = (226, 222, 214), (62, 88, 92)


def pennant(points=PENNANT, *, turned=0.0, low=0.0, ink=PALE, ground=DARK):
    """An emblem over a panel's edge, 0.1 mm a pixel, turned about its middle, moved towards the edge (px)."""
    drawing = canvas(420, 290, ground)
    bar(drawing, (0, 240, 420, 290), (150, 140, 128))
    angle = np.radians(turned)
    spin = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    middle = PENNANT.mean(0)
    outlined(drawing, (points - middle) @ spin.T + middle + [0, low], ink)
    sample = exposed(drawing, 0.1, ROUND)
    drawn = sample.marks(MarkKind.PLACES)
    return measure_region(
        mark.MEASURE.read, sample.picture, scaled(0.1, 0.003, "card"), drawn, units=mark.MEASURE.units
    )


class Emblems(SimpleTestCase):
    def test_what_is_turned_and_low_is_told_in_either_polarity(self):
        for ink, ground in ((PALE, DARK), (DARK, PALE)):
            theirs, ours = (
                pennant(ink=ink, ground=ground, **how).descriptor for how in ({}, {"turned": 1.5, "low": 12})
            )
            found = mark_compare.compare(theirs, ours).parts
            self.assertAlmostEqual(abs(found["turned_deg"]), 1.5, delta=0.1)
            self.assertAlmostEqual(found["across_mm"], -1.2, delta=0.06)
            self.assertAlmostEqual(found["size_pct"], 0, delta=0.6)
            self.assertEqual((found["missing"], found["too_much"]), (0, 0))

    def test_a_missing_barb_is_outlined_and_does_not_turn_the_rest(self):
        found = mark_compare.compare(pennant().descriptor, pennant(SHORT).descriptor)
        self.assertEqual(found.parts["missing"], 1)
        self.assertAlmostEqual(found.parts["turned_deg"], 0, delta=0.3)
        self.assertEqual([stroke.label for stroke in found.overlay], [mark_compare.MISSING])
        back = mark_compare.compare(pennant(SHORT).descriptor, pennant().descriptor)
        self.assertEqual((back.parts["missing"], back.parts["too_much"]), (0, 1))

    def test_bolder_strokes_are_bolder_and_no_larger_mark(self):
        """A word's strokes a third wider were read as 4.3 % of size, claimed to 0.6."""

        def hook(stroke: float):
            drawing = canvas(420, 290, DARK)
            bar(drawing, (0, 240, 420, 290), (150, 140, 128))
            half = stroke / 2
            for x0, y0, x1, y1 in ((100, 80, 290, 80), (290, 80, 290, 160), (100, 160, 290, 160), (170, 80, 170, 160)):
                bar(drawing, (x0 - half, y0 - half, x1 + half, y1 + half), PALE)
            sample = exposed(drawing, 0.1, ROUND)
            marks = sample.marks(MarkKind.PLACES)
            plane = scaled(0.1, 0.003, "card")
            return measure_region(mark.MEASURE.read, sample.picture, plane, marks, units=mark.MEASURE.units).descriptor

        found = mark_compare.compare(hook(12), hook(16)).parts
        self.assertAlmostEqual(found["size_pct"], 0, delta=0.6)
        self.assertAlmostEqual(found["stroke_pct"], 100 / 3, delta=3)

    def test_an_emblem_reads_as_long_as_it_was_drawn(self):
        """A stamped side emblem 55 mm long: common practice, no source; here at 0.25 mm a pixel."""
        drawing = canvas(420, 290, DARK)
        bar(drawing, (0, 240, 420, 290), (150, 140, 128))
        bar(drawing, (90, 60, 310, 120), PALE)
        sample = exposed(drawing, 0.25, ROUND)
        found = mark.measure(sample.picture, sample.marks(MarkKind.PLACES))
        self.assertAlmostEqual(found.parts["width_mm"], 55, delta=0.15)
        self.assertAlmostEqual(found.parts["from_edge_mm"], (240 - 90) * 0.25, delta=0.2)

    def test_corners_that_were_rounded_read_rounder(self):
        radii = []
        for rounded in (0, 12):
            drawing = canvas(420, 290, DARK)
            bar(drawing, (0, 240, 420, 290), (150, 140, 128))
            bar(drawing, (90 + rounded, 60, 310 - rounded, 160), PALE)
            bar(drawing, (90, 60 + rounded, 310, 160 - rounded), PALE)
            for x, y in ((90, 60), (310, 60), (90, 160), (310, 160)):
                inner = (x + np.sign(200 - x) * rounded, y + np.sign(110 - y) * rounded)
                disc(drawing, (inner[0] - 0.5, inner[1] - 0.5), rounded, PALE)
            sample = exposed(drawing, 0.1, ROUND)
            radii.append(mark.measure(sample.picture, sample.marks(MarkKind.PLACES)).parts["corner_mm"])
        self.assertLess(radii[0], 0.35)
        self.assertAlmostEqual(radii[1], 1.2, delta=0.2)

    def test_another_emblem_never_passes_as_the_same_and_a_bare_panel_has_none(self):
        bars = np.array([[80, 30], [100, 30], [100, 130], [290, 130], [290, 150], [80, 150]], float)
        try:
            found = mark_compare.compare(pennant().descriptor, pennant(bars).descriptor).parts
        except CannotAlign:
            found = {"missing": 1, "too_much": 0}
        self.assertGreater(found["missing"] + found["too_much"], 0)
        with self.assertRaisesMessage(CannotMeasure, "no_mark_found"):
            pennant(ink=DARK)


class CircledLetters(SimpleTestCase):
    def letter(self, foot: float):
        """A ring of inner radius 33 px round a bar that ends ``foot`` px before it."""
        drawing = canvas(120, 120, (62, 58, 56))
        cv2.circle(drawing, (round(60.5 * FINE),) * 2, 36 * FINE, PALE, 6 * FINE)
        low = round((60.5 + 33 - foot) * FINE)
        cv2.rectangle(drawing, (57 * FINE, 48 * FINE), (64 * FINE, low), PALE, -1)
        sample = exposed(drawing, 0.05, [[8, 8], [112, 8], [112, 112], [8, 112]])
        return ring.measure(sample.picture, sample.marks(MarkKind.REGION))

    def test_a_gap_is_as_wide_as_drawn_and_none_touches(self):
        for foot in (6.0, 10.0, 16.0):
            found = self.letter(foot)
            self.assertAlmostEqual(found.value, 0.05 * foot, delta=0.05)
            self.assertEqual(found.parts["touches"], 0)
        self.assertEqual(self.letter(-2.0).parts["touches"], 1)

    def test_a_gap_as_narrow_as_the_camera_resolves_is_doubted_either_way(self):
        found = self.letter(1.0)
        self.assertTrue("gap_unclear" in found.doubts or found.parts["touches_uncertainty"] >= 0.3)
        self.assertGreaterEqual(found.uncertainty, abs(found.value - 0.05) / 2)


class Sewing(SimpleTestCase):
    def field(self, *, threads=(), period=5.0):
        drawing = canvas(260, 200, (206, 200, 188))
        _, x = np.mgrid[: drawing.shape[0], : drawing.shape[1]]
        wave = 0.8 + 0.2 * np.cos(2 * np.pi * x / (period * FINE))
        box = np.s_[50 * FINE : 130 * FINE, 60 * FINE : 200 * FINE]
        drawing[box] = np.array([58, 84, 120]) * wave[box][..., None]
        for start, end in threads:
            ends = [tuple(round(n * FINE) for n in point) for point in (start, end)]
            cv2.line(drawing, *ends, (58, 84, 120), 3 * FINE)
        sample = exposed(drawing, 0.08, [[20, 20], [240, 20], [240, 180], [20, 180]])
        return embroidery.measure(sample.picture, sample.marks(MarkKind.REGION))

    def test_threads_of_a_field_are_counted_and_a_clean_one_has_no_loose_ones(self):
        found = self.field()
        self.assertEqual(found.value, 0)
        self.assertAlmostEqual(found.parts["threads_per_mm"], 1 / (5 * 0.08), delta=0.05)

    def test_loose_threads_are_counted_and_never_surely(self):
        found = self.field(threads=(((90, 145), (120, 168)), ((150, 165), (190, 148))))
        self.assertEqual(found.value, 2)
        self.assertGreater(found.uncertainty, 0.3)
        self.assertIn("loose_threads", found.doubts)

    def test_a_rows_thread_is_as_thick_as_sewn_and_told_from_its_panel(self):
        swatch = seam_swatch("easy", 3)
        marks = Marks(MarkKind.PATH, tuple(map(tuple, swatch.marks)))
        found = thread.measure(Picture(swatch.rgb, swatch.mm_per_px), marks)
        self.assertGreater(found.parts["apart_dE00"], 5)
        self.assertTrue(0.3 < found.value < 1.5)

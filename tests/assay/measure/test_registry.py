"""What every measure owes, whatever it measures."""

from contextlib import suppress

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure.registry import MEASURES
from assay.simulator.swatch import Swatch, hole_swatch, seam_swatch
from tests.assay.measure.test_edge_distance import sheet
from tests.assay.measure.test_layers import edge
from tests.assay.measure.test_lettering import bars
from tests.assay.measure.test_line_edge_intersection import marks as landing_marks
from tests.assay.measure.test_line_edge_intersection import row
from tests.assay.measure.test_parallel import lines
from tests.assay.measure.test_row_end import marks as ending_marks
from tests.assay.measure.test_row_end import picture as ending
from tests.bench.drawn import MM_PER_PX, heel, shoe

LINE = Swatch(bars(), 0.1, np.array([[40, 40], [380, 40], [380, 120], [40, 120]]), np.zeros((12, 2)))
SHEET = Swatch(sheet(), 0.2, np.array([[47, 100], [355, 100]]), np.zeros((0, 2)))
HEEL, SIDE = heel("easy", 4), shoe("easy", 4)
SHAPES = {
    name: Swatch(picture.rgb, MM_PER_PX, picture.region, np.zeros((0, 2)))
    for name, picture in (("profile_rear", HEEL), ("profile_top", HEEL), ("profile_side", SIDE), ("outline", SIDE))
}
GAP = Swatch(lines(), 0.12, np.array([[x, 60 + 4 * np.sin(x / 190)] for x in range(40, 660, 31)]), np.zeros((0, 2)))
CUT = Swatch(edge(), 0.1, np.array([[22, 45], [118, 45]]), np.zeros((3, 2)))
THREE = Swatch(edge(), 0.1, np.array([[22, 20], [118, 45], [60, 80]]), np.zeros((0, 2)))
LANDS = Swatch(row(0.1).rgb, 0.1, np.array(landing_marks(0.1).points), np.zeros((6, 2)))
ENDS = Swatch(ending(300.0).rgb, 0.12, np.array(ending_marks(300.0).points), np.zeros((12, 2)))
SWATCHES = (
    SHAPES
    | {"parallel": GAP, "layers": CUT, "place": THREE, "line_edge_intersection": LANDS, "row_end": ENDS}
    | {"seam": seam_swatch("easy", 4), "holes": hole_swatch("easy", 4), "lettering": LINE, "edge_distance": SHEET}
)
# Of a bar, of a second row, of a heel or a row that is not straight.
WHERE_THERE_IS_ONE = {"slant_deg", "row_gap_mm", "heel_radius_mm", "bend_radius_mm", "bend_deg"}
COUNTING = ("seam", "holes", "layers")


class EveryMeasure(SimpleTestCase):
    def each(self, names=tuple(MEASURES)):
        for name in names:
            measure, swatch = MEASURES[name], SWATCHES[name]
            with self.subTest(name):
                yield measure, swatch, Marks(measure.marks, tuple(map(tuple, swatch.marks)))

    def test_it_signs_its_readings_and_leaves_the_picture_alone(self):
        for measure, swatch, marks in self.each():
            frozen = swatch.rgb.copy()
            frozen.setflags(write=False)
            reading = measure.measure(Picture(frozen, swatch.mm_per_px, doubts=("blurred",)), marks)
            self.assertEqual(reading.method, measure.method)
            self.assertEqual(reading.doubts[0], "blurred")
            if measure.name != "outline":  # its parts come with the rims that it is laid on
                self.assertLessEqual(set(measure.parts) - WHERE_THERE_IS_ONE, set(reading.parts))
            self.assertGreaterEqual(reading.uncertainty, 0)

    def test_light_mirror_and_turning_do_not_change_a_count(self):
        for measure, swatch, marks in self.each(COUNTING):
            width = swatch.rgb.shape[1]
            mirrored = [(width - 1 - x, y) for x, y in marks.points]
            turned = [(y, width - 1 - x) for x, y in marks.points]
            for rgb, points in (
                ((swatch.rgb * 0.7).astype(np.uint8), marks.points),
                (np.ascontiguousarray(swatch.rgb[:, ::-1]), mirrored),
                (np.ascontiguousarray(np.rot90(swatch.rgb)), turned),
            ):
                reading = measure.measure(Picture(rgb, swatch.mm_per_px), Marks(measure.marks, tuple(points)))
                self.assertEqual(reading.value, len(swatch.centres))

    def test_without_a_scale_it_counts_and_gives_no_millimetres(self):
        for measure, swatch, marks in self.each():
            reading = measure.measure(Picture(swatch.rgb), marks)
            self.assertNotEqual(reading.unit, "mm")
            if measure.name in COUNTING:
                self.assertEqual(reading.value, len(swatch.centres))
            self.assertFalse([name for name in reading.parts if "_mm" in name])

    def test_a_double_click_anywhere_gives_a_number_or_a_reason(self):
        paths = [name for name, measure in MEASURES.items() if measure.marks is MarkKind.PATH]
        for measure, swatch, marks in self.each(paths):
            for n in range(len(marks.points)):
                doubled = (*marks.points[: n + 1], *marks.points[n:])
                with suppress(CannotMeasure):
                    found = measure.measure(Picture(swatch.rgb, swatch.mm_per_px), Marks(MarkKind.PATH, doubled))
                    self.assertTrue(np.isfinite(found.value))

    def test_what_has_no_points_is_put_right_by_its_marks(self):
        for measure, swatch, marks in self.each(set(MEASURES) - set(COUNTING)):
            with self.assertRaises(CannotMeasure) as caught:
                measure.rebuild(Picture(swatch.rgb), marks, [])
            self.assertEqual(caught.exception.reason, "move_the_region")

    def test_its_own_marks_given_back_make_the_same_count(self):
        for measure, swatch, marks in self.each(COUNTING):
            picture = Picture(swatch.rgb, swatch.mm_per_px)
            reading = measure.measure(picture, marks)
            centres = [tuple(np.mean(stroke.points, axis=0)) for stroke in reading.overlay]
            again = measure.rebuild(picture, marks, centres)
            self.assertEqual(again.value, reading.value)
            # Centres say nothing of a stitch's length or a second row.
            for name in sorted(set(measure.parts) & set(again.parts)):
                self.assertAlmostEqual(again.parts[name], reading.parts[name], delta=0.05 * reading.parts[name] + 0.02)

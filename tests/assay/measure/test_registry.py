"""What every measure owes, whatever it measures."""

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.measure.registry import MEASURES
from assay.simulator.swatch import hole_swatch, seam_swatch

SWATCHES = {MarkKind.PATH: seam_swatch("easy", 4), MarkKind.REGION: hole_swatch("easy", 4)}


class EveryMeasure(SimpleTestCase):
    def each(self):
        for measure in MEASURES.values():
            swatch = SWATCHES[measure.marks]
            with self.subTest(measure.name):
                yield measure, swatch, Marks(measure.marks, tuple(map(tuple, swatch.marks)))

    def test_it_signs_its_readings_and_leaves_the_picture_alone(self):
        for measure, swatch, marks in self.each():
            frozen = swatch.rgb.copy()
            frozen.setflags(write=False)
            reading = measure.measure(Picture(frozen, swatch.mm_per_px, doubts=("blurred",)), marks)
            self.assertRegex(reading.method, rf"^{measure.name}/\d+$")
            self.assertEqual(reading.doubts[0], "blurred")
            self.assertLessEqual(set(measure.parts), set(reading.parts))
            self.assertGreaterEqual(reading.uncertainty, 0)

    def test_light_mirror_and_turning_do_not_change_a_count(self):
        for measure, swatch, marks in self.each():
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
            self.assertEqual(reading.value, len(swatch.centres))
            self.assertFalse([name for name in reading.parts if "_mm" in name])

    def test_its_own_marks_given_back_make_the_same_count(self):
        for measure, swatch, marks in self.each():
            picture = Picture(swatch.rgb, swatch.mm_per_px)
            reading = measure.measure(picture, marks)
            centres = [tuple(np.mean(stroke.points, axis=0)) for stroke in reading.overlay]
            again = measure.rebuild(picture, marks, centres)
            self.assertEqual(again.value, reading.value)
            for name in measure.parts:
                self.assertAlmostEqual(again.parts[name], reading.parts[name], delta=0.05 * reading.parts[name] + 0.02)

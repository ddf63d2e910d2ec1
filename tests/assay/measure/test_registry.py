"""What every measure owes, whatever it measures: tried on the sample that its entry carries."""

from contextlib import suppress
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.plane import scaled
from assay.imaging.region import MOST_PX, measure_region
from assay.measure.registry import MEASURES
from assay.units import Unit

SIZED = ("texture", "speckle", "glow", "sheen")
"""Measures that look for things of a physical size: at another scale they look for others."""
COUNTING = tuple(name for name, entry in MEASURES.items() if entry.rebuild is not None)


def _number(reading, name: str) -> tuple:
    """A number of a reading, "" its value, and its standard uncertainty."""
    if not name:
        return reading.value, reading.uncertainty
    return reading.parts.get(name), reading.parts.get(f"{name}_uncertainty", 0.0)


class EveryMeasure(SimpleTestCase):
    def each(self, names=tuple(MEASURES)):
        for name in names:
            measure, sample = MEASURES[name], MEASURES[name].sample()
            with self.subTest(name):
                yield measure, sample, sample.marks(measure.marks)

    def test_it_signs_its_readings_leaves_the_picture_alone_and_gives_the_numbers_it_names(self):
        for measure, sample, marks in self.each():
            frozen = sample.picture.rgb.copy()
            frozen.setflags(write=False)
            reading = measure.read(replace(sample.picture, rgb=frozen, doubts=("blurred",)), marks)
            self.assertEqual((reading.method, reading.unit), (f"{measure.name}/{measure.version}", measure.unit))
            self.assertEqual(reading.doubts[0], "blurred")
            self.assertLessEqual(set(measure.parts) - measure.sometimes, set(reading.parts))
            self.assertGreaterEqual(reading.uncertainty, 0)
            self.assertLessEqual(measure.sometimes, set(measure.parts))
            self.assertLessEqual(measure.most_px, MOST_PX)

    def test_every_number_has_a_declared_unit_and_only_what_is_exact_claims_no_uncertainty(self):
        for measure, sample, marks in self.each():
            reading = measure.read(sample.picture, marks)
            numbers = {name for name in reading.parts if not name.endswith("_uncertainty")}
            declared = {name for name, unit in measure.units.items() if Unit(unit)}
            self.assertLessEqual(numbers, declared)
            for name in numbers & set(measure.parts):
                unsure = reading.parts.get(f"{name}_uncertainty")
                self.assertIsNotNone(unsure, name)
                self.assertTrue(unsure > 0 or Unit(measure.parts[name]).is_exact, name)
            if measure.comparing is None:
                continue
            units = {Unit(unit) for unit in measure.comparing.parts.values()}
            self.assertLessEqual(measure.comparing.magnitudes, set(measure.comparing.parts))
            continuous = {name for name, unit in measure.comparing.parts.items() if unit != Unit.COUNT}
            self.assertEqual(set(measure.comparing.floors), continuous, units)
            self.assertEqual(set(measure.comparing.typical), set(measure.comparing.magnitudes))

    def test_at_another_scale_values_and_uncertainties_follow_their_units(self):
        """JCGM 100:2008, 5.1.2: a number that goes with a length's power k carries k times the scale's uncertainty."""
        for measure, sample, marks in self.each():
            if measure.name in SIZED:
                continue
            rgb, read = Picture(sample.picture.rgb, light=sample.picture.light), {}
            for step, unsure in ((0.1, 0.0), (0.1, 0.02), (0.103, 0.0)):
                how = {"units": measure.units, "most_px": measure.most_px}
                plane = scaled(step, unsure, "stand")
                read[step, unsure] = measure_region(measure.read, rgb, plane, marks, **how)
            sure, unsure, larger = read.values()
            for name, unit in {"": measure.unit, **measure.parts}.items():
                (one, u), (_, wider), (other, _) = (_number(reading, name) for reading in (sure, unsure, larger))
                if one is None or other is None:
                    continue
                power = Unit(unit).length_power
                self.assertAlmostEqual(wider, float(np.hypot(u, power * one * 0.02)), places=6, msg=name)
                off = abs(other - one * 1.03**power)
                self.assertLessEqual(off, 2 * u + 0.02 * abs(one), name)

    def test_light_mirror_and_turning_do_not_change_a_count(self):
        for measure, sample, marks in self.each(COUNTING):
            rgb = sample.picture.rgb
            width = rgb.shape[1]
            mirrored = [(width - 1 - x, y) for x, y in marks.points]
            turned = [(y, width - 1 - x) for x, y in marks.points]
            for changed, points in (
                ((rgb * 0.7).astype(np.uint8), marks.points),
                (np.ascontiguousarray(rgb[:, ::-1]), mirrored),
                (np.ascontiguousarray(np.rot90(rgb)), turned),
            ):
                reading = measure.read(replace(sample.picture, rgb=changed), Marks(measure.marks, tuple(points)))
                self.assertEqual(reading.value, sample.count)

    def test_whatever_is_drawn_on_whatever_it_reads_or_refuses_for_a_reason_it_lists(self):
        rng = np.random.default_rng(12)
        plain = [np.full((60, 80, 3), tone, np.uint8) for tone in (0, 120, 255)]
        for measure, sample, marks in self.each():
            for n in range(12):
                rgb = sample.picture.rgb if n % 4 else plain[n // 4 % 3]
                size = np.array(rgb.shape[1::-1])
                # Now the sample's own marks drawn small or astray, now any places at all.
                points = np.array(marks.points) * rng.uniform(0.02, 1) + rng.uniform(-0.2, 0.2) * size
                if n % 3 == 0:
                    points = rng.uniform(0, size, (rng.integers(2, 7), 2))
                drawn = Marks(measure.marks, tuple(map(tuple, points.clip(0, size - 1).tolist())))
                try:
                    found = measure.read(Picture(rgb, (None, 0.05, 0.4)[n % 3]), drawn)
                except CannotMeasure as refusal:
                    self.assertIn(refusal.reason, measure.reasons)
                else:
                    numbers = [found.uncertainty, *found.parts.values()]
                    self.assertTrue(np.isfinite(numbers).all())

    def test_without_a_scale_it_counts_and_gives_no_millimetres(self):
        for measure, sample, marks in self.each():
            try:
                reading = measure.read(Picture(sample.picture.rgb), marks)
            except CannotMeasure as refusal:
                self.assertTrue(refusal.reason.endswith("needs_scale"))
                continue
            self.assertNotEqual(reading.unit, "mm")
            if measure.name in COUNTING:
                self.assertEqual(reading.value, sample.count)
            self.assertFalse([name for name in reading.parts if "_mm" in name])

    def test_what_it_keeps_for_comparing_is_like_itself_and_like_its_mirror_image_mirrored(self):
        for measure, sample, marks in self.each([name for name in MEASURES if MEASURES[name].comparing]):
            entry = measure.comparing
            kept = measure.read(sample.picture, marks).descriptor
            self.assertEqual(kept.kind, entry.kind)
            kept = replace(kept, lamp="365f", unit="mm", points=kept.points * 0.1, marks=kept.marks * 0.1)
            kept = replace(kept, image_step=0.1, image_at=tuple(0.1 * n for n in kept.image_at))
            for theirs in (kept, entry.mirrored(entry.mirrored(kept))):
                same = entry.compare(theirs, kept)
                self.assertLessEqual(set(entry.parts) - entry.sometimes, set(same.parts))
                for name in set(entry.parts) & set(same.parts):
                    self.assertAlmostEqual(same.parts[name], 0, delta=0.02)

    def test_a_double_click_anywhere_gives_a_number_or_a_reason(self):
        paths = [name for name, measure in MEASURES.items() if measure.marks is MarkKind.PATH]
        for measure, sample, marks in self.each(paths):
            for n in range(len(marks.points)):
                doubled = (*marks.points[: n + 1], *marks.points[n:])
                with suppress(CannotMeasure):
                    found = measure.read(sample.picture, Marks(MarkKind.PATH, doubled))
                    self.assertTrue(np.isfinite(found.value))

    def test_what_has_no_points_is_put_right_by_its_marks(self):
        for measure, sample, marks in self.each(set(MEASURES) - set(COUNTING)):
            with self.assertRaises(CannotMeasure) as caught:
                measure.read_again(sample.picture, marks, [])
            self.assertEqual(caught.exception.reason, "move_the_region")

    def test_its_own_marks_given_back_make_the_same_count(self):
        for measure, sample, marks in self.each(COUNTING):
            picture = sample.picture
            reading = measure.read(picture, marks)
            centres = [tuple(np.mean(stroke.points, axis=0)) for stroke in reading.overlay]
            again = measure.read_again(picture, marks, centres)
            self.assertEqual(again.value, reading.value)
            # Centres say nothing of a stitch's length or a second row.
            for name in sorted(set(measure.parts) & set(again.parts)):
                self.assertAlmostEqual(again.parts[name], reading.parts[name], delta=0.05 * reading.parts[name] + 0.02)

"""Stitch counts on drawn rows and on simulated ones."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from skimage import data

from assay.contracts import CORRECTED_BY_HAND, MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.measure import seam
from assay.simulator.swatch import seam_swatch
from assay.stitches.shape import tightest_bend
from tests.assay.measure.pictures import dashes
from tests.bench import drawn_rows


class CountingStitches(SimpleTestCase):
    def test_drawn_dashes_are_counted_exactly_and_their_pitch_found(self):
        """Fence posts: N dashes of pitch p, duty .7, blur 1.2 px, noise 8; count exact, pitch within .5 %."""
        for count, pitch in ((24, 20.0), (37, 13.7), (10, 33.3)):
            reading = seam.measure(*dashes(count, pitch))
            self.assertEqual(reading.value, count)
            self.assertAlmostEqual(reading.parts["pitch_px"], pitch, delta=0.005 * pitch)
            self.assertAlmostEqual(reading.parts["pitch_mm"], 0.1 * reading.parts["pitch_px"])

    def test_the_count_does_not_turn_with_the_row(self):
        self.assertEqual(seam.measure(*dashes(20, 18.0, slant=0.5)).value, 20)

    def test_simulated_rows_on_leather_are_counted(self):
        for seed in range(6):
            swatch = seam_swatch("easy", seed)
            marks = Marks(MarkKind.PATH, tuple(map(tuple, swatch.marks)))
            reading = seam.measure(Picture(swatch.rgb, swatch.mm_per_px), marks)
            self.assertEqual(reading.value, len(swatch.centres))
            self.assertAlmostEqual(reading.parts["pitch_mm"], swatch.pitch_mm, delta=0.02)

    def test_every_stitch_has_its_tick_on_the_photo(self):
        picture, marks = dashes(12, 22.0)
        reading = seam.measure(picture, marks)
        middles = [np.mean(stroke.points, axis=0) for stroke in reading.overlay]
        wanted = 40 + 22 * np.arange(12) + 7.5
        np.testing.assert_allclose([x for x, _ in middles], wanted, atol=3)
        self.assertEqual([stroke.label for stroke in reading.overlay], [str(n) for n in range(1, 13)])

    def test_a_second_row_is_found_with_its_distance_and_a_bars_two_needle_lines_are_none(self):
        for seed in (1, 7, 27, 39):
            found, picture = drawn("realistic", seed)
            self.assertEqual(found.parts["rows"], 2)
            self.assertAlmostEqual(found.parts["row_gap_mm"], picture.apart_mm, delta=0.1)
        for seed in (1, 2, 6, 7, 10, 16):
            found, picture = drawn("easy", seed)
            self.assertIn("bars", picture.about)
            self.assertEqual(found.parts["rows"], 1)

    def test_bars_lean_as_drawn_and_running_stitches_are_as_long(self):
        for seed in (1, 2, 6, 7, 10, 16):
            found, picture = drawn("easy", seed)
            self.assertAlmostEqual(found.parts["slant_deg"], picture.slant_deg, delta=2)
            off = found.parts["stitch_mm"] - picture.stitch_mm
            self.assertLess(abs(off), 2 * found.parts["stitch_mm_uncertainty"])
        # Pits, a row beside and a panel's bricks once passed for a lean of 100 degrees where 70 were drawn.
        for level, seed in (("realistic", 398), ("hard", 352), ("realistic", 327), ("realistic", 408), ("hard", 347)):
            found, picture = drawn(level, seed)
            self.assertAlmostEqual(found.parts.get("slant_deg", picture.slant_deg), picture.slant_deg, delta=5)
        for seed in (3, 4, 5, 11, 14, 15):
            found, picture = drawn("easy", seed)
            self.assertAlmostEqual(found.parts["stitch_mm"], picture.stitch_mm, delta=0.25)
            self.assertNotIn("slant_deg", found.parts)

    def test_neither_gaps_nor_every_second_stitch_nor_the_row_beside_are_counted(self):
        """Long dark threads that nearly touch, bars lit from one side, thread of the panel's own colour, two rows."""
        for level, seed in (
            ("easy", 24),
            ("easy", 108),
            ("easy", 147),
            ("hard", 40),
            ("realistic", 8),
            ("realistic", 80),
        ):
            found, picture = drawn(level, seed)
            self.assertEqual(found.value, len(picture.centres), (level, seed))

    def test_a_path_drawn_on_past_the_rows_ends_adds_no_stitch(self):
        rows = [("realistic", seed, 0.6) for seed in (3, 4, 16, 23, 26, 34, 40)]
        # As carried marks lie: there is room for a whole stitch, but none to be seen.
        rows += [("easy", seed, 0.9) for seed in (203, 210, 214, 221)]
        for level, seed, past in rows:
            picture = drawn_rows.row(level, seed)
            ends = picture.marks[[0, -1]] - picture.marks[[1, -2]]
            ends *= past * picture.pitch_mm / drawn_rows.MM_PER_PX / np.hypot(*ends.T)[:, None]
            path = np.vstack([picture.marks[0] + ends[0], picture.marks, picture.marks[-1] + ends[1]])
            self.assertEqual(counted(picture, path).value, len(picture.centres), seed)

    def test_a_rounded_corner_has_its_radius_and_an_angled_one_less_than_a_pitch(self):
        """Places of stitches on two straight legs and an arc between them: nothing but geometry."""
        for radius in (8.0, 20.0):
            turn = np.linspace(0, np.pi / 2, round(radius * np.pi / 2 / 2) + 1)
            arc = radius * np.stack([np.sin(turn), 1 - np.cos(turn)], 1)
            legs = [np.stack([np.arange(-12, 0, 2.0), np.zeros(6)], 1), arc[-1] + [[0, 2.0 * n] for n in range(1, 7)]]
            found, off, _ = tightest_bend(np.vstack([legs[0], arc, legs[1]]) / 0.1, 0.1)
            self.assertAlmostEqual(found, radius, delta=max(off, 0.03 * radius))
        corner = [[n, 0] for n in range(0, 11, 2)] + [[10, n] for n in range(2, 11, 2)]
        self.assertLess(tightest_bend(np.array(corner, float), 1.0)[0], 4)
        self.assertIsNone(tightest_bend(np.array([[n, 0.01 * n] for n in range(12)], float), 1.0))

    def test_a_row_that_goes_on_past_the_path_is_doubted_and_unsure(self):
        picture, marks = dashes(20, 18.0)
        (x0, y0), (x1, y1) = marks.points
        found = seam.measure(picture, Marks(MarkKind.PATH, ((x0, y0), (x1 - 5 * 18, y1))))
        self.assertEqual((found.value, found.parts["before"]), (15, 0))
        self.assertGreaterEqual(found.parts["behind"], 1)
        self.assertIn("row_goes_on", found.doubts)
        self.assertGreaterEqual(found.uncertainty, seam.UNSURE)

    def test_where_the_count_is_unsure_the_spacing_is_no_surer(self):
        picture, marks = dashes(20, 18.0)
        picture = replace(picture, mm_per_px=0.1)
        (x0, y0), (x1, y1) = marks.points
        off = [
            seam.measure(picture, Marks(MarkKind.PATH, ((x0, y0), (x1 - cut, y1)))).parts["pitch_mm_uncertainty"]
            for cut in (0, 5 * 18)
        ]
        self.assertLess(off[0], 0.01)
        self.assertGreater(off[1], 1.8 * seam.UNSURE / 15 * 0.99, "a stitch more or less on the same length")

    def test_a_path_from_one_row_into_another_of_other_spacing_is_doubted(self):
        one, _ = dashes(12, 20.0)
        other, _ = dashes(14, 14.0, seed=5)
        rgb = np.hstack([one.rgb[:, :280], other.rgb[:, 40:240]])
        try:
            found = seam.measure(Picture(rgb, 0.1), Marks(MarkKind.PATH, ((38, 45), (472, 45))))
        except CannotMeasure as refusal:
            self.assertEqual(refusal.reason, "no_row_found")
        else:
            self.assertTrue({"pitch_changes", "row_ends_early", "gap_in_row"} & set(found.doubts))

    def test_a_second_thread_across_a_stitch_is_doubted_where_it_lies_and_a_plain_row_hardly_ever(self):
        told, plain = [], []
        for seed in range(2000, 2010):
            for kept, crossed in ((told, True), (plain, False)):
                picture = drawn_rows.row("easy", seed, crossed=crossed)
                found = counted(Picture(picture.rgb, drawn_rows.MM_PER_PX), picture.marks)
                lines = [np.mean(one.points, axis=0) for one in found.overlay if one.label == "cross"]
                kept.append("crossed_stitch" in found.doubts)
                there = picture.centres[list(picture.crosswise)] if crossed else np.zeros((0, 2))
                for line in lines:
                    self.assertLess(np.hypot(*(there - line).T).min(initial=99.0), 5, f"not where it lies, {seed}")
        self.assertGreaterEqual(sum(told), 4)
        self.assertEqual(sum(plain), 0)


def drawn(level, seed):
    picture = drawn_rows.row(level, seed)
    return counted(picture, picture.marks), picture


def counted(picture, path):
    return seam.measure(Picture(picture.rgb, drawn_rows.MM_PER_PX), Marks(MarkKind.PATH, tuple(map(tuple, path))))


class Refusing(SimpleTestCase):
    def refuse(self, picture, points, reason):
        with self.assertRaises(CannotMeasure) as caught:
            seam.measure(picture, Marks(MarkKind.PATH, points))
        self.assertEqual(caught.exception.reason, reason)

    def test_bad_paths_are_refused_with_their_reason(self):
        picture, _ = dashes(10, 20.0)
        self.refuse(picture, ((50, 45),), "path_too_short")
        self.refuse(picture, ((50, 45), (50, 45)), "path_too_short")
        self.refuse(picture, ((50, 45), (9000, 45)), "marks_off_picture")
        self.refuse(picture, ((50, 45), (float("nan"), 45)), "marks_off_picture")

    def test_plain_panel_has_no_row(self):
        rng = np.random.default_rng(0)
        for flat in (np.full((90, 500, 3), 128), rng.normal(128, 8, (90, 500, 3)).clip(0, 255)):
            self.refuse(Picture(flat.astype(np.uint8)), ((40, 45), (460, 45)), "no_row_found")

    def test_real_photographs_without_a_row_are_not_counted(self):
        """Grass, gravel, a cup of coffee (scikit-image): paths across them hold no row of stitches."""
        rng = np.random.default_rng(7)
        for name in ("grass", "gravel", "coffee"):
            image = getattr(data, name)()
            picture = Picture(np.repeat(image[..., None], 3, 2) if image.ndim == 2 else np.ascontiguousarray(image))
            for _ in range(4):
                ends = rng.uniform(0.1, 0.9, (2, 2)) * picture.size
                self.refuse(picture, tuple(map(tuple, ends)), "no_row_found")

    def test_what_hardly_repeats_is_unsure_and_says_so(self):
        """Plain simulated leather beside rows: whatever passes for a row there must not be a sure number."""
        for seed in range(8):
            swatch = seam_swatch("easy", seed)
            try:
                path = Marks(MarkKind.PATH, ((10, 40), (130, 44)))
                found = seam.measure(Picture(swatch.rgb, swatch.mm_per_px), path)
            except CannotMeasure:
                continue
            self.assertIn("weak_row", found.doubts)
            self.assertGreaterEqual(found.uncertainty, 0.5)

    def test_too_few_pixels_a_stitch_are_not_guessed(self):
        x = np.arange(500)
        stripes = (128 + 60 * np.sign(np.sin(2 * np.pi * x / 2.25))).astype(np.uint8)
        image = np.repeat(np.repeat(stripes[None, :, None], 90, 0), 3, 2)
        with self.assertRaises(CannotMeasure) as caught:
            seam.measure(Picture(image), Marks(MarkKind.PATH, ((40, 45), (460, 45))))
        self.assertIn(caught.exception.reason, ("too_few_pixels", "no_row_found"))


class Correcting(SimpleTestCase):
    def test_points_put_right_by_hand_are_counted_along_the_path_and_marked_so(self):
        picture, marks = dashes(10, 20.0)
        reading = seam.rebuild(picture, marks, [(127, 45), (47, 45), (67, 46), (87, 45)])
        self.assertEqual((reading.value, reading.doubts, reading.uncertainty), (4, (CORRECTED_BY_HAND,), 0))
        self.assertLess(reading.overlay[0].points[0][0], reading.overlay[-1].points[0][0])
        self.assertAlmostEqual(reading.parts["pitch_px"], 20, delta=0.3)
        with self.assertRaises(CannotMeasure):
            seam.rebuild(picture, marks, [])

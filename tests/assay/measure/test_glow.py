"""What glows under the lamp, on pictures drawn here: forms told apart, what retail shows as well, what is no glow."""

from dataclasses import replace

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.compare import glow as compared
from assay.contracts import MarkKind, Marks
from assay.errors import CannotJudge, CannotMeasure
from assay.exposure import seconds_allowed
from assay.imaging.colour import linear_to_srgb, srgb_to_linear
from assay.measure import glow
from assay.measure.sample import FINE, canvas, disc, exposed
from tests.bench import drawn_glow
from tests.bench.glow import _one as scored

WHOLE = ((8.0, 8.0), (391.0, 8.0), (391.0, 291.0), (8.0, 291.0))
DIM, BRIGHT = (40, 30, 92), (150, 170, 205)
LAMP = "365f"


def dark() -> np.ndarray:
    return canvas(400, 300, DIM)


def line(drawing, *points, wide=5):
    cv2.polylines(drawing, [np.array(points) * FINE], isClosed=False, color=BRIGHT, thickness=wide * FINE)


def read(drawing, light=1.0):
    picture = exposed(np.clip(drawing * light, 0, 255), 0.2, WHOLE).picture
    found = glow.MEASURE.read(picture, Marks(MarkKind.REGION, WHOLE))
    return replace(found, descriptor=replace(found.descriptor, lamp=LAMP))


class Glowing(SimpleTestCase):
    def test_a_line_broken_in_three_is_one_and_ring_dot_and_figures_are_stamps(self):
        drawing = dark()
        for start in (40, 130, 230):
            line(drawing, (start, 240), (start + 70, 244))
        cv2.circle(drawing, (300 * FINE, 90 * FINE), 26 * FINE, BRIGHT, 5 * FINE)
        disc(drawing, (80, 80), 16, BRIGHT)
        figures = cv2.putText(np.zeros(drawing.shape[:2], np.uint8), "4 8 0", (600, 520), 0, 3.6, 255, 4 * FINE)
        drawing[figures > 0] = BRIGHT
        found = read(drawing)
        self.assertEqual((found.parts["lines"], found.parts["stamps"], found.value), (1, 3, 4))
        # Three dashes of 14 mm, with their round ends 15.
        self.assertAlmostEqual(found.parts["lines_mm"], 45, delta=2)

    def test_lint_is_left_out_and_a_light_panel_or_the_lamps_bright_middle_is_no_glow(self):
        drawing = dark()
        light = np.ones(drawing.shape[:2])
        light[:, 800:] = 2.0
        y, x = np.mgrid[: drawing.shape[0], : drawing.shape[1]]
        light *= 1 + np.exp(-((x - 900) ** 2 + (y - 700) ** 2) / 4e5)
        drawing = linear_to_srgb(srgb_to_linear(drawing) * light[..., None]).astype(np.float32)
        for at in ((60, 60), (200, 220), (330, 140)):
            line(drawing, at, (at[0] + 7, at[1] + 5), (at[0] + 5, at[1] + 12), wide=1)
        found = read(drawing)
        self.assertEqual((found.value, found.parts["smears"], found.parts["panels"]), (0, 0, 0))
        self.assertGreater(found.parts["lint"], 0)

    def test_a_panel_that_glows_faintly_is_a_panel_and_its_edge_is_no_line(self):
        """Told by its tint: it is little brighter. Once: a guide line, surely, and no panel."""
        drawing = dark()
        drawing[:, 800:] = (58, 62, 112)
        found = read(drawing)
        self.assertEqual((found.parts["panels"], found.parts["lines"]), (1, 0))
        # What is drawn on it may be no brighter than it is.
        self.assertGreaterEqual(found.parts["lines_uncertainty"], 0.5)

    def test_a_frayed_smear_along_an_edge_is_no_line(self):
        drawing = dark()
        mask = np.zeros(drawing.shape[:2], np.uint8)
        rng = np.random.default_rng(5)
        for x in range(200, 1000, 18):
            cv2.circle(mask, (x, int(700 + rng.normal(0, 22))), int(rng.uniform(8, 26)), 255, -1)
        drawing[mask > 0] = BRIGHT
        found = read(drawing)
        self.assertTrue(found.parts["lines"] == 0 or found.parts["lines_uncertainty"] >= 0.5, dict(found.parts))

    def test_two_lines_end_to_end_and_two_figures_without_loops_are_never_told_surely_as_one_and_none(self):
        drawing = dark()
        line(drawing, (30, 150), (190, 160))
        line(drawing, (215, 160), (370, 130))
        found = read(drawing)
        self.assertTrue(found.parts["lines"] == 2 or found.parts["lines_uncertainty"] >= 0.5, dict(found.parts))
        drawing = dark()
        figures = cv2.putText(np.zeros(drawing.shape[:2], np.uint8), "1 7", (600, 520), 0, 2.4, 255, 3 * FINE)
        drawing[figures > 0] = BRIGHT
        found = read(drawing)
        self.assertTrue(found.parts["stamps"] == 1 or found.parts["stamps_uncertainty"] >= 0.5, dict(found.parts))

    def test_what_glows_on_retail_as_well_is_expected_and_only_what_lies_beyond_is_told(self):
        theirs, ours = dark(), dark()
        for drawing in (theirs, ours):
            cv2.rectangle(drawing, (60 * FINE, 220 * FINE), (200 * FINE, 250 * FINE), BRIGHT, -1)
        line(ours, (60, 60), (180, 70), (330, 60))
        one, other = read(theirs).descriptor, read(ours).descriptor
        found = compared.compare(one, other).parts
        self.assertEqual((found["drawn_beyond"], found["lines_beyond"], found["smears_beyond"]), (1, 1, 0))
        self.assertEqual(compared.compare(other, one).parts["drawn_beyond"], 0)

    def test_only_photographs_under_one_known_lamp_are_compared(self):
        one = read(dark()).descriptor
        for lamp in ("395", ""):
            with self.assertRaisesMessage(CannotJudge, "other_lamp"):
                compared.compare(replace(one, lamp=lamp), one)

    def test_daylight_and_burnt_out_pictures_are_refused_and_a_bright_veil_is_doubted(self):
        with self.assertRaisesMessage(CannotMeasure, "not_ultraviolet"):
            read(canvas(400, 300, (150, 148, 140)))
        drawing = dark()
        drawing[200:700, 200:900] = 255
        with self.assertRaisesMessage(CannotMeasure, "glow_burnt_out"):
            read(drawing)
        self.assertIn("purple_veil", read(canvas(400, 300, (90, 60, 190))).doubts)

    def test_a_storm_of_lint_is_doubted(self):
        drawing, rng = dark(), np.random.default_rng(4)
        for x, y, way in rng.uniform((20, 20, 0), (380, 280, 6.3), (160, 3)):
            line(drawing, (int(x), int(y)), (int(x + 6 * np.cos(way)), int(y + 6 * np.sin(way))), wide=2)
        self.assertIn("lint_storm", read(drawing).doubts)

    def test_on_a_few_pictures_of_the_bench_most_is_found_and_clean_ones_stay_clean(self):
        table = sum(scored(("realistic", seed, False))[0] for seed in range(4))
        hit, false, missed = table.sum(0)
        self.assertGreater(2 * hit / (2 * hit + false + missed), 0.7)
        self.assertFalse(any(scored(("easy", seed, True))[0][:, 1].sum() for seed in range(3)))
        self.assertEqual(set(drawn_glow.LOOKS), {"easy", "realistic", "hard"})


class Exposure(SimpleTestCase):
    def test_the_published_limit_is_ten_thousand_joules_a_square_metre(self):
        """ICNIRP 2004, Health Phys. 87(2), 171 to 186: t = 10^4 / E; 1, 5, 10, 50, 100 W/m2."""
        for irradiance, seconds in ((1, 10_000), (5, 2_000), (10, 1_000), (50, 200), (100, 100)):
            self.assertAlmostEqual(seconds_allowed(irradiance), seconds)
        self.assertEqual(seconds_allowed(0.01), 8 * 3600)

    def test_what_is_no_irradiance_is_refused(self):
        for given in (0, -1, float("nan"), float("inf")):
            with self.assertRaisesMessage(CannotMeasure, "bad_irradiance"):
                seconds_allowed(given)

"""Print measured: bars of exact size, a simulated label, and what is refused."""

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.imaging.colour import linear_to_srgb
from assay.measure import lettering

SIZE = (420, 160)


def bars(wide=4.0, high=30.0, step=14.0, count=12, turn=0.0, ink=0.08, blur=0.9):
    """Upright bars, exact to a fraction of a pixel: drawn sixteen times finer, in linear light."""
    fine = 16
    sheet = np.ones((SIZE[1] * fine, SIZE[0] * fine), np.float32)
    for n in range(count):
        x, y = (60 + n * step) * fine, 60 * fine
        sheet[round(y) : round(y + high * fine), round(x) : round(x + wide * fine)] = ink
    middle = (SIZE[0] * fine / 2, SIZE[1] * fine / 2)
    turned = cv2.warpAffine(sheet, cv2.getRotationMatrix2D(middle, turn, 1), sheet.shape[::-1], borderValue=1)
    light = cv2.GaussianBlur(cv2.resize(turned, SIZE, interpolation=cv2.INTER_AREA), (0, 0), blur) * 0.75
    return np.repeat(np.round(linear_to_srgb(light)).astype(np.uint8)[..., None], 3, axis=2)


def read(rgb, mm_per_px=0.1, box=(40, 40, 380, 120)):
    x0, y0, x1, y1 = box
    region = Marks(MarkKind.REGION, ((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    return lettering.measure(Picture(rgb, mm_per_px), region)


class Lettering(SimpleTestCase):
    def test_bars_are_as_wide_as_high_and_as_far_apart_as_they_were_drawn(self):
        """Analytic: 4.0 px wide, 30.0 px high, 14.0 px apart, level and leaning."""
        for turn in (0.0, 2.5, -4.0):
            found = read(bars(turn=turn))
            self.assertEqual(found.parts["letters"], 12)
            self.assertAlmostEqual(found.parts["stroke_mm"], 0.40, delta=0.012)
            self.assertAlmostEqual(found.parts["height_mm"], 3.0, delta=0.03)
            self.assertAlmostEqual(found.parts["pitch_mm"], 1.4, delta=0.004)
            self.assertAlmostEqual(found.parts["gap_mm"], 1.0, delta=0.02)
            self.assertAlmostEqual(found.parts["tilt_deg"], -turn, delta=0.2)

    def test_a_tenth_more_ink_is_seen(self):
        thin, bold = (read(bars(wide=wide)).parts["stroke_mm"] for wide in (4.0, 4.4))
        self.assertAlmostEqual(bold / thin, 1.1, delta=0.02)

    def test_ratios_need_no_scale_and_lengths_do(self):
        found = read(bars(), mm_per_px=None)
        self.assertEqual(found.unit, "px")
        self.assertNotIn("stroke_mm", found.parts)
        self.assertAlmostEqual(found.parts["stroke_ratio"], 4 / 30, delta=0.006)

    def test_what_the_region_cuts_is_no_letter(self):
        self.assertEqual(read(bars(), box=(62, 40, 380, 120)).parts["letters"], 11)

    def test_bare_paper_faint_print_and_hair_lines_are_refused(self):
        for rgb, reason in (
            (np.full((160, 420, 3), 210, np.uint8), "no_print_found"),
            (bars(ink=0.9), "no_print_found"),
            (bars(wide=0.9, blur=0.5), "print_too_small"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                read(rgb)
            self.assertEqual(caught.exception.reason, reason)

    def test_letters_that_run_together_raise_a_doubt(self):
        joined = bars()
        joined[60:90, 60:120] = joined[75, 62]
        self.assertIn("letters_touch", read(joined).doubts)
        self.assertNotIn("letters_touch", read(bars()).doubts)

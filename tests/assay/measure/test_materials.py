"""Materials on drawn pictures and on open photographs: colour, contrast, texture, weave, nap, sheen, specks, cover."""

from dataclasses import replace

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data
from skimage.color import rgb2lab

from assay.compare import texture as texture_compare
from assay.compare import tone as tone_compare
from assay.contracts import Light, MarkKind, Marks, Picture
from assay.errors import CannotJudge, CannotMeasure
from assay.imaging.plane import scaled
from assay.imaging.region import measure_region
from assay.measure import colour, contrast, coverage, nap, sheen, speckle, texture, weave
from assay.measure.sample import bar, canvas, disc, exposed
from assay.simulator.shading import lamp_colour

WHOLE = ((10.0, 10.0), (190.0, 10.0), (190.0, 150.0), (10.0, 150.0))


def flat(rgb, light=Light.CARD, mm_per_px=0.1):
    return exposed(canvas(200, 160, rgb), mm_per_px, WHOLE, light=light).picture


def region(points=WHOLE):
    return Marks(MarkKind.REGION, tuple(map(tuple, points)))


class Tones(SimpleTestCase):
    def test_a_region_of_one_srgb_colour_reads_as_that_colours_lab(self):
        """Against scikit-image's conversion (IEC 61966-2-1 to CIELAB, D65)."""
        for rgb in ((180, 60, 50), (64, 110, 118), (226, 222, 214)):
            found = colour.measure(flat(rgb), region())
            lab = rgb2lab(np.array([[rgb]], np.uint8))[0, 0]
            np.testing.assert_allclose([found.value, found.parts["a"], found.parts["b"]], lab, atol=0.4)

    def test_two_colours_are_as_far_apart_as_ciede2000_says_and_the_way_has_a_sign(self):
        """Sharma, Wu & Dalal, Color Res. Appl. 30(1), 2005, pair 1: 2.0425."""
        one = colour.MEASURE.read(flat((90, 90, 90)), region()).descriptor
        theirs = replace(one, values=np.array([[50.0, 2.6772, -79.7751, 0.1]]))
        ours = replace(one, values=np.array([[50.0, 0.0, -82.7485, 0.1]]))
        found = tone_compare.compare(theirs, ours).parts
        self.assertAlmostEqual(found["apart_dE00"], 2.0425, places=3)
        self.assertLess(found["redder"], 0)

    def test_colours_of_a_light_that_nobody_knows_are_not_compared(self):
        known, unknown = (
            colour.MEASURE.read(flat((90, 110, 90), light), region()) for light in (Light.CARD, Light.NONE)
        )
        with self.assertRaisesMessage(CannotJudge, "no_true_colour"):
            tone_compare.compare(known.descriptor, unknown.descriptor)

    def test_two_lamps_of_different_colour_are_doubted_and_one_lamp_that_falls_off_is_not(self):
        ramp = np.linspace(0, 1, 800)[None, :, None]
        warm = np.array(lamp_colour(3000)) ** (1 / 2.2)
        two, one = (canvas(200, 160, (120, 120, 112)) * light for light in (1 + ramp * (warm - 1), 1 - 0.3 * ramp))
        two, one = (colour.measure(exposed(np.clip(seen, 0, 255), 0.1, WHOLE).picture, region()) for seen in (two, one))
        self.assertIn("mixed_light", two.doubts)
        self.assertNotIn("mixed_light", one.doubts)
        self.assertGreater(two.uncertainty, 5 * one.uncertainty)

    def test_two_panels_differ_whatever_the_light_and_one_panel_twice_does_not(self):
        drawing = canvas(200, 160, (226, 222, 214))
        bar(drawing, (100, 0, 200, 160), (64, 110, 118))
        dim = np.clip(drawing * 0.8, 0, 255)
        places = Marks(MarkKind.PLACES, ((50.0, 80.0), (150.0, 80.0)))
        bright, dark = (contrast.measure(exposed(one, 0.1, WHOLE).picture, places) for one in (drawing, dim))
        self.assertGreater(bright.value, 30)
        self.assertGreater(bright.parts["lighter"], 30)
        self.assertLess(abs(bright.value - dark.value), 2 * np.hypot(bright.uncertainty, dark.uncertainty))
        same = contrast.measure(exposed(drawing, 0.1, WHOLE).picture, Marks(MarkKind.PLACES, ((30, 80), (70, 80))))
        self.assertLess(same.value, 1)


class Textures(SimpleTestCase):
    def test_quadrants_of_brick_grass_and_gravel_find_their_own_kind(self):
        """Open photographs of scikit-image: every quadrant's nearest other one is of its own picture."""
        kept = []
        for name in ("brick", "grass", "gravel"):
            whole = cv2.cvtColor(getattr(data, name)(), cv2.COLOR_GRAY2RGB)
            for y in (0, 256):
                for x in (0, 256):
                    rgb = np.ascontiguousarray(whole[y : y + 256, x : x + 256])
                    marks = region(((3, 3), (252, 3), (252, 252), (3, 252)))
                    found = measure_region(
                        texture.MEASURE.read,
                        Picture(rgb, 0.1),
                        scaled(0.1, 0.003, "card"),
                        marks,
                        units=texture.MEASURE.units,
                    )
                    kept.append((name, found.descriptor))
        for n, (name, one) in enumerate(kept):
            away = [
                (texture_compare.compare(other, one).parts["distance"], kind)
                for m, (kind, other) in enumerate(kept)
                if m != n
            ]
            self.assertEqual(min(away)[1], name)

    def test_texture_is_blind_to_tone_and_exposure(self):
        sample = texture.MEASURE.sample()
        dim = replace(sample.picture, rgb=np.round(sample.picture.rgb * 0.75).astype(np.uint8))
        one, other = (
            measure_region(
                texture.MEASURE.read,
                p,
                scaled(0.1, 0.003, "card"),
                sample.marks(MarkKind.REGION),
                units=texture.MEASURE.units,
            ).descriptor
            for p in (sample.picture, dim)
        )
        self.assertLess(texture_compare.compare(one, other).parts["distance"], 0.5)

    def test_sinusoids_of_twelve_and_eighteen_pixels_have_those_periods(self):
        """Fabric count by its definition (ISO 7211-2): two waves of known period; the plain transform's bin is off by
        up to half of itself at 480 px."""
        y, x = np.mgrid[:480, :480]
        wave = 130 + 25 * np.cos(2 * np.pi * x / 12) + 40 * np.cos(2 * np.pi * y / 18)
        picture = Picture(np.repeat(wave.astype(np.uint8)[..., None], 3, 2), 0.1)
        found = weave.measure(picture, region(((2, 2), (477, 2), (477, 477), (2, 477))))
        self.assertAlmostEqual(found.parts["pitch_mm"], 1.8, delta=0.003)
        self.assertAlmostEqual(found.parts["cross_mm"], 1.2, delta=0.003)
        self.assertAlmostEqual(found.parts["angle_deg"], 90, delta=0.5)

    def test_where_every_second_thread_looks_different_the_count_is_doubted(self):
        _, x = np.mgrid[:300, :300]
        threads = 40 * np.cos(2 * np.pi * x / 10) + 14 * np.cos(2 * np.pi * x / 20)
        picture = Picture(np.repeat((130 + threads).astype(np.uint8)[..., None], 3, 2), 0.1)
        found = weave.measure(picture, region(((2, 2), (297, 2), (297, 297), (2, 297))))
        self.assertAlmostEqual(found.value, 1.0, delta=0.01)
        self.assertIn("every_second_thread", found.doubts)
        self.assertGreaterEqual(found.uncertainty, 0.5 * found.value)

    def test_noise_has_no_period(self):
        rng = np.random.default_rng(8)
        picture = Picture(np.clip(rng.normal(128, 12, (200, 200, 3)), 0, 255).astype(np.uint8), 0.1)
        with self.assertRaisesMessage(CannotMeasure, "no_period_found"):
            weave.measure(picture, region(((5, 5), (195, 5), (195, 195), (5, 195))))


class Surfaces(SimpleTestCase):
    def test_hair_lies_the_way_it_was_drawn(self):
        sample = nap.MEASURE.sample()
        found = nap.measure(sample.picture, sample.marks(MarkKind.REGION))
        self.assertAlmostEqual(found.parts["direction_deg"], 0, delta=5)
        turned = replace(sample.picture, rgb=np.ascontiguousarray(np.rot90(sample.picture.rgb)))
        upright = nap.measure(turned, region(((12, 12), (148, 12), (148, 188), (12, 188))))
        self.assertAlmostEqual(abs(upright.parts["direction_deg"]), 90, delta=5)

    def test_a_matt_surface_has_no_highlight_and_a_glossy_one_has(self):
        self.assertAlmostEqual(sheen.measure(flat((70, 68, 66)), region()).value, 1, delta=0.1)
        sample = sheen.MEASURE.sample()
        self.assertGreater(sheen.measure(sample.picture, sample.marks(MarkKind.REGION)).value, 2)

    def test_specks_are_counted_light_and_dark_and_a_plain_sole_has_none(self):
        for ground, speck in (((206, 198, 184), (60, 58, 60)), ((60, 58, 60), (206, 198, 184))):
            drawing = canvas(200, 160, ground)
            for n in range(12):
                disc(drawing, (30 + 45 * (n % 4), 35 + 45 * (n // 4)), 4, speck)
            found = speckle.measure(exposed(drawing, 0.1, WHOLE).picture, region())
            self.assertEqual(found.parts["specks"], 12)
            self.assertAlmostEqual(found.value, 12 / (18 * 14 / 100), delta=0.1)
        self.assertEqual(speckle.measure(flat((206, 198, 184)), region()).value, 0)
        with self.assertRaisesMessage(CannotMeasure, "speckle_needs_scale"):
            speckle.measure(flat((206, 198, 184), mm_per_px=None), region())

    def test_glue_over_four_fifths_reads_as_four_fifths(self):
        """Adhesive over about 80 % of an insole's underside: common practice, no source."""
        drawing = canvas(240, 160, (210, 206, 200))
        bar(drawing, (20, 20, 180, 140), (196, 160, 84))
        points = [[60, 60], [30, 30], [217.5, 30], [217.5, 130], [30, 130]]
        sample = exposed(drawing, 0.2, points)
        found = coverage.measure(sample.picture, sample.marks(MarkKind.PLACES))
        self.assertAlmostEqual(found.value, 0.8, delta=0.01)
        with self.assertRaisesMessage(CannotMeasure, "one_tone_only"):
            coverage.measure(flat((196, 160, 84)), Marks(MarkKind.PLACES, ((60, 60), *WHOLE)))

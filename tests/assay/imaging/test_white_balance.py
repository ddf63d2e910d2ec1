"""Light and colour, against published differences, a chart's values, and simulated casts."""

import json
from pathlib import Path
from unittest import TestCase

import numpy as np
from skimage.color import deltaE_ciede2000

from assay.compare import colours
from assay.errors import CannotMeasure
from assay.imaging import colour
from assay.imaging import white_balance as light
from assay.imaging.card import find_card
from assay.simulator.camera import Camera
from assay.simulator.scene import CardPlace
from assay.simulator.shading import Lamp, lamp_colour
from tests.support.benches import card_bench

PAIRS = json.loads((Path(__file__).parents[2] / "data" / "ciede2000_pairs.json").read_text())
# Painted squares beside the card, none of them on it: leather white, tan, rust, slate, moss, navy, near black.
SWATCHES = tuple(
    (260.0, 20.0 + 26 * n, colour)
    for n, colour in enumerate(
        [(226, 221, 209), (186, 146, 108), (150, 84, 58), (92, 112, 112), (96, 104, 60), (52, 60, 92), (48, 47, 46)]
    )
)


class Colour(TestCase):
    def test_ciede2000_is_the_published_one(self):
        """Sharma, Wu & Dalal (2005), table 1. Pair 14 has a hue difference of 180° up to rounding: left out."""
        for number, pair in enumerate(PAIRS["pairs"], start=1):
            if number != 14:
                for one, other in ((pair["lab1"], pair["lab2"]), (pair["lab2"], pair["lab1"])):
                    self.assertAlmostEqual(colour.de00(one, other), pair["dE00"], delta=1e-4)

    def test_srgb_goes_to_lab_as_the_standard_says(self):
        """IEC 61966-2-1 and CIE 1976 for D65, computed with two reference libraries."""
        plain = light.Correction(np.tile(colour.srgb_to_linear(np.arange(256)), (3, 1)), np.eye(3), 0.0, 0.0)
        for rgb, lab in (
            ((255, 0, 0), (53.24, 80.09, 67.20)),
            ((0, 255, 0), (87.74, -86.18, 83.18)),
            ((119, 119, 119), (50.03, 0, 0)),
            ((200, 100, 50), (53.63, 36.31, 45.38)),
        ):
            np.testing.assert_allclose(plain.lab(np.array(rgb)), lab, atol=0.03)

    def test_a_known_mixing_of_colours_is_undone(self):
        """The matrix is recovered from patches that were mixed by a known one whose rows sum to 1."""
        wanted = colour.srgb_to_linear(np.array([colour for _, colour in light.COLOUR_PATCHES], float))
        known = np.array([[0.86, 0.10, 0.04], [0.05, 0.90, 0.05], [0.02, 0.13, 0.85]])
        seen = wanted @ np.linalg.inv(known).T
        found, left_out = light._matrix(seen, wanted)
        np.testing.assert_allclose(found, known, atol=0.02)
        # What a patch becomes by the fit to the others, by leaving it out in earnest.
        for n in (0, 5, 11):
            rest = np.arange(len(seen)) != n
            np.testing.assert_allclose(left_out[n], light._matrix(seen[rest], wanted[rest])[0] @ seen[n], atol=1e-9)


class CardLight(TestCase):
    def off(self, camera, lamp):
        pyramid, _ = card_bench(camera, (CardPlace((125, 105)),), lamp, SWATCHES)
        found = light.correction_from_card(pyramid.rgb, find_card(pyramid).plane)
        seen = [
            colours.spot_median(pyramid.rgb, (x / camera.mm_per_px, y / camera.mm_per_px), 10) for x, y, _ in SWATCHES
        ]
        true = light.Correction(np.tile(colour.srgb_to_linear(np.arange(256)), (3, 1)), np.eye(3), 0.0, 0.0)
        wanted = true.lab(np.array([colour for *_, colour in SWATCHES]))
        places = np.array([(x, y) for x, y, _ in SWATCHES]) / camera.mm_per_px
        return deltaE_ciede2000(found.lab(np.array(seen), places), wanted), found

    def test_casts_and_exposures_are_undone_on_patches_that_are_not_on_the_card(self):
        off = []
        for kelvin, exposure, uneven in ((2700, 0.7, 0.1), (4000, 1.0, 0.1), (6504, 0.5, 0.05), (7500, 1.1, 0.1)):
            camera = Camera(mm_per_px=0.25, exposure=exposure, uneven=uneven)
            off.extend(self.off(camera, Lamp(tint=lamp_colour(kelvin)))[0])
        self.assertLess(np.median(off), 1.5)
        self.assertLess(np.percentile(off, 95), 3.0)

    def test_what_is_left_unsure_is_said(self):
        _, even = self.off(Camera(mm_per_px=0.25, uneven=0.0), Lamp())
        _, uneven = self.off(Camera(mm_per_px=0.25, uneven=0.45), Lamp())
        self.assertLess(even.uncertainty_de00, uneven.uncertainty_de00)
        self.assertIn("uneven_light", uneven.doubts)

    def test_a_burnt_out_or_sunken_card_gives_no_colour(self):
        for exposure, reason in ((4.0, "card_burnt_out"), (0.004, "card_too_dark")):
            pyramid, _ = card_bench(Camera(mm_per_px=0.25, exposure=exposure, noise=0.001), (CardPlace((125, 105)),))
            plane = find_card(card_bench(Camera(mm_per_px=0.25), (CardPlace((125, 105)),))[0]).plane
            with self.assertRaises(CannotMeasure) as caught:
                light.correction_from_card(pyramid.rgb, plane)
            self.assertEqual(caught.exception.reason, reason)

    def test_without_a_card_two_spots_are_compared_through_a_neutral_part(self):
        """The same two paints under two lamps: alike through the grey, far apart without it."""
        paint, grey = np.array([150.0, 84, 58]), np.array([180.0, 180, 180])
        cast = np.array([1.0, 0.78, 0.5])
        warm = [colour.linear_to_srgb(colour.srgb_to_linear(c) * cast) for c in (paint, grey)]
        same = colours.compare_by_neutral(paint, warm[0], (grey, warm[1]))
        self.assertLess(same.delta_e_2000, 0.5)
        self.assertGreater(colours.compare_same_frame(paint, warm[0]).delta_e_2000, 3)
        # A dark grey is taken as dark as it is seen: read as 0.6 of white it made a difference of 8 another one.
        for level in (95.0, 180.0, 230.0):
            grey = np.full(3, level)
            apart = colours.compare_by_neutral(paint, paint * 0.86, (grey, grey))
            self.assertAlmostEqual(apart.delta_e_2000, colours.compare_same_frame(paint, paint * 0.86).delta_e_2000)
        brighter = colours.compare_by_neutral(paint, paint * 0.86, (np.full(3, 90.0), np.full(3, 200.0)))
        self.assertGreater(brighter.uncertainty_de00, colours.NEUTRAL_DE)
        with self.assertRaises(CannotMeasure):
            colours.compare_by_neutral(paint, warm[0], (grey, np.array([255.0, 255, 255])))

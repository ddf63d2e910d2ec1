"""Where the thing is: simulated shoes on an unevenly lit ground, and nothing."""

from unittest import TestCase

import numpy as np

from assay.imaging.foreground import find_foreground
from assay.imaging.opening import decode
from assay.imaging.pyramid import pyramid_of
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph
from assay.simulator.court_shoe import Palette as Colours
from assay.simulator.scene import CardPlace, Scene
from tests.support.benches import flat_pyramid

# The pattern's own extent on its canvas, mm: heel to toe, ground to collar.
LEFT, RIGHT, TOP, BOTTOM = 18.5, 313.0, 34.5, 172.0


class Subjects(TestCase):
    def box_off(self, camera, palette=None):
        shot = photograph(CourtShoe(palette=palette or Colours()), camera)
        found = find_foreground(pyramid_of(decode(shot.jpeg)))
        x, y, width, height = (n * camera.mm_per_px for n in found.box)
        return np.abs(np.array([x, y, x + width, y + height]) - [LEFT, TOP, RIGHT, BOTTOM]).max()

    def test_light_and_dark_shoes_are_found_in_uneven_light(self):
        dark = Colours(leather=(52, 50, 52), overlay=(44, 43, 46), tongue=(60, 58, 58), sole=(70, 68, 66))
        for palette in (None, dark):
            self.assertLess(self.box_off(Camera(mm_per_px=0.25, uneven=0.3), palette), 6)

    def test_the_card_is_not_the_thing(self):
        card = CardPlace((120, 90))
        scene = Scene((440, 330), (104, 120), ground_mm=292, cards=(card,))
        shot = photograph(CourtShoe(), Camera(mm_per_px=0.3), scene=scene)
        pyramid = pyramid_of(decode(shot.jpeg))
        found = find_foreground(pyramid, np.array(shot.truth["card"]["corners"]))
        self.assertGreater(found.box[0] * 0.3, 110)
        self.assertFalse(found.cut_off)

    def test_an_empty_ground_holds_nothing(self):
        found = find_foreground(flat_pyramid())
        self.assertEqual((found.found, found.box), (False, (0, 0, 1200, 900)))

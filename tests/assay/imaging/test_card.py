"""The bench card in simulated photographs whose geometry is known."""

from unittest import TestCase

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.card import find_card
from assay.imaging.plane import camera_model_of
from assay.imaging.pyramid import pyramid_of
from assay.simulator.camera import Camera
from assay.simulator.scene import CardPlace
from tests.support.benches import MIDDLE, card_bench, flat_pyramid

SQUARE = Camera(mm_per_px=0.2)


class FindingTheCard(TestCase):
    def scale_error(self, camera, place=CardPlace(MIDDLE)):  # noqa: B008 - frozen
        pyramid, truth = card_bench(camera, (place,))
        corners = np.array(truth["card"]["corners"])
        found = find_card(pyramid).plane.to_mm(corners)
        sides = np.hypot(*(found - np.roll(found, 1, axis=0)).T)
        return np.abs(sides / (place.printed * np.array([148, 210, 148, 210])) - 1).max()

    def test_scale_is_true_to_three_in_a_thousand_up_to_20_degrees_and_seven_at_40(self):
        self.assertLess(self.scale_error(SQUARE), 0.003)
        noisy = {"noise": 0.02, "blur_px": 1.2}
        self.assertLess(self.scale_error(Camera(mm_per_px=0.2, tilt_deg=(14, -14), turn_deg=8, **noisy)), 0.003)
        self.assertLess(self.scale_error(Camera(mm_per_px=0.2, tilt_deg=(30, 26), **noisy)), 0.007)

    def test_a_card_half_in_shadow_is_found(self):
        self.assertLess(self.scale_error(SQUARE, CardPlace(MIDDLE, shadow=0.45)), 0.003)

    def test_tilt_and_distance_are_read_off_the_card(self):
        pyramid, _ = card_bench(Camera(mm_per_px=0.2, tilt_deg=(0, 20)))
        camera = camera_model_of(pyramid.size, 26.0)
        found = find_card(pyramid).plane
        self.assertAlmostEqual(found.tilt_deg(camera), 20, delta=1)
        wanted = camera.focal_px * 0.2 * np.cos(np.radians(20))
        self.assertAlmostEqual(found.distance_mm(camera), wanted, delta=0.02 * wanted)

    def test_a_print_at_96_percent_is_put_right_by_its_bar(self):
        pyramid, truth = card_bench(SQUARE, (CardPlace(MIDDLE, printed=0.96),))
        corners = np.array(truth["card"]["corners"])
        width = np.hypot(*np.diff(find_card(pyramid, bar_mm=96.0).plane.to_mm(corners[:2]), axis=0)[0])
        self.assertAlmostEqual(width, 0.96 * 210, delta=0.4)

    def test_what_is_wrong_with_it_is_named(self):
        two, _ = card_bench(Camera(mm_per_px=0.3), (CardPlace((70, 105), 90), CardPlace((210, 105), 90)))
        cut, _ = card_bench(SQUARE, (CardPlace((25, 60)),))
        whole, _ = card_bench(SQUARE)
        mirrored = pyramid_of(np.ascontiguousarray(whole.rgb[:, ::-1]))
        for pyramid, reason in (
            (two, "two_cards"),
            (cut, "card_cut_off"),
            (mirrored, "mirrored_photo"),
            (flat_pyramid(), "no_card"),
        ):
            with self.assertRaises(CannotMeasure) as caught:
                find_card(pyramid)
            self.assertEqual(caught.exception.reason, reason)

    def test_a_covered_corner_and_a_bent_sheet_are_doubts(self):
        pyramid, truth = card_bench(SQUARE)
        hidden = pyramid.rgb.copy()
        x, y = map(int, truth["card"]["corners"][0])
        hidden[y : y + 160, x : x + 160] = 100
        self.assertEqual(find_card(pyramid_of(hidden)).doubts, ("card_corner_missing",))
        rows, columns = np.mgrid[: pyramid.size[1], : pyramid.size[0]].astype(np.float32)
        bent = cv2.remap(pyramid.rgb, columns, rows + 9 * np.cos(columns / 180), cv2.INTER_LINEAR)
        self.assertIn("card_bent", find_card(pyramid_of(bent)).doubts)

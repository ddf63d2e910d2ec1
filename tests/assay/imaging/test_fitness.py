"""What a photograph is fit for. Simulated photographs; no free shoe photograph with known sharpness was found."""

from functools import cache

import cv2
import numpy as np
from django.test import SimpleTestCase
from skimage import data
from skimage.measure import blur_effect as skimage_blur

from assay.imaging.fitness import Fitness, Needs, blur_effect, judge_fitness
from assay.imaging.foreground import find_foreground
from assay.imaging.opening import decode
from assay.imaging.pyramid import pyramid_of
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph


@cache
def shoe():
    return decode(photograph(CourtShoe(), Camera(mm_per_px=0.16)).jpeg)


def judged(rgb, needs=Needs(), **known):  # noqa: B008 - frozen
    pyramid = pyramid_of(np.ascontiguousarray(rgb))
    return judge_fitness(pyramid, find_foreground(pyramid), needs, **known)


class JudgingFitness(SimpleTestCase):
    def test_a_sharp_photograph_is_usable_whichever_way_it_is_turned(self):
        for turned in (shoe(), shoe()[:, ::-1], np.rot90(shoe())):
            self.assertEqual(judged(turned).fitness, Fitness.USABLE)

    def test_blur_is_noticed_on_the_shoe_and_noise_does_not_hide_it(self):
        blurred = cv2.GaussianBlur(shoe(), (0, 0), 4)
        noisy = (blurred + np.random.default_rng(0).normal(0, 6, blurred.shape)).clip(0, 255).astype(np.uint8)
        self.assertEqual(judged(blurred).retake, ("blurred",))
        self.assertIn("blurred", (*judged(noisy).retake, *judged(noisy).doubts))

    def test_a_sharp_ground_does_not_save_a_blurred_shoe(self):
        blurred = cv2.GaussianBlur(shoe(), (0, 0), 4)
        height = blurred.shape[0]
        blurred[int(0.93 * height) :: 4, ::4] = 20
        self.assertIn("blurred", judged(blurred).retake)

    def test_light_and_size_are_noticed(self):
        cases = (
            ((shoe() * 2.2).clip(0, 255), "burnt_out"),
            (shoe() * 0.05, "too_dark"),
            (cv2.resize(shoe(), None, fx=0.3, fy=0.3, interpolation=cv2.INTER_AREA), "small_in_frame"),
        )
        for picture, reason in cases:
            self.assertIn(reason, judged(picture.astype(np.uint8)).retake)

    def test_a_lamp_s_reflection_is_noticed(self):
        glaring = shoe().copy()
        cv2.ellipse(glaring, (900, 700), (90, 50), 0, 0, 360, (255, 255, 255), -1)
        self.assertIn("glare", judged(glaring).doubts)

    def test_no_shoe_is_said(self):
        flat = np.full((900, 1400, 3), 120, np.uint8)
        self.assertIn("shoe_not_found", judged(flat).doubts)

    def test_the_blur_effect_is_the_published_one(self):
        """Crete et al., Proc. SPIE 6492 (2007), as scikit-image has it, on photographs that ship with it."""
        for picture in (data.camera(), data.coins(), data.brick()):
            self.assertAlmostEqual(blur_effect(picture), skimage_blur(picture, h_size=11), delta=0.01)

    def test_resolution_is_judged_by_what_the_view_s_checks_need_and_a_leaning_camera_is_said(self):
        needs = Needs(mm_per_px=0.2)
        self.assertIn("too_coarse", judged(shoe(), needs, mm_per_px=0.3).doubts)
        self.assertEqual(judged(shoe(), needs, mm_per_px=0.16).fitness, Fitness.USABLE)
        self.assertIn("tilted", judged(shoe(), tilt_deg=28).doubts)
        self.assertIn("tilted", judged(shoe(), tilt_deg=50).retake)

    def test_a_picture_of_a_screen_and_a_shoe_that_runs_out_of_the_picture_are_noticed(self):
        x, y = np.meshgrid(np.arange(shoe().shape[1]), np.arange(shoe().shape[0]))
        grid = 14 * (np.sin(2 * np.pi * x / 5.3) + np.sin(2 * np.pi * y / 5.3))
        screen = (shoe() + grid[..., None]).clip(0, 255).astype(np.uint8)
        self.assertIn("picture_of_a_screen", judged(screen).doubts)
        self.assertIn("shoe_cut_off", judged(shoe()[:, 500:]).doubts)

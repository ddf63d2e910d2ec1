"""What a photograph is fit for. Simulated photographs; no free shoe photograph with known sharpness was found."""

from functools import cache

import cv2
import numpy as np
from django.test import SimpleTestCase

from assay.photo.fitness import Fitness, judge_fitness
from assay.photo.opening import decode
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph


@cache
def shoe():
    return decode(photograph(CourtShoe(), Camera(mm_per_px=0.16)).jpeg)


class JudgingFitness(SimpleTestCase):
    def test_a_sharp_photograph_is_usable_whichever_way_it_is_turned(self):
        for turned in (shoe(), shoe()[:, ::-1], np.rot90(shoe())):
            self.assertEqual(judge_fitness(np.ascontiguousarray(turned)).fitness, Fitness.USABLE)

    def test_blur_is_noticed_on_the_shoe_and_noise_does_not_hide_it(self):
        blurred = cv2.GaussianBlur(shoe(), (0, 0), 4)
        noisy = (blurred + np.random.default_rng(0).normal(0, 6, blurred.shape)).clip(0, 255).astype(np.uint8)
        self.assertEqual(judge_fitness(blurred).retake, ("blurred",))
        self.assertIn("blurred", (*judge_fitness(noisy).retake, *judge_fitness(noisy).doubts))

    def test_a_sharp_ground_does_not_save_a_blurred_shoe(self):
        blurred = cv2.GaussianBlur(shoe(), (0, 0), 4)
        height = blurred.shape[0]
        blurred[int(0.93 * height) :: 4, ::4] = 20
        self.assertIn("blurred", judge_fitness(blurred).retake)

    def test_light_and_size_are_noticed(self):
        cases = (
            ((shoe() * 2.2).clip(0, 255), "burnt_out"),
            (shoe() * 0.05, "too_dark"),
            (cv2.resize(shoe(), None, fx=0.3, fy=0.3, interpolation=cv2.INTER_AREA), "small_in_frame"),
        )
        for picture, reason in cases:
            self.assertIn(reason, judge_fitness(picture.astype(np.uint8)).retake)

    def test_a_lamp_s_reflection_is_noticed(self):
        glaring = shoe().copy()
        cv2.ellipse(glaring, (900, 700), (90, 50), 0, 0, 360, (255, 255, 255), -1)
        self.assertIn("glare", judge_fitness(glaring).doubts)

    def test_no_shoe_is_said(self):
        flat = np.full((900, 1400, 3), 120, np.uint8)
        self.assertIn("shoe_not_found", judge_fitness(flat).doubts)

"""Photographs find their view."""

from functools import cache
from unittest import TestCase

import numpy as np

from assay.imaging.foreground import find_subject
from assay.imaging.opening import decode
from assay.imaging.pyramid import frame_of
from assay.imaging.view import Known, is_ultraviolet, sort_view
from assay.register.features import Features, features_of
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph
from assay.simulator.court_views import from_above, from_behind, from_below
from assay.simulator.runner import Runner, runner_from_side
from assay.simulator.shading import UV_LAMP, Lamp, lamp_colour

VIEWS = {"side": photograph, "top": from_above, "rear": from_behind, "sole": from_below}


@cache
def seen(view, seed, foot="left", turn=0.0, lamp=None):
    take = VIEWS.get(view, runner_from_side)
    shoe = CourtShoe(seed=seed, foot=foot) if view in VIEWS else Runner(seed=seed, foot=foot)
    shot = take(shoe, Camera(mm_per_px=0.24 if view != "rear" else 0.14, turn_deg=turn), lamp)
    frame = frame_of(decode(shot.jpeg))
    return frame, features_of(frame, find_subject(frame))


@cache
def known():
    kinds = [(view, foot) for view in VIEWS for foot in ("left", "right") if view in ("side", "top") or foot == "left"]
    views = [Known(f"{view} {foot}", view, False, True, seen(view, 1, foot)[1]) for view, foot in kinds]
    return [*views, Known("uv left", "uv", True, True, seen("side", 1, lamp=UV_LAMP)[1])]


class Sorting(TestCase):
    def test_each_view_and_foot_of_another_pair_in_another_light_is_recognised(self):
        evening = Lamp(tint=lamp_colour(3500))
        for view, foot in (
            ("side", "left"),
            ("side", "right"),
            ("top", "left"),
            ("top", "right"),
            ("rear", "left"),
            ("sole", "left"),
        ):
            frame, features = seen(view, 2, foot, 3.0, evening)
            guess = sort_view(frame, features, known())
            self.assertEqual((guess.key, guess.how), (f"{view} {foot}", "features"))

    def test_ultraviolet_photographs_are_told_by_their_colour(self):
        frame, features = seen("side", 2, lamp=UV_LAMP)
        self.assertTrue(is_ultraviolet(frame))
        self.assertEqual(sort_view(frame, features, known()).key, "uv left")
        self.assertFalse(is_ultraviolet(seen("side", 2, "left", 3.0, Lamp(tint=lamp_colour(3500)))[0]))

    def test_the_other_foot_of_a_view_known_of_one_alone_is_told_by_its_mirror_image(self):
        shot = photograph(CourtShoe(seed=2, foot="right"), Camera(mm_per_px=0.24, turn_deg=2))
        frame = frame_of(decode(shot.jpeg))
        subject = find_subject(frame)
        left_alone = [view for view in known() if view.key.endswith("left")]
        guess = sort_view(
            frame, features_of(frame, subject), left_alone, lambda: features_of(frame, subject, mirror=True)
        )
        self.assertEqual((guess.key, guess.how), ("side left", "mirror"))
        self.assertLess(np.linalg.det(guess.alignment.matrix[:, :2]), 0)

    def test_another_maker_s_shoe_and_an_empty_stand_are_left_to_a_person(self):
        frame, features = seen("runner", 1)
        self.assertIsNone(sort_view(frame, features, known()).key)
        empty = frame_of(np.full((900, 1200, 3), 110, np.uint8))
        self.assertIsNone(sort_view(empty, features_of(empty, find_subject(empty)), known()).key)

    def test_where_features_fail_the_outline_decides_and_never_for_the_mirror_image(self):
        bare = lambda f: Features(np.zeros((0, 2), np.float32), np.zeros((0, 32), np.uint8), f.outline, f.size)  # noqa: E731
        views = [
            Known("side", "side", False, True, bare(seen("side", 1)[1])),
            Known("rear", "rear", False, True, bare(seen("rear", 1)[1])),
        ]
        frame, features = seen("side", 2, "left", 3.0)
        self.assertEqual(sort_view(frame, bare(features), views).key, "side")
        frame, features = seen("side", 2, "right", 3.0)
        self.assertIsNone(sort_view(frame, bare(features), views).key)

"""Photographs find their view."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from assay.imaging.foreground import find_foreground
from assay.imaging.opening import decode
from assay.imaging.pyramid import pyramid_of
from assay.imaging.view import KnownView, is_ultraviolet, sort_view
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
    pyramid = pyramid_of(decode(shot.jpeg))
    return pyramid, features_of(pyramid, find_foreground(pyramid))


@cache
def known():
    kinds = [(view, foot) for view in VIEWS for foot in ("left", "right") if view in ("side", "top") or foot == "left"]
    views = [KnownView(f"{view} {foot}", view, False, True, seen(view, 1, foot)[1]) for view, foot in kinds]
    return [*views, KnownView("uv left", "uv", True, True, seen("side", 1, lamp=UV_LAMP)[1])]


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
            pyramid, features = seen(view, 2, foot, 3.0, evening)
            guess = sort_view(pyramid, features, known())
            self.assertEqual((guess.key, guess.how), (f"{view} {foot}", "features"))

    def test_ultraviolet_photographs_are_told_by_their_colour(self):
        pyramid, features = seen("side", 2, lamp=UV_LAMP)
        self.assertTrue(is_ultraviolet(pyramid))
        self.assertEqual(sort_view(pyramid, features, known()).key, "uv left")
        self.assertFalse(is_ultraviolet(seen("side", 2, "left", 3.0, Lamp(tint=lamp_colour(3500)))[0]))

    def test_the_other_foot_of_a_view_known_of_one_alone_is_told_by_its_mirror_image(self):
        shot = photograph(CourtShoe(seed=2, foot="right"), Camera(mm_per_px=0.24, turn_deg=2))
        pyramid = pyramid_of(decode(shot.jpeg))
        foreground = find_foreground(pyramid)
        left_alone = [view for view in known() if view.key.endswith("left")]
        guess = sort_view(
            pyramid, features_of(pyramid, foreground), left_alone, lambda: features_of(pyramid, foreground, mirror=True)
        )
        self.assertEqual((guess.key, guess.how), ("side left", "mirror"))
        self.assertLess(np.linalg.det(guess.alignment.matrix[:, :2]), 0)

    def test_an_inner_side_is_never_taken_for_the_other_shoe_s_outer_side(self):
        """It once was, with 186 matches against 185, and its rows were counted there."""

        @cache
        def side(seed, foot, *, inner=False, turn=0.0):
            shoe = CourtShoe(seed=seed, foot=foot, inner=inner)
            pyramid = pyramid_of(decode(photograph(shoe, Camera(mm_per_px=0.24, turn_deg=turn)).jpeg))
            foreground = find_foreground(pyramid)
            return pyramid, lambda *, mirror=False: features_of(pyramid, foreground, mirror=mirror)

        named = [("out left", "left", False), ("out right", "right", False), ("in left", "left", True)]
        views = [
            KnownView(name, name.split()[0], False, True, side(1, foot, inner=inner)[1](), side=True)
            for name, foot, inner in named
        ]
        pyramid, features = side(2, "left", inner=True, turn=2)
        guess = sort_view(pyramid, features(), views, lambda: features(mirror=True))
        self.assertEqual(guess.key or guess.between[0][0], "in left")
        # Of a shoe's two sides, only what tells them apart can tell: the emblem and the vents wiped out, it asks.
        bare = [replace(view, features=views[1].features) if view.key == "in left" else view for view in views]
        guess = sort_view(side(2, "right")[0], side(2, "right")[1](), bare)
        self.assertIsNone(guess.key)
        self.assertEqual({key for key, _ in guess.between}, {"out right", "in left"})
        said = sort_view(side(2, "right")[0], side(2, "right")[1](), bare, said="in left")
        self.assertEqual(said.key, "in left")

    def test_another_maker_s_shoe_and_an_empty_stand_are_left_to_a_person(self):
        pyramid, features = seen("runner", 1)
        self.assertIsNone(sort_view(pyramid, features, known()).key)
        empty = pyramid_of(np.full((900, 1200, 3), 110, np.uint8))
        self.assertIsNone(sort_view(empty, features_of(empty, find_foreground(empty)), known()).key)

    def test_where_features_fail_the_outline_decides_and_never_for_the_mirror_image(self):
        bare = lambda f: Features(np.zeros((0, 2), np.float32), np.zeros((0, 32), np.uint8), f.outline, f.size)  # noqa: E731
        views = [
            KnownView("side", "side", False, True, bare(seen("side", 1)[1])),
            KnownView("rear", "rear", False, True, bare(seen("rear", 1)[1])),
        ]
        pyramid, features = seen("side", 2, "left", 3.0)
        self.assertEqual(sort_view(pyramid, bare(features), views).key, "side")
        pyramid, features = seen("side", 2, "right", 3.0)
        self.assertIsNone(sort_view(pyramid, bare(features), views).key)

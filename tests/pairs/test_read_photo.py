"""Reading a photograph: what is kept, and what it must not cost."""

from dataclasses import replace
from types import SimpleNamespace
from unittest import mock

import cv2
import numpy as np
from django.test import TestCase

from assay.imaging.pyramid import pyramid_of
from assay.imaging.view import sort_view
from assay.pipeline.facts import PhotoLight, Scale
from assay.pipeline.sort import _is_foot_assumed
from assay.register.affine import Alignment
from assay.simulator.camera import Camera
from assay.simulator.scene import CardPlace
from assay.simulator.shading import Lamp, lamp_colour
from casework.actions.work_photo import sort_photo
from pairs.actions.check_scale import hold_scale_against
from pairs.actions.receive_photo import receive_photo
from pairs.models import Photo
from pairs.pictures import camera, correction, features, height_of_card, plane
from pairs.pipeline import read_photo
from tests.support.benches import MIDDLE, card_bench
from tests.support.pictures import barcode_picture, jpeg
from tests.support.scenes import small_case, small_organisation


class ReadingAPhotograph(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def read(self, pyramid, **more):
        photo = receive_photo(pair=self.case.pair, data=jpeg(pyramid.rgb), by=self.scene.mara, **more)
        read_photo(photo=photo, references={}, needs={})
        photo.refresh_from_db()
        return photo

    def test_scale_plane_and_colour_come_from_the_card_and_are_kept(self):
        pyramid, _ = card_bench(
            Camera(mm_per_px=0.2, tilt_deg=(8, -6)), (CardPlace(MIDDLE),), Lamp(tint=lamp_colour(3200))
        )
        photo = self.read(pyramid)
        self.assertEqual((photo.state, photo.scale.source), ("read", "card"))
        self.assertAlmostEqual(photo.mm_per_px, 0.2, delta=0.002)
        self.assertAlmostEqual(photo.scale.tilt_deg, 10, delta=1)
        self.assertLess(correction(photo).residual_de00, 1.0)
        self.assertEqual(features(photo).size, pyramid.size)
        self.assertTrue(photo.preview)

    def test_a_verified_pair_s_own_photograph_sent_again_is_none_of_this_pair(self):
        """It would agree in everything, and make a copy legit."""
        pyramid, _ = card_bench(Camera(mm_per_px=0.2), (CardPlace(MIDDLE),), Lamp())
        other, _ = card_bench(Camera(mm_per_px=0.2, tilt_deg=(2, 1)), (CardPlace(MIDDLE),), Lamp())
        place = {"view": "side_out", "foot": "left"}
        own = receive_photo(pair=self.case.reference, data=jpeg(pyramid.rgb), by=self.scene.mara, **place)
        read_photo(photo=own, references={}, needs={})
        smaller = cv2.resize(pyramid.rgb, None, fx=0.7, fy=0.7, interpolation=cv2.INTER_AREA)
        for rgb, is_own in ((smaller, True), (other.rgb, False)):
            photo = receive_photo(pair=self.case.pair, data=jpeg(rgb), by=self.scene.mara, **place)
            read_photo(photo=photo, references={}, needs={})
            self.assertEqual("retails_own_photo" in photo.fitness.retake, is_own)
        unsorted = receive_photo(pair=self.case.pair, data=jpeg(smaller // 2 * 2), by=self.scene.mara)
        read_photo(photo=unsorted, references={}, needs={})
        sort_photo(case=self.case, photo=unsorted, user=self.scene.mara, **place)
        unsorted.refresh_from_db()
        self.assertIn("retails_own_photo", unsorted.fitness.retake)

    def test_a_person_s_word_while_it_is_read_stands(self):
        photo = receive_photo(
            pair=self.case.pair, data=jpeg(barcode_picture("EAN13", "6291041500213")), by=self.scene.mara
        )

        def said_meanwhile(*args, **more):
            Photo.objects.filter(pk=photo.pk).update(view="rear", foot="left", sorted_by=Photo.SortedBy.PERSON)
            return sort_view(*args, **more)

        with mock.patch("assay.pipeline.sort.sort_view", said_meanwhile):
            read_photo(photo=photo, references={}, needs={})
        kept = Photo.objects.get(pk=photo.pk)
        self.assertEqual((kept.view, kept.foot, kept.sorted_by, kept.state), ("rear", "left", "person", "read"))

    def test_bars_on_a_label_are_kept_and_what_is_wrong_with_them_is_said(self):
        one, two = barcode_picture("EAN13", "6291041500213"), barcode_picture("UPCA", "036000291452")
        upright = np.vstack([np.full((400, *one.shape[1:]), 200, np.uint8), one])
        for picture, doubts in (
            (upright, []),
            (upright[::-1, ::-1], ["upside_down"]),
            (upright[:, ::-1], ["upside_down"]),
            (np.vstack([upright[:, :500], two[:, :500]]), ["several_codes"]),
        ):
            photo = self.read(pyramid_of(np.ascontiguousarray(picture)), view="box_label")
            self.assertIn("06291041500213", [code["gtin14"] for code in photo.codes])
            self.assertEqual([d for d in photo.fitness.doubts if d in ("upside_down", "several_codes")], doubts)

    def test_an_unknown_depth_widens_every_length_and_a_known_one_moves_them(self):
        photo = self.read(card_bench(Camera(mm_per_px=0.2))[0])
        photo.focal_35mm = 26.0
        unsure = plane(photo)
        photo.scale = replace(photo.scale, height_mm=20.0, height_uncertainty_mm=0.5)
        raised = plane(photo)
        self.assertGreater(unsure.relative_uncertainty, 0.01)
        self.assertLess(raised.relative_uncertainty, unsure.relative_uncertainty)
        self.assertLess(raised.mm_per_px((700, 500)), 0.95 * 0.2)
        # It may have been the tele lens: then what 20 mm change is a third of what is believed.
        photo.focal_35mm = None
        self.assertGreater(plane(photo).relative_uncertainty, 0.03)

    def test_a_card_that_makes_the_shoe_another_size_than_retail_s_is_doubted_until_its_height_is_said(self):
        """Camera 500 mm off: a surface 50 mm over the card looks 500 / 450 as large (similar triangles)."""
        known, other = (
            Photo(pair=pair, foot="left", width=1200, height=900, focal_35mm=26.0, guess={"box": [200, 200, 800, 400]})
            for pair in (self.case.reference, self.case.pair)
        )
        for pair in (self.case.reference, self.case.pair):
            pair.size_us = "9"
        step = 500 / camera(known).focal_px
        for photo, millimetre in ((known, step), (other, step * 500 / 450)):
            matrix = np.diag([1 / millimetre, 1 / millimetre, 1.0]).tolist()
            photo.scale = {"source": "card", "matrix": matrix, "relative": 0.003, "above_mm": 0, "above_unknown_mm": 0}
        same = Alignment(np.eye(2, 3), 90, 1.0)
        hold_scale_against(other, known, same)
        self.assertAlmostEqual(other.scale.too_long_by, 500 / 450, places=3)
        self.assertIn("scale_disagrees", other.scale.doubts)
        self.assertGreater(plane(other).relative_uncertainty, 0.1)
        self.assertAlmostEqual(height_of_card(other), 500 * 10 / 9 * 0.1, delta=0.5)
        # A height said of one of the two does not end it where it does not explain it.
        known.scale = replace(known.scale, height_mm=8.0, height_uncertainty_mm=1.0)
        hold_scale_against(other, known, same)
        self.assertIn("scale_disagrees", other.scale.doubts)
        known.scale = replace(known.scale, height_mm=0.0, height_uncertainty_mm=0.0)
        # However it was aligned: by hand as well.
        hold_scale_against(other, known, Alignment(np.eye(2, 3), 3, 1.0, "landmarks"))
        self.assertAlmostEqual(other.scale.too_long_by, 500 / 450, places=3)
        other.scale = replace(other.scale, matrix=known.scale.matrix)
        hold_scale_against(other, known, same)
        self.assertEqual((other.scale.doubts, height_of_card(other)), ((), None))

    def test_without_a_card_the_stand_s_scale_holds_and_colour_is_not_claimed(self):
        ground = card_bench(Camera(mm_per_px=0.2), ())[0]
        photo = self.read(ground, mm_per_px=0.13)
        self.assertEqual((photo.scale.source, photo.mm_per_px), ("stand", 0.13))
        self.assertEqual(photo.light, PhotoLight(refusal="no_card"))
        bare = self.read(card_bench(Camera(mm_per_px=0.2, noise=0.02), ())[0])
        self.assertEqual((bare.scale, bare.mm_per_px), (Scale(refusal="no_card"), None))

    def test_a_foot_that_looks_like_the_other_is_an_assumption_where_one_alone_is_known(self):
        known = {place: SimpleNamespace(side=False) for place in (("rear", "left"), ("top", "left"), ("top", "right"))}
        known["side_out", "left"] = SimpleNamespace(side=True)
        for place, assumed in ((("rear", "left"), True), (("top", "left"), False), (("side_out", "left"), False)):
            self.assertEqual(_is_foot_assumed(place, known), assumed)
        self.assertFalse(_is_foot_assumed(("box_label", ""), known))

    def test_the_whole_picture_is_never_warped(self):
        pyramid, _ = card_bench(Camera(mm_per_px=0.12))
        sizes = []

        def noting(real):
            def act(*given, **more):
                done = real(*given, **more)
                sizes.append(np.prod(done.shape[:2]))
                return done

            return act

        names = ("warpPerspective", "warpAffine", "remap")
        patches = [mock.patch.object(cv2, name, noting(getattr(cv2, name))) for name in names]
        for patch in patches:
            self.enterContext(patch)
        self.read(pyramid)
        self.assertTrue(sizes)
        self.assertLess(max(sizes), np.prod(pyramid.size) / 4)

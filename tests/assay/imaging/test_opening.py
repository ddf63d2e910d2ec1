"""What may come in as a photograph, and what is kept of it."""

import io
from unittest import mock

import numpy as np
from django.test import SimpleTestCase
from PIL import Image

from assay.errors import CannotOpen
from assay.imaging import opening
from assay.imaging.pyramid import pyramid_of
from tests.support.pictures import file_of, noise

# Orientation cases computed with Pillow and OpenCV, which agree on all eight.
STORED = np.array([[1, 2, 3], [4, 5, 6]])
SHOWN = {
    2: [[3, 2, 1], [6, 5, 4]],
    3: [[6, 5, 4], [3, 2, 1]],
    4: [[4, 5, 6], [1, 2, 3]],
    5: [[1, 4], [2, 5], [3, 6]],
    6: [[4, 1], [5, 2], [6, 3]],
    7: [[6, 3], [5, 2], [4, 1]],
    8: [[3, 6], [2, 5], [1, 4]],
}


class Opening(SimpleTestCase):
    def test_every_orientation_is_turned_upright_once(self):
        blocks = np.kron(STORED * 40, np.ones((110, 110))).astype(np.uint8)
        for tag, shown in SHOWN.items():
            exif = Image.Exif()
            exif[274] = tag
            opened = opening.receive(file_of(np.repeat(blocks[..., None], 3, 2), "PNG", exif=exif))
            small = (opening.decode(opened.stored) + 8)[55::110, 55::110, 0] // 40
            self.assertEqual(small.tolist(), shown)
            self.assertEqual(Image.open(io.BytesIO(opened.stored)).getexif().get(274, 1), 1)

    def test_nothing_personal_is_stored(self):
        exif = Image.Exif()
        exif[0x010F] = "a maker of cameras"
        exif.get_ifd(0x8825)[2] = (53.0, 30.0, 0.0)
        opened = opening.receive(file_of(noise(), exif=exif, comment=b"a maker of cameras"))
        self.assertEqual(dict(Image.open(io.BytesIO(opened.stored)).getexif()), {})
        self.assertNotIn(b"a maker of cameras", opened.stored)

    def test_nothing_hides_in_a_colour_profile_an_odd_segment_or_between_two_scans(self):
        secret = b"the owner's kitchen"
        sent = file_of(noise(), quality=80, icc_profile=b"x" * 128 + secret)
        app = lambda marker, said: bytes((0xFF, marker)) + (2 + len(said)).to_bytes(2, "big") + said  # noqa: E731
        coding = app(0xEE, b"Adobe\0\x64\0\0\0\0\x01")
        forged = sent[:2] + coding + app(0xEE, b"Adobe" + secret) + app(0xE2, b"MPF\0" + secret) + sent[2:-2]
        forged += app(0xFE, secret) + app(0xE1, b"Exif\0\0" + secret) + sent[-2:]
        stored = opening.receive(forged).stored
        self.assertNotIn(secret, stored)
        self.assertIn(coding, stored)
        np.testing.assert_array_equal(opening.decode(stored), opening.decode(sent))

    def test_a_plain_jpeg_keeps_its_pixels_to_the_bit_and_loses_what_follows_its_end(self):
        sent = file_of(noise(), quality=80)
        opened = opening.receive(sent + b"a film of the owner's kitchen")
        np.testing.assert_array_equal(opening.decode(opened.stored), opening.decode(sent))
        self.assertTrue(opened.stored.endswith(b"\xff\xd9"))

    def test_the_focal_length_is_kept_and_screenshots_are_doubted(self):
        exif = Image.Exif()
        exif.get_ifd(0x8769)[41989] = 27
        self.assertEqual(opening.receive(file_of(noise(), exif=exif)).focal_35mm, 27)
        self.assertEqual(opening.receive(file_of(noise(800, 400), "PNG")).doubts, ("screenshot",))
        self.assertEqual(opening.receive(file_of(noise(400, 320), "PNG")).doubts, ())

    def test_heic_is_refused_by_name_where_it_cannot_be_read(self):
        sent = file_of(noise(), "HEIF")
        with mock.patch.object(opening, "pillow_heif", None), self.assertRaises(CannotOpen) as caught:
            opening.receive(sent)
        self.assertEqual(caught.exception.reason, "heic_unsupported")

    def test_a_file_that_breaks_on_decoding_is_truncated(self):
        whole = file_of(noise())
        with self.assertRaises(CannotOpen) as caught:
            opening.decode(whole[: len(whole) // 2] + b"\xff\xd9")
        self.assertEqual(caught.exception.reason, "truncated")

    def test_a_preview_is_small_and_of_the_same_shape(self):
        shown = Image.open(io.BytesIO(opening.preview(pyramid_of(noise(1500, 2000)))))
        self.assertEqual(shown.size, (500, 375))

    def test_what_phones_send_is_read_and_its_capture_time_kept(self):
        exif = Image.Exif()
        exif.get_ifd(0x8769)[36867] = "2026:11:24 09:30:05"
        for kind in ("JPEG", "HEIF", "TIFF", "WEBP", "PNG"):
            opened = opening.receive(file_of(noise(), kind, exif=exif))
            self.assertEqual(opening.decode(opened.stored).shape, (240, 320, 3))
            # Pillow writes this part of EXIF into these three only.
            if kind in ("JPEG", "HEIF", "WEBP"):
                self.assertEqual(opened.taken_at.isoformat(), "2026-11-24T09:30:05", kind)
        self.assertIsNone(opening.receive(file_of(noise())).taken_at)

    def test_what_is_no_photograph_is_named(self):
        whole = file_of(noise(600, 800))
        cases = {
            b"": "empty_file",
            b"%PDF-1.7 not a picture": "not_a_photo",
            whole[: len(whole) // 3]: "truncated",
            file_of(noise(), "GIF"): "not_a_photo",
            file_of(noise(100, 400)): "too_few_pixels",
        }
        for sent, reason in cases.items():
            with self.assertRaises(CannotOpen) as caught:
                opening.receive(sent)
            self.assertEqual(caught.exception.reason, reason)

    def test_a_large_picture_is_converted_in_a_process_of_its_own_with_the_same_result(self):
        target = io.BytesIO()
        Image.linear_gradient("L").resize((5000, 3500)).convert("RGB").save(target, "PNG", compress_level=1)
        data = target.getvalue()
        with mock.patch.object(opening, "upright", side_effect=AssertionError("here")):
            got = opening.receive(data)
        self.assertEqual(got.stored, opening.upright(Image.open(io.BytesIO(data)), 1))
        with self.assertRaises(CannotOpen) as caught:
            opening.receive(data[: len(data) // 2])
        self.assertEqual(caught.exception.reason, "truncated")

    def test_bombs_are_refused_before_they_are_decoded(self):
        bomb = file_of(np.zeros((12_000, 12_000), np.uint8), "PNG")
        never = mock.patch.object(Image.Image, "load", side_effect=AssertionError("decoded"))
        with never, self.assertRaises(CannotOpen) as caught:
            opening.receive(bomb)
        self.assertEqual(caught.exception.reason, "too_many_pixels")
        with self.assertRaises(CannotOpen):
            opening.receive(b"\xff" * (opening.MOST_BYTES + 1))

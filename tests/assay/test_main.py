"""The core from the command line: the same numbers as the functions give, and refusals with a code."""

import contextlib
import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

import cv2
import numpy as np

from assay.__main__ import REFUSED, main
from assay.measure.registry import MEASURES
from assay.simulator.camera import Camera
from tests.support.benches import card_bench


class CommandLine(TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def run_it(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main([str(argument) for argument in arguments])
        return code, (json.loads(out.getvalue()) if out.getvalue() else None), err.getvalue()

    def kept(self, rgb, name="photo.png"):
        path = self.folder / name
        cv2.imwrite(str(path), rgb[..., ::-1])
        return path

    def test_a_row_is_counted_and_drawn_as_the_function_counts_it(self):
        sample, entry = MEASURES["seam"].sample(), MEASURES["seam"]
        rgb = np.pad(sample.picture.rgb, ((100, 100), (0, 0), (0, 0)), mode="edge")
        path = " ".join(f"{x},{y + 100}" for x, y in sample.points)
        drawn = self.folder / "drawn.png"
        given = ("--mm-per-px", 0.1, "--path", path, "--draw", drawn)
        code, said, _ = self.run_it("measure", "seam", self.kept(rgb), *given)
        self.assertEqual((code, said["value"], said["method"]), (0, sample.count, entry.method))
        self.assertAlmostEqual(said["parts"]["pitch_mm"], 2.2, delta=0.02)
        self.assertEqual(cv2.imread(str(drawn)).shape, rgb.shape)

    def test_two_photographs_are_compared_by_one_measure(self):
        """A row of the same stitches once as it is and once a tenth larger: the count agrees, the spacing does not."""
        sample = MEASURES["seam"].sample()
        rgb = np.pad(sample.picture.rgb, ((100, 100), (0, 0), (0, 0)), mode="edge")
        larger = cv2.resize(rgb, None, fx=1.1, fy=1.1, interpolation=cv2.INTER_CUBIC)
        paths = [" ".join(f"{k * x},{k * (y + 100)}" for x, y in sample.points) for k in (1, 1.1)]
        retail, suspect = self.kept(rgb), self.kept(larger, "suspect.png")
        given = ("--mm-per-px", 0.1, "--path", paths[0], "--on-suspect", paths[1])
        code, said, _ = self.run_it("compare", "seam", retail, suspect, *given)
        self.assertEqual((code, said["numbers"]["value"]["difference"], said["aligned"]), (0, 0.0, None))
        pitch = said["numbers"]["pitch_mm"]
        self.assertAlmostEqual(pitch["difference"], 0.1 * pitch["retail"], delta=0.02)
        code, _, err = self.run_it("compare", "seam", retail, suspect, *given, "--neutral", "9,9 9000,9")
        self.assertEqual(code, REFUSED)
        self.assertIn("marks off picture", err)

    def test_a_photograph_is_read_by_its_card(self):
        pyramid, _ = card_bench(Camera(mm_per_px=0.2))
        code, said, _ = self.run_it("read", self.kept(pyramid.rgb))
        self.assertEqual(code, 0)
        self.assertAlmostEqual(said["card"]["mm_per_px"], 0.2, delta=0.002)
        self.assertLess(said["light"]["residual_de00"], 2)

    def test_what_cannot_be_done_is_said_in_a_sentence_with_exit_code_2(self):
        plain = self.kept(np.full((300, 400, 3), 128, np.uint8))
        for arguments, words in (
            (("measure", "seam", plain, "--path", "10,10 300,10"), "Refused: no row found"),
            (("measure", "seam", plain, "--path", "here,there"), "Refused: bad points"),
            (("read", self.folder / "nothing.jpg"), "Cannot be read"),
            (("judge", plain), "Cannot be read"),
        ):
            code, said, err = self.run_it(*arguments)
            self.assertEqual((code, said), (REFUSED, None))
            self.assertIn(words, err)

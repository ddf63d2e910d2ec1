"""Examples in docstrings are true."""

import doctest
import importlib
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]


class Examples(TestCase):
    def test_every_example_gives_what_it_says(self):
        for path in sorted([*(ROOT / "assay").rglob("*.py"), *(ROOT / "casework").rglob("*.py")]):
            if ">>>" in path.read_text():
                name = ".".join(path.relative_to(ROOT).with_suffix("").parts)
                with self.subTest(name):
                    self.assertEqual(doctest.testmod(importlib.import_module(name)).failed, 0)

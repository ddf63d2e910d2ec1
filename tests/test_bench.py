"""The bench is run by hand: its modules must at least follow what the code is called."""

import importlib
from pathlib import Path
from unittest import TestCase

FOLDER = Path(__file__).parent / "bench"


class Bench(TestCase):
    def test_every_part_of_it_finds_what_it_measures(self):
        for path in sorted(FOLDER.glob("[a-z]*.py")):
            importlib.import_module(f"tests.bench.{path.stem}")

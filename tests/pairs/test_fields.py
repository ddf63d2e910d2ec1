"""What a photograph's facts are stored as is what comes back: signed documents hold them."""

import json
import lzma
import sqlite3
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from assay.pipeline.facts import PhotoFitness, PhotoLight, Scale, Sorting
from demo import pack

KINDS = {"scale": Scale, "light": PhotoLight, "fitness": PhotoFitness, "guess": Sorting}


class Facts(TestCase):
    def test_every_photograph_of_the_demo_is_stored_as_it_was(self):
        """By the exact JSON: a name more or less would make a signed case read otherwise."""
        with TemporaryDirectory() as folder:
            path = Path(folder) / "records.sqlite3"
            path.write_bytes(lzma.decompress((pack.PACK / pack.RECORDS).read_bytes()))
            with closing(sqlite3.connect(path)) as records:
                rows = records.execute(f"SELECT {', '.join(KINDS)} FROM pairs_photo").fetchall()
        self.assertGreater(len(rows), 100)
        for row in rows:
            for text, kind in zip(row, KINDS.values(), strict=True):
                self.assertEqual(kind.from_json(json.loads(text)).to_json(), json.loads(text))

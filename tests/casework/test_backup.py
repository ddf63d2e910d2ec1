"""A drill: a house is backed up while it is there, and comes back into an empty folder, proved whole."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from demo.scenario import HOUSE


class Drill(SimpleTestCase):
    def run_(self, data: Path, *command: str) -> subprocess.CompletedProcess:
        return subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=settings.BASE_DIR,
            env=os.environ | {"WAHRHEIT_DATA": str(data)},
            capture_output=True,
            text=True,
            check=False,
        )

    def test_a_backup_comes_back_whole_and_never_over_a_house(self):
        with tempfile.TemporaryDirectory() as folder:
            first, second, kept = (Path(folder) / name for name in ("first", "second", "kept"))
            self.run_(first, "load_demo")
            self.assertEqual(self.run_(first, "backup", str(kept)).returncode, 0)
            before = len(list((kept / "files").rglob("*")))
            self.run_(first, "backup", str(kept))
            self.assertEqual(len(list((kept / "files").rglob("*"))), before)
            over = self.run_(first, "restore", str(kept))
            self.assertIn("A house works here already", over.stderr)
            back = self.run_(second, "restore", str(kept))
            self.assertEqual(back.returncode, 0, back.stderr)
            self.assertIn(HOUSE, back.stdout)
            file = next(path for path in (kept / "files").rglob("*") if path.is_file())
            file.write_bytes(b"another")
            spoilt = self.run_(Path(folder) / "third", "restore", str(kept))
            self.assertIn("missing or changed", spoilt.stderr)
            self.assertIn("no backup", self.run_(Path(folder) / "third", "restore", str(first)).stderr)

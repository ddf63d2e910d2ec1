"""A drill: a house is backed up while it is there, and comes back into an empty folder, proved whole."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

WORKED = """
import io
from uuid import uuid4
from PIL import Image
from tests.scenes import small_house, small_case
from pairs.actions.receive_photo import receive_photo
from casework.actions.sign_opinion import sign_opinion
scene = small_house(); case = small_case(scene)
target = io.BytesIO(); Image.new("RGB", (800, 600)).save(target, "JPEG")
receive_photo(pair=case.pair, data=target.getvalue(), by=scene.mara, view="side_out", foot="left")
from casework.models import Case
Case.objects.update(to_analyse=0)
case.pair.photos.update(state="read")
sign_opinion(case=case, user=scene.mara, verdict="undecided", words="Too little.", after=None)
"""


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
            self.run_(first, "migrate", "--verbosity", "0")
            worked = self.run_(first, "shell", "-v", "0", "-c", WORKED)
            self.assertEqual(worked.returncode, 0, worked.stderr)
            self.assertEqual(self.run_(first, "backup", str(kept)).returncode, 0)
            before = len(list((kept / "files").rglob("*")))
            self.run_(first, "backup", str(kept))
            self.assertEqual(len(list((kept / "files").rglob("*"))), before)
            over = self.run_(first, "restore", str(kept))
            self.assertIn("A house works here already", over.stderr)
            back = self.run_(second, "restore", str(kept))
            self.assertEqual(back.returncode, 0, back.stderr)
            self.assertIn("Quay Counter", back.stdout)
            file = next(path for path in (kept / "files").rglob("*") if path.is_file())
            file.write_bytes(b"another")
            spoilt = self.run_(Path(folder) / "third", "restore", str(kept))
            self.assertIn("missing or changed", spoilt.stderr)
            self.assertIn("no backup", self.run_(Path(folder) / "third", "restore", str(first)).stderr)

"""A drill: a shop is backed up while it is there, and comes back into an empty folder, proved whole."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from demo.scenario import ORGANISATION


class Drill(SimpleTestCase):
    def run_(self, data: Path, *commands: tuple[str, ...]) -> subprocess.CompletedProcess:
        """One process on a data folder of its own: the commands in turn, refusals on stderr."""
        script = f"""
import sys
from django.core.management import CommandError, call_command
for command in {commands!r}:
    try:
        call_command(*command)
    except CommandError as refusal:
        print(refusal, file=sys.stderr)
"""
        return subprocess.run(
            [sys.executable, "manage.py", "shell", "--verbosity", "0", "-c", script],
            cwd=settings.BASE_DIR,
            env=os.environ | {"WAHRHEIT_DATA": str(data)},
            capture_output=True,
            text=True,
            check=True,
        )

    def test_a_backup_comes_back_whole_and_never_over_a_shop(self):
        with tempfile.TemporaryDirectory() as folder:
            first, second, third, kept, once = (Path(folder) / n for n in ("first", "second", "third", "kept", "once"))
            full = self.run_(
                first,
                ("load_demo",),
                ("backup", str(once)),
                ("backup", str(kept)),
                ("backup", str(kept)),
                ("restore", str(kept)),
            )
            self.assertEqual(full.stderr.strip(), full.stderr.strip().splitlines()[0])
            self.assertIn("A shop works here already", full.stderr)
            counts = [len(list((folder / "files").rglob("*"))) for folder in (once, kept)]
            self.assertEqual(counts[0], counts[1], "a file that is there is not copied again")
            back = self.run_(second, ("restore", str(kept)))
            self.assertEqual(back.stderr, "")
            self.assertIn(ORGANISATION, back.stdout)
            self._damaged(kept, third)
            files = [path for path in (kept / "files").rglob("*") if path.is_file()]
            files[0].write_bytes(b"another")
            # Read again on the way: what rotted is copied anew.
            self.run_(second, ("backup", str(kept)))
            self.assertNotEqual(files[0].read_bytes(), b"another")
            files[0].unlink()
            refused = self.run_(third, ("restore", str(kept)), ("restore", str(first)))
            self.assertIn(
                "1 files are missing or changed in the backup and were not restored; all else was", refused.stderr
            )
            self.assertIn("no backup", refused.stderr)
            back = [path for path in (third / "photos").rglob("*") if path.is_file()]
            self.assertEqual(len(back), len([path for path in (first / "photos").rglob("*") if path.is_file()]) - 1)

    def _damaged(self, kept: Path, empty: Path) -> None:
        """A list that is damaged or leads out of the folder is refused in words, and nothing lies there then."""
        listed = json.loads((kept / "backup.json").read_text())
        (place, sum_), *_ = listed["files"].items()
        broken = (
            "[1]", "{", json.dumps(listed | {"files": [place]}), json.dumps({"made": 7}),
            json.dumps(listed | {"files": {"../../escaped.jpg": sum_}}),
            json.dumps(listed | {"files": {place: 12}}), json.dumps(listed | {"made": "../other"}),
        )  # fmt: skip
        for n, text in enumerate(broken):
            (kept / f"b{n}.json").write_text(text)
        commands = [("restore", str(kept), "--name", f"b{n}") for n in range(len(broken))]
        told = self.run_(empty, *commands).stderr
        self.assertEqual(told.count("Nothing was restored"), len(broken), told)
        self.assertNotIn("Traceback", told)
        self.assertFalse((empty / "photos").exists() or (empty.parent / "escaped.jpg").exists())

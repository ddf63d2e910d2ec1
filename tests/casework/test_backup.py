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

    def test_a_backup_comes_back_whole_and_never_over_a_house(self):
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
            self.assertIn(HOUSE, back.stdout)
            file = next(path for path in (kept / "files").rglob("*") if path.is_file())
            file.write_bytes(b"another")
            refused = self.run_(third, ("restore", str(kept)), ("restore", str(first))).stderr
            self.assertIn("missing or changed", refused)
            self.assertIn("no backup", refused)

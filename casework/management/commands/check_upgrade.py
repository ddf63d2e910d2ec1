"""Try an upgrade on a copy of the database: nothing of the shop's own is touched."""

import os
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from casework.management.commands.backup import FOLDERS

STEPS = (("migrate", "--verbosity", "0"), ("verify_ledger",))


class Command(BaseCommand):
    help = "Migrates a copy with this version and holds its ledger against what was signed."

    def handle(self, *args, **options):
        connection.ensure_connection()
        with tempfile.TemporaryDirectory() as folder:
            copy = sqlite3.connect(Path(folder) / "wahrheit.sqlite3")
            connection.connection.backup(copy)
            copy.close()
            for own in FOLDERS:
                if (Path(settings.DATA_DIR) / own).exists():
                    (Path(folder) / own).symlink_to(Path(settings.DATA_DIR).resolve() / own)
            for step in STEPS:
                done = subprocess.run(  # noqa: S603  our own command
                    [sys.executable, "manage.py", *step],
                    cwd=settings.BASE_DIR, env=os.environ | {"WAHRHEIT_DATA": folder},
                    capture_output=True, text=True, check=False,
                )  # fmt: skip
                self.stdout.write(done.stdout.rstrip())
                if done.returncode:
                    told = done.stderr.strip().splitlines()[-1:] or ["no word"]
                    raise CommandError(f"{step[0]} fails on the copy: {told[0]}. Nothing of yours was changed.")
        self.stdout.write("The copy came up. Make a backup, then run: manage.py migrate")

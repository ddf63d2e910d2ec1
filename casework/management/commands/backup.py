"""Back up the database and every file, while the application serves; a file that is there is not copied again."""

import hashlib
import json
import shutil
import sqlite3
from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.utils import timezone

FOLDERS = ("photos", "keys")
"""Of the data folder: what is kept besides the database."""
LIST = "backup.json"


def digest(path: Path) -> str:
    """SHA-256 of a file."""
    with path.open("rb") as source:
        return hashlib.file_digest(source, "sha256").hexdigest()


class Command(BaseCommand):
    help = "Writes DIR/<day and time>.sqlite3, a list of files beside it, and files by their digests under DIR/files."

    def add_arguments(self, parser):
        parser.add_argument("dir", type=Path)

    def handle(self, *args, dir, **options):  # noqa: A002 - the argument's name
        stamp = f"{timezone.now():%Y-%m-%dT%H%M%S%f}"
        try:
            dir.mkdir(mode=0o700, parents=True, exist_ok=True)
            # The database first: what comes in meanwhile is a file too many, never one too few.
            base = dir / f"{stamp}.sqlite3"
            self._database(base)
            files = self._files(dir / "files")
            kept = {"made": stamp, "database": digest(base), "files": files}
            (dir / f"{stamp}.json").write_text(json.dumps(kept, indent=1))
            (dir / LIST).write_text(json.dumps(kept | {"name": stamp}, indent=1))
        except OSError as error:
            raise CommandError(f"The backup is not complete: {error}") from error
        self.stdout.write(f"{base}, {len(files)} files. Restore it with: manage.py restore {dir}")

    @staticmethod
    def _database(onto: Path) -> None:
        connection.ensure_connection()
        target = sqlite3.connect(onto)
        try:
            connection.connection.backup(target)
        finally:
            target.close()
        onto.chmod(0o600)

    @staticmethod
    def _files(onto: Path) -> dict[str, str]:
        listed = {}
        for folder in FOLDERS:
            for path in sorted((Path(settings.DATA_DIR) / folder).rglob("*")):
                if path.is_file():
                    found = digest(path)
                    listed[str(path.relative_to(settings.DATA_DIR))] = found
                    there = onto / found[:2] / found
                    if not there.exists():
                        there.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
                        part = there.with_suffix(".part")
                        shutil.copyfile(path, part)
                        part.replace(there)
        return listed

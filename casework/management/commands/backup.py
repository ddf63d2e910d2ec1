"""Back up the database and every file, while the application serves; a file that is there is not copied again."""

import hashlib
import json
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.utils import timezone

FOLDERS = ("photos", "keys")
"""Of the data folder: what is kept besides the database; archived photographs as if they lay in the first."""
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
        for place, path in _kept():
            found = digest(path)
            there = onto / found[:2] / found
            # Read again: a kept file that rotted would make every later backup incomplete without a word.
            if not there.exists() or digest(there) != found:
                there.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
                part = there.with_suffix(".part")
                shutil.copyfile(path, part)
                part.replace(there)
            listed[place] = found
        return listed


def _kept() -> Iterator[tuple[str, Path]]:
    """Every file besides the database: its place in the data folder, and where it lies."""
    roots = [(folder, Path(settings.DATA_DIR) / folder) for folder in FOLDERS]
    if settings.ARCHIVE is not None:
        roots.append((FOLDERS[0], Path(settings.ARCHIVE)))
    for folder, root in roots:
        for path in sorted(root.rglob("*")):
            if path.is_file():
                yield str(PurePosixPath(folder) / path.relative_to(root).as_posix()), path

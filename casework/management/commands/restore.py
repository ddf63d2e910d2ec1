"""Bring a backup back into an empty data folder, and prove that it is whole."""

import json
import re
import shutil
import sqlite3
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connections

from casework.management.commands.backup import FOLDERS, LIST, digest
from pairs.models import Organisation

STAMP, SUM = re.compile(r"[\dT-]{10,40}"), re.compile(r"[0-9a-f]{64}")
MOST_NAMED = 20


class Command(BaseCommand):
    help = "Only into a data folder without a shop. Ends by checking every file, line, seal and photograph."

    def add_arguments(self, parser):
        parser.add_argument("dir", type=Path)
        parser.add_argument("--name", help="day and time of an older backup in the same folder")

    def handle(self, *args, dir, name=None, **options):  # noqa: A002 - the argument's name
        try:
            kept = _checked(json.loads((dir / (f"{name}.json" if name else LIST)).read_text()))
            base = dir / f"{kept['made']}.sqlite3"
            whole = digest(base) == kept["database"]
        except (OSError, ValueError) as error:
            raise CommandError(f"There is no backup to read in {dir}: {error}. Nothing was restored.") from error
        if not whole:
            raise CommandError(f"{base.name} was changed since it was written. Nothing was restored.")
        self._must_be_empty()
        lost = [place for place, sum_ in kept["files"].items() if not _whole(dir / "files" / sum_[:2] / sum_, sum_)]
        for place, sum_ in kept["files"].items():
            if place not in lost:
                target = Path(settings.DATA_DIR) / place
                target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
                shutil.copyfile(dir / "files" / sum_[:2] / sum_, target)
        self._database(base)
        self.stdout.write(f"Restored: {len(kept['files']) - len(lost)} files and the database of {kept['made']}.")
        call_command("migrate", verbosity=0)
        call_command("verify_ledger", stdout=self.stdout)
        if lost:
            named = "\n".join(lost[:MOST_NAMED])
            raise CommandError(
                f"{len(lost)} files are missing or changed in the backup and were not restored; all else was. An older "
                f"backup in the same folder may have them (--name).\n{named}"
            )

    @staticmethod
    def _must_be_empty() -> None:
        if "pairs_house" in connections["default"].introspection.table_names() and Organisation.objects.exists():
            raise CommandError("A shop works here already: restoring would overwrite it. Choose an empty data folder.")

    @staticmethod
    def _database(base: Path) -> None:
        connections["default"].ensure_connection()
        source = sqlite3.connect(base)
        try:
            source.backup(connections["default"].connection)
        finally:
            source.close()
        connections["default"].close()


def _checked(kept: object) -> dict:
    """The list of a backup, if it is one: nothing in it leads out of the data folder. Raises ValueError."""
    if not isinstance(kept, dict) or not isinstance(kept.get("files"), dict):
        raise ValueError("its list is damaged")
    made, database, files = kept.get("made"), kept.get("database"), kept["files"]
    if not isinstance(made, str) or not STAMP.fullmatch(made) or not isinstance(database, str):
        raise ValueError("its list is damaged")
    for place, sum_ in files.items():
        parts = PurePosixPath(place).parts
        inside = len(parts) > 1 and parts[0] in FOLDERS and ".." not in parts and "\\" not in place
        if not inside or not isinstance(sum_, str) or not SUM.fullmatch(sum_):
            raise ValueError(f"its list names no file of a shop: {place[:60]}")
    return kept


def _whole(path: Path, said: str) -> bool:
    return path.exists() and digest(path) == said

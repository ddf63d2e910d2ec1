"""Bring a backup back into an empty data folder, and prove that it is whole."""

import json
import shutil
import sqlite3
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connections

from casework.management.commands.backup import LIST, digest
from pairs.models import House


class Command(BaseCommand):
    help = "Only into a data folder without a shop. Ends by checking every file, line, seal and photograph."

    def add_arguments(self, parser):
        parser.add_argument("dir", type=Path)
        parser.add_argument("--name", help="day and time of an older backup in the same folder")

    def handle(self, *args, dir, name=None, **options):  # noqa: A002 - the argument's name
        try:
            kept = json.loads((dir / (f"{name}.json" if name else LIST)).read_text())
            base = dir / f"{kept['made']}.sqlite3"
            whole = digest(base) == kept["database"]
        except (OSError, ValueError, KeyError) as error:
            raise CommandError(f"There is no backup to read in {dir}: {error}") from error
        if not whole:
            raise CommandError(f"{base.name} was changed since it was written. Nothing was restored.")
        lost = [place for place, sum_ in kept["files"].items() if not _whole(dir / "files" / sum_[:2] / sum_, sum_)]
        if lost:
            raise CommandError(f"{len(lost)} files are missing or changed, such as {lost[0]}. Nothing was restored.")
        self._must_be_empty()
        for place, sum_ in kept["files"].items():
            target = Path(settings.DATA_DIR) / place
            target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            shutil.copyfile(dir / "files" / sum_[:2] / sum_, target)
        self._database(base)
        self.stdout.write(f"Restored: {len(kept['files'])} files and the database of {kept['made']}.")
        call_command("migrate", verbosity=0)
        call_command("verify_ledger", stdout=self.stdout)

    @staticmethod
    def _must_be_empty() -> None:
        if "pairs_house" in connections["default"].introspection.table_names() and House.objects.exists():
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


def _whole(path: Path, said: str) -> bool:
    return path.exists() and digest(path) == said

"""Look the data folder over: database, files, queue, disk, permissions, clock; say what is wrong and what to do."""

import shutil
import stat
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.db.models import FileField
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from casework.models import LedgerEntry, SignedHead
from casework.organisation_key import has_key, public_key
from casework.waiting import workers_up
from pairs.models import Organisation, Photo

LEAST_FREE_BYTES = 1_000_000_000
LONGEST_WAIT = timedelta(minutes=10)
STRAY_AFTER_S = 3600
"""A file younger than this may be on its way in."""


class Command(BaseCommand):
    help = (
        "Says what is wrong with the data folder and what to do; ends with 1 where something is. Changes nothing, but "
        "with --mend: files that belong to nothing and are older than an hour are deleted."
    )

    def add_arguments(self, parser):
        parser.add_argument("--mend", action="store_true")

    def handle(self, **options):
        wrong = 0
        if options["mend"]:
            for path in _strays():
                if timezone.now().timestamp() - path.stat().st_mtime > STRAY_AFTER_S:
                    path.unlink()
                    self.stdout.write(f"deleted: {path.relative_to(settings.DATA_DIR)}")
        for name, look in LOOKS.items():
            found = list(look())
            wrong += len(found)
            self.stdout.write(f"{name}: {'fine' if not found else ''}".rstrip())
            for line in found:
                self.stdout.write(f"  {line}")
        if wrong:
            raise CommandError(f"{wrong} things to look after.")


def _database() -> Iterator[str]:
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA quick_check")
        for (said,) in cursor.fetchall():
            if said != "ok":
                yield f"The database is damaged ({said}). Restore the last backup: manage.py restore DIR."
        for table, row, *_ in cursor.execute("PRAGMA foreign_key_check").fetchall():
            yield f"Row {row} of {table} points at nothing. Restore the last backup: manage.py restore DIR."


def _version() -> Iterator[str]:
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        yield "The database is of an older version. Make a backup, then: manage.py migrate."


def _files() -> Iterator[str]:
    for photo in Photo.objects.select_related("pair").iterator():
        if not photo.full.storage.exists(photo.full.name):
            yield f"{photo.full.name} (pair {photo.pair.label}) is gone. Fetch it from a backup's files."
    for path in _strays():
        yield f"{path.relative_to(settings.DATA_DIR)} belongs to nothing that is known. --mend deletes it."


def _strays() -> list[Path]:
    """Files that no row names: what a refused or broken upload left."""
    known = _named_files()
    return [path for path in settings.MEDIA_ROOT.rglob("*") if path.is_file() and str(path) not in known]


def _named_files() -> set[str]:
    """Paths of every file that some row names, whatever it is of."""
    fields = [
        (model, field.name)
        for model in apps.get_models()
        for field in model._meta.get_fields()
        if isinstance(field, FileField)
    ]
    names = (name for model, field in fields for name in model.objects.values_list(field, flat=True).iterator())
    return {str(settings.MEDIA_ROOT / name) for name in names if name}


def _queue() -> Iterator[str]:
    waiting = DBTaskResult.objects.ready().order_by("enqueued_at").first()
    if waiting and timezone.now() - waiting.enqueued_at > LONGEST_WAIT:
        yield f"Work has waited since {waiting.enqueued_at:%d %b %H:%M} UTC. Is manage.py work up?"
    if not workers_up() and Photo.objects.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING)).exists():
        yield "Photographs wait to be read and no workers are up. Start manage.py work."
    for photo in Photo.objects.filter(state=Photo.State.BROKEN).select_related("pair"):
        yield f"{photo.full.name} (pair {photo.pair.label}) could not be read. Ask for the photograph again."


def _disk() -> Iterator[str]:
    free = shutil.disk_usage(settings.DATA_DIR).free
    if free < LEAST_FREE_BYTES:
        yield f"Only {free / 1e9:.1f} GB are free. Make room; until then uploads are refused."


def _permissions() -> Iterator[str]:
    for path in (
        settings.DATA_DIR / "secret-key",
        *settings.DATA_DIR.glob("*.sqlite3*"),
        *settings.DATA_DIR.glob("keys/*"),
    ):
        if path.stat().st_mode & (stat.S_IRWXG | stat.S_IRWXO):
            yield f"{path.name} can be read by others on this machine: chmod 600 {path}"


def _keys() -> Iterator[str]:
    for shop in Organisation.objects.order_by("pk"):
        last = SignedHead.objects.filter(line__organisation=shop).order_by("-line").first()
        if last and not has_key(shop):
            yield f"{shop} has lost its key. Before it signs again, fetch keys/house-{shop.pk}.key from a backup."
        elif last and public_key(shop) != last.key:
            yield f"The key of {shop} is another than the ledger was signed with. Fetch the old one from a backup."


def _clock() -> Iterator[str]:
    last = LedgerEntry.objects.order_by("-pk").values_list("at", flat=True).first()
    if last and last > timezone.now() + timedelta(minutes=1):
        yield f"The ledger's last line is of {last:%d %b %Y %H:%M} UTC, later than now. Set this machine's clock."


LOOKS = {
    "Database": _database, "Version": _version, "Files": _files, "Queue": _queue, "Disk": _disk,
    "Permissions": _permissions, "Keys": _keys, "Clock": _clock,
}  # fmt: skip

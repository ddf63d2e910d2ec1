"""Move the photographs of long closed cases to the archive (WAHRHEIT_ARCHIVE): pages and reports find them there."""

from django.core.management.base import BaseCommand, CommandError

from assay.errors import AssayError
from casework import wording
from casework.actions.archive import archive, to_archive


class Command(BaseCommand):
    help = (
        "Moves photographs of cases signed long ago to the folder WAHRHEIT_ARCHIVE. Stopped, it goes on when run again."
    )

    def add_arguments(self, parser):
        parser.add_argument("--days", type=int, default=365, help="signed at least so many days ago")

    def handle(self, *args, **options):
        moved = freed = 0
        for photo in to_archive(options["days"]):
            try:
                freed += archive(photo)
            except AssayError as error:
                raise CommandError(wording.of_error(error)) from error
            moved += 1
        self.stdout.write(f"{moved} photographs moved, {freed / 1e6:.1f} MB came free")

"""Check a case bag: its checksums, and the signature of the shop that made it."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from pairs.models import Organisation
from reports.bag import faults_of


class Command(BaseCommand):
    help = "Says which file was changed, is missing or too many; ends with an error if there is one."

    def add_arguments(self, parser):
        parser.add_argument("file", type=Path)
        parser.add_argument("--shop", help="whose key it should carry; else any")

    def handle(self, *args, file, shop=None, **options):
        known = Organisation.objects.filter(name=shop).first() if shop else None
        if shop and known is None:
            raise CommandError(f"No shop is called {shop}.")
        try:
            faults = faults_of(file.read_bytes(), known)
        except OSError as error:
            raise CommandError(str(error)) from error
        for fault in faults:
            self.stdout.write(fault)
        if faults:
            raise CommandError(f"{len(faults)} found.")
        self.stdout.write("As it was signed.")

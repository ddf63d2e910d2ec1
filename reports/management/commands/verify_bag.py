"""Check a case bag: its checksums, and the signature of the shop that made it."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from pairs.models import House
from reports.bag import faults_of


class Command(BaseCommand):
    help = "Says which file was changed, is missing or too many; ends with an error if there is one."

    def add_arguments(self, parser):
        parser.add_argument("file", type=Path)
        parser.add_argument("--house", help="whose key it should carry; else any")

    def handle(self, *args, file, house=None, **options):
        known = House.objects.filter(name=house).first() if house else None
        if house and known is None:
            raise CommandError(f"No shop is called {house}.")
        try:
            faults = faults_of(file.read_bytes(), known)
        except OSError as error:
            raise CommandError(str(error)) from error
        for fault in faults:
            self.stdout.write(fault)
        if faults:
            raise CommandError(f"{len(faults)} found.")
        self.stdout.write("As it was signed.")

"""Check every shop's ledger, seals and photographs against what was written."""

from django.core.management.base import BaseCommand, CommandError

from casework.ledger import head, verify
from pairs.models import House


class Command(BaseCommand):
    help = "Names every line, signature or photograph that is not as it was written; then it ends with an error."

    def handle(self, *args, **options):
        faults = 0
        for house in House.objects.order_by("pk"):
            for fault in verify(house):
                faults += 1
                self.stdout.write(f"{house}: {fault.where}: {fault.what}")
            self.stdout.write(f"{house}: {house.ledger.count()} lines, the last is {head(house)}")
        if faults:
            raise CommandError(f"{faults} found.")

"""Check every shop's ledger, seals and photographs against what was written."""

from django.core.management.base import BaseCommand, CommandError

from casework.ledger import head, verify
from casework.models import LedgerEntry
from pairs.models import Organisation


class Command(BaseCommand):
    help = "Names every line, signature or photograph that is not as it was written; then it ends with an error."

    def add_arguments(self, parser):
        parser.add_argument(
            "--against", metavar="DIGEST", help="A head that was kept elsewhere: it must be in a ledger"
        )

    def handle(self, *args, **options):
        faults, against = 0, options["against"]
        if against:
            line = LedgerEntry.objects.filter(digest=against).select_related("organisation").first()
            told = (
                f"{line.organisation}: {against} is line {line.pk}, {line.at:%Y-%m-%d %H:%M}"
                if line
                else f"{against}: lost"
            )
            self.stdout.write(told if line else f"{told}, a ledger was cut or written anew")
            faults += line is None
        for organisation in Organisation.objects.order_by("pk"):
            for fault in verify(organisation):
                faults += 1
                self.stdout.write(f"{organisation}: {fault.where}: {fault.what}")
            self.stdout.write(f"{organisation}: {organisation.ledger.count()} lines, the last is {head(organisation)}")
        if faults:
            raise CommandError(f"{faults} found.")

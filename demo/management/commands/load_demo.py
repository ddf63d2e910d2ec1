"""Put the demo that is shipped into an empty data folder."""

from django.core.management.base import BaseCommand

from demo import pack


class Command(BaseCommand):
    help = "Safe to call again: a data folder that has a database stays as it is."

    def handle(self, *args, **options):
        unpacked = pack.unpack()
        if unpacked:
            pack.sign_heads()
        self.stdout.write("  the demo is unpacked" if unpacked else "  the data folder stays as it is")

"""Load the demo scenario: once; later calls change nothing."""

from django.conf import settings
from django.core.management.base import BaseCommand

from wahrheit.demo.load import load


class Command(BaseCommand):
    help = "Load the demo scenario (Pier Nine). Safe to call again."

    def handle(self, *args, **options):
        load(settings.DATA_DIR / "demo-photos", lambda line: self.stdout.write(f"  {line}"))

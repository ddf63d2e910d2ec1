"""Load the demo scenario: once; later calls change nothing."""

from django.conf import settings
from django.core.management.base import BaseCommand

from pairs.models import House
from wahrheit.demo import scenario as demo
from wahrheit.demo.load import load
from wahrheit.demo.year import load_year


class Command(BaseCommand):
    help = "Load the demo scenario (Pier Nine). Safe to call again."

    def handle(self, *args, **options):
        load(settings.DATA_DIR / "demo-photos", lambda line: self.stdout.write(f"  {line}"))
        house = House.objects.get(name=demo.HOUSE)
        people = [house.members.get(username=name) for name in demo.CHECKERS]
        retail = house.pairs.get(label="R1")
        load_year(house, retail.release, people, retail)

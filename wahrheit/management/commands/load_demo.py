"""Load the demo scenario: once; later calls change nothing, and go on where one was cut off."""

import fcntl
import os

from django.conf import settings
from django.core.management.base import BaseCommand

from pairs.models import House
from wahrheit.demo import progress
from wahrheit.demo import scenario as demo
from wahrheit.demo.load import load_first, load_rest
from wahrheit.demo.year import load_year

BEHIND_PAGES = 10
"""How much the rest steps back behind pages and workers (``nice``)."""


class Command(BaseCommand):
    help = "Load the demo scenario (Pier Nine). Safe to call again."

    def add_arguments(self, parser):
        parser.add_argument("--first", action="store_true", help="only what the counter opens with")
        parser.add_argument("--rest", action="store_true", help="only what comes after it, at leisure")

    def handle(self, *args, **options):
        kept = settings.DATA_DIR / "demo-photos"
        with (settings.DATA_DIR / "demo.lock").open("w") as lock:
            # Two at once would do everything twice.
            fcntl.flock(lock, fcntl.LOCK_EX)
            if not options["rest"]:
                load_first(kept, self._say)
            if not options["first"]:
                if options["rest"]:
                    os.nice(BEHIND_PAGES)
                load_rest(kept, self._say, progress.tell)
                house = House.objects.get(name=demo.HOUSE)
                people = [house.members.get(username=name) for name in demo.CHECKERS]
                retail = house.pairs.get(label="R1")
                load_year(house, retail.release, people, retail)

    def _say(self, line: str) -> None:
        self.stdout.write(f"  {line}")
        self.stdout.flush()

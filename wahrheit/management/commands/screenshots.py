"""Refresh the pictures of the main views from the demo that runs on 127.0.0.1."""

import importlib
import os

from django.conf import settings
from django.core.management.base import BaseCommand

from wahrheit.demo import scenario as demo

VIEWS = {
    "sign-in": "/sign-in/",
    "counter": "/",
    "intake": "/cases/402/intake/",
    "bench-stitches": "/cases/403/bench/heel-bar-right/",
    "bench-holes": "/cases/403/bench/vents-right/",
    "bench-pitch": "/cases/402/bench/quarter-row-left/",
    "bench-wipe": "/cases/401/bench/lace-holes-left/",
    "bench-question": "/cases/402/bench/smell/",
    "bench-code": "/cases/401/bench/style-code/",
    "verdict": "/cases/403/verdict/",
    "verdict-signed": "/cases/401/verdict/",
}


class Command(BaseCommand):
    help = "Needs the demo running (make demo) and Chromium."

    def add_arguments(self, parser):
        parser.add_argument("--port", default=os.environ.get("PORT", "8000"))

    def handle(self, *args, port, **options):
        chromium = importlib.import_module("tests.chromium")
        address = f"http://127.0.0.1:{port}"
        folder = settings.BASE_DIR / "docs" / "screenshots"
        with chromium.page() as show:
            show.goto(address + VIEWS["sign-in"])
            show.screenshot(path=folder / "sign-in.png")
            chromium.sign_in(show, address, "mara", demo.PASSWORD)
            for name, path in list(VIEWS.items())[1:]:
                show.goto(address + path)
                show.wait_for_load_state("networkidle")
                if name == "bench-wipe":
                    show.keyboard.press("w")
                    show.wait_for_timeout(400)
                show.screenshot(path=folder / f"{name}.png")
                show.keyboard.press("Escape")
                self.stdout.write(f"  {name}.png")

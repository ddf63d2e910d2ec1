"""Refresh the pictures of the main views from the demo that runs on 127.0.0.1."""

import importlib
import io
import os

from django.conf import settings
from django.core.management.base import BaseCommand
from PIL import Image

from demo import scenario as demo
from demo.pack import PHOTOGRAPHS

COLOURS = 192
VIEWS = {
    "counter": "/",
    "bench-stitches": "/cases/403/bench/heel-bar-right/",
    "bench-holes": "/cases/403/bench/vents-right/",
    "bench-ultraviolet": "/cases/401/bench/uv-drawn/",
    "bench-outline": "/cases/403/bench/side-outline-left/",
    "questions": "/guides/releases/1/questions/",
    "drafted-guide": "/guides/releases/1/draft/",
    "differences": "/cases/403/differences/?at=2",
    "bench-mark": "/cases/403/bench/emblem-parts/",
    "library": "/library/releases/1/guide/#side-outline-left",
    "bench-packing": "/cases/401/bench/packing/",
    "drill": "/drills/cards/sim:low:2:7/",
    "learned": "/logbook/learned/",
    "verdict": "/cases/403/verdict/",
    "verdict-signed": "/cases/401/verdict/",
}


class Command(BaseCommand):
    help = "Needs the demo running (make demo) and Chromium."

    def add_arguments(self, parser):
        parser.add_argument("--port", default=os.environ.get("PORT", "8000"))

    def handle(self, *args, port, **options):
        chromium = importlib.import_module("tests.support.chromium")
        address = f"http://127.0.0.1:{port}"
        folder = settings.BASE_DIR / "docs" / "screenshots"
        with chromium.page() as show:
            chromium.sign_in(show, address, "mara", demo.PASSWORD)
            show.evaluate("localStorage.setItem('wahrheit-demo-tour', 99)")
            for name, path in VIEWS.items():
                show.goto(address + path)
                show.wait_for_load_state("networkidle")
                # A page that jumps to its place is blank while it scrolls.
                show.wait_for_timeout(600)
                self._keep(show, folder, name)
            self._drawing(show, address, folder)
            self._photographs(show, address, folder)

    def _drawing(self, show, address, folder):
        """A new check drawn along the heel bar and tried."""
        show.goto(address + "/guides/")
        show.click(".guides li:has-text('Heel bar, left') a")
        show.wait_for_selector(".drawing-desk")
        show.select_option("#choice", "seam:pitch_mm")
        onto = (
            "([x, y]) => { const m = document.querySelector('.pic.desk').getScreenCTM();"
            " const p = new DOMPoint(x, y).matrixTransform(m); return [p.x, p.y]; }"
        )
        for point in demo.drawn("heel-bar-left"):
            show.mouse.click(*show.evaluate(onto, point))
        show.keyboard.press("Enter")
        show.wait_for_selector("#tried table")
        show.fill("#name", "Heel bar pitch, left")
        self._keep(show, folder, "draw-check")

    def _photographs(self, show, address, folder):
        """A new case, given the demo's unsorted photographs, as a checker would."""
        show.goto(address)
        show.fill("#style_code", "VQ-44127-B")
        show.keyboard.press("Enter")
        show.wait_for_selector(".intake")
        show.select_option("#condition", "deadstock")
        show.fill("#size_us", "9.5")
        show.keyboard.press("Tab")
        spare = sorted(PHOTOGRAPHS.glob("spare-*.jpg"))
        show.set_input_files("[data-pick]", spare)
        # Whose size tag it is cannot be seen.
        show.wait_for_selector(".shot.filled >> nth=6", timeout=120_000)
        show.wait_for_selector("[data-unsorted]", timeout=60_000)
        show.click(".shot:has-text('left shoe, size tag') [data-place]")
        show.wait_for_selector(".shot.filled >> nth=7", timeout=120_000)
        show.wait_for_selector("#tray:not(:has(progress))", timeout=60_000)
        show.evaluate("scrollTo(0, 0)")
        self._keep(show, folder, "intake")
        intake = show.url
        show.click(".shot.filled a >> nth=0")
        show.wait_for_selector(".photo-desk")
        self._keep(show, folder, "photo")
        show.goto(intake.replace("intake", "bench/lace-holes-right"))
        show.wait_for_load_state("networkidle")
        show.keyboard.press("c")
        box = show.locator(".suspect .pic").bounding_box()
        for share in (0.3, 0.7):
            show.mouse.click(box["x"] + share * box["width"], box["y"] + (0.9 - 0.6 * share) * box["height"])
        show.wait_for_selector(".readout output:has-text('Distance')")
        self._keep(show, folder, "bench-caliper")

    def _keep(self, show, folder, name):
        show.wait_for_load_state("networkidle")
        show.wait_for_timeout(500)
        # A palette keeps the repository small: a page of text and greys loses nothing, a photograph a little.
        picture = Image.open(io.BytesIO(show.screenshot())).convert("RGB")
        picture.quantize(COLOURS, dither=Image.Dither.NONE).save(folder / f"{name}.png", optimize=True)
        self.stdout.write(f"  {name}.png")

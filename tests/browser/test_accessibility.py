"""No main view has what axe calls serious or critical (axe-core, rules of WCAG 2 and best practice)."""

from pathlib import Path

from django.test import tag

from casework.models import Case
from library.models import Release
from tests.browser.demo import DemoInBrowser

AXE = Path(__file__).parent.parent / "vendor" / "axe" / "axe.min.js"
GRAVE = {"serious", "critical"}


@tag("browser")
class Accessibility(DemoInBrowser):
    def test_axe_finds_nothing_grave_on_any_main_view(self):
        case = Case.objects.filter(signed_at=None).order_by("number").first().number
        signed = Case.objects.exclude(signed_at=None).order_by("number").first().number
        release = Release.objects.order_by("pk").first().pk
        views = (
            *("", f"cases/{case}/intake/", f"cases/{case}/bench/vents-right/", f"cases/{case}/bench/smell/"),
            *(f"cases/{case}/bench/insole-words/", f"cases/{case}/bench/packing/", f"cases/{case}/differences/"),
            *(f"cases/{case}/verdict/", f"cases/{signed}/verdict/", "library/", f"library/releases/{release}/"),
            *(f"library/releases/{release}/guide/", "guides/", "kit/", "kit/validation/", "logbook/"),
            *("logbook/learned/", "drills/", "drills/next/", "shop/"),
        )
        for view in views:
            with self.subTest(view=view or "counter"):
                self.browser.goto(f"{self.live_server_url}/{view}")
                self.assertEqual(self._grave(), [])
                # And with everything open that can be opened.
                self.browser.evaluate("document.querySelectorAll('details').forEach((one) => { one.open = true; })")
                self.assertEqual(self._grave(), [], "with all details open")

    def _grave(self) -> list[tuple[str, str]]:
        self.browser.evaluate(AXE.read_text())
        found = self.browser.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
        return [(one["id"], one["nodes"][0]["html"][:120]) for one in found if one["impact"] in GRAVE]

    def test_nothing_scrolls_sideways_at_360_px_and_nothing_moves_where_that_is_not_wanted(self):
        case = Case.objects.filter(signed_at=None).order_by("number").first().number
        self.browser.set_viewport_size({"width": 360, "height": 740})
        self.browser.emulate_media(reduced_motion="reduce")
        for view in (
            "",
            f"cases/{case}/intake/",
            f"cases/{case}/bench/smell/",
            f"cases/{case}/verdict/",
            "kit/",
            "guides/",
        ):
            with self.subTest(view=view or "counter"):
                self.browser.goto(f"{self.live_server_url}/{view}")
                self.assertLessEqual(self.browser.evaluate("document.scrollingElement.scrollWidth"), 360)
                moving = "document.getAnimations().filter((one) => one.playState === 'running').length"
                self.assertEqual(self.browser.evaluate(moving), 0)

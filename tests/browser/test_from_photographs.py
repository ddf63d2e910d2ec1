"""From twelve photographs dropped on the counter to where triage ends: nothing typed but what hands and noses tell."""

import time

from django.test import tag

from casework.models import Case
from tests.browser.demo import SHOTS, DemoInBrowser

GENUINE = (
    *("box-label", "side-out-left", "side-out-right", "side-in-left", "rear-left", "sole-left", "size-tag-left"),
    *("size-tag-right", "emblem-close-left", "tongue-front-left", "insole-face-left", "footbed-board-left"),
)
MOST_STEPS = 60
MOVED_ON = """key => document.querySelector("#bench")?.dataset.key !== key
  || document.querySelector(".bal-verdict b")?.textContent === "Fake"
  || document.querySelector("[data-sure]")?.offsetParent
  || !document.querySelector(".bal-next").textContent.includes(" left")"""


@tag("browser")
class FromPhotographs(DemoInBrowser):
    def drop(self, files) -> Case:
        show = self.browser
        before = Case.objects.latest("number").number
        show.set_input_files("[data-arrivals] [data-pick]", files)
        show.wait_for_selector(".intake", timeout=120_000)
        case = Case.objects.latest("number")
        self.assertGreater(case.number, before)
        for _ in range(900):
            case.refresh_from_db()
            if not case.to_analyse and not case.pair.photos.filter(state__in=("arrived", "reading")).exists():
                break
            show.wait_for_timeout(200)
        Case.objects.filter(pk=case.pk).update(level="triage")
        return case

    def triage(self, case: Case) -> str:
        """Work down what triage asks, every question answered as retail has it; returns where it ends."""
        show = self.browser
        show.goto(f"{self.live_server_url}/cases/{case.number}/bench/")
        for _ in range(MOST_STEPS):
            show.wait_for_selector("body:not(:has(.htmx-request)) #bench")
            here, left = show.get_attribute("#bench", "data-key"), show.inner_text(".bal-next")
            if show.inner_text(".bal-verdict b") == "Fake" or " left" not in left:
                break
            if show.locator("[data-sure]:visible").count() or show.locator(".action.main:visible").count():
                self.keys("Enter")
                if show.locator("[data-sure]:visible").count():
                    self.keys("Enter")
            elif show.locator("[data-digit='1']:visible").count():
                self.answer_as_retail()
            elif show.locator(".places").count() and show.locator(".print-crop").count():
                self.keys("Enter")
            else:
                self.keys("u")
                show.keyboard.type("not here")
                self.keys("Enter")
            show.wait_for_function(MOVED_ON, arg=here, timeout=20_000)
        return f"{show.inner_text('.bal-verdict b')}. {show.inner_text('.bal-next')}"

    def test_a_good_copy_ends_as_fake_and_a_genuine_pair_never_does(self):
        for name, files, ends in (
            ("good copy", sorted(SHOTS.glob("good-*.jpg"))[:12], "Fake"),
            ("genuine pair", [SHOTS / f"sloppy-{one}.jpg" for one in GENUINE], "Undecided"),
        ):
            with self.subTest(name):
                self.browser.goto(self.live_server_url)
                self.struck, began = 0, time.monotonic()
                case = self.drop(files)
                read = time.monotonic() - began
                said = self.triage(case)
                print(
                    f"\n{name}: read after {read:.0f} s, {self.struck} keys, {time.monotonic() - began:.0f} s: {said!r}"
                )
                self.assertTrue(said.startswith(ends), said)
        self.assertEqual(self.browser.complaints, [])

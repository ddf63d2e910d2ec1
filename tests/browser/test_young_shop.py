"""A shop that has never seen the program: two pairs of eight photographs become a guide of twenty checks, and another
pair is compared by it. Keys, clicks and minutes are counted: five minutes and sixty keys were asked up to the guide.
Runs behind the others, which share the demo."""

import time
from unittest import mock

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag

from casework.models import Case
from library.models import Checkpoint, Release
from library.photo_kinds import kinds_by_key
from tests.browser.demo import SHOTS, WORD, owner
from tests.support.chromium import page, sign_in

KINDS = (
    *("side-out-left", "side-out-right", "side-in-left", "rear-left", "sole-left", "uv-side-left"),
    *("box-label", "size-tag-left"),
)
CHECKS = 20


def place_of(name: str) -> str:
    """A photograph's kind and foot as its button sends them, by how its file is called."""
    kind, _, foot = name.rpartition("-")
    kind, foot = (kind, foot) if foot in ("left", "right") else (name, "")
    known = kinds_by_key()
    return f"{kind if kind in known else kind.replace('-', '_')} {foot}".strip()


@tag("browser")
class FirstHour(StaticLiveServerTestCase):
    """It needs nothing of the demo but photographs; its ledger cannot be emptied afterwards."""

    def _fixture_teardown(self):
        pass

    def setUp(self):
        # As of every browser test: whole photographs are compared by workers, which this one process has none of.
        self.enterContext(mock.patch("casework.actions.analyse_case.undiffered", return_value=[]))
        self.organisation = owner("ise", "Hawser Counter")
        self.show = self.enterContext(page())
        sign_in(self.show, self.live_server_url, "ise", WORD)
        self.struck = self.clicked = 0

    def keys(self, *keys):
        self.struck += len(keys)
        for key in keys:
            self.show.keyboard.press(key)

    def click(self, what):
        self.clicked += 1
        self.show.click(what)

    def fill(self, **said):
        for name, value in said.items():
            self.struck += len(value)
            self.show.fill(f"[name='{name}']", value)

    def test_two_pairs_become_a_guide_of_twenty_checks_and_a_suspect_is_compared_by_it(self):
        began = time.monotonic()
        self.add_maker_and_release()
        for label in ("R1", "R2"):
            self.add_retail_pair(label)
        typed, sorted_by = self.struck, self.clicked
        self.draft_and_accept()
        print(
            f"\nfirst hour: {self.struck} keys, of them {typed} for maker, release and pairs, {self.clicked} clicks,"
            f" {sorted_by} of them before the draft; {(time.monotonic() - began) / 60:.1f} minutes, machine's included"
        )
        case = self.compare_a_suspect()
        graded = case.findings.exclude(grade="not_compared").count()
        print(f"the suspect: {graded} of {case.findings.count()} checks graded without a click")
        self.assertGreater(graded, CHECKS // 2)
        self.assertEqual(self.show.complaints, [])

    def add_maker_and_release(self):
        show = self.show
        self.click(".first-steps a:has-text('Add a release')")
        if not show.is_visible("h1:has-text('A new maker')"):
            # The demo's makers are here already; of a really new shop the maker comes by itself.
            self.click("text=Add a maker")
        self.fill(name="Brailwick", style_code_mask="AAA-999", examples="BRW-301")
        self.keys("Enter")
        show.wait_for_selector("h1:has-text('A new release')")
        self.fill(model="Gantry", colourway="Slate", style_code="BRW-301", year="2025", sizes_us="9.5")
        self.click("text=Keep")
        show.wait_for_selector("h1:has-text('Gantry, Slate')")

    def add_retail_pair(self, label: str):
        show, release = self.show, Release.objects.get(style_code="BRW-301")
        show.goto(f"{self.live_server_url}/library/releases/{release.pk}/pairs/new/")
        self.fill(size_us="9.5", verified_how="receipt")
        show.select_option("[name=condition]", "deadstock")
        self.click("text=Go on to its photographs")
        show.wait_for_selector("[data-pick]")
        self.clicked += 1
        show.set_input_files("[data-pick]", [SHOTS / f"{label}-{kind}.jpg" for kind in KINDS])
        # All sent first: the list is drawn anew with each that arrives.
        show.wait_for_selector(".unsorted, li.shot", timeout=120_000)
        show.wait_for_selector(".drop-files:empty", state="attached", timeout=120_000)
        show.wait_for_timeout(1000)
        while True:
            show.wait_for_selector(".unsorted button, #tray:not(:has(progress)) li.shot >> nth=7", timeout=120_000)
            name = show.locator(".unsorted p").first
            if not name.count():
                break
            said = name.inner_text()
            place = place_of(said.removeprefix(f"{label}-").removesuffix(".jpg"))
            key = show.get_attribute(f".unsorted button[value='{place}']", "data-place")
            self.keys(key) if key else self.click(f".unsorted button[value='{place}']")
            show.wait_for_function(
                "said => document.querySelector('.unsorted p')?.textContent !== said", arg=said, timeout=120_000
            )
        self.click("text=let it count")
        show.wait_for_selector(".notices .success:has-text('It counts from now on')")

    def draft_and_accept(self):
        show, release = self.show, Release.objects.get(style_code="BRW-301")
        show.goto(self.live_server_url)
        self.click(".first-steps a:has-text('Draft the guide')")
        show.wait_for_selector("text=Draft the guide from")
        self.keys("Enter")
        show.wait_for_selector(".draft-photo", timeout=200_000)
        show.wait_for_selector("#draft-progress:not(:has(progress))", state="attached", timeout=200_000)
        for _ in range(CHECKS):
            with show.expect_navigation():
                self.keys("Enter")
        self.assertEqual(Checkpoint.objects.filter(release=release).count(), CHECKS)

    def compare_a_suspect(self) -> Case:
        show = self.show
        show.goto(self.live_server_url)
        show.fill("#style_code", "brw301")
        show.keyboard.press("Enter")
        show.wait_for_selector(".intake")
        show.set_input_files("[data-pick]", [SHOTS / f"R3-{kind}.jpg" for kind in KINDS])
        show.wait_for_selector("#tray:not(:has(progress)) .shot.filled >> nth=5", timeout=300_000)
        case = Case.objects.get(organisation=self.organisation)
        for _ in range(600):
            case.refresh_from_db()
            if not case.to_analyse and not case.pair.photos.filter(state__in=("arrived", "reading")).exists():
                return case
            show.wait_for_timeout(200)
        return case

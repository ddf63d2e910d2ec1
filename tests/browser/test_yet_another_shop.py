"""An empty shop, on screen only: a shoe that nobody knows becomes a guide, a caught copy a batch, the guide a file,
and another shop closes a case with it. Runs behind the others, which share the demo."""

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag

from casework.models import Case
from demo import recipes
from demo import scenario as demo
from library.models import Release
from pairs.models import Pair, Standing
from tests.browser.demo import SIDES, WORD, owner
from tests.support.chromium import page, sign_in


@tag("browser")
class NewOrganisation(StaticLiveServerTestCase):
    """It needs nothing of the demo but two photographs; its ledger cannot be emptied afterwards."""

    def _fixture_teardown(self):
        pass

    def setUp(self):
        self.show = self.enterContext(page())

    def keys(self, *keys):
        for key in keys:
            self.show.keyboard.press(key)

    def at(self, key):
        self.show.wait_for_selector(f'#bench[data-key="{key}"]')

    def as_owner_of(self, name: str, organisation: str):
        self.organisation = owner(name, organisation)
        self.show.goto(self.live_server_url)
        if self.show.is_visible("text=sign out"):
            self.show.click("text=sign out")
            self.show.wait_for_selector("#id_username")
        sign_in(self.show, self.live_server_url, name, WORD)

    def fill(self, **said):
        for name, value in said.items():
            self.show.fill(f"[name='{name}']", value)

    def test_from_nothing_to_a_guide_that_another_shop_works_with(self):
        self.as_owner_of("tove", "Lantern Counter")
        self.add_maker_and_releases()
        self.add_a_retail_pair()
        self.put_checks_on_the_guide()
        self.a_further_colourway_of_a_known_model()
        self.catch_a_copy()
        data = self.take_the_guide_away()
        self.work_with_it_elsewhere(data)
        self.assertEqual(self.show.complaints, [])

    def add_maker_and_releases(self):
        show = self.show
        self.keys("Escape", "l")
        show.click("text=Add a maker")
        self.fill(name="Corvane", style_code_mask="AAA-999", examples="CRV-118 CRV-9")
        show.click("text=Keep")
        show.wait_for_selector(".problem:has-text('CRV-9 does not fit')")
        self.fill(examples="CRV-118")
        show.click("text=Keep")
        show.wait_for_selector("h2:has-text('Corvane')")
        show.goto(self.live_server_url)
        show.fill("#style_code", "crv 118")
        self.keys("Enter")
        show.click("text=as a release")
        show.select_option("[name=maker]", label="Corvane")
        self.fill(model="Gangway", colourway="Foghorn", year="2025", sizes_us="9 9.5 10", retail_price="140")
        show.click("text=Keep")
        show.wait_for_selector("h1:has-text('Gangway, Foghorn')")
        show.click("text=Another colourway of it")
        self.fill(colourway="Signal", style_code="CRV-119")
        show.click("text=Keep")
        show.wait_for_selector("h1:has-text('Gangway, Signal')")
        show.click("text=Foghorn")

    def add_a_retail_pair(self):
        show = self.show
        show.click(".library-steps li:first-child a")
        self.fill(size_us="9.5", verified_how="bought from the maker, receipt in the drawer")
        show.select_option("[name=condition]", "deadstock")
        show.click("text=Go on to its photographs")
        show.wait_for_selector("[data-pick]")
        show.fill("[name=mm_per_px]", str(recipes.MM_PER_PX)) if show.is_visible("[name=mm_per_px]") else None
        show.set_input_files("[data-pick]", SIDES)
        for _ in SIDES:
            # Nothing is known to sort by: a word each.
            name = show.wait_for_selector(".unsorted p >> nth=0", timeout=60_000).inner_text()
            side = "left" if "left" in name else "right"
            show.click(f".library-places button:has-text('{side} shoe, side, outer') >> nth=0")
            show.wait_for_selector(f"li.shot:has-text('{side} shoe, side, outer')", timeout=60_000)
        show.click("text=let it count")
        show.wait_for_selector(".notices .success:has-text('It counts from now on')")

    def put_checks_on_the_guide(self):
        show = self.show
        for foot, name in (("left", "Eyelets, left"), ("right", "Eyelets, right")):
            show.click(f"li.shot:has-text('{foot} shoe, side, outer') a:has-text('Draw a check')")
            show.wait_for_selector(".drawing-desk")
            show.click("[data-measure=holes]")
            for x, y in demo.drawn(f"eyelets-{foot}"):
                show.mouse.click(*self.on_screen(x, y))
            self.keys("Enter")
            show.wait_for_selector("#tried table", timeout=30_000)
            self.fill(name=name, group="eyelets")
            show.check("[name=decisive]")
            show.click("[data-keep]")
            show.wait_for_selector(".notices .success")
            show.go_back()
            show.goto(f"{self.live_server_url}/library/pairs/{self.retail().pk}/")
        release = Release.objects.get(style_code="CRV-118")
        show.goto(f"{self.live_server_url}/guides/releases/{release.pk}/questions/")
        for key in ("price", "weight"):
            show.click(f"button[name=add][value={key}]")
            show.wait_for_selector(".notices .success:has-text('Asked now')")
        show.goto(f"{self.live_server_url}/library/releases/{release.pk}/guide/")
        for paper in ("code_on_tag", "packing"):
            show.select_option("[name=paper]", paper)
            show.click("text=Put it on the guide")
            show.wait_for_selector(".notices .success:has-text('On the guide now')")
        self.assertEqual(release.checkpoints.count(), 6)
        first, second = list(release.checkpoints.filter(section=release.checkpoints.first().section))[:2]
        show.drag_and_drop(f"#{first.key}", f"#{second.key}")
        show.wait_for_selector("[data-order-said]:has-text('moved')", state="attached")
        show.focus(f"#{first.key}")
        show.keyboard.press("Alt+ArrowUp")
        show.wait_for_timeout(300)
        self.assertEqual(list(release.checkpoints.filter(section=first.section))[:2], [first, second])
        show.click("a:has-text('Eyelets, left') >> nth=0")
        show.check("[name=shared]")
        show.click("text=Keep")
        show.wait_for_selector(".guide-checks")
        self.assertEqual(Release.objects.get(style_code="CRV-119").checkpoints.count(), 1)

    def a_further_colourway_of_a_known_model(self):
        """From an unknown code on the counter to a case of it: keys and clicks are counted, forty were asked."""
        show, struck = self.show, 0
        show.goto(self.live_server_url)
        for typed, click in (
            ("crv120", "as a release"),
            ("Harbour", "text=Keep"),
            ("crv120", None),
        ):
            field = "[name=colourway]" if typed == "Harbour" else "#style_code"
            show.fill(field, typed)
            struck += len(typed) + 1
            if field == "#style_code":
                self.keys("Enter")
            if click:
                show.click(click if "=" in click else f"text={click}")
                struck += 1
            if typed == "Harbour":
                show.wait_for_selector("h1:has-text('Gangway, Harbour')")
                show.goto(self.live_server_url)
        show.wait_for_selector(".intake")
        case = Case.objects.get(pair__release__style_code="CRV-120")
        self.assertEqual([finding.checkpoint.key for finding in case.findings.all()], ["eyelets-left"])
        self.assertEqual(case.reference.release.style_code, "CRV-118")
        self.assertLessEqual(struck, 40)
        print(f"unknown colourway of a known model: {struck} keys and clicks")

    def retail(self) -> Pair:
        return Pair.objects.get(
            release__style_code="CRV-118", standing=Standing.RETAIL, organisation__name="Lantern Counter"
        )

    def open_case(self, code: str) -> Case:
        show = self.show
        show.goto(self.live_server_url)
        show.fill("#style_code", code)
        self.keys("Enter")
        show.wait_for_selector(".intake")
        return Case.objects.get(number=int(show.url.split("/cases/")[1].split("/")[0]), organisation=self.organisation)

    def sign(self, verdict: str, words: str):
        show = self.show
        self.keys("v")
        show.wait_for_selector(".verdict")
        show.check(f"[name=verdict][value={verdict}]", force=True)
        show.fill("#words", words)
        if show.is_visible("#anyway"):
            show.fill("#anyway", "What the hands told is not on any list.")
        show.click("button.go:has-text('Sign')")
        show.wait_for_selector(".opinion")

    def catch_a_copy(self):
        show = self.show
        case = self.open_case("crv118")
        show.goto(f"{self.live_server_url}/cases/{case.number}/bench/size-tag-style-code/")
        self.at("size-tag-style-code")
        show.fill("[name='tag.style_code']", "CRV-181")
        show.press("[name='tag.style_code']", "Enter")
        show.wait_for_selector(".grade-line.departs")
        show.evaluate("document.activeElement.blur()")
        self.sign("fake", "The tag carries another code.")
        show.fill("#batch", "Clove")
        show.click("text=Add it to the known copies")
        show.wait_for_selector("h1:has-text('known copy, Clove')")

    def take_the_guide_away(self) -> bytes:
        show = self.show
        release = Release.objects.get(style_code="CRV-118")
        show.goto(f"{self.live_server_url}/library/releases/{release.pk}/")
        with show.expect_download() as download:
            show.click("text=Guide file")
        return download.value.path().read_bytes()

    def work_with_it_elsewhere(self, data: bytes):
        show = self.show
        self.as_owner_of("bram", "Second Lantern")
        self.keys("Escape", "l")
        show.click("text=Take in a guide file")
        show.set_input_files("[name=file]", {"name": "g.zip", "mimeType": "application/zip", "buffer": data[:-400]})
        show.click("text=Look at it")
        show.wait_for_selector(".problem:has-text('Nothing was changed')")
        show.set_input_files("[name=file]", {"name": "g.zip", "mimeType": "application/zip", "buffer": data})
        show.click("text=Look at it")
        show.wait_for_selector("text=comes as a candidate")
        show.click("button:has-text('Take it in')")
        show.wait_for_selector("h1:has-text('Gangway, Foghorn')")
        show.click(".library-pairs a:has-text('waits for')")
        show.click("text=let it count")
        show.wait_for_selector(".notices .success:has-text('It counts')")
        self.open_case("crv118")
        show.fill("#size_us", "9.5")
        show.press("#size_us", "Tab")
        show.set_input_files("[data-pick]", SIDES)
        show.wait_for_selector(".shot.filled >> nth=1", timeout=60_000)
        show.wait_for_selector("#tray:not(:has(progress))", timeout=60_000)
        show.evaluate("document.activeElement.blur()")
        self.keys("b")
        show.wait_for_selector("#bench")
        number = int(show.url.split("/cases/")[1].split("/")[0])
        show.goto(f"{self.live_server_url}/cases/{number}/bench/eyelets-left/")
        self.at("eyelets-left")
        self.assertIn("agrees", show.inner_text(".grade-line"))
        self.sign("undecided", "Only the eyelets were compared.")

    def on_screen(self, x, y):
        """Where a pixel of the photograph lies on the screen."""
        return self.show.evaluate(
            "([x, y]) => { const m = document.querySelector('.pic.desk').getScreenCTM();"
            " const p = new DOMPoint(x, y).matrixTransform(m); return [p.x, p.y]; }",
            [x, y],
        )

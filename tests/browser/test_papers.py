"""Box, label and packing in a real browser, by keyboard, on a case that has no photograph of the shoe."""

from django.test import override_settings, tag

from casework.models import Case
from tests.browser.demo import DemoInBrowser

# The figure is kept in tests/browser/README.md: change both.
KEYSTROKES = 21
PAPERS, POSH = 404, 405


@tag("browser")
@override_settings(DEMO=True)
class Papers(DemoInBrowser):
    def type(self, text):
        self.struck += len(text)
        self.browser.keyboard.type(text)

    def open(self, number, key):
        self.browser.goto(f"{self.live_server_url}/cases/{number}/bench/{key}/")
        self.at(key)

    def test_ten_checks_of_box_label_and_packing_by_keyboard(self):
        """Fourteen checks from the box to the packing; the shoe itself was never shown, and the verdict says so."""
        show = self.browser
        Case.objects.filter(number=PAPERS).update(level="full")
        self.open(PAPERS, "box-length")
        self.keys("1")  # all three sides from the caliper
        self.at("lid-gloss")
        self.answer_as_retail()
        self.at("lid-stamp")
        self.keys("Enter")
        self.type("l20402")
        self.keys("Enter")
        for key in ("box-board", "box-print"):
            self.at(key)
            self.answer_as_retail()
        self.open(PAPERS, "label-colour")
        self.assertEqual(show.input_value("[name='box.colour']"), "BRACKISH/BUOY-CHALK")
        show.wait_for_selector(".print-crop")
        # Wording, size row and number as they were read off the label: one key.
        self.keys("1")
        # What was measured and agrees asks for nobody.
        self.at("label-tab")
        self.answer_as_retail()
        self.at("label-border")
        self.answer_as_retail()
        self.at("inlay")
        self.keys("1")
        self.at("inlay-look")
        self.answer_as_retail()
        self.open(PAPERS, "packing")
        self.keys("Space", "Enter")
        self.at("tissue-sheen")
        self.answer_as_retail()
        self.at("tissue-print")
        self.answer_as_retail()
        show.wait_for_selector('#bench:not([data-key="tissue-print"])')
        self.assertEqual(self.struck, KEYSTROKES)
        case = Case.objects.get(number=PAPERS)
        done = case.findings.exclude(grade="not_compared").values_list("checkpoint__key", "grade")
        self.assertEqual([row for row in done if row[1] != "agrees"], [])
        self.assertEqual(len(done), 23)
        self.keys("v")
        show.wait_for_selector(".verdict h1:text-is('Undecided')")
        self.assertIn("the shoe itself", show.inner_text(".for-legit"))
        self.assertEqual(show.complaints, [])

    def test_a_blank_inlay_confirmed_makes_a_fake(self):
        show = self.browser
        self.open(POSH, "inlay")
        self.keys("1")
        show.wait_for_selector(".grade-line.departs")
        self.assertIn("was never written", show.inner_text(".slips"))
        self.keys("Enter")
        # What rules a pair out is asked once more; unconfirmed, one slip of a box calls nothing fake.
        show.wait_for_selector("[data-sure]:focus")
        self.assertEqual(show.inner_text(".bal-verdict b"), "Undecided")
        self.keys("Enter")
        show.wait_for_selector(".bal-verdict b:text-is('Fake')")
        self.keys("v")
        show.wait_for_selector(".verdict h1:text-is('Fake')")
        self.assertEqual(show.complaints, [])

    def test_ticks_say_what_is_missing_unexpected_and_not_like_that(self):
        show = self.browser
        self.open(POSH, "packing")
        token = lambda name: show.locator(f".item:has-text('{name}')")  # noqa: E731
        self.assertEqual(token("Certificate card").get_attribute("data-state"), "there")
        self.keys("9", "9")  # there, not looked at, not there
        self.assertEqual(token("Certificate card").get_attribute("data-state"), "none")
        self.keys("5", "Shift+Digit1")
        self.assertEqual(token("Hang tag").get_attribute("data-state"), "none")
        self.assertEqual(token("Tissue").locator("[aria-pressed=true]").first.inner_text(), "white")
        show.click("text=Keep what is ticked")
        show.wait_for_selector(".slips:has-text('Hang tag')")
        self.assertIn("colour white", show.inner_text(".slips"))
        self.assertNotIn("Certificate", show.inner_text(".slips"))
        self.assertEqual(show.complaints, [])

    def test_what_cannot_be_meant_is_asked_about_and_stays_in_the_field(self):
        show = self.browser
        self.new_case()
        number = int(show.url.split("/cases/")[1].split("/")[0])
        show.fill("#size_us", "EU 43")
        show.select_option("#arrival", "own_box")
        show.fill("#box_size_us", "8")
        show.press("#box_size_us", "Tab")
        show.wait_for_selector("#applies:has-text('the box belongs to size 8, the pair is size 9.5')")
        # What is void asks nothing.
        self.open(number, "box-length")
        self.assertEqual(show.locator("[name='box.outer']").count(), 0)
        show.goto(f"{self.live_server_url}/cases/{number}/intake/")
        show.click("summary:has-text('region, feet and more')")
        show.fill("#box_size_us", "")
        show.press("#box_size_us", "Tab")
        show.wait_for_selector("#applies:not(:has-text('the box belongs to size 8'))")
        for key, field, typed, says in (
            ("box-length", "box.outer", "13.8 x 9.7 x 5", "13.8 in"),
            ("label-code", "box.style_code", "VQ-44127-В", "Cyrillic letter"),
            ("barcode", "box.barcode", "20044120950", "this has 11"),
            ("tag-made", "tag.made", "15/03/2024 - 20/04/2024", "day-month-year"),
            ("label-sizes", "box.sizes", "9.5 8.5 43", "the system before each figure"),
        ):
            self.open(number, key)
            show.fill(f"[name='{field}']", typed)
            show.press(f"[name='{field}']", "Enter")
            show.wait_for_selector(f".panel .problem:has-text('{says}')")
            self.assertEqual(show.input_value(f"[name='{field}']"), typed)
        self.assertEqual(show.complaints, [])

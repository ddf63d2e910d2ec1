"""A newcomer does ten cards by keyboard and sees what to practise; drills and logbook fit a phone."""

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag

from drills.models import Answer
from tests.browser.demo import WORD, owner
from tests.support.chromium import page, sign_in

CARDS = 10


@tag("browser")
class Drills(StaticLiveServerTestCase):
    def _fixture_teardown(self):
        """The ledger cannot be emptied."""

    def test_ten_cards_by_keyboard_in_a_shop_that_has_no_pair_yet(self):
        owner("wanda", "Plover Counter")
        with page() as seen:
            sign_in(seen, self.live_server_url, "wanda", WORD)
            seen.keyboard.press("?")
            seen.wait_for_selector("#keys[open]")
            seen.keyboard.press("Escape")
            seen.wait_for_selector("#keys:not([open])", state="attached")
            seen.keyboard.press("Escape")
            seen.keyboard.press("d")
            seen.wait_for_selector("h1:has-text('Drills')")
            self.assertIn("Answer a few cards", seen.inner_text("main"))
            seen.wait_for_load_state()
            for n in range(CARDS):
                seen.keyboard.press("Enter")
                seen.wait_for_selector(".drill-answers")
                seen.wait_for_load_state()
                self.assertEqual(seen.locator(".drill-shown").count(), 0, "nothing is told before it is answered")
                seen.keyboard.press("15243"[n % 5])
                seen.wait_for_selector(".drill-shown")
                seen.wait_for_load_state()
            self.assertEqual(Answer.objects.filter(person__username="wanda").count(), CARDS)
            seen.goto(f"{self.live_server_url}/drills/")
            self.assertRegex(seen.inner_text("main"), "Practise .*|Answer a few cards of both kinds")
            seen.set_viewport_size({"width": 360, "height": 740})
            for address in ("drills/", "drills/next/", "logbook/", "logbook/learned/"):
                seen.goto(f"{self.live_server_url}/{address}")
                wide = seen.evaluate("document.scrollingElement.scrollWidth")
                self.assertLessEqual(wide, 360, address)
            self.assertEqual(seen.complaints, [])

"""Through what no check names by keys alone: the next one, and one noted as seen."""

from django.test import tag

from casework.models import Sighting
from pairs.models import Photo
from tests.browser.demo import DemoInBrowser


@tag("browser")
class Differences(DemoInBrowser):
    def test_they_are_gone_through_and_noted_without_the_mouse(self):
        show = self.browser
        photos = Photo.objects.filter(pair__case__signed_at=None).exclude(differences=None)
        many = max(photos, key=lambda photo: len(photo.differences["regions"]))
        self.assertGreater(len(many.differences["regions"]), 1)
        case = many.pair.case
        show.goto(f"{self.live_server_url}/cases/{case.number}/differences/")
        show.wait_for_selector(".difference-list .here")
        first = show.inner_text(".difference-actions h2")
        show.keyboard.press("j")
        show.wait_for_url("**/differences/?at=2")
        self.assertNotEqual(show.inner_text(".difference-actions h2"), "")
        show.keyboard.press("k")
        show.wait_for_url("**/differences/?at=1")
        self.assertEqual(show.inner_text(".difference-actions h2"), first)
        show.evaluate("document.activeElement.blur()")
        show.keyboard.press("Enter")
        show.wait_for_selector("text=Noted as seen")
        seen = Sighting.objects.latest("pk")
        self.assertEqual((seen.case, len(seen.points)), (case, 2))
        self.assertTrue(seen.crop)

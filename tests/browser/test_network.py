"""A lost network is seen, and loses nothing that was entered."""

from django.test import tag

from casework.models import Case
from tests.browser.demo import DemoInBrowser


@tag("browser")
class LostNetwork(DemoInBrowser):
    def test_a_form_that_cannot_be_sent_says_so_keeps_what_was_typed_and_is_sent_again(self):
        show = self.browser
        show.fill("#style_code", "VQ-44127-B")
        before = Case.objects.count()
        show.context.set_offline(True)
        self.keys("Enter")
        show.wait_for_selector("#saving:has-text('Not saved: no connection')")
        self.assertEqual(show.input_value("#style_code"), "VQ-44127-B")
        self.assertEqual(Case.objects.count(), before)
        show.context.set_offline(False)
        show.click("#saving button")
        show.wait_for_selector(".intake")
        self.assertEqual(Case.objects.count(), before + 1)

    def test_an_answer_on_the_bench_that_did_not_arrive_is_not_shown_as_kept(self):
        show = self.browser
        self.new_case()
        show.goto(show.url.rstrip("/").removesuffix("/intake") + "/bench/smell/")
        self.at("smell")
        show.context.set_offline(True)
        self.keys("2")
        show.wait_for_selector("#saving:has-text('Not saved')")
        case = Case.objects.latest("number")
        self.assertFalse(case.pair.readings.filter(checkpoint__key="smell").exists())
        self.at("smell")
        show.context.set_offline(False)
        show.click("#saving button")
        show.wait_for_selector("#saving", state="hidden")
        show.wait_for_function("document.querySelector('#bench').dataset.key !== 'smell'")
        self.assertTrue(case.pair.readings.filter(checkpoint__key="smell").exists())

    def test_a_fact_typed_without_a_network_is_sent_with_the_next_try(self):
        show = self.browser
        self.new_case()
        show.context.set_offline(True)
        show.fill("#source", "a friend of a friend")
        show.press("#source", "Tab")
        show.wait_for_selector("#saving:has-text('Not saved')")
        show.context.set_offline(False)
        show.click("#saving button")
        show.wait_for_selector("#saving", state="hidden")
        show.reload()
        self.assertEqual(show.input_value("#source"), "a friend of a friend")

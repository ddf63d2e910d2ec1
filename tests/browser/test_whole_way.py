"""The whole way in a real browser, on the demo: from a style code to a signed, exported verdict."""

import contextlib
import json
from dataclasses import replace

import jsonschema
from django.conf import settings
from django.test import tag
from PIL import Image
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from assay.judge.rules import Verdict, weighs_everything
from assay.judge.weigh import telling
from casework.findings import assess, findings_of
from casework.models import Case
from casework.weighing import plan_of
from demo.scenario import ORGANISATION
from tests.browser.demo import FLAGS_AS_LOADED, SHOTS, DemoInBrowser
from tests.support.documents import SCHEMA


@tag("browser")
class WholeWay(DemoInBrowser):
    def test_from_style_code_to_export_by_keyboard(self):
        show = self.browser
        self.keys("Escape", "n")
        show.keyboard.type("vq 44l27 b")
        self.keys("Enter")
        show.wait_for_selector(".intake")
        number = int(show.url.split("/cases/")[1].split("/")[0])
        self._enter_facts(show)
        self._send_photographs(show)
        self.keys("b")
        # What waits for an eye comes first.
        self.at("lace-holes-right")
        show.goto(show.url.split("/bench/")[0] + "/bench/style-code/")
        self.at("style-code")
        # Print is read last of all: while it is, the page says so.
        show.wait_for_selector("#progress:not(:has(progress))", state="attached", timeout=60_000)
        show.reload()
        self.at("style-code")
        self._say_what_only_hands_tell(show)
        self._correct_one_tick(show)
        self._confirm_the_extra_lace_hole(show)
        self._sign_and_export(show, number)
        self.assertEqual(show.complaints, [])

    def _enter_facts(self, show):
        show.fill("#size_us", "44")
        show.press("#size_us", "Tab")
        show.wait_for_selector("#applies .problem:has-text('never made in US 44')")
        show.fill("#size_us", "9.5")
        show.select_option("#condition", "deadstock")
        show.select_option("#arrival", "no_box")
        show.fill("#source", "a friend of a friend")
        show.press("#source", "Tab")
        show.wait_for_selector("#applies:not(:has(.problem))")
        show.wait_for_selector("body:not(:has(.htmx-request))")
        show.reload()
        self.assertEqual((show.input_value("#size_us"), show.input_value("#source")), ("9.5", "a friend of a friend"))

    def _send_photographs(self, show):
        """Eight files that say nothing of what they show: sorted, scaled, lit and counted without a click on any. Only
        whose size tag it is cannot be seen: one key says it."""
        show.set_input_files("[data-pick]", sorted(SHOTS.glob("spare-IMG_*.jpg")))
        show.wait_for_selector(".shot.filled >> nth=6", timeout=120_000)
        show.wait_for_selector("[data-unsorted]", timeout=60_000)
        show.evaluate("document.activeElement.blur()")
        for _ in range(4):
            # A key that falls into the moment in which the tray is put anew is pressed again, as a person would.
            if not show.locator("[data-unsorted]").count():
                break
            self.keys(show.get_attribute(".shot:has-text('left shoe, size tag') [data-place]", "data-place"))
            with contextlib.suppress(PlaywrightTimeout):
                show.wait_for_selector("[data-unsorted]", state="detached", timeout=30_000)
        show.wait_for_selector(".shot.filled >> nth=7", timeout=120_000)
        show.wait_for_selector("#tray:not(:has(progress))", timeout=60_000)
        self.assertFalse(show.is_visible("[data-unsorted]"))
        # A line goes when its file's last measure is taken; one that says what went wrong stays.
        show.wait_for_selector(".drop-files:not(:has(li))", state="attached", timeout=60_000)
        show.evaluate("document.activeElement.blur()")

    def _say_what_only_hands_tell(self, show):
        # It was read off the tag; what is typed over it is checked as ever.
        self.assertEqual(show.input_value("[name='tag.style_code']"), "VQ-44127-B")
        show.fill("[name='tag.style_code']", "VQ-44127")
        self.keys("Enter")
        show.wait_for_selector(".panel .problem")
        self.assertEqual(show.input_value("[name='tag.style_code']"), "VQ-44127")
        show.fill("[name='tag.style_code']", "vq44127b")
        self.keys("Enter")
        self.at("tag-sizes")
        self.keys("/")
        show.fill("#find-check", "smell")
        self.keys("Enter")
        self.at("smell")
        self.assertIn("shown once you have answered", show.inner_text(".num"))
        self.keys("2")
        show.wait_for_selector('#bench:not([data-key="smell"])')

    def _correct_one_tick(self, show):
        show.goto(show.url.split("/bench/")[0] + "/bench/heel-bar-left/")
        self.at("heel-bar-left")
        self.assertEqual(self.value(), "13")
        self.assertEqual(show.locator(".suspect .mark").count(), 13)
        self.keys("t", "ArrowRight", "Delete")
        show.wait_for_selector(".num > div:first-child b:text-is('12')")
        self.assertIn("departs", show.inner_text(".grade-line"))
        self.keys("a")
        show.wait_for_selector(".num > div:first-child b:text-is('13')")
        self.assertIn("Corrected by hand", show.inner_text(".means"))
        self.keys("Escape", "Enter")
        show.wait_for_selector('#bench:not([data-key="heel-bar-left"])')

    def _confirm_the_extra_lace_hole(self, show):
        self.keys("/")
        show.fill("#find-check", "lace holes, right")
        self.keys("Enter")
        self.at("lace-holes-right")
        self.assertEqual(self.value(), "8")
        self.assertIn("departs", show.inner_text(".grade-line"))
        self.keys("Enter")
        # What rules a pair out is asked once more; the answer has the focus.
        show.wait_for_selector("[data-sure]:focus")
        self.assertEqual(show.inner_text(".bal-verdict b"), "Undecided")
        self.keys("Enter")
        show.wait_for_selector(".bal-verdict b:text-is('Fake')")

    def _sign_and_export(self, show, number):
        self.keys("v")
        show.wait_for_selector(".verdict h1:text-is('Fake')")
        show.fill("#words", "The right shoe has a lace hole too many; no retail pair has.")
        show.click("button:has-text('Sign: this freezes the case')")
        show.wait_for_selector(".opinion")
        with show.expect_download() as download:
            show.click("text=the case as JSON")
        document = json.loads(download.value.path().read_text())
        jsonschema.validate(document, SCHEMA)
        grades = {finding["checkpoint"]: finding["grade"] for finding in document["findings"]}
        self.assertEqual((grades["lace-holes-right"], grades["heel-bar-left"]), ("rules_out", "agrees"))
        self.assertIsNotNone(Case.objects.get(number=number).signed_at)

    def test_marks_can_be_dragged_and_photographs_zoomed_together(self):
        show = self.browser
        case = Case.objects.filter(signed_at=None).earliest("number")
        show.goto(f"{self.live_server_url}/cases/{case.number}/bench/vents-left/")
        self.at("vents-left")
        before = [show.get_attribute(f".{side} .pic", "viewBox") for side in ("retail", "suspect")]
        self.keys("+")
        after = [show.get_attribute(f".{side} .pic", "viewBox") for side in ("retail", "suspect")]
        widths = [[float(box.split()[2]) for box in boxes] for boxes in (before, after)]
        self.assertAlmostEqual(widths[0][0] / widths[1][0], widths[0][1] / widths[1][1])
        self.keys("0", "m")
        handle = show.locator(".suspect .handle").nth(1).bounding_box()
        x, y = handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2
        show.mouse.move(x, y)
        show.mouse.down()
        show.mouse.move(x - 70, y + 3, steps=4)
        show.mouse.up()
        show.wait_for_selector(".num > div:first-child b:not(:text-is('14'))")
        self.assertLess(int(self.value()), 14)
        self.assertEqual(case.ledger.filter(action="marks_moved").count(), 1)
        self.assertEqual(show.complaints, [])

    def test_a_photo_that_cannot_be_laid_on_gets_its_marks_by_hand(self):
        """A turned cut-out of the heel has too little in common: the reference's marks are offered and dragged."""
        show = self.browser
        self.new_case()
        heel = settings.DATA_DIR / "heel.jpg"
        with Image.open(SHOTS / "R2-side-out-left.jpg") as whole:
            whole.crop((2050, 480, 2420, 800)).rotate(180).resize((740, 640)).save(heel, quality=95)
        self.addCleanup(heel.unlink)
        show.set_input_files("[data-pick]", heel)
        show.wait_for_selector("[data-unsorted]", timeout=60_000)
        self.keys("1")
        show.wait_for_selector(".shot.filled b:has-text('Left shoe, side, outer')")
        self.assertIn("small in the picture", show.inner_text(".shot.filled"))
        show.goto(show.url.replace("intake", "bench/heel-bar-left"))
        self.at("heel-bar-left")
        self.assertIn("couldn’t be aligned", show.inner_text(".means"))
        self.keys("m")
        self.assertTrue(show.is_visible(".suspect .handle >> nth=0"))
        dot = show.locator(".suspect .handle").nth(2).bounding_box()
        show.mouse.move(dot["x"] + dot["width"] / 2, dot["y"] + dot["height"] / 2)
        show.mouse.down()
        show.mouse.move(dot["x"] - 40, dot["y"] + 30, steps=4)
        with show.expect_response("**/marks/"):
            show.mouse.up()
        self.assertEqual(Case.objects.latest("number").ledger.filter(action="marks_moved").count(), 1)
        self.assertEqual(show.complaints, [])

    def test_the_suspect_is_laid_over_and_it_is_always_said_which_is_which(self):
        show = self.browser
        show.goto(f"{self.live_server_url}/cases/401/bench/lace-holes-left/")
        self.at("lace-holes-left")
        caption = lambda: show.inner_text(".retail .tag")  # noqa: E731
        self.keys("w")
        self.assertIn("Retail left of the line, Suspect right", caption())
        start = float(show.get_attribute("#wipe-clip rect", "x"))
        self.keys("ArrowRight", "ArrowRight")
        self.assertGreater(float(show.get_attribute("#wipe-clip rect", "x")), start)
        self.keys("x")
        self.assertIn("Suspect left of the line, Retail right", caption())
        self.keys("b")
        self.assertIn("Now: Retail", caption())
        show.keyboard.down("b")
        self.assertIn("Now: Suspect", caption())
        show.keyboard.up("b")
        self.keys("g", "d", "Escape")
        self.assertIn("left shoe, side, outer", caption())
        self.assertTrue(show.is_visible(".suspect .pic"))
        self.assertEqual(show.complaints, [])

    def test_the_demo_s_pairs_end_as_they_should(self):
        """Nothing of the genuine pair departs; counts, shape and marks catch the good copy once somebody has confirmed
        its flags; the crude one is signed."""
        shoe = {"vents-right", "heel-bar-right", "heel-waist", "side-outline-left", "side-outline-right"}
        shoe |= {"vents-feet", "heel-bar-feet"}
        shoe |= {"emblem-parts", "ring-gap", "seam-thread-shade"}
        shoe |= {"board-holes", "inner-side-outline"}
        box = {"packing"}
        self.assertEqual(FLAGS_AS_LOADED, {402: set(), 403: shoe, 404: set(), 405: box, 406: set()})
        self.assertEqual(Case.objects.get(organisation__name=ORGANISATION, number=401).opinions.get().verdict, "fake")
        stands = {}
        for case in Case.objects.filter(organisation__name=ORGANISATION, number__in=(402, 403, 404)):
            found = findings_of(case)
            stands[case.number] = (assess(case, found), found, case)
        verdicts = {number: stand.answer.verdict.value for number, (stand, *_) in stands.items()}
        self.assertEqual(verdicts, {402: "undecided", 403: "undecided", 404: "undecided"})
        stand = stands[403][0]
        self.assertEqual(stand.answer.reason, "flags_to_confirm")
        seen = [replace(one, pending=False, confirmed=True) if one.pending else one for one in stand.sheet]
        self.assertEqual(weighs_everything(seen, stand.policy).verdict, Verdict.FAKE)
        good = stand.if_confirmed
        self.assertGreater(good.batches["Bowline"], 0.8)
        self.assertIn("heel-bar-right", telling(good, "Bowline"))
        stand, found, case = stands[404]
        self.assertTrue(plan_of(case, found, stand).settling)
        # Outlines are there only once two are compared: of known copies as well.
        self.assertIn("Bowline", next(one for one in stand.unread if one.key == "side-outline-left").batches)

    def test_every_key_named_in_the_help_is_there(self):
        self.keys("?")
        listed = self.browser.inner_text("#keys")
        for key in ("J", "K", "T", "M", "U", "V", "I", "F", "S", "H", "A", "Delete", "Enter"):
            self.assertIn(key, listed)

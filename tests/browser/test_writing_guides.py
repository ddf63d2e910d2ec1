"""A new check in a real browser: drawn, tried, kept, measured on an open case, changed, and taken off again.

Runs behind the others, which share the demo and know nothing of a further check.
"""

import re

import numpy as np
from django.test import tag

from casework.models import Case, Finding
from demo import scenario as demo
from tests.browser.demo import DemoInBrowser


@tag("browser")
class Guides(DemoInBrowser):
    def test_a_check_is_drawn_tried_kept_and_measured_on_open_cases(self):
        show = self.browser
        self.keys("Escape", "l")
        show.wait_for_selector(".main-nav [aria-current]:text-is('Library')")
        self.keys("i")
        show.wait_for_selector(".guides")
        show.click(".guides li:has-text('Heel bar, left') a")
        show.wait_for_selector(".drawing-desk")
        show.select_option("#choice", "seam:pitch_mm")
        self.assertIn("from its first stitch to its last", show.inner_text("#how"))
        self.keys("Enter")
        show.wait_for_selector("#tried .problem:has-text('click on the photograph')")
        for x, y in demo.drawn("heel-bar-left"):
            show.mouse.click(*self.on_screen(x, y))
        show.mouse.click(*self.on_screen(900, 300))
        self.keys("Backspace", "Enter")
        show.wait_for_selector("#tried table")
        self.assertEqual(len(re.findall(r"(?<![.\d])13\s±", show.inner_text("#tried"))), 3)
        self.assertEqual(show.locator(".tried-marks .mark").count(), 13)
        show.click("[data-keep]")
        show.wait_for_selector(".problem:has-text('Give it a name')")
        self.assertEqual(show.locator(".put circle").count(), 6)
        show.fill("#name", "Heel bar pitch, left")
        show.fill("#group", "heel-bar")
        show.click("[data-keep]")
        show.wait_for_selector(".notices .success")
        found = Finding.objects.get(case__number=402, checkpoint__key="heel-bar-pitch-left")
        self.assertEqual((found.grade, len(found.retail)), ("agrees", 3))
        self.assertFalse(Case.objects.filter(number=401, findings__checkpoint__key="heel-bar-pitch-left").exists())
        show.click(".drawn-here li:has-text('Heel bar pitch') a")
        show.wait_for_selector("[data-keep]:has-text('Keep the changes')")
        self.keys("1")
        show.fill("#minutes", "soon")
        show.click("[data-keep]")
        show.wait_for_selector(".problem:has-text('as a number')")
        show.fill("#minutes", "1")
        show.click("[data-keep]")
        show.wait_for_selector(".notices .success:has-text('Changed')")
        self.move_its_last_dot()
        self.hold_left_against_right()
        show.click(".drawn-here li:has-text('Heel bar pitch') a")
        show.click("text=Take it off the guide")
        show.wait_for_selector(".notices .success:has-text('Taken off')")
        self.assertFalse(Finding.objects.filter(checkpoint__key="heel-bar-pitch-left").exists())
        self.assertEqual(show.complaints, [])

    def move_its_last_dot(self):
        """Nearly two stitches further in: the pairs are measured there, the open case as well."""
        show = self.browser
        show.click(".drawn-here li:has-text('Heel bar pitch') a")
        show.wait_for_selector(".put circle")
        before, after = demo.drawn("heel-bar-left")[-2:][::-1]
        show.mouse.move(*self.on_screen(*before))
        show.mouse.down()
        show.mouse.move(*self.on_screen(*(np.array(before) + 3 * np.array(after)) / 4), steps=4)
        show.mouse.up()
        self.keys("Enter")
        show.wait_for_selector("#tried table")
        show.click("[data-move]")
        show.wait_for_selector(".notices .success:has-text('Moved')")
        found = Finding.objects.get(case__number=402, checkpoint__key="heel-bar-pitch-left")
        self.assertLess(found.reading.parts["pitch_mm"], 6)
        self.assertLess(len(found.reading.overlay), 13)

    def hold_left_against_right(self):
        show = self.browser
        show.click(".drawn-here li:has-text('Lace holes, left') a")
        show.wait_for_selector("[data-join]")
        self.assertEqual(show.input_value("#feet_name"), "Lace holes, feet")
        show.click("[data-join]")
        show.wait_for_selector(".notices .success:has-text('held against the other now')")
        joined = Finding.objects.get(case__number=402, checkpoint__key="lace-holes-feet")
        self.assertEqual((joined.grade, joined.reading.value, len(joined.retail)), ("agrees", 0, 3))

    def on_screen(self, x, y):
        """Where a pixel of the photograph lies on the screen."""
        return self.browser.evaluate(
            "([x, y]) => { const m = document.querySelector('.pic.desk').getScreenCTM();"
            " const p = new DOMPoint(x, y).matrixTransform(m); return [p.x, p.y]; }",
            [x, y],
        )

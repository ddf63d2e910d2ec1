"""Photographs in a real browser: what is wrong with one, tools on the stage, a phone's way in."""

import io

from django.test import tag
from PIL import Image, ImageFilter, ImageOps

from casework.models import Case
from pairs.models import Photo
from tests.browser.demo import SHOTS, DemoInBrowser


@tag("browser")
class Photographs(DemoInBrowser):
    def files(self):
        """A side blurred, a side mirrored, a screenshot, a thumbnail, a file cut off: as they come from sellers."""
        side = Image.open(SHOTS / "spare-IMG_2045.jpg")
        spoilt = {
            "blurred.jpg": side.filter(ImageFilter.GaussianBlur(9)),
            "selfie.jpg": ImageOps.mirror(side),
            "thumbnail.jpg": side.resize((160, 120)),
            "screen.png": side.crop((900, 0, 2150, 2600)).resize((600, 1248)),
        }
        sent = []
        for name, picture in spoilt.items():
            target = io.BytesIO()
            picture.save(target, "PNG" if name.endswith("png") else "JPEG", quality=92)
            sent.append({"name": name, "mimeType": "image/jpeg", "buffer": target.getvalue()})
        whole = (SHOTS / "spare-IMG_2042.jpg").read_bytes()
        return [*sent, {"name": "cut.jpg", "mimeType": "image/jpeg", "buffer": whole[: len(whole) // 2]}]

    def newest(self, count):
        return list(Photo.objects.order_by("-id")[:count])

    def all_read(self, count, seconds=90):
        """Wait for the newest photographs: the page's progress line may not have begun when the last one arrives."""
        for _ in range(seconds * 5):
            found = self.newest(count)
            if {p.pair_id for p in found} == {found[0].pair_id} and all(p.state == Photo.State.READ for p in found):
                return
            self.browser.wait_for_timeout(200)
        self.fail("the photographs were not read")

    def test_each_spoilt_photograph_gets_a_clear_word_and_nothing_is_lost(self):
        show = self.browser
        self.new_case()
        show.set_input_files("[data-pick]", self.files())
        show.wait_for_selector(".drop-files .bad >> nth=1", timeout=60_000)
        self.all_read(3)
        problems = show.inner_text(".drop-files")
        self.assertIn("thumbnail.jpg: The photo is only 160 × 120 pixels", problems)
        self.assertIn("cut.jpg: The photo is cut off", problems)
        words = {p.name_given: (list(p.fitness.doubts), list(p.fitness.retake)) for p in self.newest(3)}
        self.assertIn("blurred", words["blurred.jpg"][1])
        self.assertIn("mirrored_photo", words["selfie.jpg"][0])
        self.assertIn("screenshot", words["screen.png"][0])
        show.wait_for_selector("text=Take it again: the photo is not sharp on the shoe")
        # The same files again: those that were kept are named as already here.
        show.set_input_files("[data-pick]", self.files()[:1])
        show.wait_for_selector(".drop-files .bad:has-text('is here already')")
        self.assertEqual(show.complaints, [])

    def test_files_dropped_anywhere_on_the_page_are_taken(self):
        show = self.browser
        self.new_case()
        data = (SHOTS / "spare-IMG_2044.jpg").read_bytes()
        show.evaluate(
            """([name, bytes]) => {
              const bag = new DataTransfer();
              bag.items.add(new File([new Uint8Array(bytes)], name, { type: "image/jpeg" }));
              const how = { dataTransfer: bag, bubbles: true, cancelable: true };
              document.body.dispatchEvent(new DragEvent("drop", how));
            }""",
            ["heel.jpg", list(data)],
        )
        show.wait_for_selector(".shot.filled:has-text('Left shoe, from behind')", timeout=60_000)

    def test_the_caliper_is_put_by_keyboard_and_its_value_is_pinned(self):
        show = self.browser
        show.goto(f"{self.live_server_url}/cases/403/bench/vents-left/")
        self.at("vents-left")
        self.keys("c", "ArrowLeft", "ArrowLeft", "Enter", *["ArrowRight"] * 10, "Enter")
        show.wait_for_selector(".readout output:has-text('Distance:')")
        self.assertRegex(show.inner_text(".readout output"), r"Distance: [0-9.]+ ± [0-9.]+ mm")
        self.keys("Enter")
        show.wait_for_selector(".notes li:has-text('Distance:')")
        self.assertEqual(Case.objects.get(number=403).notes.count(), 1)
        self.assertEqual(show.complaints, [])

    def test_three_landmarks_lay_the_reference_on_and_a_nudge_is_kept(self):
        show = self.browser
        # Not on the case that later tests have checks carried to.
        show.goto(f"{self.live_server_url}/cases/403/bench/vents-left/")
        self.at("vents-left")
        before = show.get_attribute(".suspect .pic", "data-onto")
        self.keys("l")
        for share_x, share_y in ((0.25, 0.3), (0.75, 0.35), (0.5, 0.75)):
            for side in (".retail", ".suspect"):
                box = show.locator(f"{side} .pic").bounding_box()
                show.mouse.click(box["x"] + share_x * box["width"], box["y"] + share_y * box["height"])
        show.wait_for_selector(".readout button:has-text('Lay it on')")
        with show.expect_response("**/landmarks/"):
            self.keys("Enter")
        show.wait_for_selector(f'.suspect .pic:not([data-onto="{before}"])')
        self.assertEqual(self.value(), "14")
        self.keys("g")
        with show.expect_response("**/nudge/"):
            self.keys("Shift+ArrowRight", "Shift+ArrowRight")
        case = Case.objects.get(number=403)
        self.assertEqual([e.details["how"] for e in case.ledger.filter(action="laid_on")], ["landmarks", "nudged"])
        self.assertEqual(show.complaints, [])

    def test_the_lens_follows_on_both_pictures_and_the_pixel_grid_shows_when_close(self):
        show = self.browser
        show.goto(f"{self.live_server_url}/cases/402/bench/heel-bar-left/")
        self.at("heel-bar-left")
        self.keys("z")
        box = show.locator(".retail .pic").bounding_box()
        show.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        show.mouse.move(box["x"] + box["width"] / 2 + 5, box["y"] + box["height"] / 2)
        self.assertEqual(show.locator(".lens.shown").count(), 2)
        self.keys("z", *["+"] * 14)
        self.assertEqual(show.locator(".pixel-grid").count(), 2)
        self.keys("y")
        self.assertIn("mirrored", show.inner_text(".suspect .tag"))
        self.assertEqual(show.complaints, [])

    def test_a_scale_is_given_by_two_points_on_the_photograph_s_page(self):
        show = self.browser
        self.new_case()
        side = io.BytesIO()
        Image.open(SHOTS / "R2-side-out-left.jpg").save(side, "JPEG", quality=90)
        picture = {"name": "side.jpg", "mimeType": "image/jpeg", "buffer": side.getvalue()}
        show.set_input_files("[data-pick]", [picture])
        show.click(".shot.filled a", timeout=60_000)
        show.wait_for_selector(".photo-desk")
        self.assertIn("No scale: no bench card was found", show.inner_text(".photo-facts"))
        self.keys("1")
        box = show.locator(".pic.desk").bounding_box()
        for share in (0.2, 0.8):
            show.mouse.click(box["x"] + share * box["width"], box["y"] + 0.5 * box["height"])
        show.keyboard.type("abc")
        self.keys("Enter")
        show.wait_for_selector(".photo-facts .problem:has-text('Write millimetres as numbers')")
        self.keys("1")
        for share in (0.2, 0.8):
            show.mouse.click(box["x"] + share * box["width"], box["y"] + 0.5 * box["height"])
        show.fill("#lengths", "198")
        self.keys("Enter")
        show.wait_for_selector(".photo-facts:has-text('mm/px from two points')")
        self.assertAlmostEqual(Photo.objects.latest("id").mm_per_px, 0.13, delta=0.01)

    def test_a_phone_adds_photographs_without_sign_in(self):
        show = self.browser
        self.new_case()
        self.keys("p")
        address = show.inner_text(".phone-link .address")
        # A page of another browser context: it knows nothing of who is signed in here.
        phone = show.context.browser.new_page(viewport={"width": 390, "height": 800})
        phone.goto(address)
        # The network goes away while it is sent, and comes back.
        pieces = []

        def way(route):
            pieces.append(route.request.url)
            route.abort() if len(pieces) == 2 else route.continue_()

        phone.route("**/parts/**", way)
        phone.set_input_files("input[capture]", SHOTS / "spare-IMG_2046.jpg")
        phone.wait_for_selector("text=waits for the network")
        phone.wait_for_selector("text=Arrived", timeout=60_000)
        self.assertNotIn("Left shoe, sole", phone.locator(".wanted b").all_inner_texts())
        phone.goto(self.live_server_url)
        self.assertIn("sign-in", phone.url)
        show.reload()
        show.wait_for_selector(".shot.filled:has-text('Left shoe, sole')", timeout=30_000)

"""Two people, two browsers, one stalemate: closer pictures from the client, a certificate that its link vouches for,
and a case bag in which a flipped byte is found."""

import io
import re
import zipfile

import pypdf
from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag

from casework.models import Case
from library.models import Checkpoint, Maker, Release, ShoeModel
from pairs.actions.take_reading import SAID, say
from pairs.models import Pair, Standing
from tests.browser.demo import SIDES, WORD, owner
from tests.support.chromium import page, sign_in


def scene():
    """A shop of two, with one shoe that it knows a little of."""
    organisation = owner("ida", "Tern Counter")
    nils = get_user_model().objects.create_user("nils", password=WORD)
    organisation.members.add(nils)
    ida = organisation.members.get(username="ida")
    maker = Maker.objects.create(name="Dunlin", style_code_mask="AA-99")
    model = ShoeModel.objects.create(maker=maker, name="Breakwater")
    release = Release.objects.create(
        shoe_model=model, colourway="Samphire", style_code="DB-31", year=2025, sizes_us=["9"], organisation=organisation
    )
    given = {"release": release, "section": "Shape", "instruction": "Look."}
    prior = {"pairs": 2, "rare": {"solvent": 0.01}, "copies": {"faint": 0.4, "solvent": 0.6}}
    smell = Checkpoint.objects.create(
        **given, key="smell", name="Smell", group="smell", kind="answer", position=1, prior=prior, decisive=True,
        answers=[["faint", "Faint"], ["solvent", "Solvent"]],
    )  # fmt: skip
    heel = Checkpoint.objects.create(
        **given, key="heel", name="Heel row", group="heel", kind="count", measure="seam", unit="count", position=2,
        view="rear", foot="left", prior={"pairs": 2, "off_by_one": 0.01},
    )  # fmt: skip
    pair = Pair.objects.create(
        organisation=organisation, release=release, standing=Standing.RETAIL, label="R1", size_us="9"
    )
    say(checkpoint=smell, pair=pair, value="faint", method=SAID, by=ida)
    say(checkpoint=heel, pair=pair, value=13, method=SAID, by=ida)
    return organisation


@tag("browser")
class TwoCheckers(StaticLiveServerTestCase):
    def _fixture_teardown(self):
        """The ledger cannot be emptied."""

    def setUp(self):
        self.organisation = scene()

    def latest(self) -> Case:
        return Case.objects.filter(organisation=self.organisation).latest("number")

    def answer_and_sign(self, show, case: Case, key: str, verdict: str):
        show.goto(f"{self.live_server_url}/cases/{case.number}/bench/smell/")
        show.wait_for_selector('#bench[data-key="smell"]')
        show.keyboard.press(key)
        show.wait_for_selector(".action.chosen")
        show.goto(f"{self.live_server_url}/cases/{case.number}/verdict/")
        show.check(f"[name=verdict][value={verdict}]", force=True)
        show.fill("#words", f"To me it is {verdict}.")
        if show.is_visible("#anyway"):
            show.fill("#anyway", "What the hands told is not on any list.")
        show.click("button.go:has-text('Sign')")
        show.wait_for_selector(".opinion")

    def test_a_stalemate_is_settled_by_closer_pictures_and_the_record_holds(self):
        with page() as show:
            sign_in(show, self.live_server_url, "ida", WORD)
            show.fill("#style_code", "db31")
            show.keyboard.press("Enter")
            show.wait_for_selector(".intake")
            first = self.latest()
            show.goto(f"{self.live_server_url}/shop/policy/")
            show.select_option("[name=second_opinion]", "always")
            show.click("text=Set policy")
            show.wait_for_selector("text=Policy 2")
            self.answer_and_sign(show, first, "2", "fake")
            self.assertIn("second opinion is asked for", show.inner_text(".verdict-sign"))
            self.assertEqual(show.complaints, [])
        link = self.second_look(first)
        self.client_s_pictures(link)
        self.agreement(first)

    def second_look(self, first: Case) -> str:
        with page() as show:
            sign_in(show, self.live_server_url, "nils", WORD)
            self.assertNotIn("Fake", show.inner_text(".counter"))
            show.click("text=Look without seeing theirs")
            show.wait_for_selector("#bench")
            show.goto(f"{self.live_server_url}/cases/{first.number}/verdict/")
            show.wait_for_selector(".notices:has-text('without knowing of each other')")
            self.answer_and_sign(show, self.latest(), "1", "undecided")
            show.click("text=both beside each other")
            show.wait_for_selector("text=They differ")
            self.assertIn("To me it is fake.", show.inner_text(".two-looks"))
            show.click("text=Ask the client for them")
            show.wait_for_selector("text=Send this link")
            self.assertEqual(show.complaints, [])
            return show.inner_text(".asks b")

    def client_s_pictures(self, link: str):
        with page(390, 800) as show:
            show.goto(link)
            self.assertIn("heel row", show.inner_text(".wanted").lower())
            self.assertNotIn("Samphire", show.inner_text("body"))
            show.set_input_files("input[multiple]", SIDES[0])
            show.wait_for_selector("text=Arrived", timeout=60_000)
            self.assertEqual(show.complaints, [])

    def agreement(self, first: Case):
        with page() as show:
            sign_in(show, self.live_server_url, "ida", WORD)
            made = self.latest()
            self.assertEqual((made.second_of, made.pair.photos.count()), (first, 1))
            Case.objects.filter(pk=made.pk).update(to_analyse=0)
            self.answer_and_sign(show, made, "2", "fake")
            with show.expect_download() as download:
                show.click("text=Certificate as PDF")
            text = pypdf.PdfReader(download.value.path()).pages[0].extract_text()
            address = re.search(r"http://\S+/verify/[\w-]+(?:\n[\w-]+)?/?", text)[0].replace("\n", "")
            with show.expect_download() as download:
                show.click("text=all of it as a signed bag")
            data = download.value.path().read_bytes()
            for flipped, words in ((False, "nothing was changed"), (True, "case.json")):
                show.goto(f"{self.live_server_url}/bags/")
                sent = self.flip(data) if flipped else data
                show.set_input_files("[name=file]", {"name": "b.zip", "mimeType": "application/zip", "buffer": sent})
                show.click("button:has-text('Look')")
                show.wait_for_selector(f"main:has-text('{words}')")
            self.assertEqual(show.complaints, [])
        with page() as anybody:
            anybody.goto(address)
            self.assertIn("It still stands", anybody.inner_text("main"))

    @staticmethod
    def flip(data: bytes) -> bytes:
        """One byte of the case's document."""
        target = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(target, "w") as after:
            for name in before.namelist():
                kept = before.read(name)
                after.writestr(name, b"{ " + kept[2:] if name.endswith("case.json") else kept)
        return target.getvalue()

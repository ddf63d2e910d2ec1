"""Certificates: what a client takes along, and what their link shows to anybody."""

import io
from hashlib import sha256

import pypdf
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from pyhanko.pdf_utils.reader import PdfFileReader
from pyhanko.sign.validation import validate_pdf_signature
from pyhanko_certvalidator import ValidationContext

from casework.actions import work_checkpoint as work
from casework.actions.issue_certificate import issue_certificate
from casework.actions.learn_outcome import learn_outcome
from casework.actions.open_second_opinion import open_second_opinion
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.models import Certificate
from tests.support.scenes import checkpoint, small_case, small_organisation


class Certificates(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        facts = {"source": "Tove of the pier", "asked_price": "6174.35", "size_us": "9", "condition": "worn"}
        save_intake(case=self.case, user=self.scene.mara, facts=facts)
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "smell"), user=self.scene.mara, choice="solvent")
        self.client.force_login(self.scene.mara)
        self.url = reverse("certificate", args=[self.case.number])

    def sign(self, verdict: str, words: str, user=None):
        last = self.case.opinions.last()
        given = {"case": self.case, "user": user or self.scene.mara, "verdict": verdict, "words": words}
        given |= {"anyway": "I know this maker well."}
        return sign_opinion(**given, after=last and last.pk)

    def test_nothing_is_certified_before_it_is_signed(self):
        self.assertRedirects(self.client.post(self.url), reverse("verdict", args=[self.case.number]))
        self.assertEqual(Certificate.objects.count(), 0)

    def test_the_pdf_says_what_was_found_and_what_was_not_with_embedded_fonts_and_never_who_sold_it(self):
        """Read back by another library, pypdf."""
        self.sign("fake", "The smell is of solvent; retail’s is faint.")
        reader = pypdf.PdfReader(io.BytesIO(self.client.post(self.url).content))
        first, whole = reader.pages[0].extract_text(), "".join(page.extract_text() for page in reader.pages)
        made = Certificate.objects.get()
        for words in (
            "although the rule says otherwise",
            "I know this maker well.",
            "Not as retail",
            "The smell is of solvent; retail’s is faint.",
            made.number,
            "no legal finding",
        ):
            self.assertIn(words, first)
        self.assertNotIn("ounterfeit", whole)
        self.assertIn("Not compared", whole)
        for private in ("Tove", "6174.35", "6,174.35"):
            self.assertNotIn(private, whole.replace(made.secret, "").replace(made.sealed, "").replace(made.head, ""))
        self.assertEqual([round(float(n)) for n in reader.pages[0].mediabox[2:]], [595, 842])
        fonts = [font.get_object() for page in reader.pages for font in page["/Resources"]["/Font"].values()]
        own = [font["/FontDescriptor"] for font in fonts if "Atkinson" in font["/BaseFont"]]
        self.assertTrue(own)
        self.assertTrue(all("/FontFile2" in one for one in own))

    def test_an_opinion_has_one_certificate_and_a_later_verdict_supersedes_it(self):
        self.sign("fake", "No.")
        made = issue_certificate(case=self.case, user=self.scene.mara)
        self.assertEqual(issue_certificate(case=self.case, user=self.scene.jory), made)
        self.client.logout()
        url = reverse("verify", args=[made.secret])
        self.assertContains(self.client.get(url), "It still stands")
        self.sign("fake", "I agree.", self.scene.jory)
        self.assertContains(self.client.get(url), "It still stands")
        self.sign("undecided", "Not so sure.")
        self.assertContains(self.client.get(url), "superseded")

    def test_the_link_shows_number_day_and_verdict_only_and_any_other_link_the_same_nothing(self):
        self.sign("fake", "The client is Bram.")
        made = issue_certificate(case=self.case, user=self.scene.mara)
        self.client.logout()
        page = self.client.get(reverse("verify", args=[made.secret]))
        self.assertContains(page, made.number)
        for private in ("Bram", "Tove", "6174.35", "6,174.35", "Brackish", "Mara", "img src"):
            self.assertNotContains(page, private)
        pages = [self.client.get(reverse("verify", args=[one])) for one in ("x", made.number, made.secret[:-1])]
        answers = {page.content.decode().split("<main")[1].split("</main>")[0] for page in pages}
        self.assertEqual(len(answers), 1)
        self.assertEqual(self.client.get(reverse("verify", args=["x"])).status_code, 404)

    def test_the_pdf_is_signed_so_that_any_reader_tells_a_change_and_is_the_same_whenever_it_is_asked_for(self):
        """Held against pyHanko's own validation; an untouched file is whole, one with a byte changed is not."""
        self.sign("undecided", "Not enough was seen.")
        pdf = self.client.post(self.url).content
        (found,) = PdfFileReader(io.BytesIO(pdf)).embedded_signatures
        self.assertEqual(found.sig_object["/SubFilter"], "/ETSI.CAdES.detached")
        trusted = ValidationContext(trust_roots=[found.signer_cert])
        status = validate_pdf_signature(found, trusted)
        self.assertTrue(status.intact and status.valid)
        self.assertEqual(found.signer_cert.subject.native["common_name"], "Quay Counter")
        changed = pdf.replace(b"/Producer", b"/Xroducer", 1)
        self.assertNotEqual(changed, pdf)
        (other,) = PdfFileReader(io.BytesIO(changed)).embedded_signatures
        self.assertFalse(validate_pdf_signature(other, trusted).intact)
        self.assertEqual(self.client.post(self.url).content, pdf)
        digest = sha256(pdf).hexdigest()
        self.assertEqual(self.case.ledger.get(action="certificate_given").details["sha256"], digest)
        self.client.logout()
        self.assertContains(self.client.get(reverse("verify", args=[Certificate.objects.get().secret])), digest)

    def test_what_was_learned_otherwise_and_a_second_look_that_differs_are_said_where_the_link_leads(self):
        self.sign("fake", "The smell is of solvent.")
        self.client.post(self.url)
        link = reverse("verify", args=[Certificate.objects.get().secret])
        self.assertContains(self.client.get(link), "It still stands")
        self.case.refresh_from_db()
        learn_outcome(
            case=self.case, user=self.scene.mara,
            given={"so": "legit", "how": "maker", "source": "A letter", "learned_on": timezone.localdate()},
        )  # fmt: skip
        self.assertContains(self.client.get(link), "It was learned since that the pair is otherwise")
        second = open_second_opinion(case=self.case, user=self.scene.jory)
        given = {"case": second, "user": self.scene.jory, "verdict": "undecided", "words": "Not enough.", "after": None}
        sign_opinion(**given)
        self.assertContains(self.client.get(link), "A second opinion says otherwise")

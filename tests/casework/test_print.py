"""Print that was read is offered with its place and counts only once a person has confirmed it."""

from dataclasses import asdict

from django.test import TestCase
from django.urls import reverse

from assay.paperwork.print_reader import PrintLine
from casework.actions import work_checkpoint as work
from casework.findings import state_of
from casework.models import Case
from library.models import Checkpoint
from pairs.print import offered_print
from tests.support.scenes import checkpoint, grey_photo, small_case, small_organisation


def line(text: str, y: float, sure: float = 0.99) -> dict:
    return asdict(PrintLine(text, sure, ((20.0, y), (90.0, y), (90.0, y + 12), (20.0, y + 12))))


class Print(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        Checkpoint.objects.filter(key="style-code").update(view="size_tag", foot="left")
        self.photo = grey_photo(self.case, view="size_tag", foot="left")
        self.photo.print_lines = [line("VQ-44172-B", 10), line("US 9 EU 42", 40, 0.5)]
        self.photo.state = "read"
        self.photo.save()
        self.client.force_login(self.scene.mara)
        self.url = reverse("bench-at", args=[self.case.number, "style-code"])

    def finding(self):
        case = Case.objects.select_related("pair__release__shoe_model__maker", "organisation").get(pk=self.case.pk)
        return next(one for one in state_of(case).findings if one.checkpoint.key == "style-code")

    def test_it_is_offered_beside_its_place_and_supports_no_flag_before_somebody_confirms_it(self):
        page = self.client.get(self.url)
        self.assertContains(page, 'value="VQ-44172-B"')
        self.assertContains(page, "print-crop")
        self.assertEqual(self.finding().reason, "not_looked_at")
        self.assertEqual(
            list(offered_print(self.case.pair)), ["tag.style_code"], "what is not surely read is not offered"
        )
        url = reverse("work", args=[self.case.number, "style-code", "print"])
        # What was not shown is not confirmed: a newer photograph may read otherwise by now.
        self.assertEqual(self.client.post(url, {"tag.style_code": "VQ-44127-B"}).status_code, 422)
        self.assertEqual(self.finding().reason, "not_looked_at")
        self.client.post(url, {"tag.style_code": "VQ-44172-B"})
        self.assertEqual(self.finding().grade, "departs")
        kept = self.case.pair.inscriptions.get()
        self.assertEqual(
            (kept.text, kept.source, kept.photo, kept.read_by), ("VQ-44172-B", "scanned", self.photo, self.scene.mara)
        )
        self.assertEqual(offered_print(self.case.pair), {})

    def test_whatever_one_key_confirms_is_shown_with_its_place_first(self):
        self.photo.print_lines = [line("VQ-44127-B", 10), line("US 9 EU 42", 40)]
        self.photo.save()
        page = self.client.get(self.url)
        # In the panel and nowhere unseen: a crop for each of the two.
        self.assertContains(page, "US 9  EU 42")
        self.assertEqual(page.content.decode().count('class="print-crop"'), 2)

    def test_what_a_person_typed_stands_and_nothing_is_offered_over_it(self):
        work.inscribe(case=self.case, user=self.scene.mara, places={"tag.style_code": "VQ-44127-B"})
        self.assertEqual(offered_print(self.case.pair), {})
        again = self.client.post(reverse("work", args=[self.case.number, "style-code", "print"]))
        self.assertEqual(again.status_code, 422)
        self.assertEqual(checkpoint(self.case, "style-code").paper, "code_on_tag")

    def test_the_intake_offers_what_photographs_tell_and_keeps_it_once_confirmed(self):
        maker = self.scene.release.shoe_model.maker
        maker.label_layouts = {"us": ["US", "EU"], "eu": ["US", "UK", "EU"]}
        maker.save()
        for view, lines in (
            ("box_label", [line("US 9 EU 42.5", 10)]),
            ("receipt", [line("HARBOUR SHOES", 10), line("14/03/2026", 40), line("TOTAL 119.50", 70)]),
        ):
            photo = grey_photo(self.case, view=view, tone=len(view))
            photo.print_lines = lines
            photo.save()
        url = reverse("intake", args=[self.case.number])
        page = self.client.get(url)
        for told in ("US 9", "North America", "bought 14 March 2026", "119.50 paid", "HARBOUR SHOES"):
            self.assertContains(page, told)
        self.case.pair.refresh_from_db()
        self.assertEqual((self.case.pair.size_us, self.case.pair.region), ("", ""))
        facts = {"size_us": "9", "region": "us", "bought_on": "2026-03-14", "asked_price": "119.50", "read": "1"}
        self.assertRedirects(self.client.post(url, facts), url)
        self.case.pair.refresh_from_db()
        self.assertEqual((self.case.pair.size_us, self.case.pair.region), ("9", "us"))
        self.assertNotContains(self.client.get(url), "119.50 paid")

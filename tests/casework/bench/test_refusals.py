"""Whatever a measure refuses for, the page of its check still opens: every check of the demo, every reason."""

from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from assay.measure.registry import MEASURES
from casework.actions.start_case import start_case
from casework.grading import regrade
from casework.wording import sentence
from demo import scenario as demo
from demo.load import load_people_and_library
from library.models import Checkpoint, Release
from pairs.actions.take_reading import refuse
from pairs.models import Marking, Organisation, Pair, Photo, Standing

NUMBERS = {"px_per_stitch": 2.0, "needed": 2.5}


class Refusals(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.mara = load_people_and_library()["mara"]
        release = Release.objects.get(style_code=demo.COURT)
        organisation = Organisation.objects.get(name=demo.ORGANISATION)
        retail = Pair.objects.create(organisation=organisation, release=release, standing=Standing.RETAIL, label="R1")
        cls.case = start_case(user=cls.mara, typed_code=release.style_code, token="0" * 32)
        cls.checks = list(Checkpoint.objects.filter(release=release).exclude(view=""))
        cls.photos = {}
        for pair in (retail, cls.case.pair):
            for view, foot in {(one.view, one.foot) for one in cls.checks}:
                cls.photos[pair.pk, view, foot] = Photo.objects.create(
                    pair=pair, view=view, foot=foot, state="read", width=900, height=600, full="none.jpg",
                    sha256=f"{pair.pk}{view}{foot}", added_by=cls.mara, fitness={"verdict": "usable"},
                )  # fmt: skip
        corners = [[100, 100], [500, 110], [510, 300], [110, 290]]
        for check in cls.checks:
            for pair in (retail, cls.case.pair):
                photo = cls.photos[pair.pk, check.view, check.foot]
                Marking.objects.create(checkpoint=check, photo=photo, points=corners, origin=Marking.Origin.DRAWN)

    def only(self, checks):
        """A guide of these checks alone: with all of them every page takes a second."""
        Checkpoint.every.update(withdrawn=True)
        Checkpoint.every.filter(pk__in=[check.pk for check in checks]).update(withdrawn=False)
        self.case.findings.all().delete()
        return checks

    def test_the_bench_opens_at_every_check_through_every_refusal_its_measure_knows(self):
        self.client.force_login(self.mara)
        few = [self.checks[n : n + 8] for n in range(0, len(self.checks), 8)]
        for check in (check for part in few for check in self.only(part)):
            codes = MEASURES[check.measure].reasons if check.measure else {"could_not_tell"}
            photo = self.photos[self.case.pair_id, check.view, check.foot]
            for code in sorted({*codes, "could_not_tell"}):
                refusal = AssayError(code, **({"why": "laced up"} if code == "could_not_tell" else NUMBERS))
                refuse(checkpoint=check, pair=self.case.pair, photo=photo, refusal=refusal, by=self.mara)
            regrade(self.case)
            page = self.client.get(reverse("bench-at", args=[self.case.number, check.key]))
            self.assertEqual(page.status_code, 200, check.key)
            said = "laced up" if max({*codes, "could_not_tell"}) == "could_not_tell" else ""
            self.assertContains(page, said)

    def test_every_code_becomes_a_sentence_on_the_page(self):
        self.client.force_login(self.mara)
        knows = {}
        for check in self.checks:
            for code in MEASURES[check.measure].reasons if check.measure else ():
                knows.setdefault(code, check)
        for code, check in knows.items():
            self.only([check])
            photo = self.photos[self.case.pair_id, check.view, check.foot]
            refusal = AssayError(code, **NUMBERS)
            refuse(checkpoint=check, pair=self.case.pair, photo=photo, refusal=refusal, by=self.mara)
            regrade(self.case)
            page = self.client.get(reverse("bench-at", args=[self.case.number, check.key]))
            self.assertContains(page, sentence(code, NUMBERS)[:30], msg_prefix=f"{check.measure} {code}")

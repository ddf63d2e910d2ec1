"""What a small shop has: one or two verified pairs, close-ups without a card. It never calls a genuine pair fake."""

from dataclasses import replace
from itertools import combinations

from django.db import transaction
from django.test import tag

from assay.judge.grade import RED_FLAGS
from assay.judge.rules import DECISION_RULES, Verdict
from casework.findings import assess, findings_of
from casework.grading import regrade
from casework.models import Case
from demo.scenario import ORGANISATION
from library.models import Checkpoint
from pairs.models import Pair, Photo, Standing
from tests.browser.demo import SHOTS, DemoInBrowser

GENUINE, GENUINE_CASE = "sloppy", 402
SHOWN = {
    "side-out-left": "left shoe, side, outer",
    "side-out-right": "right shoe, side, outer",
    "side-in-left": "left shoe, side, inner",
    "rear-left": "left shoe, from behind",
    "sole-left": "left shoe, sole",
    "size-tag-left": "left shoe, size tag",
    "emblem-close-left": "left shoe, emblem, close",
    "badge-lamp-moved-left": "left shoe, badge",
    "suede-brushed-back-left": "left shoe, suede",
    "tongue-front-left": "left shoe, tongue",
    "insole-face-left": "left shoe, insole",
    "footbed-board-left": "left shoe, footbed",
}


@tag("browser")
class SmallShop(DemoInBrowser):
    def test_twelve_photographs_without_a_card_and_nothing_typed_end_undecided_with_the_reason(self):
        """Once: fake, −36 dB, three red flags, for pixels that were graded as millimetres."""
        show = self.browser
        self.new_case()
        show.set_input_files("[data-pick]", [SHOTS / f"{GENUINE}-{name}.jpg" for name in SHOWN])
        self._sort_what_it_asks(show)
        case = Case.objects.latest("number")
        show.goto(f"{self.live_server_url}/cases/{case.number}/verdict/")
        self.assertEqual(show.inner_text(".verdict h1"), "Undecided")
        self.assertIn("The evidence so far doesn’t settle it", show.inner_text(".verdict"))
        self.assertIn("no scale", show.text_content("main"))
        self.assertFalse(case.findings.filter(grade__in=RED_FLAGS).exists())
        show.goto(f"{self.live_server_url}/cases/{case.number}/bench/")
        self.assertNotIn("Nothing left can turn it", show.inner_text(".balance"))
        # A tray that is being read steps back for a word on what a photograph shows.
        told = [
            complaint
            for complaint in show.complaints
            if not complaint.startswith(("htmx:afterRequest", "htmx:sendAbort"))
        ]
        self.assertEqual(told, [])

    def _sort_what_it_asks(self, show):
        """Say of each photograph that nobody could sort what it shows, by its one key, until all twelve are read."""
        case = Case.objects.latest("number")
        for _ in range(1800):
            show.wait_for_timeout(200)
            photos = case.pair.photos.all()
            case.refresh_from_db()
            if len(photos) == len(SHOWN) and not case.to_analyse and all(photo.view for photo in photos):
                return
            asked = show.locator("[data-unsorted] p >> nth=0")
            if photos.filter(state=Photo.State.READ, view="").exists() and asked.count():
                name = asked.inner_text().split(",")[0].removeprefix(f"{GENUINE}-").split(".jpg")[0]
                key = show.locator(f".shot:has-text('{SHOWN[name]}') [data-place]").first.get_attribute("data-place")
                show.evaluate("document.activeElement.blur()")
                self.keys(key)
        self.fail(f"not read or not sorted: {list(photos.values_list('pk', 'state', 'view'))}, {case.to_analyse=}")


@tag("browser")
class SmallReferences(DemoInBrowser):
    def setUp(self):
        """No browser is wanted."""

    def test_no_subset_of_the_verified_pairs_accuses_a_genuine_pair_by_any_rule(self):
        known = {"label__in": ("R1", "R2", "R3"), "organisation__name": ORGANISATION}
        verified = list(Pair.objects.filter(standing=Standing.RETAIL, **known))
        for count in (1, 2, 3):
            for subset in combinations(verified, count):
                for priors in ("of the guide", "none"):
                    with self.subTest([pair.label for pair in subset], priors=priors):
                        self._judge([one.pk for one in verified if one not in subset], subset[0], priors)

    @transaction.atomic
    def _judge(self, left_out, reference, priors):
        Pair.objects.filter(pk__in=left_out).update(standing=Standing.SUSPECT)
        if priors == "none":
            Checkpoint.objects.update(prior={})
        case = Case.objects.get(number=GENUINE_CASE, organisation__name=ORGANISATION)
        if case.reference_id in left_out:
            case.reference = reference
            case.save()
        regrade(case)
        findings = findings_of(case)
        stand = assess(case, findings)
        seen = [replace(one, pending=False, confirmed=True) if one.grade in RED_FLAGS else one for one in stand.sheet]
        verdicts = {rule(sheet, stand.policy).verdict for rule in DECISION_RULES for sheet in (stand.sheet, seen)}
        transaction.set_rollback(True)
        self.assertNotIn(Verdict.FAKE, verdicts)
        self.assertEqual([finding.checkpoint.key for finding in findings if finding.grade in RED_FLAGS], [])
        # With all three, it is compared as widely as ever: nobody is protected by looking at less.
        self.assertGreater(stand.coverage, 35 if len(left_out) == 2 else 65)

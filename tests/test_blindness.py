"""While a second opinion is wanted or under way, nothing of the first reaches whoever may give it, on any route."""

from django.core.files.base import ContentFile
from django.test import TestCase
from django.urls import reverse

from assay.judge.rules import Policy
from casework.actions import work_checkpoint as work
from casework.actions.amend_case import discard_case
from casework.actions.open_second_opinion import ask_second_opinion, open_second_opinion
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion
from casework.models import Case, Note, Sighting
from casework.roles import give_role
from tests.support.doors import DOORS
from tests.support.scenes import checkpoint, grey_photo, person, small_case, small_organisation

PLANTED = "peculiar-lamprey"
SEARCHES = ("", "fake", PLANTED, "2026")


class Blindness(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.mara, self.jory = self.scene.mara, self.scene.jory
        give_role(self.jory, "owner")
        self.open_case()
        self.client.force_login(self.jory)

    def open_case(self):
        self.case = small_case(self.scene)
        self.photo = grey_photo(self.case, view="side_out", foot="left")
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "smell"), user=self.mara, choice="solvent")
        given = {"case": self.case, "made_by": self.mara, "words": PLANTED}
        self.note = Note.objects.create(
            **given, checkpoint=checkpoint(self.case, "smell"), photo=self.photo, tool="caliper", points=[],
            value=1, unit="mm", uncertainty=0, crop=ContentFile(b"x", "n.jpg"),
        )  # fmt: skip
        self.seen = Sighting.objects.create(
            case=self.case, name=PLANTED, group="toe", sure="sure", like="odd", made_by=self.mara,
            crop=ContentFile(b"x", "s.jpg"),
        )  # fmt: skip

    def sign(self):
        Case.objects.filter(pk=self.case.pk).update(to_analyse=0, runs=0)
        sign_opinion(case=self.case, user=self.mara, verdict="fake", words=PLANTED, anyway="Sure.", after=None)
        self.case.refresh_from_db()

    def leaks(self) -> list[str]:
        """Routes on which the planted words, or the verdict of the case, reach the signed-in person."""
        found, number = [], self.case.number
        urls = [
            reverse(name, args=[number, *args] if args is not None else [])
            for name, (args, method, _) in DOORS.items()
            if method == "get" and not {"RELEASE", "RETAIL", "CHECK", "MAKER", "BATCH"} & set(args or ())
            and not any(arg.isupper() for arg in args or ())
        ]  # fmt: skip
        urls += [reverse("logbook-export", args=[kind]) for kind in ("csv", "json")]
        urls += [reverse("note-crop", args=[self.note.pk]), reverse("sighting-crop", args=[self.seen.pk])]
        for url in urls:
            for asked in SEARCHES:
                answer = self.client.get(url, {"q": asked, "words": asked, "verdict": "fake"} if asked else {})
                body = b"".join(answer) if answer.streaming else answer.content
                text = body.decode(errors="replace")
                shown = f"/cases/{number}/" in text and ("logbook" in url or asked in ("fake", PLANTED))
                crop = "crop" in url and answer.status_code == 200
                # What was asked for stands on the page as well.
                said = PLANTED in text and asked != PLANTED
                if said or shown or crop or '"verdict">Fake' in text:
                    found.append(f"{url} {asked}")
        return found

    def test_what_is_wanted_by_policy_or_by_name_and_what_is_under_way_is_seen_nowhere(self):
        for wanted in ("by name", "by policy"):
            with self.subTest(wanted):
                if wanted == "by policy":
                    self.open_case()
                    set_policy(
                        organisation=self.scene.organisation, user=self.mara, rules=Policy(), second=("always", None)
                    )
                self.sign()
                if wanted == "by name":
                    ask_second_opinion(case=self.case, user=self.mara)
                self.assertEqual(self.leaks(), [])
                mine = open_second_opinion(case=self.case, user=self.jory)
                self.assertEqual(self.leaks(), [])
                # Whoever gives it up has seen nothing, and another may take it.
                discard_case(case=mine, user=self.jory, why="No time.")
                self.assertEqual(self.leaks(), [])
                third = person(f"third-{wanted}", self.scene.organisation)
                open_second_opinion(case=self.case, user=third)

    def test_who_signed_and_who_may_not_look_see_it_as_ever(self):
        self.sign()
        ask_second_opinion(case=self.case, user=self.mara)
        self.client.force_login(self.mara)
        page = self.client.get(reverse("verdict", args=[self.case.number]))
        self.assertContains(page, PLANTED)

"""Object, role, shop: every action asks for the right itself, and every door keeps other shops out, whatever the
method. Each rights check taken out of the code must fail something here: see ``tests/doors_mutants.py``."""

from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from assay.judge.rules import Policy
from casework.actions import (
    add_check,
    add_retail_photo,
    add_view,
    ask_questions,
    borrow_check,
    change_check,
    guide_file,
    join_feet,
    keep_checks,
    keep_library,
    keep_maker,
    keep_pair,
    organisation_people,
    second_factor,
    set_policy,
)
from casework.models import Case
from casework.roles import give_role
from library.models import AnswerPhoto, Batch, Checkpoint, Release
from pairs.actions import draw_checkpoint
from pairs.actions.take_reading import SAID, say
from pairs.models import Marking, Organisation, Pair, Photo, Standing
from tests.support.doors import DOORS, KNOWLEDGE
from tests.support.scenes import checkpoint, person, small_case, small_organisation

GIVEN = {"measure": "seam", "name": "x", "unit": "count", "quantity": "", "section": "All", "group": "x"}

# Who writes a guide writes it for their own shop or for all: action, and what it is called with.
OF_A_GUIDE = {
    "add_check": lambda s: (add_check.add_check, {"photo": s.photo, "points": [], "given": GIVEN}),
    "change_check": lambda s: (change_check.change_check, {"checkpoint": s.touch, "given": {}}),
    "move_marks": lambda s: (change_check.move_marks, {"checkpoint": s.bar, "photo": s.photo, "points": []}),
    "withdraw_check": lambda s: (change_check.withdraw_check, {"checkpoint": s.touch}),
    "bring_back": lambda s: (change_check.bring_back, {"checkpoint": s.touch}),
    "add_question": lambda s: (ask_questions.add_question, {"release": s.release, "key": "price"}),
    "write_question": lambda s: (ask_questions.write_question, {"release": s.release, "given": {}}),
    "change_question": lambda s: (ask_questions.change_question, {"checkpoint": s.touch, "given": {}}),
    "show_answer": lambda s: (ask_questions.show_answer, {"checkpoint": s.touch, "answer": "fine", "upload": None}),
    "borrow_check": lambda s: (borrow_check.borrow_check, {"checkpoint": s.touch, "release": s.release}),
    "give_back": lambda s: (borrow_check.give_back, {"checkpoint": s.touch, "release": s.release}),
    "join_feet": lambda s: (join_feet.join_feet, {"checkpoint": s.bar, "other": "x", "name": "x"}),
    "relate_checks": lambda s: (
        join_feet.relate_checks,
        {"checkpoint": s.bar, "other": s.bar, "relation": "", "name": "x"},
    ),
    "add_paper": lambda s: (keep_checks.add_paper, {"release": s.release, "paper": "packing"}),
    "move_check": lambda s: (keep_checks.move_check, {"checkpoint": s.touch, "up": True}),
    "place_check": lambda s: (keep_checks.place_check, {"checkpoint": s.touch, "before": None}),
    "keep_release": lambda s: (keep_library.keep_release, {"release": s.release, "given": {}}),
}
OF_A_DRAWING = {
    "draw_checkpoint": lambda s: (draw_checkpoint.draw_checkpoint, {"photo": s.photo, "tried": [], "given": GIVEN}),
    "redraw_checkpoint": lambda s: (draw_checkpoint.redraw_checkpoint, {"checkpoint": s.bar, "tried": []}),
}
# What any guide writer may do, and no checker.
OF_A_WRITER = {
    "answer_for_retail": lambda s: (
        ask_questions.answer_for_retail,
        {"checkpoint": s.touch, "pair": s.retail, "choice": "fine"},
    ),
    "add_retail_photo": lambda s: (
        add_retail_photo.add_retail_photo,
        {"pair": s.retail, "upload": None, "view": "no", "foot": ""},
    ),
    "add_pair_photo": lambda s: (keep_pair.add_pair_photo, {"pair": s.suspect, "upload": None}),
    "add_proof": lambda s: (keep_pair.add_proof, {"pair": s.suspect, "upload": None}),
    "place_photo": lambda s: (keep_pair.place_photo, {"photo": s.photo, "view": "no", "foot": ""}),
    "verify_pair": lambda s: (keep_pair.verify_pair, {"pair": s.retail}),
    "retire_pair": lambda s: (keep_pair.retire_pair, {"pair": s.retail, "why": ""}),
    "pair_from_case": lambda s: (keep_pair.pair_from_case, {"case": s.case}),
}
OF_A_WRITER_S_ORGANISATION = {
    "take_chart": lambda s: (keep_maker.take_chart, {"maker_id": 0, "data": b""}),
    "add_view": lambda s: (add_view.add_view, {"given": {"name": ""}}),
    "keep_maker": lambda s: (keep_maker.keep_maker, {"given": {"name": "x"}}),
    "new release": lambda s: (keep_library.keep_release, {"given": {}}),
    "add_pair": lambda s: (keep_pair.add_pair, {"release": s.release, "given": {"verified_how": ""}}),
    "preview_guide": lambda s: (guide_file.preview_guide, {"data": b""}),
}
OF_AN_OWNER = {
    "invite": lambda s: (organisation_people.invite, {"role": "no"}),
    "set_role": lambda s: (organisation_people.set_role, {"member": s.mara, "role": "no"}),
    "turn_off_for": lambda s: (second_factor.turn_off_for, {"member": s.jory}),
    "shut_out": lambda s: (organisation_people.shut_out, {"member": s.jory}),
    "set_organisation": lambda s: (organisation_people.set_organisation, {"link_days": 0}),
    "set_policy": lambda s: (set_policy.set_policy, {"rules": Policy()}),
}


class Rights(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = scene = small_organisation()
        scene.case = small_case(scene)
        scene.suspect, scene.retail = scene.case.pair, scene.case.reference
        scene.touch, scene.bar = checkpoint(scene.case, "touch"), checkpoint(scene.case, "bar")
        scene.photo = Photo.objects.create(
            pair=scene.retail, view="side_out", foot="left", width=9, height=9, sha256="1", added_by=scene.mara
        )
        Marking.objects.create(checkpoint=scene.bar, photo=scene.photo, points=[[1, 1], [8, 8]], origin="drawn")
        cls.other = Organisation.objects.get(name="Elsewhere")
        cls.checker = person("checks", scene.organisation)
        cls.writer, cls.other_writer, cls.other_owner = (
            person(name, organisation)
            for name, organisation in (("w", scene.organisation), ("ow", cls.other), ("oo", cls.other))
        )
        give_role(cls.writer, "writer")
        give_role(cls.other_writer, "writer")
        give_role(cls.other_owner, "owner")

    def refused(self, made, reasons: tuple, **who):
        act, given = made(self.scene)
        try:
            act(**given, **who)
        except AssayError as error:
            self.assertIn(error.reason, reasons)
        else:
            self.fail("nobody asked")

    def test_a_checker_writes_no_guide_and_a_writer_none_that_another_shop_keeps(self):
        self.scene.release.organisation = self.scene.organisation
        self.scene.release.save()
        for table, by in ((OF_A_GUIDE, "user"), (OF_A_DRAWING, "by")):
            for name, made in table.items():
                with self.subTest(name):
                    of_organisation = {"organisation": self.scene.organisation} if by == "user" else {}
                    self.refused(made, ("not_allowed",), **of_organisation, **{by: self.checker})
                    self.refused(made, ("others_release",), **of_organisation, **{by: self.other_writer})

    def test_what_only_guide_writers_do_no_checker_does(self):
        for name, made in OF_A_WRITER.items():
            with self.subTest(name):
                self.refused(made, ("not_allowed",), user=self.checker)
        for name, made in OF_A_WRITER_S_ORGANISATION.items():
            with self.subTest(name):
                self.refused(made, ("not_allowed",), organisation=self.scene.organisation, user=self.checker)

    def test_taking_in_a_guide_asks_for_both_rights(self):
        for codename in ("add_checkpoint", "change_maker"):
            half = person(codename, self.scene.organisation)
            half.user_permissions.add(Permission.objects.get(codename=codename))
            with self.subTest(codename):
                self.refused(
                    OF_A_WRITER_S_ORGANISATION["preview_guide"],
                    ("not_allowed",),
                    organisation=self.scene.organisation,
                    user=half,
                )

    def test_a_guide_file_writes_over_no_check_of_another_shop_s_guide(self):
        release = self.scene.release
        data = guide_file.export_guide(release=release, organisation=self.scene.organisation)
        release.organisation = self.scene.organisation
        release.save()
        with self.assertRaises(AssayError) as caught:
            guide_file.import_guide(organisation=self.other, user=self.other_writer, data=data, overwrite={"touch"})
        self.assertEqual(caught.exception.reason, "others_release")

    def test_what_only_owners_decide_neither_a_writer_nor_another_shop_s_owner_decides(self):
        for name, made in OF_AN_OWNER.items():
            for who in (self.writer, self.other_owner):
                with self.subTest(name, who=who.username):
                    self.refused(made, ("not_the_owner",), organisation=self.scene.organisation, user=who)


class Organisations(TestCase):
    @classmethod
    def setUpTestData(cls):
        Rights.setUpTestData.__func__(cls)
        cls.batch = Batch.objects.create(release=cls.scene.release, name="Bowline")
        cls.example = AnswerPhoto.objects.create(checkpoint=cls.scene.touch, answer="fine", picture="x.jpg")

    def urls(self):
        """Every door that stands before something of a shop or of its library."""
        scene = self.scene
        things = {
            "RELEASE": scene.release.pk,
            "RETAIL_PAIR": scene.retail.pk,
            "RETAIL": scene.photo.pk,
            "BATCH": self.batch.pk,
            "CHECK": scene.touch.pk,
            "MAKER": scene.release.shoe_model.maker_id,
            "PHOTO": scene.photo.pk,
            "RETAIL_PHOTO": scene.photo.pk,
            "SEEN": 1,
            "PROPOSAL": 1,
        }
        for name, (args, *_) in DOORS.items():
            if args in (None, "ORGANISATION") or name == "library-maker":
                continue
            known = [things.get(arg, arg) for arg in args]
            whole = bool(args) and args[0] in ("RELEASE", "RETAIL_PAIR", "RETAIL", "BATCH", "CHECK")
            yield name, reverse(name, args=known if whole else [scene.case.number, *known])
        yield "answer-example", reverse("answer-example", args=[self.example.pk])

    def test_a_stranger_finds_nothing_by_either_method_and_a_private_library_neither(self):
        Organisation.objects.update(private=True)
        self.scene.release.organisation = self.scene.organisation
        self.scene.release.save()
        for who in (self.scene.stranger, self.other_writer, self.other_owner):
            self.client.force_login(who)
            for name, url in self.urls():
                for method in ("get", "post"):
                    with self.subTest(name, who=who.username, method=method):
                        self.assertIn(getattr(self.client, method)(url).status_code, (404, 405))

    def test_of_a_shared_release_every_shop_sees_its_own_pairs_only(self):
        scene = self.scene
        count = {"checkpoint": scene.bar, "method": SAID, "by": scene.mara}
        for organisation, own, label in ((scene.organisation, 13, "B1"), (self.other, 77, "B77")):
            copy = Pair.objects.create(
                organisation=organisation, release=scene.release, standing=Standing.COPY, label=label, batch=self.batch
            )
            say(pair=copy, value=own + 1, **count)
        theirs = Pair.objects.create(
            organisation=self.other, release=scene.release, standing=Standing.RETAIL, label="R77"
        )
        say(pair=theirs, value=77, **count)
        self.client.force_login(self.writer)
        for name, url in self.urls():
            if (name in KNOWLEDGE or name == "library-pair") and not url.endswith((".zip", ".pdf")):
                with self.subTest(name):
                    said = self.client.get(url).content.decode(errors="replace")
                    self.assertNotRegex(said, r"\b[RB]?(77|78)\b")
        url = reverse("guide-question", args=[scene.release.pk, "touch"])
        self.assertEqual(self.client.post(url, {"pair": "R77", "choice": "fine"}).status_code, 404)

    def test_what_a_shop_keeps_to_itself_is_no_pattern_for_another_s_release(self):
        Organisation.objects.update(private=True)
        Release.objects.update(organisation=self.scene.organisation)
        self.client.force_login(self.other_writer)
        for query in ({"code": "VQ-44127-X"}, {"like": self.scene.release.pk}):
            self.assertNotContains(self.client.get(reverse("library-release-new"), query), 'Quayside Low"')

    def test_invitations_of_another_shop_are_not_shown(self):
        organisation_people.invite(organisation=self.other, user=self.other_owner, role="writer")
        give_role(self.checker, "owner")
        self.client.force_login(self.checker)
        self.assertEqual(list(self.client.get(reverse("shop")).context["waiting"]), [])

    def test_a_signed_case_sends_every_change_to_its_verdict(self):
        case = self.scene.case
        Case.objects.filter(pk=case.pk).update(signed_at="2026-01-01T00:00Z")
        self.client.force_login(self.scene.mara)
        changes = ("intake", "amend", "photos", "link", "photo-work", "measure", "work", "seen", "seen-back")
        for name, url in self.urls():
            if name in changes:
                with self.subTest(name):
                    self.assertRedirects(
                        self.client.post(url), reverse("verdict", args=[case.number]), fetch_redirect_response=False
                    )
        # What would be refused for its own sake is not even looked at.
        refused = self.client.post(reverse("work", args=[case.number, "touch", "answer"]), {"choice": "no"})
        self.assertEqual(refused.status_code, 302)

    def test_a_blind_colleague_s_case_and_a_discarded_one_are_not_there(self):
        Case.objects.filter(pk=self.scene.case.pk).update(discarded_at="2026-01-01T00:00Z")
        self.client.force_login(self.scene.mara)
        for name, url in self.urls():
            if str(self.scene.case.number) in url.split("/"):
                with self.subTest(name):
                    self.assertIn(self.client.post(url).status_code, (404, 405))
        self.assertFalse(Checkpoint.objects.filter(name="x").exists())

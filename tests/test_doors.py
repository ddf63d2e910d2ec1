"""Every door: who gets in, who does not. A door missing from this table fails."""

from django.contrib.auth.models import Permission
from django.core.files.base import ContentFile
from django.test import TestCase
from django.urls import get_resolver, reverse

from casework.models import Case, Note, Sighting
from guides.models import ProposedCheck
from library.models import Batch, SizeChart
from pairs.models import Marking, Photo
from tests.support.doors import DOORS, KNOWLEDGE, OPEN
from tests.support.scenes import checkpoint, small_case, small_organisation


class Doors(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.batch = Batch.objects.create(release=cls.scene.release, name="Bowline")
        cls.photo = Photo.objects.create(
            pair=cls.case.pair, view="side_out", foot="left", width=9, height=9, sha256="0", added_by=cls.scene.mara
        )
        cls.retail = Photo.objects.create(
            pair=cls.case.reference,
            view="side_out",
            foot="left",
            width=9,
            height=9,
            sha256="1",
            added_by=cls.scene.mara,
        )
        bar = checkpoint(cls.case, "bar")
        Marking.objects.create(checkpoint=bar, photo=cls.retail, points=[[1, 1], [8, 8]], origin="drawn")
        given = {"tool": "caliper", "points": [], "value": 1, "unit": "mm", "uncertainty": 0, "made_by": cls.scene.mara}
        cls.seen = Sighting.objects.create(
            case=cls.case, name="glue", group="toe", sure="sure", like="odd", crop="a.jpg", made_by=cls.scene.mara
        )
        cls.proposal = ProposedCheck.objects.create(
            release=cls.scene.release,
            organisation=cls.scene.organisation,
            photo=cls.retail,
            measure="seam",
            points=[[1, 1], [8, 8]],
            noun="row",
            numbers={"R1": [13, 0.1]},
        )
        cls.note = Note.objects.create(
            case=cls.case, checkpoint=checkpoint(cls.case, "touch"), photo=cls.photo, **given
        )

    def knock(self, name, method, args):
        if args and args[0] == "RETAIL":
            return getattr(self.client, method)(reverse(name, args=[self.retail.pk, *args[1:]])).status_code
        things = {"RELEASE": self.scene.release.pk, "RETAIL_PAIR": self.retail.pair_id, "BATCH": self.batch.pk}
        things["CHECK"] = self.scene.release.own_checkpoints.first().pk
        things["MAKER"] = self.scene.release.shoe_model.maker_id
        if args == "ORGANISATION":
            return getattr(self.client, method)(reverse(name, args=["invite"])).status_code
        things |= {"PROPOSAL": self.proposal.pk}
        things["RETAIL_PHOTO"] = self.retail.pk
        if args and args[0] in things:
            told = [things.get(one, one) for one in args]
            return getattr(self.client, method)(reverse(name, args=told)).status_code
        known = {"PHOTO": self.photo.pk, "SEEN": self.seen.pk}
        args = args and [known.get(arg, arg) for arg in args]
        url = reverse(name, args=[self.case.number, *args] if args is not None else [])
        return getattr(self.client, method)(url).status_code

    def test_every_door_is_in_the_table(self):
        names = {key for key in get_resolver().reverse_dict if isinstance(key, str)}
        self.assertEqual(
            names
            - OPEN
            - {
                "photo",
                "note-crop",
                "sighting-crop",
                "answer-example",
                "drill-card",
                "drill-picture",
                "logbook-export",
                "kit-chart",
                "arrivals",
                # Two sets: see tests/casework/test_sets.py.
                *("sets", "sets-tray", "sets-progress", "sets-export", "sets-add", "sets-photo"),
            },
            set(DOORS),
        )

    def test_members_get_in_strangers_find_nothing_and_the_signed_out_sign_in(self):
        for name, (args, method, status) in DOORS.items():
            with self.subTest(name):
                self.client.logout()
                self.assertEqual(self.knock(name, method, args), 302)
                self.client.force_login(self.scene.stranger)
                if args is not None and name not in KNOWLEDGE:
                    self.assertEqual(self.knock(name, method, args), 404)
                self.client.force_login(self.scene.mara)
                self.assertEqual(self.knock(name, method, args), status)
        self.assertEqual(Case.objects.count(), 1)

    def test_a_chart_is_for_everybody_who_is_signed_in_and_changed_by_guide_writers_only(self):
        csv = "group,US,UK\nmen,8,7\nmen,9,8\n"
        send = lambda: self.client.post(  # noqa: E731
            reverse("kit-sizes"), {"maker": self.scene.release.shoe_model.maker_id, "chart": ContentFile(csv, "c.csv")}
        )
        self.client.force_login(self.scene.mara)
        self.assertContains(send(), "Only a guide writer", status_code=422)
        self.scene.mara.user_permissions.add(Permission.objects.get(codename="change_maker"))
        self.assertEqual(send().status_code, 302)
        url = reverse("kit-chart", args=[SizeChart.objects.get().pk])
        self.assertEqual(self.client.get(url).content.decode(), csv)
        self.assertContains(self.client.get(reverse("kit-sizes"), {"size": "UK 8"}), "9</b>")
        self.client.logout()
        self.assertEqual(self.client.get(url).status_code, 302)

    def test_photographs_and_notes_are_for_their_shop_only(self):
        crops = (reverse("note-crop", args=[self.note.pk]), reverse("sighting-crop", args=[self.seen.pk]))
        for url in (reverse("photo", args=[self.photo.pk, "full"]), *crops):
            self.client.logout()
            self.assertEqual(self.client.get(url).status_code, 302)
            self.client.force_login(self.scene.stranger)
            self.assertEqual(self.client.get(url).status_code, 404)

    def test_what_does_not_exist_is_not_found_and_wrong_methods_are_refused(self):
        self.client.force_login(self.scene.mara)
        for url in ("/cases/999/bench/", f"/cases/{self.case.number}/bench/touch/steal/", "/photos/999/full/"):
            self.assertIn(self.client.post(url).status_code, (404, 405))
        self.assertEqual(self.client.get(reverse("photos", args=[self.case.number])).status_code, 405)
        self.assertEqual(self.client.get(f"/cases/{self.case.number}/bench/no-such-check/").status_code, 200)

"""Two people, or two clicks, at once: one result, a normal page, and nobody's change is put back."""

from unittest import mock
from uuid import uuid4

from django.db import transaction
from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from casework.actions import open_second_opinion as second
from casework.actions import start_case as starting
from casework.actions.keep_checks import place_check
from casework.models import Case
from casework.roles import give_role
from library.models import Checkpoint
from tests.support.scenes import small_case, small_organisation


class AtOnce(TestCase):
    def setUp(self):
        self.scene = small_organisation()

    def test_the_same_form_sent_twice_at_once_opens_one_case(self):
        given = {"user": self.scene.mara, "typed_code": self.scene.release.style_code, "token": uuid4()}
        looked_up, opened = starting.release_of, []

        def meanwhile(*args):
            if not opened:
                opened.append(None)
                opened[0] = starting.start_case(**given)
            return looked_up(*args)

        with mock.patch("casework.actions.start_case.release_of", side_effect=meanwhile):
            case = starting.start_case(**given)
        self.assertEqual((case, Case.objects.count()), (opened[0], 1))

    def test_a_check_moved_from_a_page_that_is_old_by_then_still_finds_its_place(self):
        given = {"organisation": self.scene.organisation, "user": self.scene.mara}
        give_role(self.scene.mara, "owner")
        of = Checkpoint.objects.filter(release=self.scene.release)
        first, second_one, third = of.order_by("position")[:3]
        old = Checkpoint.objects.get(pk=third.pk)
        place_check(checkpoint=third, before=first, **given)
        place_check(checkpoint=old, before=second_one, **given)
        places = list(of.order_by("position").values_list("pk", flat=True)[:3])
        self.assertEqual(places, [first.pk, third.pk, second_one.pk])

    def test_of_two_second_looks_begun_at_once_one_is(self):
        case = small_case(self.scene)
        Case.objects.filter(pk=case.pk).update(signed_at=case.opened_at)
        case.refresh_from_db()
        begin, begun = transaction.atomic, []

        def meanwhile(*args, **more):
            if not begun:
                begun.append(None)
                begun[0] = second.open_second_opinion(case=case, user=self.scene.jory)
            return begin(*args, **more)

        # Between the page's look and the write.
        late = mock.patch("casework.actions.open_second_opinion.transaction.atomic", side_effect=meanwhile)
        with late, self.assertRaises(AssayError):
            second.open_second_opinion(case=case, user=self.scene.jory)
        self.assertEqual(case.seconds.count(), 1)


class TwoPages(TestCase):
    """Two people have the same form open."""

    def setUp(self):
        self.scene = small_organisation()
        give_role(self.scene.mara, "owner")
        self.client.force_login(self.scene.mara)

    def sent(self, url, **changed):
        """The form as a page shows it, with some fields changed."""
        form = self.client.get(url).context["form"]
        shown = {name: "" if (value := form[name].value()) is None else value for name in form.fields}
        return {**shown, **changed, "was": form.was}

    def test_fields_of_one_form_changed_by_two_people_are_both_kept_and_a_conflict_is_shown(self):
        maker = self.scene.release.shoe_model.maker
        for url, thing, one, other, both in (
            (reverse("library-maker", args=[maker.pk]), maker, "name", "inlay_from_year", ("Otherwise", "Thirdly")),
            (
                reverse("library-release-facts", args=[self.scene.release.pk]),
                self.scene.release,
                "colour_wording",
                "year",
                ("REED", "MOSS"),
            ),
        ):
            mine, theirs = self.sent(url, **{one: both[0]}), self.sent(url, **{other: "2019"})
            self.assertEqual(self.client.post(url, mine).status_code, 302)
            self.assertEqual(self.client.post(url, theirs).status_code, 302)
            thing.refresh_from_db()
            self.assertEqual((getattr(thing, one), getattr(thing, other)), (both[0], 2019))
            late = mine | {one: both[1]}
            page = self.client.post(url, late)
            self.assertContains(page, f"to “{both[0]}” meanwhile", status_code=422)
            self.assertContains(page, both[1], status_code=422)
            self.assertEqual(self.client.post(url, late | {"was": page.context["form"].was}).status_code, 302)
            thing.refresh_from_db()
            self.assertEqual(getattr(thing, one), both[1])

    def test_the_shop_s_settings_and_its_policy_keep_what_a_colleague_changed(self):
        url, work = reverse("shop"), reverse("shop-work", args=["settings"])
        was = self.client.get(url).context["settings"].was
        self.client.post(work, {"was": was, "link_days": "7", "two_verify": "on"})
        self.client.post(work, {"was": was, "link_days": "9"})
        self.scene.organisation.refresh_from_db()
        self.assertEqual((self.scene.organisation.two_verify, self.scene.organisation.link_days), (True, 9))
        url = reverse("policy")
        said = {"red_flags": 3, "coverage": 60, "decision_rule": "red_flag_tally", "legit_from": 13, "fake_from": -20}
        number = self.client.get(url).context["policy"].number
        self.assertEqual(self.client.post(url, said | {"number": number}).status_code, 302)
        answer = self.client.post(url, said | {"number": number, "red_flags": 4})
        self.assertContains(answer, "has changed the policy meanwhile", status_code=422)

"""Kinds of photograph are data: a new one is asked for, sorted and checked like those that were there."""

from django.core.exceptions import ValidationError
from django.test import TestCase
from django.urls import reverse

from library.models import Checkpoint, View
from library.photo_kinds import kinds_by_key
from tests.support.scenes import small_case, small_organisation


class Views(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)

    def test_one_that_was_added_stands_on_the_shot_list_of_a_case_whose_checks_it_feeds(self):
        View.objects.create(key="emblem", name="emblem, close", position=15, how="Fill the frame with the emblem.")
        self.assertEqual(list(kinds_by_key())[:3], ["side_out", "side_in", "emblem"])
        Checkpoint.objects.filter(key="bar").update(view="emblem")
        self.client.force_login(self.scene.mara)
        page = self.client.get(reverse("intake", args=[self.case.number]))
        self.assertContains(page, "Left shoe, emblem, close")
        self.assertContains(page, "Fill the frame with the emblem.")

    def test_a_check_of_a_view_that_is_not_there_or_of_a_foot_that_it_has_not_is_no_check(self):
        bar = Checkpoint.objects.get(key="bar")
        for view, foot, field in (("nowhere", "left", "view"), ("box_label", "left", "foot"), ("top", "", "foot")):
            bar.view, bar.foot = view, foot
            with self.assertRaises(ValidationError) as caught:
                bar.clean()
            self.assertIn(field, caught.exception.message_dict)

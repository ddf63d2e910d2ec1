"""A drafted guide: what repeats on the verified pairs is proposed once, and never again once it is rejected."""

from unittest import mock

import numpy as np
from django.contrib.auth.models import Permission
from django.db import connection
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from assay.errors import AssayError
from assay.simulator.swatch import seam_swatch
from casework.actions.decide_proposal import accept_proposal, reject_proposal
from guides.drafting import draft_in_background, request_draft
from guides.models import STALLED, GuideDraft, ProposedCheck
from library.models import Checkpoint, View
from pairs.actions.draw_checkpoint import tried_well
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import small_organisation


class Drafting(TestCase):
    """A swatch with one row of stitches stands for the shoe, on two retail pairs."""

    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.scene.mara.user_permissions.add(Permission.objects.get(codename="add_checkpoint"))
        cls.swatch = seam_swatch("easy", 2)
        View.objects.create(key="swatch", name="swatch, close", position=900, close_up=True, sketch="close")
        place = {"view": "swatch", "foot": "left", "by": cls.scene.mara, "mm_per_px": cls.swatch.mm_per_px}
        for light, pair in zip((1.0, 0.95), Pair.objects.filter(label__in=("R1", "R2")).order_by("label"), strict=True):
            photo = receive_photo(pair=pair, data=jpeg((cls.swatch.rgb * light).astype(np.uint8)), **place)
            read_photo(photo=photo, references={}, needs={})
        cls.given = {"release": cls.scene.release, "organisation": cls.scene.organisation, "user": cls.scene.mara}
        cls.draft()

    @classmethod
    def draft(cls) -> None:
        made = GuideDraft.objects.filter(pk=request_draft(**cls.given).pk).get()
        draft_in_background.func(made.pk)

    def row(self) -> ProposedCheck:
        return ProposedCheck.objects.get(measure="seam", quantity="")

    def test_the_row_is_proposed_with_what_each_verified_pair_reads_and_a_second_draft_adds_nothing(self):
        row, many = self.row(), ProposedCheck.objects.count()
        read = {label: value for label, (value, _) in row.numbers.items()}
        self.assertEqual(read, dict.fromkeys(("R1", "R2"), len(self.swatch.centres)))
        self.draft()
        self.assertEqual(ProposedCheck.objects.count(), many)
        self.assertFalse(GuideDraft.objects.first().runs)

    def test_while_one_runs_no_other_begins_and_one_that_was_cut_off_is_gone_on_with(self):
        GuideDraft.objects.update(done=0)
        running = GuideDraft.objects.get()
        self.assertEqual(request_draft(**self.given), running)
        GuideDraft.objects.update(touched_at=timezone.now() - 2 * STALLED)
        self.assertEqual(request_draft(**self.given), running)
        self.assertFalse(GuideDraft.objects.get().stalled)

    def test_nothing_is_measured_while_others_wait_to_write(self):
        order, own, module = [], len(connection.savepoint_ids), "casework.actions.decide_proposal.tried_well"
        with mock.patch(module, lambda **given: order.append(len(connection.savepoint_ids)) or tried_well(**given)):
            accept_proposal(proposal=self.row(), user=self.scene.mara, name="Toe row")
        self.assertEqual(order, [own])

    def test_accepted_it_is_a_check_with_marks_on_both_pairs_and_nobody_takes_it_twice(self):
        row = self.row()
        self.client.force_login(self.scene.mara)
        door = reverse("guide-draft-decide", args=[self.scene.release.pk, row.pk, "accept"])
        self.client.post(door, {"name": "Toe row, left: stitches"})
        made = Checkpoint.objects.get(name="Toe row, left: stitches")
        self.assertEqual((made.measure, made.kind, made.section), ("seam", "count", "Stitches and holes"))
        self.assertEqual(Marking.objects.filter(checkpoint=made).count(), 2)
        self.assertEqual(self.row().check_made, made)
        with self.assertRaisesMessage(AssayError, "already_decided"):
            accept_proposal(proposal=row, user=self.scene.mara, name="Again")

    def test_rejected_it_stays_away_from_the_page_and_from_later_drafts(self):
        reject_proposal(proposal=self.row(), user=self.scene.mara)
        self.draft()
        self.assertEqual(self.row().state, ProposedCheck.State.REJECTED)
        self.client.force_login(self.scene.mara)
        page = self.client.get(reverse("guide-draft", args=[self.scene.release.pk]))
        self.assertNotContains(page, "how many stitches")
        self.assertContains(page, "1 rejected")

    def test_who_writes_no_guide_neither_drafts_nor_decides(self):
        given = {"user": self.scene.jory}
        for act in (
            lambda: request_draft(**self.given | given),
            lambda: accept_proposal(proposal=self.row(), name="Mine", **given),
            lambda: reject_proposal(proposal=self.row(), **given),
        ):
            with self.assertRaisesMessage(AssayError, "not_allowed"):
                act()

    def test_without_a_name_it_is_not_taken_and_the_page_says_so(self):
        self.client.force_login(self.scene.mara)
        door = reverse("guide-draft-decide", args=[self.scene.release.pk, self.row().pk, "accept"])
        self.assertContains(self.client.post(door, {"name": " "}, follow=True), "Give it a name")
        self.assertEqual(self.row().state, ProposedCheck.State.OPEN)

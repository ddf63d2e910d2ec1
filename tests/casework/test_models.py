"""What the database itself does not allow."""

from django.db import IntegrityError, connection, transaction
from django.test import TestCase

from casework.actions.sign_opinion import sign_opinion
from casework.actions.work_checkpoint import answer
from casework.models import Finding
from library.models import Batch
from pairs.models import Marking, Photo, Reading
from tests.support.scenes import checkpoint, finding, small_case, small_organisation


class FrozenBySignature(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.photo = Photo.objects.create(
            pair=cls.case.pair,
            view="side_out",
            foot="left",
            width=900,
            height=600,
            sha256="0" * 64,
            added_by=cls.scene.mara,
        )
        Marking.objects.create(checkpoint=checkpoint(cls.case, "bar"), photo=cls.photo, points=[[1, 1]], origin="drawn")
        answer(case=cls.case, checkpoint=checkpoint(cls.case, "touch"), user=cls.scene.mara, choice="fine")
        cls.case.pair.photos.update(state="read")
        sign_opinion(case=cls.case, user=cls.scene.mara, verdict="undecided", words="So far.", after=None)

    def refused(self, sql):
        with self.assertRaisesMessage(IntegrityError, "nothing signed"), transaction.atomic():
            connection.cursor().execute(sql)

    def test_nothing_in_a_signed_case_changes_even_in_plain_sql(self):
        case, pair = self.case.pk, self.case.pair_id
        for sql in (
            f"UPDATE casework_finding SET grade = 'departs' WHERE case_id = {case}",
            f"DELETE FROM casework_finding WHERE case_id = {case}",
            f"UPDATE casework_case SET source = 'x' WHERE id = {case}",
            f"UPDATE pairs_pair SET size_us = '9' WHERE id = {pair}",
            f"UPDATE pairs_photo SET foot = 'right' WHERE pair_id = {pair}",
            f"UPDATE pairs_marking SET points = '[]' WHERE photo_id = {self.photo.pk}",
        ):
            self.refused(sql)

    def test_nothing_is_added_to_a_signed_case(self):
        add = {"pair": self.case.pair, "checkpoint": checkpoint(self.case, "touch"), "taken_by": self.scene.mara}
        with self.assertRaises(IntegrityError), transaction.atomic():
            Reading.objects.create(value="flat", method="said/1", **add)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Photo.objects.create(
                pair=self.case.pair,
                view="side_out",
                foot="left",
                width=9,
                height=9,
                sha256="1",
                added_by=self.scene.mara,
            )

    def test_ledger_opinions_and_readings_are_only_added_to(self):
        for table in ("casework_ledgerentry", "casework_opinion", "pairs_reading"):
            self.refused(f"DELETE FROM {table}")
            self.refused(f"UPDATE {table} SET id = id")


class Constraints(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)

    def refused(self, act):
        with self.assertRaises(IntegrityError), transaction.atomic():
            act()

    def test_only_an_eye_rules_out_and_a_grade_rests_on_a_reading(self):
        found = Finding.objects.filter(pk=finding(self.case, "touch").pk)
        self.refused(lambda: found.update(grade="agrees"))
        self.refused(lambda: found.update(grade="rules_out"))

    def test_a_reading_has_a_value_or_a_refusal_never_both(self):
        base = {"pair": self.case.pair, "checkpoint": checkpoint(self.case, "touch"), "taken_by": self.scene.mara}
        self.refused(lambda: Reading.objects.create(method="x", **base))
        self.refused(lambda: Reading.objects.create(method="x", value=1, refusal={"reason": "x"}, **base))

    def test_only_copies_belong_to_a_batch(self):
        batch = Batch.objects.create(release=self.scene.release, name="Bowline")
        self.refused(lambda: type(self.case.pair).objects.filter(pk=self.case.pair_id).update(batch=batch))

"""A stale assessment is never shown: whatever it rests on renews a word in the database, whoever changes it."""

import re

from django.db import connection, transaction
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from casework.actions import work_checkpoint as work
from casework.counter.queries import counter
from casework.findings import STATES, state_of
from casework.models import Case
from casework.revisions import revisions_of
from casework.triggers import SCOPES
from library.models import Checkpoint, Release
from pairs.models import Photo
from tests.support.scenes import checkpoint, small_case, small_organisation

NEVER_CHANGES_IT = {
    *("casework_revision", "pairs_house", "casework_opinion", "casework_ledgerentry"),
    *("casework_desknotes", "casework_uploadlink"),
}


class Revisions(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)

    def fresh(self) -> Case:
        return Case.objects.select_related("pair__release__shoe_model__maker", "organisation").get(pk=self.case.pk)

    def test_every_table_that_is_read_for_it_is_watched(self):
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "smell"), user=self.scene.mara, choice="solvent")
        case = self.fresh()
        with CaptureQueriesContext(connection) as read:
            state_of(case)
            counter(self.scene.organisation, user=self.scene.mara)
        tables = {
            name
            for captured_query in read.captured_queries
            for name in re.findall(r'(?:FROM|JOIN) "(\w+)"', captured_query["sql"])
        }
        self.assertGreater(len(tables), 6)
        self.assertEqual(tables - set(SCOPES) - NEVER_CHANGES_IT, set())

    def test_it_is_computed_once_and_anew_after_whatever_it_rests_on_has_changed(self):
        pair = self.case.reference
        changes = {
            "an answer": lambda: work.answer(
                case=self.fresh(), checkpoint=checkpoint(self.case, "smell"), user=self.scene.mara, choice="solvent"
            ),
            "a check's words": lambda: Checkpoint.objects.filter(key="smell").update(name="Odour"),
            "the retail price": lambda: Release.objects.update(retail_price=90),
            "a price that was asked": lambda: Case.objects.filter(pk=self.case.pk).update(asked_price=5),
            "a retail pair": lambda: type(pair).objects.filter(pk=pair.pk).update(size_us="12"),
            "the suspect's size": lambda: type(pair).objects.filter(pk=self.case.pair_id).update(size_us="11"),
            "a person's name": lambda: type(self.scene.mara).objects.update(first_name="Marah"),
        }
        for what, change in changes.items():
            with self.subTest(what):
                before = state_of(self.fresh())
                self.assertIs(state_of(self.fresh()), before)
                change()
                self.assertIsNot(state_of(self.fresh()), before)

    def test_what_is_rolled_back_leaves_the_word_as_it_was_and_its_own_never_comes_again(self):
        before, words = revisions_of([self.case])[self.case.pk], set()
        for _ in range(2):
            with transaction.atomic():
                Release.objects.update(retail_price=90)
                words.add(revisions_of([self.case])[self.case.pk])
                transaction.set_rollback(True)
            self.assertEqual(revisions_of([self.case])[self.case.pk], before)
        self.assertEqual(len(words - {before}), 2)

    def test_progress_of_the_analysis_is_shown_at_once_beside_what_is_kept(self):
        counter(self.scene.organisation, user=self.scene.mara)
        Case.objects.filter(pk=self.case.pk).update(to_analyse=9, analysed=2)
        row = counter(self.scene.organisation, user=self.scene.mara)["waiting"][0]
        self.assertEqual(row.progress.waits, "measuring 2 of 9")
        self.assertFalse(Photo.objects.exists())

    def test_the_one_used_longest_ago_goes_first(self):
        STATES.put("first", (), 1)
        for n in range(24):
            STATES.put(n, (), n)
        self.assertIsNone(STATES.get("first", ()))
        self.assertEqual(STATES.get(23, ()), 23)

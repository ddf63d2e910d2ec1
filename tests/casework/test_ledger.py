"""The ledger holds: whatever is flipped, removed, put in or swapped is found and named."""

import io
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import IntegrityError, connection, transaction
from django.test import TestCase

from casework import triggers
from casework.actions import work_checkpoint as work
from casework.actions.sign_opinion import sign_opinion
from casework.ledger import head, verify
from tests.support.scenes import checkpoint, grey_photo, small_case, small_organisation


class Ledger(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.organisation = self.scene.organisation
        self.case = small_case(self.scene)
        self.photo = grey_photo(self.case)
        work.answer(case=self.case, checkpoint=checkpoint(self.case, "smell"), user=self.scene.mara, choice="solvent")
        sign_opinion(case=self.case, user=self.scene.mara, verdict="fake", words="No.", anyway="Sure.", after=None)

    def faults(self) -> list[str]:
        return [f"{fault.where}: {fault.what}" for fault in verify(self.organisation)]

    def behind_the_triggers(self, sql: str, *values):
        """As somebody with the database file in their hands."""
        triggers.take_away("default")
        with connection.cursor() as cursor:
            cursor.execute(sql, values)
        triggers.lay("default")

    def test_replacing_is_no_way_round_what_never_changes(self):
        for table in ("casework_opinion", "casework_ledgerentry", "casework_case", "casework_finding", "pairs_photo"):
            replacing = f"INSERT OR REPLACE INTO {table} SELECT * FROM {table}"
            with self.subTest(table), self.assertRaises(IntegrityError), transaction.atomic():
                connection.cursor().execute(replacing)

    def test_what_nobody_touched_has_no_fault_and_later_opinions_change_none(self):
        self.assertEqual(self.faults(), [])
        before = head(self.organisation)
        last = self.case.opinions.last().pk
        sign_opinion(case=self.case, user=self.scene.jory, verdict="undecided", words="Less sure.", after=last)
        self.assertEqual(self.faults(), [])
        self.assertNotEqual(head(self.organisation), before)

    def test_a_changed_line_is_named(self):
        second = self.organisation.ledger.order_by("pk")[1]
        self.behind_the_triggers("UPDATE casework_ledgerentry SET details = '{}' WHERE id = %s", second.pk)
        self.assertEqual(len(self.faults()), 1)
        self.assertIn(f"line {second.pk}", self.faults()[0])
        with self.assertRaises(CommandError):
            call_command("verify_ledger", stdout=io.StringIO())

    def test_a_removed_line_is_missed_by_the_one_after_it(self):
        first, second = self.organisation.ledger.order_by("pk")[:2]
        self.behind_the_triggers("DELETE FROM casework_ledgerentry WHERE id = %s", first.pk)
        self.assertIn(f"line {second.pk}", self.faults()[0])
        self.assertIn("missing", self.faults()[0])

    def test_a_line_put_in_is_found(self):
        line = self.organisation.ledger.order_by("-pk").first()
        fields = "house_id, case_id, actor_id, details, at"
        self.behind_the_triggers(
            f"INSERT INTO casework_ledgerentry ({fields}, deed, previous, digest) "
            f"SELECT {fields}, 'signed', digest, digest FROM casework_ledgerentry WHERE id = %s",
            line.pk,
        )
        self.assertTrue(any("changed" in fault for fault in self.faults()))

    def test_a_rewritten_opinion_or_finding_breaks_the_seal(self):
        self.behind_the_triggers("UPDATE casework_opinion SET verdict = 'legit'")
        self.assertTrue(any("no longer what is there" in fault for fault in self.faults()))
        self.behind_the_triggers("UPDATE casework_opinion SET verdict = 'fake'")
        self.assertEqual(self.faults(), [])
        self.behind_the_triggers("UPDATE casework_finding SET grade = 'agrees' WHERE grade = 'departs'")
        self.assertEqual(len(self.faults()), 1)

    def test_a_swapped_or_missing_photograph_is_named(self):
        path = Path(self.photo.full.path)
        kept = path.read_bytes()
        path.write_bytes(kept[:-1] + b"x")
        self.assertIn("changed or swapped", self.faults()[0])
        path.unlink()
        self.assertIn("missing", self.faults()[0])
        path.write_bytes(kept)
        self.assertEqual(self.faults(), [])

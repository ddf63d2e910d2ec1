"""The record against somebody who has the database file and not the shop's key: every change is noticed."""

import io
import json

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase
from django.utils import timezone

from assay.judge.rules import Policy
from casework import triggers
from casework.actions import work_checkpoint as work
from casework.actions.issue_certificate import issue_certificate
from casework.actions.learn_outcome import learn_outcome
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion
from casework.ledger import FIRST, content, signed_text, verify
from casework.models import Case, LedgerEntry
from casework.organisation_key import is_signed
from casework.seal import digest, seal_of
from tests.support.scenes import checkpoint, grey_photo, small_case, small_organisation

OPINION = (
    "INSERT INTO casework_opinion (case_id, checker_id, verdict, proposed, words, policy_id, decibans, batch, settling,"
    " anyway, against, signed_at, follows_id) SELECT case_id, {jory}, 'legit', proposed, 'Mine.', policy_id, decibans,"
    " batch, settling, anyway, against, signed_at, id FROM casework_opinion"
)
OUTCOME = (
    "INSERT INTO casework_outcome (case_id, so, how, source, learned_on, made_by_id, made_at)"
    " SELECT case_id, 'legit', how, source, learned_on, made_by_id, made_at FROM casework_outcome"
)
ATTACKS = (
    "UPDATE casework_opinion SET verdict = 'legit'",
    "UPDATE casework_opinion SET words = 'All well.'",
    "UPDATE casework_opinion SET checker_id = {jory}",
    "UPDATE casework_opinion SET anyway = ''",
    "UPDATE casework_opinion SET proposed = 'legit'",
    "UPDATE casework_opinion SET decibans = 40",
    OPINION,
    "DELETE FROM casework_opinion",
    "UPDATE casework_case SET signed_at = NULL",
    "UPDATE casework_case SET asked_price = 3",
    "UPDATE casework_case SET source = 'the maker'",
    "UPDATE casework_case SET number = 77",
    "UPDATE pairs_pair SET size_us = '5' WHERE label LIKE 'S%%'",
    "UPDATE pairs_pair SET condition = 'worn' WHERE label LIKE 'S%%'",
    "UPDATE pairs_pair SET region = 'eu' WHERE label LIKE 'S%%'",
    "UPDATE pairs_reading SET value = '\"faint\"'",
    "UPDATE pairs_reading SET taken_by_id = {jory}",
    "UPDATE pairs_reading SET uncertainty = 9",
    "DELETE FROM pairs_reading WHERE pair_id = {pair}",
    "UPDATE casework_finding SET grade = 'agrees' WHERE grade = 'departs'",
    "UPDATE casework_finding SET retail = '[]'",
    "UPDATE casework_finding SET confirmed_by_id = {jory}",
    "UPDATE casework_finding SET tail_probability = 0.5",
    "UPDATE pairs_photo SET view = 'top'",
    "UPDATE pairs_photo SET foot = 'right'",
    "UPDATE pairs_photo SET sha256 = 'x', stored_sha256 = ''",
    "UPDATE casework_note SET words = 'Nothing here.'",
    "UPDATE casework_note SET value = 9",
    "UPDATE casework_sighting SET taken_back = 1",
    "UPDATE casework_sighting SET name = 'a crease'",
    "UPDATE pairs_inscription SET text = 'XX'",
    "UPDATE casework_signeddocument SET sha256 = 'x'",
    "UPDATE casework_signeddocument SET packed = x'00'",
    "DELETE FROM casework_signeddocument",
    "UPDATE casework_certificate SET number = '9'",
    "UPDATE casework_certificate SET sealed = 'x'",
    "UPDATE casework_certificate SET issued_by_id = {jory}",
    "DELETE FROM casework_certificate",
    "UPDATE casework_outcome SET so = 'legit'",
    "UPDATE casework_outcome SET how = 'maker'",
    "UPDATE casework_outcome SET source = 'another letter'",
    "UPDATE casework_outcome SET learned_on = '2020-01-01'",
    "DELETE FROM casework_outcome",
    OUTCOME,
    "UPDATE casework_housepolicy SET red_flags = 9 WHERE number = 2",
    "UPDATE casework_housepolicy SET made_by_id = {jory} WHERE number = 2",
    "UPDATE casework_ledgerentry SET actor_id = {jory}",
    "UPDATE casework_ledgerentry SET deed = 'answered' WHERE deed = 'signed'",
    "UPDATE casework_ledgerentry SET details = '{{}}' WHERE deed = 'signed'",
    "UPDATE casework_ledgerentry SET at = '2020-01-01 00:00:00' WHERE deed = 'signed'",
    "DELETE FROM casework_ledgerentry WHERE deed = 'answered'",
    "UPDATE casework_signedhead SET digest = 'x'",
    "UPDATE casework_signedhead SET signature = '00'",
    "DELETE FROM casework_signedhead",
    "DELETE FROM casework_signedhead WHERE id = (SELECT max(id) FROM casework_signedhead)",
    "DROP TRIGGER casework_opinion_update",
)


class Attacks(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        mara, self.organisation = self.scene.mara, self.scene.organisation
        self.case = case = small_case(self.scene)
        photo = grey_photo(case, view="side_out", foot="left")
        smell = checkpoint(case, "smell")
        work.answer(case=case, checkpoint=smell, user=mara, choice="solvent")
        given = {"case": case, "made_by": mara, "crop": "a.jpg"}
        case.notes.create(**given, checkpoint=smell, photo=photo, tool="caliper", points=[], value=1, uncertainty=0)
        case.sightings.create(**given, name="glue", group="toe", sure="sure", like="odd")
        case.pair.inscriptions.create(place="box.style_code", text="VQ", source="typed", read_by=mara)
        Case.objects.filter(pk=case.pk).update(asked_price=90, to_analyse=0, runs=0)
        set_policy(organisation=self.organisation, user=mara, rules=Policy())
        sign_opinion(case=case, user=mara, verdict="fake", words="No.", anyway="Sure.", after=None)
        case.refresh_from_db()
        issue_certificate(case=case, user=mara)
        given = {"so": "fake", "how": "maker", "source": "the client", "learned_on": timezone.localdate()}
        learn_outcome(case=case, user=mara, given=given | {"how": "returned"})

    def faults(self) -> list[str]:
        return [f"{fault.where}: {fault.what}" for fault in verify(self.organisation)]

    def behind_the_triggers(self, sql: str):
        known = {"jory": self.scene.jory.pk, "pair": self.case.pair_id}
        triggers.take_away("default")
        if not sql.startswith("DROP"):
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA defer_foreign_keys = ON")
                cursor.execute("PRAGMA ignore_check_constraints = ON")
                cursor.execute(sql.format(**known).replace("%%", "%"))
                cursor.execute("PRAGMA ignore_check_constraints = OFF")
            triggers.lay("default")

    def test_every_change_is_noticed(self):
        self.assertEqual(self.faults(), [])
        unnoticed = []
        for sql in ATTACKS:
            with connection.cursor() as cursor:
                cursor.execute("SAVEPOINT attack")
            self.behind_the_triggers(sql)
            if not self.faults():
                unnoticed.append(sql)
            with connection.cursor() as cursor:
                cursor.execute("ROLLBACK TO attack")
                cursor.execute("RELEASE attack")
        self.assertEqual(unnoticed, [])
        self.assertEqual(self.faults(), [])

    def test_a_ledger_written_anew_from_its_start_with_every_seal_lacks_the_shop_s_signatures(self):
        self.behind_the_triggers("UPDATE casework_opinion SET verdict = 'legit'")
        triggers.take_away("default")
        before = FIRST
        for line in LedgerEntry.objects.filter(organisation=self.organisation).order_by("pk"):
            if line.action == "signed":
                line.details |= {"verdict": "legit", "sealed": seal_of(self.case, 1)}
            line.previous = before
            line.digest = before = digest(content(line))
            LedgerEntry.objects.filter(pk=line.pk).update(
                details=line.details, previous=line.previous, digest=line.digest
            )
        triggers.lay("default")
        self.assertTrue(any("is not what the shop signed" in fault for fault in self.faults()), self.faults())

    def test_a_head_that_lies_elsewhere_tells_a_ledger_that_was_cut(self):
        out, told = io.StringIO(), self.organisation.ledger.order_by("-pk").first()
        call_command("seal", stdout=out)
        (line,) = [one for one in map(json.loads, out.getvalue().splitlines()) if one["shop"] == self.organisation.pk]
        self.assertEqual((line["line"], line["digest"]), (told.pk, told.digest))
        self.assertTrue(is_signed(signed_text(told), line["signature"], line["key"]))
        call_command("verify_ledger", against=line["digest"], stdout=io.StringIO())
        for table in ("casework_signedhead WHERE line_id", "casework_ledgerentry WHERE id"):
            self.behind_the_triggers(f"DELETE FROM {table} = {told.pk}")
        self.behind_the_triggers("DELETE FROM casework_outcome")
        # By itself it looks whole.
        self.assertEqual(self.faults(), [])
        with self.assertRaises(CommandError):
            call_command("verify_ledger", against=line["digest"], stdout=io.StringIO())

    def test_a_person_a_shop_or_a_release_that_is_called_otherwise_is_no_fault(self):
        self.scene.mara.username, self.organisation.name = "mara-l", "Another Name"
        self.scene.mara.save()
        self.organisation.save()
        release = self.scene.release
        release.style_code, release.colourway = "VQ-44127-Z", "Silt"
        release.save()
        release.checkpoints.filter(key="smell").update(name="Smell of the box")
        self.assertEqual(self.faults(), [])
        self.assertTrue(json.dumps(content(LedgerEntry.objects.first())))

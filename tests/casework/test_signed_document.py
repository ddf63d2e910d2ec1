"""What was signed is kept whole: later changes around it are told, and change nothing of it."""

import json

from django.db import DatabaseError, transaction
from django.test import TestCase
from django.urls import reverse

from casework import triggers
from casework.actions.sign_opinion import sign_opinion
from casework.ledger import verify
from casework.models import SignedDocument
from casework.signed_document import differences, last_signed, signed_bytes
from library.models import Checkpoint
from pairs.models import Organisation
from tests.support.scenes import small_case, small_organisation


class Sealed(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Not enough.", after=None)
        self.case.refresh_from_db()
        self.client.force_login(self.scene.mara)

    def test_words_beliefs_and_names_that_change_afterwards_are_told_and_what_is_taken_away_stays(self):
        self.assertEqual(differences(self.case), [])
        signed = self.client.get(reverse("case-json", args=[self.case.number])).content
        touch = Checkpoint.objects.get(key="touch")
        touch.name, touch.prior = "Feel", {"pairs": 9, "rare": {"flat": 0.4}}
        touch.save()
        Organisation.objects.filter(pk=self.scene.organisation.pk).update(name="Another Name")
        self.case.refresh_from_db()
        told = " ".join(differences(self.case))
        for words in ("“Touch”, name: “Feel” today, “Touch” then", "what is believed of it", "The shop’s name"):
            self.assertIn(words, told)
        page = self.client.get(reverse("differs", args=[self.case.number]))
        self.assertContains(page, "Reads otherwise today")
        self.assertEqual(self.client.get(reverse("case-json", args=[self.case.number])).content, signed)
        today = self.client.get(reverse("case-json", args=[self.case.number]), {"today": ""}).json()
        self.assertEqual(today["case"]["house"], "Another Name")
        self.assertEqual(json.loads(signed)["case"]["house"], "Quay Counter")

    def test_the_document_cannot_be_changed_and_is_missed_where_it_was(self):
        kept = last_signed(self.case)
        self.assertEqual(json.loads(signed_bytes(kept))["opinions"][0]["words"], "Not enough.")
        with self.assertRaises(DatabaseError), transaction.atomic():
            SignedDocument.objects.update(sha256="0" * 64)
        with self.assertRaises(DatabaseError), transaction.atomic():
            kept.delete()
        self.assertEqual(list(verify(self.scene.organisation)), [])
        triggers.take_away("default")
        SignedDocument.objects.update(packed=b"no")
        triggers.lay("default")
        self.assertEqual(
            [fault.what for fault in verify(self.scene.organisation)], ["the document that was signed was changed"]
        )

    def test_a_further_opinion_has_a_document_of_its_own(self):
        last = self.case.opinions.last()
        sign_opinion(case=self.case, user=self.scene.jory, verdict="fake", words="Look.", anyway="Sure.", after=last.pk)
        self.assertEqual(SignedDocument.objects.count(), 2)
        self.assertEqual(len(json.loads(signed_bytes(last_signed(self.case)))["opinions"]), 2)

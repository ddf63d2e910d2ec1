"""A case bag: valid by BagIt's own library, signed, and every change in it is named."""

import io
import tempfile
import zipfile
from pathlib import Path

import bagit
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from casework.actions import work_checkpoint as work
from casework.actions.sign_opinion import sign_opinion
from reports.bag import SIGNATURE, SIGNED, faults_of, make_bag
from tests.support.scenes import checkpoint, grey_photo, small_case, small_organisation


class Signature(SimpleTestCase):
    def test_ed25519_is_rfc_8032_s(self):
        """RFC 8032, 7.1, test 1: secret key, empty message, signature (from memory; the library agrees)."""
        secret = bytes.fromhex("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60")
        first = "e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e06522490155"
        second = "5fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b"
        self.assertEqual(Ed25519PrivateKey.from_private_bytes(secret).sign(b"").hex(), first + second)


class Bag(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        case = small_case(self.scene)
        grey_photo(case, view="side_out", foot="left")
        work.answer(case=case, checkpoint=checkpoint(case, "smell"), user=self.scene.mara, choice="solvent")
        sign_opinion(case=case, user=self.scene.mara, verdict="fake", words="No.", anyway="Sure.", after=None)
        self.case, self.data = case, make_bag(case)

    def changed(self, change) -> bytes:
        """The bag with its files put through ``change`` (a dict by name, to be altered)."""
        with zipfile.ZipFile(io.BytesIO(self.data)) as bag:
            files = {name: bag.read(name) for name in bag.namelist()}
        change(files)
        target = io.BytesIO()
        with zipfile.ZipFile(target, "w") as bag:
            for name, data in files.items():
                bag.writestr(name, data)
        return target.getvalue()

    def test_it_is_a_valid_bag_with_everything_in_it(self):
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(io.BytesIO(self.data)) as archive:
            archive.extractall(folder)
            root = next(Path(folder).iterdir())
            bagit.Bag(str(root)).validate()
            names = {path.name for path in (root / "data").rglob("*") if path.is_file()}
        self.assertTrue({"case.json", "findings.csv", "ledger.json", "README.txt"} <= names)
        self.assertEqual(sum(name.endswith(".jpg") for name in names), 1)
        self.assertEqual(faults_of(self.data, self.scene.organisation), [])

    def test_a_flipped_byte_a_missing_an_extra_and_a_renamed_file_are_named(self):
        case = f"case-{self.case}"
        text = f"{case}/data/case.json"

        def flip(files):
            files[text] = files[text][:-2] + b"?" + files[text][-1:]

        def rename(files):
            files[f"{case}/data/other.json"] = files.pop(text)

        for change, name in (
            (flip, "case.json"),
            (lambda files: files.pop(f"{case}/data/findings.csv"), "findings.csv"),
            (lambda files: files.update({f"{case}/data/extra.txt": b"x"}), "extra.txt"),
            (rename, "other.json"),
            (lambda files: files.update({f"{case}/{SIGNED}": files[f"{case}/{SIGNED}"] + b"\n"}), SIGNATURE),
            (lambda files: files.pop(f"{case}/{SIGNATURE}"), SIGNATURE),
        ):
            faults = faults_of(self.changed(change), self.scene.organisation)
            self.assertTrue(any(name in fault for fault in faults), (name, faults))

    def test_a_file_to_fetch_and_one_beside_the_lists_are_not_as_signed(self):
        case = f"case-{self.case}"
        for name, text in (("fetch.txt", b"http://elsewhere/x 3 data/x.jpg"), ("note.txt", b"x"), ("sub/x.txt", b"x")):
            faults = faults_of(self.changed(lambda files, n=name, t=text: files.update({f"{case}/{n}": t})))
            self.assertTrue(any(name in fault for fault in faults), (name, faults))

    def test_a_line_of_the_ledger_rewritten_with_all_lists_made_anew_is_named(self):
        """As somebody would who knows how bags are made, but has no key."""
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(io.BytesIO(self.data)) as archive:
            archive.extractall(folder)
            root = next(Path(folder).iterdir())
            ledger = root / "data" / "ledger.json"
            ledger.write_text(ledger.read_text().replace('"verdict": "fake"', '"verdict": "legit"'))
            bagit.Bag(str(root)).save(manifests=True)
            target = io.BytesIO()
            with zipfile.ZipFile(target, "w") as bag:
                for path in root.rglob("*"):
                    if path.is_file():
                        bag.write(path, path.relative_to(root.parent))
        faults = faults_of(target.getvalue(), self.scene.organisation)
        self.assertTrue(any("signed at" in fault and "was changed" in fault for fault in faults), faults)
        self.assertTrue(any(SIGNATURE in fault for fault in faults))

    def test_what_was_made_anew_by_somebody_else_is_not_this_shop_s(self):
        elsewhere = self.scene.stranger.organisations.get()
        self.assertIn("not the key", faults_of(self.data, elsewhere)[0])

    def test_no_bag_and_paths_that_lead_away_are_refused_in_words(self):
        away = self.changed(lambda files: files.update({"../../x": b"x"}))
        for data in (b"nothing", self.data[:200], away):
            self.assertIn("no bag", faults_of(data)[0])

    def test_command_and_screen_say_the_same(self):
        bad = self.changed(lambda files: files.pop(f"case-{self.case}/data/findings.csv"))
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "b.zip"
            file.write_bytes(self.data)
            call_command("verify_bag", str(file), shop=self.scene.organisation.name, stdout=io.StringIO())
            file.write_bytes(bad)
            with self.assertRaises(CommandError):
                call_command("verify_bag", str(file), stdout=io.StringIO())
        self.client.force_login(self.scene.mara)
        for data, words in ((self.data, "nothing was changed"), (bad, "findings.csv")):
            answer = self.client.post(reverse("bags"), {"file": SimpleUploadedFile("b.zip", data)})
            self.assertContains(answer, words)

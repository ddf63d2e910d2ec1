"""Cases are found, put right, and given up with a reason."""

from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from casework.access import CaseSignedError
from casework.actions import amend_case as amend
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import NoSuchRelease
from casework.counter.queries import counter
from casework.models import Case
from library.models import Checkpoint, Release
from pairs.actions.take_reading import SAID, say
from pairs.models import Pair, Standing
from tests.support.scenes import small_case, small_organisation


class Steering(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.case = small_case(self.scene)
        self.given = {"case": self.case, "user": self.scene.mara}

    def found(self, asked: str) -> list[int]:
        page = counter(self.scene.organisation, asked)
        return [row.case.number for row in page["waiting"] + page["signed"]]

    def test_cases_are_found_by_code_name_number_words_verdict_and_date(self):
        save_intake(case=self.case, user=self.scene.mara, facts={"source": "a friend at the pier"})
        other = small_case(self.scene)
        sign_opinion(
            case=other, user=self.scene.mara, verdict="fake", words="The heel bulges.", anyway="Sure.", after=None
        )
        opened = Case.objects.get(pk=self.case.pk).opened_at
        both = [self.case.number, other.number]
        for asked, numbers in (
            ("pier", both[:1]), ("heel", both[1:]), ("fake brackish", both[1:]), (str(self.case.number), both[:1]),
            ("vq44127b", both), ("VQ-44127-B", both), (f"{opened:%Y-%m}", both), ("brackish pier fake", []), ("%", []),
        ):  # fmt: skip
            self.assertEqual(sorted(self.found(asked)), numbers, asked)

    def test_a_discarded_case_is_gone_and_the_ledger_says_why(self):
        with self.assertRaises(AssayError) as caught:
            amend.discard_case(**self.given, why=" ")
        self.assertEqual(caught.exception.reason, "no_reason")
        amend.discard_case(**self.given, why="opened twice")
        self.assertEqual(self.found(""), [])
        self.client.force_login(self.scene.mara)
        self.assertEqual(self.client.get(reverse("bench", args=[self.case.number])).status_code, 404)
        self.assertEqual(self.case.ledger.get(action="discarded").details, {"why": "opened twice"})
        with self.assertRaises(CaseSignedError):
            amend.discard_case(**self.given, why="again")

    def test_another_release_brings_its_own_checks_and_pairs(self):
        other = Release.objects.create(
            shoe_model=self.scene.release.shoe_model,
            colourway="Heron",
            style_code="VQ-20731-S",
            year=2021,
            generation=2,
        )
        with self.assertRaises((AssayError, NoSuchRelease)) as caught:
            amend.change_release(**self.given, typed_code="vq20731s")
        self.assertEqual(caught.exception.reason, "no_reference")
        Pair.objects.create(
            organisation=self.scene.organisation, release=other, standing=Standing.RETAIL, label="H1", size_us="9"
        )
        Checkpoint.objects.create(
            release=other, key="tread", name="Tread", group="sole", kind="count", position=1, section="All",
            instruction="Count.", prior={"pairs": 2, "off_by_one": 0.01},
        )  # fmt: skip
        amend.change_release(**self.given, typed_code="heron")
        case = Case.objects.get(pk=self.case.pk)
        self.assertEqual(
            (case.reference.label, list(case.findings.values_list("checkpoint__key", flat=True))), ("H1", ["tread"])
        )

    def test_another_verified_pair_is_laid_beside_it(self):
        amend.choose_reference(**self.given, label="R3")
        self.assertEqual(Case.objects.get(pk=self.case.pk).reference.label, "R3")
        with self.assertRaises(AssayError) as caught:
            amend.choose_reference(**self.given, label="S0401")
        self.assertEqual(caught.exception.reason, "no_such_pair")

    def test_nothing_of_a_signed_case_is_put_right(self):
        say(checkpoint=self.scene.release.checkpoints.get(key="bar"), pair=self.case.pair, value=13, method=SAID,
            by=self.scene.mara)  # fmt: skip
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="Too little.", after=None)
        for act, more in ((amend.discard_case, {"why": "x"}), (amend.choose_reference, {"label": "R2"})):
            with self.assertRaises(CaseSignedError):
                act(**self.given, **more)

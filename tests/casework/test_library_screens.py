"""The library on screen: makers, releases, verified pairs, known copies, without a shell."""

from types import SimpleNamespace
from uuid import uuid4

from django.contrib.auth.models import Permission
from django.test import TestCase
from django.urls import reverse

from assay.errors import AssayError
from casework.actions import keep_pair as pairs
from casework.actions.ask_questions import add_question
from casework.actions.change_check import withdraw_check
from casework.actions.keep_checks import add_paper, move_check
from casework.actions.organisation_people import set_organisation
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import NoSuchRelease, start_case
from casework.actions.work_checkpoint import answer
from casework.models import Case
from library.models import Batch, Checkpoint, Maker, Release
from pairs.actions.take_reading import SAID, say
from pairs.models import Pair, Photo, Standing
from pairs.queries import retail_pairs
from tests.support.scenes import finding, grey_photo, small_case, small_organisation

WRITES = ("add_checkpoint", "change_maker")
PAIR = {"size_us": "9", "region": "eu", "condition": "deadstock", "verified_how": "bought from the maker, receipt 12"}


class Shelf(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        self.scene.mara.user_permissions.add(*Permission.objects.filter(codename__in=WRITES))
        self.mara = type(self.scene.mara).objects.get(pk=self.scene.mara.pk)
        self.client.force_login(self.mara)

    def test_a_photograph_is_sorted_without_a_page_load_and_says_what_lacks_without_a_scale(self):
        pair = self.candidate()
        photo = grey_photo(SimpleNamespace(pair=pair, opened_by=self.mara))
        Photo.objects.filter(pk=photo.pk).update(preview=photo.full.name)
        Checkpoint.objects.filter(key="bar").update(unit="mm", quantity="pitch_mm", kind="continuous")
        url, said = reverse("library-pair-work", args=[pair.pk, "place"]), {"photo": photo.pk, "place": "side_out left"}
        page = self.client.post(url, said, headers={"HX-Request": "true"})
        self.assertContains(page, "No scale: 1 check won’t have")
        self.assertNotContains(page, "<html")
        photo.refresh_from_db()
        self.assertEqual((photo.view, photo.foot, photo.sorted_by), ("side_out", "left", Photo.SortedBy.PERSON))

    def release_given(self, **changes) -> dict:
        maker = self.scene.release.shoe_model.maker
        said = {"maker": maker.pk, "model": "Quayside Low", "colourway": "Lamp Oil", "style_code": "vq44127l"}
        return {**said, "year": "2024", "generation": "1", "group": "men", "serials_differ": "unknown", **changes}

    def refused(self, reason: str, act, **given):
        with self.assertRaises(AssayError) as caught:
            act(**given)
        self.assertEqual(caught.exception.reason, reason)

    def candidate(self, **changes) -> Pair:
        given = {
            "organisation": self.scene.organisation,
            "user": self.mara,
            "release": self.scene.release,
            "given": PAIR,
        }
        return pairs.add_pair(**{**given, **changes})

    def test_a_maker_s_pattern_is_tried_on_codes_before_it_is_kept(self):
        said = {"name": "Oskpell", "style_code_mask": "999999-999", "date_order": "DMY", "layout_eu": "eu uk us",
                "box_classes": "6–9.5 1\n10–13 2", "examples": "305518-402 VQ-44127"}  # fmt: skip
        answer = self.client.post(reverse("library-maker-new"), said)
        self.assertContains(answer, "VQ-44127 does not fit", status_code=422)
        self.assertContains(answer, "305518-402 VQ-44127", status_code=422)
        for field, wrong, words in (
            ("style_code_mask", "nothing", "only A, 9"),
            ("box_classes", "9 to 6 S", "one box a line"),
            ("layout_eu", "EU XX", "no size system"),
        ):
            answer = self.client.post(reverse("library-maker-new"), said | {field: wrong})
            self.assertContains(answer, words, status_code=422)
        self.client.post(reverse("library-maker-new"), said | {"examples": "305518402"})
        made = Maker.objects.get(name="Oskpell")
        self.assertEqual(made.box_classes, [[6.0, 9.5, "1"], [10.0, 13.0, "2"]])
        self.assertEqual(made.label_layouts, {"eu": ["EU", "UK", "US"]})

    def test_a_release_is_added_from_an_unknown_code_and_its_own_code_is_nobody_else_s(self):
        answer = self.client.post(reverse("start"), {"style_code": "VQ-90000-X", "token": uuid4()})
        self.assertContains(answer, "as a release", status_code=422)
        taken = self.client.post(reverse("library-release-new"), self.release_given(style_code="VQ 44127 B"))
        self.assertContains(taken, "is the code of", status_code=422)
        self.assertContains(taken, "Lamp Oil", status_code=422)
        answer = self.client.post(
            reverse("library-release-new"), self.release_given(barcodes="size,number\n9,036000291452", sizes_us="9 8.5")
        )
        made = Release.objects.get(style_code="VQ-44127-L")
        self.assertRedirects(answer, reverse("library-release", args=[made.pk]))
        self.assertEqual((made.barcodes, made.sizes_us), ({"9": "00036000291452"}, ["8.5", "9"]))
        self.assertEqual(made.shoe_model, self.scene.release.shoe_model)
        bad = self.client.post(
            reverse("library-release-new"), self.release_given(style_code="VQ-1", barcodes="9,036000291453")
        )
        self.assertContains(bad, "Line 1", status_code=422)

    def test_a_maker_that_is_not_there_is_added_on_the_way_to_its_release(self):
        url = reverse("library-release-new")
        page = self.client.get(url, {"code": "NEW-1"}).content.decode()
        self.assertIn(f"{reverse('library-maker-new')}?for_release=NEW-1", page)
        given = {"name": "Brailwick", "style_code_mask": "AAA-999", "date_order": "DMY"}
        kept = self.client.post(f"{reverse('library-maker-new')}?for_release=BRW-301", given)
        maker = Maker.objects.get(name="Brailwick")
        self.assertRedirects(kept, f"{url}?code=BRW-301&maker={maker.pk}")
        self.assertContains(self.client.get(kept.url), f'<option value="{maker.pk}" selected>Brailwick</option>')

    def test_who_may_not_is_told_and_nothing_changes(self):
        self.client.force_login(self.scene.jory)
        answer = self.client.post(reverse("library-release-new"), self.release_given())
        self.assertEqual((answer.status_code, Release.objects.count()), (422, 1))
        self.refused("not_allowed", self.candidate, user=self.scene.jory)

    def test_a_shop_s_guide_is_changed_by_its_own_writers_and_seen_by_others_only_if_it_shares(self):
        stranger = self.scene.stranger
        stranger.user_permissions.add(*Permission.objects.filter(codename__in=WRITES))
        stranger = type(stranger).objects.get(pk=stranger.pk)
        Release.objects.filter(pk=self.scene.release.pk).update(organisation=self.scene.organisation)
        check = Checkpoint.objects.select_related("release").get(key="smell")
        elsewhere = {"organisation": stranger.organisations.get(), "user": stranger}
        for act, given in (
            (withdraw_check, {"checkpoint": check}),
            (add_question, {"release": check.release, "key": "weight"}),
            (move_check, {"checkpoint": check, "up": True}),
            (add_paper, {"release": check.release, "paper": "packing"}),
        ):
            self.refused("others_release", act, **given, **elsewhere)
        self.client.force_login(stranger)
        url = reverse("library-release", args=[check.release_id])
        self.assertEqual(self.client.get(url).status_code, 200)
        set_organisation(organisation=self.scene.organisation, user=self.mara, private=True)
        self.assertEqual(self.client.get(url).status_code, 404)
        self.assertNotContains(self.client.get(reverse("library")), "Brackish")
        self.client.force_login(self.mara)
        self.assertEqual(self.client.get(url).status_code, 200)

    def test_a_colourway_starts_with_the_checks_and_the_spread_that_its_model_shares(self):
        Checkpoint.objects.filter(key="bar").update(shared=True)
        sibling = Release.objects.create(
            shoe_model=self.scene.release.shoe_model, colourway="Lamp Oil", style_code="VQ-44127-L", year=2024
        )
        case = start_case(user=self.mara, typed_code="VQ-44127-L", token=uuid4())
        self.assertEqual(list(case.findings.values_list("checkpoint__key", flat=True)), ["bar"])
        self.assertEqual([label for label, _ in case.findings.get().retail], ["R1", "R2", "R3"])
        own = Checkpoint.objects.create(
            release=sibling, key="bar", name="Bar", group="bar", kind="count", position=1, section="All",
            instruction="Count.", prior={"pairs": 2, "off_by_one": 0.01},
        )  # fmt: skip
        self.assertEqual(list(sibling.checkpoints), [own])
        other = Release.objects.create(
            shoe_model=sibling.shoe_model, colourway="Old", style_code="VQ-20000-A", year=2020, generation=2
        )
        self.assertFalse(other.checkpoints.exists())

    def test_a_pair_counts_once_somebody_or_two_people_say_so(self):
        made = self.candidate()
        self.assertEqual((made.label, made.standing), ("R4", Standing.CANDIDATE))
        case = small_case(self.scene)
        self.assertNotIn(made, retail_pairs(case.pair))
        self.scene.organisation.two_verify = True
        self.scene.organisation.save()
        pairs.verify_pair(pair=made, user=self.mara)
        self.assertNotIn(made, retail_pairs(case.pair))
        self.refused("verified_already", pairs.verify_pair, pair=made, user=self.mara)
        self.scene.jory.user_permissions.add(*Permission.objects.filter(codename__in=WRITES))
        jory = type(self.mara).objects.get(pk=self.scene.jory.pk)
        pairs.verify_pair(pair=made, user=jory)
        self.assertIn(made, retail_pairs(case.pair))

    def test_a_copy_brought_as_retail_is_asked_about(self):
        made = self.candidate()
        say(checkpoint=self.scene.release.checkpoints.get(key="bar"), pair=made, value=10, method=SAID, by=self.mara)
        page = self.client.get(reverse("library-pair", args=[made.pk]))
        self.assertContains(page, "Is it a copy?")
        self.assertContains(page, "(10 against 13, 13, 13)")

    def test_why_a_pair_is_trusted_or_retired_must_be_said(self):
        self.refused("no_reason", self.candidate, given={**PAIR, "verified_how": " "})
        first = self.scene.organisation.pairs.get(label="R1")
        self.refused("no_reason", pairs.retire_pair, pair=first, user=self.mara, why="")
        case = small_case(self.scene)
        pairs.retire_pair(pair=first, user=self.mara, why="worn out")
        case.refresh_from_db()
        self.assertEqual(case.reference.label, "R2")
        self.assertEqual([label for label, _ in finding(case, "bar").retail], ["R2", "R3"])
        pairs.retire_pair(pair=self.scene.organisation.pairs.get(label="R2"), user=self.mara, why="sold")
        last = self.scene.organisation.pairs.get(label="R3")
        self.refused("pair_in_use", pairs.retire_pair, pair=last, user=self.mara, why="sold")

    def test_closed_cases_teach_the_library(self):
        case = small_case(self.scene)
        self.refused("not_signed_so", pairs.pair_from_case, case=case, user=self.mara, batch="Bowline")
        sign_opinion(case=case, user=self.mara, verdict="fake", words="No.", anyway="Sure.", after=None)
        self.client.post(reverse("take-over", args=[case.number]), {"batch": "Bowline"})
        case.pair.refresh_from_db()
        self.assertEqual((case.pair.standing, case.pair.batch.name), (Standing.COPY, "Bowline"))
        self.assertContains(
            self.client.get(reverse("library-batch", args=[Batch.objects.get().pk])), "Last caught in case"
        )
        good = small_case(self.scene)
        touch = self.scene.release.checkpoints.get(key="touch")
        answer(case=good, checkpoint=touch, user=self.mara, choice="fine")
        first = sign_opinion(case=good, user=self.mara, verdict="legit", words="Yes.", anyway="Sure.", after=None)
        self.refused("not_signed_so", pairs.pair_from_case, case=good, user=self.mara)
        sign_opinion(case=good, user=self.scene.jory, verdict="legit", words="Yes.", anyway="Sure.", after=first.pk)
        self.assertEqual(pairs.pair_from_case(case=good, user=self.mara).standing, Standing.RETAIL)
        self.refused("taken_over_already", pairs.pair_from_case, case=good, user=self.mara)

    def test_a_packing_list_is_written_a_row_a_thing(self):
        rows = {"token": ["sheet", "card", "lace"], "name": ["Tissue", "Card", ""], "count": ["1", "0", "1"],
                "like": ["colour: grey / white", "", ""]}  # fmt: skip
        url = reverse("library-packing", args=[self.scene.release.pk])
        answer = self.client.post(url, rows | {"like": ["grey", "", ""]})
        self.assertContains(answer, "colour: grey / white", status_code=422)
        self.assertContains(answer, 'value="Tissue"', status_code=422)
        self.client.post(url, rows)
        self.scene.release.refresh_from_db()
        self.assertEqual(
            [(item["name"], item["count"]) for item in self.scene.release.packing], [("Tissue", 1), ("Card", 0)]
        )
        self.assertEqual(self.scene.release.packing[0]["attributes"], {"colour": "grey"})

    def test_names_may_have_figures(self):
        Release.objects.filter(pk=self.scene.release.pk).update(colourway="Drift 2")
        self.assertEqual(
            start_case(user=self.mara, typed_code="drift 2", token=uuid4()).pair.release, self.scene.release
        )
        with self.assertRaises(AssayError) as caught:
            start_case(user=self.mara, typed_code="VQ-4412", token=uuid4())
        self.assertNotIsInstance(caught.exception, NoSuchRelease)
        self.assertEqual(Case.objects.count(), 1)

"""What was learned later stands beside what was signed, and says how often the shop is wrong."""

from dataclasses import replace
from datetime import timedelta

from django.core.cache import cache
from django.db import DatabaseError, transaction
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.copy_model import UNKNOWN
from assay.judge.weigh import Balance
from casework.actions.learn_outcome import learn_outcome
from casework.actions.set_policy import set_policy
from casework.actions.sign_opinion import sign_opinion, told_as
from casework.actions.use_learned import use_recalibration, use_suggestion
from casework.findings import state_of
from casework.grading import core_policy, policy_in_force, regrade
from casework.library_screens.guide import _past
from casework.logbook import queries, seasons
from casework.models import Case, Finding, Opinion, OrganisationPolicy, Outcome
from casework.outcomes import decided_at, good_copies, known_ends
from casework.roles import give_role
from library.models import Batch
from pairs.actions.take_reading import SAID, say
from tests.support.scenes import checkpoint, small_case, small_organisation


class Logbook(TestCase):
    def setUp(self):
        cache.clear()
        self.scene = small_organisation()
        self.client.force_login(self.scene.mara)
        self.today = timezone.localdate()

    def closed(self, verdict: str) -> Case:
        case = small_case(self.scene)
        say(checkpoint=checkpoint(case, "touch"), pair=case.pair, value="fine", method=SAID, by=self.scene.mara)
        regrade(case)
        given = {"words": "So.", "anyway": "I know it.", "after": None}
        sign_opinion(case=case, user=self.scene.mara, verdict=verdict, **given)
        case.refresh_from_db()
        return case

    def learn(self, case: Case, so: str, **changes) -> Outcome:
        given = {"so": so, "how": "maker", "source": "letter 12", "learned_on": self.today}
        return learn_outcome(case=case, user=self.scene.mara, given=given | changes)

    def test_an_outcome_changes_nothing_that_was_signed_and_is_never_rewritten(self):
        case = self.closed("legit")
        signed = self.client.get(reverse("case-json", args=[case.number])).content
        kept = self.learn(case, "fake")
        self.assertEqual(self.client.get(reverse("case-json", args=[case.number])).content, signed)
        with self.assertRaises(DatabaseError), transaction.atomic():
            Outcome.objects.filter(pk=kept.pk).update(so="legit")
        self.learn(case, "legit", source="the maker, by telephone")
        self.assertEqual((case.outcomes.count(), queries.closed(self.scene.organisation, {}).get().so), (2, "legit"))

    def test_open_cases_other_days_and_no_source_are_refused_in_words(self):
        case = self.closed("fake")
        for reason, of, changes in (
            ("not_signed_yet", small_case(self.scene), {}),
            ("learned_too_early", case, {"learned_on": self.today - timedelta(days=9)}),
            ("learned_too_early", case, {"learned_on": self.today + timedelta(days=1)}),
            ("no_reason", case, {"source": " "}),
        ):
            with self.assertRaises(AssayError) as caught:
                self.learn(of, "fake", **changes)
            self.assertEqual(caught.exception.reason, reason)
        url = reverse("outcome", args=[case.number])
        answer = self.client.post(url, {"so": "fake", "how": "maker", "source": "x", "learned_on": "soon"}, follow=True)
        self.assertContains(answer, "Write the day as")
        self.client.force_login(self.scene.stranger)
        self.assertEqual(self.client.post(url, {}).status_code, 404)

    def test_rates_count_what_is_known_only_and_say_how_little_it_is(self):
        for verdict, so in (("legit", "fake"), ("legit", "legit"), ("fake", "fake"), ("undecided", "fake")):
            self.learn(self.closed(verdict), so)
        self.closed("legit")
        told = queries.learned(self.scene.organisation)
        rates = {rate.name: (rate.times, rate.of) for rate in told["rates"]}
        self.assertEqual(rates["Copies that were passed as legit"], (1, 2))
        self.assertEqual(rates["Genuine pairs that were called fake"], (0, 1))
        self.assertEqual(rates["Cases left undecided"], (1, 5))
        self.assertEqual(rates["Cases whose outcome is known"], (4, 5))
        page = self.client.get(reverse("learned"))
        self.assertContains(page, "That is few")
        self.assertContains(page, "50.0 % (9.5 to 90.5)", msg_prefix="Wilson of 1 in 2")

    def test_one_case_and_none_make_no_error(self):
        self.assertContains(self.client.get(reverse("learned")), "no case yet")
        self.learn(self.closed("fake"), "fake")
        self.assertContains(self.client.get(reverse("learned")), "It takes an outcome of both kinds")

    def many(self) -> None:
        """Sixty closed cases that weighed, and how they ended: told twice too large."""
        policy = OrganisationPolicy.objects.filter(organisation=self.scene.organisation).latest("number")
        touch = self.scene.release.checkpoints.get(key="touch")
        for n in range(60):
            fake, far = n % 2 == 0, (n % 13) - 4
            day = timezone.now() - timedelta(days=100 * (n // 2 % 4))
            case = small_case(self.scene)
            read = say(checkpoint=touch, pair=case.pair, value="fine", method=SAID, by=self.scene.mara)
            case.findings.filter(checkpoint=touch).update(reading=read, grade="agrees", tail_probability=1.0)
            weighed = 2 * (-far if fake else far)
            Opinion.objects.create(
                case=case, checker=self.scene.mara, verdict="undecided", proposed="undecided", words="x", policy=policy,
                decibans=weighed,
            )  # fmt: skip
            Case.objects.filter(pk=case.pk).update(signed_at=day, opened_at=day)
            case.refresh_from_db()
            self.learn(case, "fake" if fake else "legit")

    def test_suggestions_are_taken_up_with_a_click_by_those_who_may_and_only_while_they_hold(self):
        self.many()
        touch = self.scene.release.checkpoints.get(key="touch")
        given = {"checkpoint": touch, "organisation": self.scene.organisation}
        self.assertEqual([check["suggests"] for check in queries.checks(self.scene.organisation)], ["retire"])
        for reason, user, action in (
            ("not_allowed", self.scene.jory, "retire"),
            ("not_suggested", self.scene.mara, "raise"),
        ):
            with self.assertRaises(AssayError) as caught:
                use_suggestion(**given, user=user, action=action)
            self.assertEqual(caught.exception.reason, reason)
        give_role(self.scene.mara, "writer")
        mara = type(self.scene.mara).objects.get(pk=self.scene.mara.pk)
        use_suggestion(**given, user=mara, action="retire")
        self.assertFalse(self.scene.release.checkpoints.filter(key="touch").exists())

    def test_thresholds_move_once_to_what_they_mean_and_only_by_an_owner(self):
        organisation = self.scene.organisation
        with self.assertRaises(AssayError) as caught:
            use_recalibration(organisation=organisation, user=self.scene.mara)
        self.assertEqual(caught.exception.reason, "not_suggested", "from no cases nothing is recalibrated")
        self.many()
        with self.assertRaises(AssayError) as caught:
            use_recalibration(organisation=organisation, user=self.scene.jory)
        self.assertEqual(caught.exception.reason, "not_the_owner")
        found = queries.recalibration(organisation)
        use_recalibration(organisation=organisation, user=self.scene.mara)
        # Nor a second time, also once something else of the policy was changed.
        rules = core_policy(policy_in_force(organisation))
        set_policy(organisation=organisation, user=self.scene.mara, rules=replace(rules, red_flags=4))
        with self.assertRaises(AssayError) as caught:
            use_recalibration(organisation=organisation, user=self.scene.mara)
        self.assertEqual(caught.exception.reason, "not_suggested")
        policy = OrganisationPolicy.objects.filter(organisation=organisation).latest("number")
        self.assertAlmostEqual(policy.legit_from, found.threshold(13.0), places=1)
        self.assertEqual((policy.recalibration["legit_from"], policy.recalibration["cases"]), (13.0, 60))
        self.assertContains(self.client.get(reverse("learned")), "By 60 known cases")

    def test_filters_and_exports_hold_the_same_cases(self):
        self.learn(self.closed("legit"), "fake")
        self.closed("fake")
        for wanted, many in (
            ({"outcome": "against"}, 1), ({"outcome": "none"}, 1), ({"verdict": "fake"}, 1), ({"q": "brackish"}, 2),
            ({"q": "nothing"}, 0), ({"checker": "mara"}, 2), ({"q": "999999999999"}, 0),
        ):  # fmt: skip
            with self.subTest(wanted):
                self.assertEqual(self.client.get(reverse("logbook"), wanted).context["page"].paginator.count, many)
                rows = self.client.get(reverse("logbook-export", args=["json"]), wanted).json()["cases"]
                self.assertEqual(len(rows), many)
        self.assertIn(b"outcome", self.client.get(reverse("logbook-export", args=["csv"])).content.splitlines()[0])

    def signed(self, n: int, verdict: str, grade: str, **opinion) -> Case:
        """A closed case of so many weeks ago with one finding."""
        case, bar = small_case(self.scene), self.scene.release.checkpoints.get(key="bar")
        say(checkpoint=bar, pair=case.pair, value=17, method=SAID, by=self.scene.mara)
        row = case.pair.readings.get(checkpoint=bar)
        tail = {"reading": row, "tail_probability": 0.01, "grade": grade, "reason": ""}
        Finding.objects.filter(case=case, checkpoint=bar).update(**tail)
        policy = policy_in_force(self.scene.organisation)
        given = {"checker": self.scene.mara, "proposed": verdict, "words": "So.", "policy": policy, **opinion}
        Opinion.objects.create(case=case, verdict=verdict, **given)
        Case.objects.filter(pk=case.pk).update(signed_at=timezone.now() - timedelta(weeks=n))
        case.refresh_from_db()
        return case

    def test_a_batch_that_gets_a_thing_right_by_now_is_found_and_noted_once(self):
        batch = Batch.objects.create(release=self.scene.release, name="Bowline")
        for n in range(8):
            self.signed(60 + n, "fake", "departs", batch="Bowline")
            self.signed(n % 3, "fake", "agrees", batch="Bowline")
        [found] = seasons.got_right(self.scene.organisation, 100)
        self.assertEqual((found["batch"], found["before"], found["after"]), (batch, "8 of 8", "0 of 8"))
        lanes = seasons.batches(self.scene.organisation)["lanes"]
        self.assertEqual([(lane["name"], lane["of"]) for lane in lanes], [("Bowline", 16)])
        url, said = reverse("suggestion", args=[found["check"]]), {"action": "habit", "batch": "Bowline"}
        give_role(self.scene.mara, "writer")
        for _ in range(2):
            self.client.post(url, said)
        batch.refresh_from_db()
        self.assertEqual(batch.habits.count("right since"), 1)
        self.assertContains(
            self.client.post(url, said | {"batch": "Sheepshank"}, follow=True), "suggest that no longer"
        )

    def test_known_outcomes_teach_the_share_of_copies_and_how_good_they_are(self):
        """Selected cases, so the page says so; a copy that read like retail is a good one."""
        for n, (decibans, so) in enumerate(((9.0, "fake"), (-30.0, "fake"), (12.0, "legit"), (-2.0, "legit"))):
            self.learn(self.signed(n, "undecided", "agrees", decibans=decibans), so)
        own = self.scene.organisation
        self.assertEqual(known_ends(own), (2, 2))
        seen = good_copies(own)
        self.assertEqual((seen.times, seen.of), (1, 2))
        decided = decided_at(own, 10.0, -20.0)
        self.assertEqual((decided.legit, decided.fake, decided.undecided, decided.wrong), (1, 1, 2, 0))
        self.assertEqual(decided_at(own, 5.0, -1.0).wrong, 2)
        case = small_case(self.scene)
        self.assertAlmostEqual(state_of(case).assessment.prior.share, 3 / 9)
        self.learn(self.signed(1, "undecided", "agrees"), "fake")
        self.assertAlmostEqual(state_of(case).assessment.prior.share, 4 / 10)

    def test_the_policy_page_prices_thresholds_and_says_when_legit_is_out_of_reach(self):
        self.learn(self.signed(1, "undecided", "agrees", decibans=9.0), "legit")
        costs = {"passed_copy": "6", "false_accusation": "101"}
        page = self.client.get(reverse("policy-thresholds"), costs)
        self.assertContains(page, 'value="7.0"')
        self.assertContains(page, "1 legit, 0 fake, 0 undecided (now")
        for wrong in ("", "1", "nan", "x"):
            page = self.client.get(reverse("policy-thresholds"), costs | {"passed_copy": wrong})
            self.assertContains(page, "Type numbers above 2")
        give_role(self.scene.mara, "owner")
        said = {"red_flags": 3, "coverage": 60, "decision_rule": "weighs_everything"}
        said |= {"legit_from": 13, "fake_from": -20, "near_perfect": 10, "near_basis": "news"}
        self.client.post(reverse("policy"), said)
        self.assertContains(
            self.client.get(reverse("policy")), "below your threshold for legit, so hardly any pair can reach it"
        )
        policy = policy_in_force(self.scene.organisation)
        self.assertEqual((policy.near_perfect, policy.near_basis), (0.1, "news"))

    def test_three_copies_say_nothing_of_a_batch(self):
        Batch.objects.create(release=self.scene.release, name="Bowline")
        for n in range(3):
            self.signed(60 + n, "fake", "departs", batch="Bowline")
            self.signed(n, "fake", "agrees", batch="Bowline")
        self.assertEqual(seasons.got_right(self.scene.organisation, 100), [])

    def test_what_the_plan_named_for_undecided_cases_is_counted(self):
        bar = self.scene.release.checkpoints.get(key="bar")
        self.signed(3, "undecided", "departs", settling=[bar.pk])
        self.signed(2, "undecided", "departs")
        self.signed(1, "fake", "departs")
        told = seasons.would_settle(self.scene.organisation)
        self.assertEqual((told["of"], told["nothing"]), (2, 1))
        self.assertEqual([(one["name"], one["times"]) for one in told["checks"]], [(bar.name, 1)])
        self.assertContains(self.client.get(reverse("learned")), "the plan named nothing in 1")

    def test_a_signature_keeps_the_batch_it_was_told_as_only_where_that_is_likely(self):
        for batches, name in (({"Bowline": 0.9, UNKNOWN: 0.1}, "Bowline"), ({"Bowline": 0.4, UNKNOWN: 0.35}, ""),
                              ({"Bowline": 0.3, UNKNOWN: 0.7}, ""), ({}, "")):  # fmt: skip
            self.assertEqual(told_as(Balance((), 0.0, batches, {}, {})), name)

    def test_a_guide_s_check_last_told_a_copy_in_the_case_signed_last_not_opened_last(self):
        later, _ = self.signed(0, "fake", "departs"), self.signed(5, "fake", "departs")
        bar = self.scene.release.checkpoints.get(key="bar")
        _, told = _past(self.scene.release, self.scene.organisation)
        self.assertEqual(told[bar.pk].case, later)

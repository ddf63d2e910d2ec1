"""Sign a verdict: the case freezes. A later opinion is linked to the one before."""

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.copy_model import UNKNOWN
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import Kind
from assay.judge.levels import Level
from assay.judge.rules import Verdict, coverage
from assay.judge.weigh import Balance
from casework.findings import assess, findings_of
from casework.grading import policy_in_force
from casework.ledger import note
from casework.models import Case, Opinion
from casework.seal import seal_of
from casework.signed_document import keep_document
from casework.weighing import plan_of
from pairs.models import Photo

SURE_OF_BATCH = 0.8
"""From this probability on a copy is said to be of a batch."""


class CannotSign(AssayError):
    """Something is missing before a name can stand under it."""


def missing_for(verdict: str, findings: list, stand) -> list[str]:
    """What stands against signing this verdict: codes, empty where the rule says the same and nothing is missing.

    ``against_rule``, ``only_triage``, ``coverage_short``, ``required_missing``, ``flags_unconfirmed``. A verdict
    of undecided claims nothing: only the rule may stand against it.
    """
    found = ["against_rule"] if verdict != stand.answer.verdict.value else []
    if verdict == Verdict.UNDECIDED:
        return []
    if verdict == Verdict.LEGIT:
        if findings and findings[0].case.level == Level.TRIAGE:
            found.append("only_triage")
        of_shoe = coverage([item for item in stand.sheet if item.of_shoe])
        if min(of_shoe, stand.answer.coverage) < stand.policy.coverage:
            found.append("coverage_short")
        if stand.answer.missing:
            found.append("required_missing")
    # What somebody answered was seen by them.
    unseen = (finding for finding in findings if not finding.confirmed_by_id and finding.checkpoint.kind != Kind.ANSWER)
    if any(Grade(one.grade) in RED_FLAGS for one in unseen):
        found.append("flags_unconfirmed")
    return found


def sign_opinion(*, case: Case, user, verdict: str, words: str, after: int | None, anyway: str = "") -> Opinion:
    """Sign. ``after``: key of the opinion that the checker saw as the last one; ``anyway``: why, where something stands
    against it (``missing_for``); the certificate prints it.

    Raises CannotSign ``no_words``, ``accusing_word``, ``nothing_of_shoe``, ``reason_needed``, ``still_measuring``, or
    ``signed_meanwhile`` where another opinion came in between.
    """
    words, anyway = words.strip(), anyway.strip()[:500]
    if not words:
        raise CannotSign("no_words")
    if "counterfeit" in f"{words} {anyway}".casefold() and not case.organisation.says_counterfeit:
        raise CannotSign("accusing_word")
    with transaction.atomic():
        case = Case.objects.select_for_update().select_related("organisation", "pair__release").get(pk=case.pk)
        unread = case.pair.photos.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING), set_aside=False)
        if case.to_analyse or (case.signed_at is None and unread.exists()):
            raise CannotSign("still_measuring")
        last = case.opinions.last()
        if (last.pk if last else None) != after:
            raise CannotSign("signed_meanwhile", by=last.checker.get_username() if last else "")
        policy = policy_in_force(case.organisation)
        findings = findings_of(case)
        stand = assess(case, findings)
        proposed, against = stand.answer.verdict, missing_for(verdict, findings, stand)
        compared = (
            finding for finding in findings if finding.checkpoint.of_shoe and finding.grade != Grade.NOT_COMPARED
        )
        if verdict == Verdict.LEGIT and next(compared, None) is None:
            raise CannotSign("nothing_of_shoe")
        if against and not anyway:
            raise CannotSign("reason_needed", what=" ".join(against))
        opinion = Opinion.objects.create(
            case=case,
            follows=last,
            checker=user,
            verdict=Verdict(verdict).value,
            proposed=proposed.value,
            words=words,
            anyway=anyway if against else "",
            against=against,
            policy=policy,
            decibans=stand.balance.total,
            batch=told_as(stand.balance),
            settling=_settling(case, findings, stand) if verdict == Verdict.UNDECIDED.value else [],
        )
        if case.signed_at is None:
            case.signed_at = timezone.now()
            case.save(update_fields=["signed_at"])
        opinion.case = case
        said = {"verdict": opinion.verdict, "proposed": proposed.value, "sealed": seal_of(case)}
        note(case, user, "signed", document=keep_document(opinion).sha256, **said)
    return opinion


def told_as(balance: Balance) -> str:
    """The batch that a copy like this would most likely be of; empty where it is of none that is known, or unsure."""
    likely = max(balance.batches, key=balance.batches.get, default="")
    sure = balance.batches.get(likely, 0.0) >= SURE_OF_BATCH
    return likely if sure and likely != UNKNOWN else ""


def _settling(case: Case, findings: list, stand) -> list[int]:
    """Keys of the checks that the plan names."""
    named = set(plan_of(case, findings, stand).settling)
    return [finding.checkpoint_id for finding in findings if finding.checkpoint.key in named]

"""Sign a verdict: the case freezes. A later opinion is linked to the one before."""

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.copy_model import UNKNOWN
from assay.judge.schools import Verdict
from assay.judge.weight import Balance
from casework.findings import findings_of, standing
from casework.grading import policy_in_force
from casework.ledger import note
from casework.models import Case, Opinion
from casework.seal import seal_of
from casework.signed_document import keep_document
from casework.weighing import plan_of
from pairs.models import Photo

SURE_OF_BATCH = 0.5
"""From this probability on a copy is said to be of a batch."""


class CannotSign(AssayError):
    """Something is missing before a name can stand under it."""


def sign_opinion(*, case: Case, user, verdict: str, words: str, after: int | None) -> Opinion:
    """Sign. ``after``: key of the opinion that the checker saw as the last one.

    Raises CannotSign ``no_words``, ``accusing_word``, ``still_measuring``, or ``signed_meanwhile`` where another
    opinion came in between.
    """
    words = words.strip()
    if not words:
        raise CannotSign("no_words")
    if "counterfeit" in words.casefold() and not case.house.says_counterfeit:
        raise CannotSign("accusing_word")
    with transaction.atomic():
        case = Case.objects.select_for_update().select_related("house", "pair__release").get(pk=case.pk)
        unread = case.pair.photos.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING), set_aside=False)
        if case.to_analyse or (case.signed_at is None and unread.exists()):
            raise CannotSign("still_measuring")
        last = case.opinions.last()
        if (last.pk if last else None) != after:
            raise CannotSign("signed_meanwhile", by=last.checker.get_username() if last else "")
        policy = policy_in_force(case.house)
        findings = findings_of(case)
        stand = standing(case, findings)
        proposed = stand.answer.verdict
        opinion = Opinion.objects.create(
            case=case,
            follows=last,
            checker=user,
            verdict=Verdict(verdict).value,
            proposed=proposed.value,
            words=words,
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

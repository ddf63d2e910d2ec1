"""Sign a verdict: the case freezes. A later opinion is linked to the one before."""

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.schools import Verdict
from casework.findings import findings_of, standing
from casework.grading import policy_in_force
from casework.ledger import note
from casework.models import Case, Opinion
from casework.seal import seal_of
from casework.signed_document import keep_document
from pairs.models import Photo


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
        stand = standing(case, findings_of(case))
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
        )
        if case.signed_at is None:
            case.signed_at = timezone.now()
            case.save(update_fields=["signed_at"])
        opinion.case = case
        said = {"verdict": opinion.verdict, "proposed": proposed.value, "sealed": seal_of(case)}
        note(case, user, "signed", document=keep_document(opinion).sha256, **said)
    return opinion

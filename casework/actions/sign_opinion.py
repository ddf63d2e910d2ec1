"""Sign a verdict: the case freezes. A later opinion is linked to the one before."""

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from assay.judge.schools import Verdict, house_verdict
from casework.grading import core_policy, items, policy_in_force, seen_items
from casework.ledger import note
from casework.models import Case, Opinion


class CannotSign(AssayError):
    """Something is missing before a name can stand under it."""


def sign_opinion(*, case: Case, user, verdict: str, words: str, after: int | None) -> Opinion:
    """Sign. ``after``: key of the opinion that the checker saw as the last one.

    Raises CannotSign ``no_words``, ``still_measuring``, or ``signed_meanwhile`` where another opinion came in between.
    """
    words = words.strip()
    if not words:
        raise CannotSign("no_words")
    with transaction.atomic():
        case = Case.objects.select_for_update().select_related("house").get(pk=case.pk)
        if case.to_analyse:
            raise CannotSign("still_measuring")
        last = case.opinions.last()
        if (last.pk if last else None) != after:
            raise CannotSign("signed_meanwhile", by=last.checker.get_username() if last else "")
        policy = policy_in_force(case.house)
        findings = case.findings.select_related("checkpoint")
        proposed = house_verdict([*items(findings), *seen_items(case)], core_policy(policy)).verdict
        opinion = Opinion.objects.create(
            case=case,
            follows=last,
            checker=user,
            verdict=Verdict(verdict).value,
            proposed=proposed.value,
            words=words,
            policy=policy,
        )
        if case.signed_at is None:
            case.signed_at = timezone.now()
            case.save(update_fields=["signed_at"])
        note(case, user, "signed", verdict=opinion.verdict, proposed=proposed.value)
    return opinion

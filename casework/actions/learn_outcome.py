"""Write down what was learned of a closed case's pair later. What was signed stays as it was."""

from collections.abc import Mapping

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from casework.ledger import note
from casework.models import Case, Outcome
from casework.seal import digest_of_outcome


@transaction.atomic
def learn_outcome(*, case: Case, user, given: Mapping) -> Outcome:
    """``given``: so, how, source, learned_on. Contradictory ones stand beside each other; the last one is believed.

    Raises AssayError ``not_signed_yet``, ``no_reason``, ``learned_too_early``.
    """
    if case.signed_at is None:
        raise AssayError("not_signed_yet")
    if not given["source"].strip():
        raise AssayError("no_reason")
    if not case.signed_at.date() <= given["learned_on"] <= timezone.localdate():
        raise AssayError("learned_too_early", signed=f"{case.signed_at:%d %b %Y}")
    made = Outcome.objects.create(case=case, made_by=user, **given)
    note(case, user, "outcome_learned", so=made.so, how=made.how, about=digest_of_outcome(made))
    return made

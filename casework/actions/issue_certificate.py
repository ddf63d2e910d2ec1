"""Issue a certificate of a signed verdict, once an opinion."""

import secrets

from django.db import transaction

from assay.errors import AssayError
from casework.ledger import head, note
from casework.models import Case, Certificate
from casework.seal import seal_of
from casework.second_rule import second_rule
from casework.verdict.second_opinion import both


@transaction.atomic
def issue_certificate(*, case: Case, user) -> Certificate:
    """Of the case's last opinion; what was issued already is given again. Raises AssayError ``not_signed``,
    ``second_opinion_first`` where the organisation asks two people."""
    opinion = case.opinions.order_by("pk").last()
    if opinion is None:
        raise AssayError("not_signed")
    known = Certificate.objects.filter(opinion=opinion).first()
    if known:
        return known
    if second_rule(case.organisation).wants(case, opinion) and both(case) is None:
        raise AssayError("second_opinion_first")
    made = Certificate.objects.create(
        opinion=opinion,
        number=f"{case.organisation_id:02d}-{case.number:04d}-{case.opinions.count()}",
        secret=secrets.token_urlsafe(24),
        issued_by=user,
        sealed=seal_of(case),
        head=head(case.organisation),
    )
    note(case, user, "certificate_issued", number=made.number, verdict=opinion.verdict)
    return made
